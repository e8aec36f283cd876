import { expect } from 'chai'
import { type ClothItem, defaultSettings, type Filter } from '@loom/core'
import { type Running, startServer } from '../src/server.ts'
import { readConfig } from '../src/context/config.ts'
import { property } from './support/garden.ts'
import { RuleDesk } from './support/rules.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** Moving work to another list or service: a copy, what belongs to it, and the original last. */
describe('moving work to another list', function () {
  this.timeout(60_000)
  let w: World
  let client: Client
  let desk: RuleDesk
  /** The server that took over from the one which was stopped. */
  let restarted: Running | null = null

  before(async () => {
    w = await startWorld()
    client = w.client
    desk = new RuleDesk(w)
    await until('the first pass is through', async () => (await w.garden.events('festival-work')).length >= 5)
  })
  after(async () => {
    await restarted?.stop()
    await w.close()
  })

  const items = async (): Promise<ClothItem[]> =>
    (await client.call('GET', `/cloth?from=${weekDay(0)}&days=14`)).body.items
  const titled = (title: string) =>
    until(`"${title}"`, async () => (await items()).find(i => i.title === title && !i.pending))
  const move = (key: string, to: string) => client.call('POST', `/cloth/${key}/move`, { to })
  const ruleOn = async (name: string): Promise<{ id: string }> =>
    (await client.call('GET', '/rules')).body.rules.find((r: { bName: string }) => r.bName.endsWith(name))
  const database = () => (restarted ?? w.app).ctx.db
  const allOver = () =>
    until('nothing is half moved', async () => (await database().rows('SELECT * FROM moves')).length === 0)
  const vtodo = (uid: string, title: string, more: string[] = []) => [
    'BEGIN:VTODO',
    `UID:${uid}`,
    'DTSTAMP:20260101T000000Z',
    `SUMMARY:${title}`,
    ...more,
    'END:VTODO',
  ]
  async function bring(lines: string[]): Promise<void> {
    const text = ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//test//EN', ...lines, 'END:VCALENDAR', ''].join(
      '\r\n',
    )
    const into = { task: await desk.collection('Own tasks'), event: null }
    const body = { text, mapping: null, into, takeNew: true, takeChanged: false }
    const answer = await client.call('POST', '/files/bring-in', body)
    expect(answer.status).to.equal(200)
  }

  it('keeps the place of a task, which is changed here, and says where there would be no room for it', async () => {
    await bring(vtodo('lamps', 'Hang the lamps', ['LOCATION:Long Room\\, upstairs']))
    const { key, location } = await titled('Hang the lamps')
    expect(location).to.equal('Long Room, upstairs')
    const say = async (edit: object) => (await client.call('POST', `/cloth/${key}/edit`, edit)).body
    const { inverse } = await say({ do: 'say', said: { location: 'Quay' } })
    const standsAt = (place: string) =>
      until(`at ${place}`, async () =>
        (await items()).some(i => i.key === key && i.location === place && !i.pending),
      )
    await standsAt('Quay')
    await say(inverse)
    await standsAt('Long Room, upstairs')
    const outlook = await client.call('GET', `/cloth/${key}/move?to=${await desk.collection('Ideas')}`)
    expect(outlook.body.losses).to.include('Its place, Long Room, upstairs.')
    await client.call('POST', `/cloth/${key}/edit`, { do: 'delete' })
  })

  it('takes sub-tasks along, each under its parent there, and removes the parent last', async () => {
    await bring([
      ...vtodo('walk', 'Night walk', ['DESCRIPTION:Two groups']),
      ...vtodo('walk-1', 'Count lamps', ['RELATED-TO:walk']),
      ...vtodo('walk-2', 'Print tickets', ['RELATED-TO:walk', 'STATUS:COMPLETED']),
    ])
    const parent = await titled('Night walk')
    const to = await desk.collection('Intake of Ines Varga')
    // One of them is done and so not to be seen; it may arrive later than its parent.
    const outlook = await until('both parts are known', async () => {
      const { body } = await client.call('GET', `/cloth/${parent.key}/move?to=${to}`)
      return body.parts === 2 && body
    })
    expect(outlook.losses).to.deep.equal([])
    expect((await move(parent.key, to)).status).to.equal(200)
    const there = await until('all three are there alone', async () => {
      const found = (await items()).filter(i => ['Night walk', 'Count lamps'].includes(i.title) && !i.pending)
      return found.length === 2 && found.every(i => i.sources[0] === to) && found
    })
    const details = await until('its parts are known', async () => {
      const { body } = await client.call('GET', `/cloth/${there.find(i => i.title === 'Night walk')?.key}`)
      return body.parts.length === 2 && body
    })
    expect(details.description).to.equal('Two groups')
    expect(details.parts.map((p: any) => [p.title, p.done])).to.deep.equal([
      ['Count lamps', false],
      ['Print tickets', true],
    ])
    await allOver()
    const removals = (await desk.entries())
      .filter((l: any) => l.cause === 'person-moved')
      .map((l: any) => l.title)
    // Newest first: the parent went last.
    expect(removals[0]).to.equal('Night walk')
    expect(removals).to.have.length(3)
  })

  it('moves a task and a part of it, both chosen by hand, once each', async () => {
    await bring([...vtodo('frame', 'Build frame'), ...vtodo('frame-1', 'Saw beams', ['RELATED-TO:frame'])])
    const to = await desk.collection('Intake of Ines Varga')
    const both = [await titled('Saw beams'), await titled('Build frame')]
    for (const item of both) expect((await move(item.key, to)).status).to.equal(200)
    await until('both are there alone', async () => {
      const found = (await items()).filter(i => both.some(b => b.title === i.title) && !i.pending)
      return found.length === 2 && found.every(i => i.sources[0] === to)
    })
    await allOver()
  })

  it('says truly what has no room at the new place, of sub-tasks and their parents too', async () => {
    await bring([
      ...vtodo('arch', 'Paint arch', ['CATEGORIES:Autumn', 'URL:https://example.org/arch']),
      ...vtodo('arch-1', 'Mix paint', ['RELATED-TO:arch', 'URL:https://example.org/paint']),
    ])
    const [whole, part] = [await titled('Paint arch'), await titled('Mix paint')]
    const losses = async (key: string, to: string): Promise<string[]> =>
      (await client.call('GET', `/cloth/${key}/move?to=${await desk.collection(to)}`)).body.losses
    const ofWhole = await until('its part is known', async () => {
      const found = await losses(whole.key, 'Festival')
      return found.length > 1 && found
    })
    expect(ofWhole).to.deep.equal(['Its link.', 'Of its sub-task “Mix paint”: its link.'])
    expect(await losses(part.key, 'Festival')).to.deep.equal([
      'Its link.',
      'That it is a part of “Paint arch”: there it stands by itself.',
    ])
    expect(await losses(whole.key, 'Intake of Ines Varga')).to.deep.equal([])
  })

  it('keeps the original when the new home refuses the copy, and says so', async () => {
    const start = { kind: 'zoned', local: `${weekDay(8)}T15:00:00`, zone: 'Europe/Dublin' }
    const making = {
      what: 'event',
      title: 'Tent check',
      start,
      minutes: 30,
      into: await desk.collection('Own events'),
    }
    expect((await client.call('POST', '/cloth/make', making)).status).to.equal(201)
    const item = await titled('Tent check')
    await w.fault('garden', { status: 403, method: 'PUT', times: 1 })
    const to = await desk.collection('Garden team')
    await move(item.key, to)
    await until('it is told', async () =>
      (await desk.entries()).some((l: any) => l.title === 'Tent check' && l.outcome === 'refused'),
    )
    await w.fault('garden', {})
    expect((await titled('Tent check')).sources).to.deep.equal(item.sources)
    expect(await w.garden.titled('garden-team', 'Tent check')).to.have.length(0)
    // It can be tried again.
    expect((await move(item.key, to)).status).to.equal(200)
    await until('now it is there', async () => (await w.garden.titled('garden-team', 'Tent check'))[0])
    await allOver()
  })

  it('keeps both when somebody edits the original while it is on its way', async () => {
    await bring(vtodo('edited', 'Mend net'))
    const item = await titled('Mend net')
    // The copy waits for its service; meanwhile the original changes.
    await w.fault('bench', { latencyMs: 1500 })
    await move(item.key, await desk.collection('Festival'))
    const again = await move(item.key, await desk.collection('Festival'))
    expect(again.body.reason).to.match(/being moved already/)
    await client.call('POST', `/cloth/${item.key}/edit`, { do: 'rename', title: 'Mend both nets' })
    await w.fault('bench', {})
    await until('the copy is there', async () => (await w.bench.titled('festival', 'Mend net'))[0])
    await allOver()
    const titles = (await items()).map(i => i.title)
    // Whichever came first: no words were lost.
    expect(titles.some(t => t === 'Mend both nets' || t === 'Mend net')).to.equal(true)
  })

  const takeBack = (intent: string) => client.call('POST', `/cloth/made/${intent}/take-back`)

  it('goes back with what had no room, and with what was edited since', async () => {
    const long = `Write that ${'very '.repeat(24)}long letter`
    await bring([
      ...vtodo('letter', long, [
        'DUE:20300101T150000Z',
        'PRIORITY:1',
        'ESTIMATED-DURATION:PT50M',
        'DESCRIPTION:By hand',
      ]),
      ...vtodo('letter-1', 'Buy ink', ['RELATED-TO:letter']),
    ])
    const before = await titled(long)
    const to = await desk.collection('Festival')
    const moved = await move(before.key, to)
    expect(moved.body.losses).to.have.length(2)
    await allOver()
    const [there] = await w.bench.titled('festival', long.slice(0, 120))
    const [part] = await w.bench.titled('festival', 'Buy ink')
    expect(there?.finish_by).to.equal('2030-01-01')
    await w.bench.edit(there?.id ?? '', { details: 'By hand, in green' })
    await until('the note is known', async () => {
      const { body } = await client.call('GET', `/cloth/${(await titled(long.slice(0, 120))).key}`)
      return body.description === 'By hand, in green'
    })
    expect((await takeBack(moved.body.intent)).status).to.equal(200)
    await allOver()
    const back = await titled(long)
    expect(back.sources).to.deep.equal(before.sources)
    expect([back.due, back.priority, back.estimate]).to.deep.equal([before.due, 1, 50])
    const details = (await client.call('GET', `/cloth/${back.key}`)).body
    expect(details.description).to.equal('By hand, in green')
    expect(details.parts.map((p: { title: string }) => p.title)).to.deep.equal(['Buy ink'])
    for (const left of [there, part]) expect(await w.bench.get(left?.id ?? '')).to.equal(null)
    expect((await takeBack(moved.body.intent)).body.reason).to.equal('It is no longer there.')
  })

  it('does not go at all where that is taken back before anything was sent', async () => {
    await bring(vtodo('stays', 'Rinse jars'))
    const item = await titled('Rinse jars')
    // Nothing is written to it meanwhile.
    await w.whileBeingRead('bench')
    const { intent } = (await move(item.key, await desk.collection('Festival'))).body
    expect((await takeBack(intent)).status).to.equal(200)
    await w.fault('bench', {})
    await allOver()
    expect((await titled('Rinse jars')).key).to.equal(item.key)
    expect((await takeBack(intent)).body.reason).to.equal('It has not been moved.')
    await desk.settled()
    expect(await w.bench.titled('festival', 'Rinse jars')).to.have.length(0)
  })

  it('takes along what a rule has tied, when it pairs its list with another calendar', async () => {
    const { id } = await desk.save('Small repairs', 'House repairs', {})
    const task = await w.bench.add('repairs', { text: 'Oil the pump', day: weekDay(8), hour: '10:00' })
    const made = await until(
      'its event',
      async () => (await w.garden.titled('house-repairs', 'Oil the pump'))[0],
    )
    const note = made.text.replace('SUMMARY:', 'X-DOOR:green\r\nDESCRIPTION:Key at the gate\r\nSUMMARY:')
    await w.garden.put('house-repairs', made.name, note)
    await until('the note', async () => (await w.bench.get(task.id))?.details === 'Key at the gate')
    await desk.settled()
    const { ties } = await desk.rule(id)
    const draft = {
      id,
      a: await desk.collection('Small repairs'),
      b: await desk.collection('Teaching'),
      settings: { ...defaultSettings },
    }
    const look = (await client.call('POST', '/rules/preview', draft)).body
    expect(look.moving).to.equal(ties)
    expect(
      (await client.call('POST', '/rules', { ...draft, b: await desk.collection('Festival') })).status,
    ).to.equal(422)
    expect((await desk.save('Small repairs', 'Teaching', {}, id)).status).to.equal(200)
    const moved = await until(
      'it is in the new calendar',
      async () => (await w.garden.titled('teaching', 'Oil the pump'))[0],
    )
    expect(moved.text).to.contain('DESCRIPTION:Key at the gate').and.to.contain('X-DOOR:green')
    expect(property(moved.text, 'UID')).to.not.equal(property(made.text, 'UID'))
    await allOver()
    await desk.settled()
    expect(await w.garden.titled('house-repairs', 'Oil the pump')).to.have.length(0)
    expect(await w.garden.titled('teaching', 'Oil the pump')).to.have.length(1)
    expect((await desk.rule(id)).ties).to.equal(ties)
    await w.bench.edit(task.id, { text: 'Oil both pumps' })
    await until(
      'it is kept in step there',
      async () => (await w.garden.titled('teaching', 'Oil both pumps'))[0],
    )
    expect(await w.bench.titled('repairs', 'Oil both pumps')).to.have.length(1)
  })

  it('takes a task with its parts along as one, when a rule of two lists gets another list', async () => {
    const these: Filter = [{ field: 'words', of: ['hedge', 'shears'], without: false }]
    const settings = { filter: { a: these, b: these } }
    const saved = await desk.save('Festival', 'Own tasks', settings)
    expect(saved.reason).to.equal(undefined)
    const { id } = saved
    await bring([...vtodo('hedge', 'Cut hedge'), ...vtodo('hedge-1', 'Sharpen shears', ['RELATED-TO:hedge'])])
    for (const title of ['Cut hedge', 'Sharpen shears'])
      await until(`${title} is tied`, async () => (await w.bench.titled('festival', title))[0])
    await desk.settled()
    expect((await desk.save('Festival', 'Intake of Ines Varga', settings, id)).status).to.equal(200)
    const to = await desk.collection('Intake of Ines Varga')
    await until('it is there', async () =>
      (await items()).some(i => i.title === 'Cut hedge' && !i.pending && i.sources.includes(to)),
    )
    await allOver()
    await desk.settled()
    const held = await database().rows<{ id: string; title: string; parent: string | null; place: string }>(
      `SELECT remote_id AS id, JSON_VALUE(item, '$.summary') AS title, JSON_VALUE(item, '$.parent') AS parent,
         IF(collection_id = :to, 'there', IF(collection_id = :from, 'left', 'list')) AS place FROM mirrors
       WHERE presence = 'present' AND JSON_VALUE(item, '$.summary') IN ('Cut hedge', 'Sharpen shears')
       ORDER BY place DESC, title`,
      { to, from: await desk.collection('Own tasks') },
    )
    expect(held.map(h => [h.title, h.place])).to.deep.equal([
      ['Cut hedge', 'there'],
      ['Sharpen shears', 'there'],
      ['Cut hedge', 'list'],
      ['Sharpen shears', 'list'],
    ])
    expect(held[1]?.parent).to.equal(held[0]?.id)
  })

  async function startAgain(): Promise<void> {
    await (restarted ?? w.app).stop()
    await w.fault('bench', {})
    await w.fault('garden', {})
    restarted = await startServer(readConfig(w.environment))
    client = new Client(w.client.base)
    await client.signIn()
  }

  it('takes along what was being written to as the rule was saved, though the server stopped right after', async () => {
    const { id } = await desk.save('Small repairs', 'Teaching', {}, (await ruleOn('Teaching')).id)
    const busy = await w.bench.add('repairs', { text: 'Grease hinges', day: weekDay(9), hour: '10:00' })
    await until('its event', async () => (await w.garden.titled('teaching', 'Grease hinges'))[0])
    await desk.settled()
    const { ties } = await desk.rule(id)
    // From here on the calendar takes nothing more: the edit has been tried, and is on its way.
    await w.fault('garden', { status: 503, method: 'PUT' })
    await w.bench.edit(busy.id, { text: 'Grease all hinges' })
    await until(
      'the edit was tried',
      async () =>
        (await database().rows(`SELECT id FROM intents WHERE state = 'open' AND attempts > 0`)).length > 0,
    )
    expect((await desk.save('Small repairs', 'House repairs', {}, id)).status).to.equal(200)
    await startAgain()
    for (const title of ['Oil both pumps', 'Grease all hinges'])
      await until(`${title} has gone along`, async () => (await w.garden.titled('house-repairs', title))[0])
    await allOver()
    const left = () => database().rows('SELECT * FROM going_along')
    await until('nothing is left to go along', async () => (await left()).length === 0)
    expect(await w.garden.titled('teaching', 'Oil both pumps')).to.have.length(0)
    expect(await w.garden.titled('teaching', 'Grease all hinges')).to.have.length(0)
    expect(await w.garden.titled('house-repairs', 'Grease all hinges')).to.have.length(1)
    const { body } = await client.call('GET', '/rules')
    expect(body.rules.find((r: { id: string }) => r.id === id).ties).to.equal(ties)
  })

  it('goes on after the server was stopped between the copy and the removal', async () => {
    await bring(vtodo('stopped', 'Stack chairs'))
    const item = await titled('Stack chairs')
    await w.fault('bench', { latencyMs: 800 })
    await move(item.key, await desk.collection('Festival'))
    await startAgain()
    await until(
      'it is there, once',
      async () => (await w.bench.titled('festival', 'Stack chairs')).length === 1,
    )
    await until('and only there', async () => {
      const found = (await items()).filter(i => i.title === 'Stack chairs')
      return found.length === 1 && found[0]?.sources[0] !== item.sources[0]
    })
    await allOver()
  })
})
