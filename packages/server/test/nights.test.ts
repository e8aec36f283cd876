import { expect } from 'chai'
import { addDays, type ClothItem, dayAt } from '@loom/core'
import { type Running, startServer } from '../src/server.ts'
import { readConfig } from '../src/context/config.ts'
import { fixedClock, now } from './support/clock.ts'
import { RuleDesk } from './support/rules.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** What was planned and not done slips when its day is over, once, whoever looks. */
describe('the end of a day', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk
  let later: Running | null = null
  const ZONE = 'Europe/Dublin'

  before(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
  })
  after(async () => {
    await later?.stop()
    await w.close()
  })

  const itemsOf = async (client: Client): Promise<ClothItem[]> =>
    (await client.call('GET', `/cloth?from=${weekDay(0)}&days=42`)).body.items
  const make = async (title: string, start: object | null, week: string | null = null): Promise<string> => {
    const body = { what: 'task', title, start, estimate: 60, week, into: null, said: {} }
    expect((await w.client.call('POST', '/cloth/make', body)).status).to.equal(201)
    const made = await until(title, async () =>
      (await itemsOf(w.client)).find(i => i.title === title && !i.pending),
    )
    return made.key
  }
  /** The same database, so many days later. */
  async function daysLater(days: number): Promise<Client> {
    await later?.stop()
    later = null
    const environment = { ...w.environment, ...fixedClock(days) }
    later = await startServer(readConfig(environment))
    const client = new Client(`http://127.0.0.1:${later.port}`)
    await client.signIn()
    return client
  }
  const slipsOf = async (client: Client): Promise<Record<string, number>> =>
    Object.fromEntries(
      (await itemsOf(client))
        .filter(i => /Zorblax|Quennip|Vexil|Plimber/.test(i.title))
        .map(i => [i.title, i.slips]),
    )

  it('counts a slip for each plan that came to nothing, and writes to no service', async () => {
    const day = (n: number): string => addDays(dayAt(now(), ZONE), n)
    const tomorrow = day(1)
    await make('Zorblax, on a day', { kind: 'date', date: tomorrow })
    await make('Quennip, at an hour', { kind: 'zoned', local: `${tomorrow}T10:00:00`, zone: ZONE })
    await make('Vexil, in three weeks', { kind: 'date', date: day(20) })
    await make('Plimber, any day', null, weekDay(0))
    await desk.settled()
    expect(await w.app.nights.countDue(), 'counted up to today when it started').to.equal(0)
    const before = await itemsOf(w.client)
    const journal = async (): Promise<number> => {
      const [row] = await w.app.ctx.db.rows<{ n: number }>('SELECT COUNT(*) AS n FROM journal')
      return Number(row?.n)
    }
    const entries = await journal()
    await w.app.stop()

    const inTwoWeeks = await daysLater(14)
    await until('it is counted', async () => (await slipsOf(inTwoWeeks))['Zorblax, on a day'] === 1)
    expect(await slipsOf(inTwoWeeks)).to.deep.equal({
      'Zorblax, on a day': 1,
      'Quennip, at an hour': 1,
      'Vexil, in three weeks': 0,
      'Plimber, any day': 1,
    })
    expect(await later?.nights.countDue(), 'once').to.equal(0)
    const afterwards = await itemsOf(inTwoWeeks)
    const placeOf = (all: ClothItem[], title: string) => all.find(i => i.title === title)?.place
    for (const title of ['Zorblax, on a day', 'Quennip, at an hour'])
      expect(placeOf(afterwards, title), 'what was planned stays').to.deep.equal(placeOf(before, title))
    expect(afterwards.find(i => i.title === 'Plimber, any day')?.week, 'goes on').to.equal(weekDay(14))
    const [{ n } = { n: -1 }] =
      (await later?.ctx.db.rows<{ n: number }>('SELECT COUNT(*) AS n FROM journal')) ?? []
    expect(Number(n), 'nothing was written').to.equal(entries)

    const inThreeWeeks = await daysLater(22)
    await until(
      'the other slips too',
      async () => (await slipsOf(inThreeWeeks))['Vexil, in three weeks'] === 1,
    )
    expect(await slipsOf(inThreeWeeks)).to.include({ 'Zorblax, on a day': 1, 'Plimber, any day': 2 })
  })
})
