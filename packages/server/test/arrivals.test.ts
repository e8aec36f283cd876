import { expect } from 'chai'
import { eventText } from './support/garden.ts'
import { RuleDesk } from './support/rules.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** What is new to a rule, what stood there before it, and what is asked about because so much of it came at once. */
describe('what arrives under a rule', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk
  const CALENDAR = 'festival-work'
  const OLD = ['CREATED:20200101T090000Z']
  const at = weekDay(10)

  before(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
  })
  after(() => w.close())

  const tasks = (title: string) => w.bench.titled('festival', title)
  const brake = async (): Promise<any[]> => (await w.client.call('GET', '/waiting/brake')).body.items
  const say = (ties: any[], answer: string) =>
    w.client.call('POST', '/waiting/brake', { ties: ties.map(i => i.tie), answer })
  const bring = async (prefix: string, count: number): Promise<void> => {
    await desk.unseen(async () => {
      for (let n = 0; n < count; n++)
        await w.garden.put(
          CALENDAR,
          `${prefix}${n}.ics`,
          eventText(
            `${prefix}-${n}`,
            `${prefix} ${n}`,
            n < count / 2 ? at : weekDay(-4),
            '15:00',
            '15:30',
            OLD,
          ),
        )
    })
  }

  it('takes an event for new that is first seen now, however old it says it is', async () => {
    await w.garden.put(CALENDAR, 'old.ics', eventText('old', 'Oil the gate', at, '11:00', '11:30', OLD))
    await until('its task is made', async () => (await tasks('Oil the gate')).length === 1)
  })

  it('makes nothing of an invitation, also once its guests are gone', async () => {
    const guests = ['ORGANIZER:mailto:x@else.example', 'ATTENDEE:mailto:ines@quillmere.example']
    await w.garden.put(CALENDAR, 'inv.ics', eventText('inv', 'Board supper', at, '18:00', '19:00', guests))
    await until('it was seen', async () => {
      const { body } = await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=14`)
      return body.items.some((i: { title: string }) => i.title === 'Board supper')
    })
    await w.garden.put(CALENDAR, 'inv.ics', eventText('inv', 'Board supper', at, '18:00', '20:00'))
    await w.garden.put(CALENDAR, 'later.ics', eventText('later', 'Sweep the path', at, '08:00', '08:30'))
    await until('what came later has its task', async () => (await tasks('Sweep the path')).length === 1)
    await desk.settled()
    expect(await tasks('Board supper')).to.have.length(0)
  })

  it('asks about more than twenty at once, and makes those that are wanted, and never the others', async () => {
    await bring('Import', 24)
    const held = await until('the brake holds them', async () => {
      const items = await brake()
      return items.length === 24 && items
    })
    expect(new Set(held.map(i => `${i.effect} ${i.madeKind}`))).to.deep.equal(new Set(['made task']))
    expect(await tasks('Import 0')).to.have.length(0)
    // A single one goes on meanwhile.
    await w.garden.put(CALENDAR, 'one.ics', eventText('one', 'Count the pots', at, '09:00', '09:30'))
    await until('what came by itself has its task', async () => (await tasks('Count the pots')).length === 1)

    const wanted = held.filter(i => i.startMs > Date.now())
    expect(wanted).to.have.length(12)
    await say(wanted, 'go')
    await say(
      held.filter(i => !wanted.includes(i)),
      'none',
    )
    await until('the wanted are made', async () => (await tasks('Import 11')).length === 1)
    await desk.settled()
    expect([await brake(), (await tasks('Import 12')).length]).to.deep.equal([[], 0])
    // Also not when the rule is planned anew as a whole.
    const [rule] = (await w.client.call('GET', '/rules')).body.rules
    for (const state of ['paused', 'on']) await w.client.call('PUT', `/rules/${rule.id}/state`, { state })
    await desk.settled()
    expect([await brake(), (await tasks('Import 12')).length]).to.deep.equal([[], 0])
  })

  it('does not take for new what a further list brings that stood there before', async () => {
    const house = 'house-repairs'
    await w.garden.put(house, 'stood.ics', eventText('stood', 'Mend the latch', at, '13:00', '13:30'))
    await until('it was seen', async () => {
      const { body } = await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=14`)
      return body.items.some((i: { title: string }) => i.title === 'Mend the latch')
    })
    const [rule] = (await w.client.call('GET', '/rules')).body.rules
    const also = { a: [], b: [await desk.collection('House repairs')] }
    const answer = await w.client.call('POST', '/rules', {
      id: rule.id,
      name: rule.name,
      a: rule.a,
      b: rule.b,
      settings: { ...rule.settings, also },
    })
    expect(answer.status).to.equal(200)
    await w.garden.put(house, 'comes.ics', eventText('comes', 'Hang the lamp', at, '14:00', '14:30', OLD))
    await until('what comes there now has its task', async () => (await tasks('Hang the lamp')).length === 1)
    expect([await brake(), (await tasks('Mend the latch')).length]).to.deep.equal([[], 0])
  })
})
