import { expect } from 'chai'
import { noTerms, suggestedMeaning } from '@loom/core'
import { BoardSide } from './support/board.ts'
import { beginBoard, formFor, keep, readOnce } from './support/connecting.ts'
import { RuleDesk } from './support/rules.ts'
import { eventText, property } from './support/garden.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** What no service should send, and sends: a clear line on the rule, nothing lost, the rest goes on. */
describe('bad input, under a rule', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk
  const FESTIVAL = 'festival-work'

  before(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    await until('the first pass is through', async () => (await w.garden.events(FESTIVAL)).length >= 5)
    await desk.settled()
  })
  after(() => w.close())

  const rule = async () => (await w.client.call('GET', '/rules')).body.rules[0]
  const says = (words: RegExp) =>
    until(`the rule says ${String(words)}`, async () =>
      (await rule()).notices.some((n: string) => words.test(n)),
    )
  /** Something ordinary, made after the bad thing, arrives on the other side. */
  const restGoesOn = async (title: string) => {
    await w.bench.add('festival', { text: title, day: weekDay(8), hour: '09:00' })
    await until(`${title} has its event`, async () => (await w.garden.titled(FESTIVAL, title))[0])
  }
  const eventOf = async (title: string) => {
    const [event] = await w.garden.titled(FESTIVAL, title)
    if (!event) throw new Error(`no event ${title}`)
    return event
  }

  it('an end before its start: the pair rests, and goes on when it is put right', async () => {
    const good = await eventOf('Label night beds')
    await w.garden.edit(FESTIVAL, good, t => t.replace(/(DTEND[^:]*):\d{8}/, '$1:20200101'))
    await says(/One item of Festival work could not be understood/)
    expect(await w.bench.titled('festival', 'Label night beds')).to.have.length(1)
    await restGoesOn('After a bad end')
    const now = await eventOf('Label night beds')
    await w.garden.edit(FESTIVAL, now, () => good.text.replace('Label night beds', 'Label all night beds'))
    await until(
      'the task follows again',
      async () => (await w.bench.titled('festival', 'Label all night beds'))[0],
    )
  })

  it('a title of 10,000 characters: it is cut where there is no room, and what was cut is not lost', async () => {
    const long = 'Very long '.repeat(1000).trim()
    const event = await eventOf('Order moonflower plugs')
    await w.garden.edit(FESTIVAL, event, t => t.replace('SUMMARY:Order moonflower plugs', `SUMMARY:${long}`))
    const [task] = await until('the task has the beginning of it', async () => {
      const found = (await w.bench.listed('festival')).filter(t => t.text.startsWith('Very long Very long'))
      return found.length === 1 && found
    })
    expect(task?.text.length).to.be.below(400)
    await w.bench.edit(task?.id ?? '', { details: 'a note' })
    await until('the note travels', async () => {
      const now = await w.garden.get(FESTIVAL, event.name)
      return property(now.text, 'DESCRIPTION') === 'a note'
    })
    const after = await w.garden.get(FESTIVAL, event.name)
    expect(property(after.text, 'SUMMARY')?.length, 'the whole title is still there').to.equal(long.length)
    await restGoesOn('After a long title')
  })

  it('an event moved to 1900, and one in a zone that does not exist', async () => {
    const moved = await eventOf('Festival map proof')
    await w.garden.edit(FESTIVAL, moved, t =>
      t.replace(/(DTSTART[^:]*):\d{8}/, '$1:19000105').replace(/(DTEND[^:]*):\d{8}/, '$1:19000105'),
    )
    const zone = eventText('mars-1', 'Talk on Mars', weekDay(8), '10:00', '10:30').replaceAll(
      'Europe/Dublin',
      'Mars/Olympus',
    )
    await w.garden.put(FESTIVAL, 'mars-1.ics', zone)
    await restGoesOn('After 1900')
    const [task] = await w.bench.titled('festival', 'Festival map proof')
    expect(task, 'the task is still there').to.not.equal(undefined)
    // Whatever it was taken for, the calendar keeps what somebody wrote there.
    expect((await w.garden.get(FESTIVAL, 'mars-1.ics')).text).to.contain('Mars/Olympus')
    expect((await w.garden.get(FESTIVAL, moved.name)).text).to.match(/DTSTART[^:]*:1900/)
    await desk.settled()
  })

  it('two rules that say opposite things of one event: it is held after a few times, with both named', async () => {
    // Two lists, each of which alone says what the event is called.
    const oneWay = {
      title: 'a-to-b' as const,
      time: 'off' as const,
      completion: 'off' as const,
      notes: 'off' as const,
    }
    const fields = { ...(await rule()).settings.fields, ...oneWay }
    const task = await w.bench.add('repairs', { text: 'Shared title', day: weekDay(9), hour: '15:00' })
    await w.garden.put(
      'house-repairs',
      'shared.ics',
      eventText('shared', 'Shared title', weekDay(9), '15:00', '15:30'),
    )
    await w.garden.put(
      'teaching',
      'shared-2.ics',
      eventText('shared-2', 'Shared title', weekDay(9), '15:00', '15:30'),
    )
    await until('all three are read', async () => {
      const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(7)}&days=7`)).body
      return items.filter((i: any) => i.title === 'Shared title').length === 3
    })
    const one = await desk.save('Small repairs', 'House repairs', {
      fields,
      made: { a: 'all', b: 'nothing' },
    })
    const two = await desk.save('Teaching', 'House repairs', {
      fields,
      made: { a: 'all', b: 'nothing' },
      filter: { a: [{ field: 'words', of: ['Shared'], without: false }], b: [] },
    })
    expect([one.status, two.status]).to.deep.equal([201, 201])
    await desk.settled()
    await w.bench.edit(task.id, { text: 'Shared title, as the list has it' })
    await until(
      'one of them says that it holds',
      async () => {
        const { rules } = (await w.client.call('GET', '/rules')).body
        const text = rules.flatMap((r: any) => r.notices).join('\n')
        return /Small repairs ⇄ House repairs/.test(text) && /Teaching ⇄ House repairs/.test(text)
      },
      30_000,
    )
    await desk.settled()
    const writes = (await desk.entries()).filter(
      (l: any) => l.place.endsWith('House repairs') && l.op === 'patch' && l.title.startsWith('Shared'),
    )
    expect(writes.length, 'not for ever').to.be.below(9)
    await restGoesOn('After a quarrel')
  })

  it('a status that nobody has given a meaning: it changes nothing, its rule says so, and the rest of it goes on', async () => {
    const found = await beginBoard(w)
    const glass = found.account.collections.find(c => c.name === 'Glasshouse crew')
    const remoteId = glass?.remoteId ?? ''
    const whole = suggestedMeaning(glass?.terms ?? noTerms)
    const { g4, ...known } = whole.statuses
    expect(g4).to.equal('completed')
    const form = (statuses: typeof whole.statuses) =>
      formFor(found, {
        name: 'Repairs Board',
        takesPart: [remoteId],
        meanings: { [remoteId]: { ...whole, statuses } },
      })
    const id = await keep(w, found, form(known))
    await readOnce(w, id)
    const saved = await desk.save('Glasshouse crew', 'Teaching', {
      date: 'due',
      noHour: 'all-day',
      made: { a: 'all', b: 'nothing' },
    })
    const board = new BoardSide(`${w.standins}`)
    const titled = (title: string) => w.garden.titled('teaching', title)
    await until('the order has its event', async () => (await titled('Mist line, House 2'))[0])
    await desk.settled()
    const order = await board.titled('c-glass', 'Mist line, House 2')
    await board.stage(order?.number ?? '', 'g4')
    const notices = async (): Promise<string> => (await desk.rule(saved.id)).notices.join('\n')
    await until('the rule says which word it is', async () => /“Fixed”.*no meaning/.test(await notices()))
    await board.edit(order?.number ?? '', { title: 'Mist line, houses 2 and 3' })
    await until('its title goes on', async () => (await titled('Mist line, houses 2 and 3'))[0])
    expect(await titled('✓ Mist line, houses 2 and 3'), 'nobody said that it is done').to.have.length(0)
    await restGoesOn('After an unknown word')
    const answer = await w.client.call('PUT', `/connections/${id}/settings`, form(whole.statuses))
    expect(answer.status).to.equal(200)
    await until('it is done now', async () => (await titled('✓ Mist line, houses 2 and 3'))[0])
    await until('the rule has nothing more to say of it', async () => !/“Fixed”/.test(await notices()))
  })

  it('a calendar that is deleted at the other side: the rule rests and says so, no task is touched', async () => {
    const before = (await w.bench.listed('repairs')).length
    await fetch(w.garden.url('house-repairs'), {
      method: 'DELETE',
      headers: { Authorization: `Basic ${btoa('ines:moonflower')}` },
    })
    await until('its rule says why it waits', async () => {
      const { rules } = (await w.client.call('GET', '/rules')).body
      return rules.some(
        (r: any) =>
          r.bName.endsWith('House repairs') && r.notices.some((n: string) => /no longer be found/.test(n)),
      )
    })
    expect((await w.bench.listed('repairs')).length).to.equal(before)
    await restGoesOn('After a deleted calendar')
  })
})
