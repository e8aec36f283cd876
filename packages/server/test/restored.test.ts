import { expect } from 'chai'
import { type GardenEvent, property } from './support/garden.ts'
import { RuleDesk } from './support/rules.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** A calendar whose server goes back to a backup. */
describe('a restored backup', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk
  beforeEach(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
  })
  afterEach(() => w.close())

  const CALENDAR = 'house-repairs'
  const dated = (text: string, title: string, stamp: string): string =>
    text
      .replace(/SUMMARY:[^\r\n]*/, `SUMMARY:${title}`)
      .replace(/LAST-MODIFIED:[^\r\n]*/, `LAST-MODIFIED:${stamp}`)
  const titles = async (): Promise<string[]> =>
    (await w.garden.events(CALENDAR)).map(e => property(e.text, 'SUMMARY') ?? '').sort()

  /** So many events, retitled at their server and then put back as they were. */
  async function goBack(count: number): Promise<void> {
    await desk.save('Small repairs', 'House repairs', {})
    for (let n = 0; n < count; n++)
      await w.bench.add('repairs', { text: `Shelf ${n}`, day: weekDay(8), hour: `1${n}:00` })
    const was = await until('an event for each', async () => {
      const all = await w.garden.events(CALENDAR)
      const ours = all.filter(e => property(e.text, 'SUMMARY')?.startsWith('Shelf'))
      return ours.length === count && ours
    })
    await desk.settled()
    const later = new Date(w.app.ctx.now() + 60_000).toISOString().replace(/[-:]|\.\d+/g, '')
    const newer = (e: GardenEvent): string => dated(e.text, `${property(e.text, 'SUMMARY')} again`, later)
    for (const e of was) await w.garden.put(CALENDAR, e.name, newer(e))
    await until(
      'the tasks follow',
      async () => (await w.bench.titled('repairs', 'Shelf 0 again')).length === 1,
    )
    await desk.settled()
    await desk.unseen(async () => {
      for (const e of was) await w.garden.put(CALENDAR, e.name, e.text)
    })
  }

  it('of one event: it says again what it said, its task keeps its title, and the journal names what gave way', async () => {
    await goBack(1)
    await until('the event is put back', async () => (await titles()).includes('Shelf 0 again'))
    await desk.settled()
    expect(await w.bench.titled('repairs', 'Shelf 0 again')).to.have.length(1)
    const told = await w.app.ctx.db.rows<{ op: string; cause: string }>(
      `SELECT op, cause FROM journal WHERE cause = 'restored' ORDER BY id`,
    )
    expect(told.map(t => t.op).sort()).to.deep.equal(['override', 'patch'])
  })

  it('of many at once: it waits, and a person says of each what stands', async () => {
    await goBack(6)
    const waiting = async (): Promise<{ tie: string; effect: string; title: string }[]> =>
      (await w.client.call('GET', '/waiting/brake')).body.items
    const items = await until('they wait', async () => {
      const all = await waiting()
      return all.length === 6 && all
    })
    expect(new Set(items.map(i => i.effect))).to.deep.equal(new Set(['restored']))
    const ties = items.sort((x, y) => x.title.localeCompare(y.title)).map(i => i.tie)
    await w.client.call('POST', '/waiting/brake', { ties: ties.slice(0, 2), answer: 'go' })
    await w.client.call('POST', '/waiting/brake', { ties: ties.slice(2), answer: 'restore' })
    await until('nothing waits', async () => (await waiting()).length === 0)
    await desk.settled()
    const shelves = (await titles()).filter(t => t.startsWith('Shelf'))
    expect(shelves.filter(t => t.endsWith('again'))).to.have.length(2)
    for (const title of shelves) expect(await w.bench.titled('repairs', title), title).to.have.length(1)
  })
})
