import { channel } from 'node:diagnostics_channel'
import { expect } from 'chai'
import { leastBetween } from '../src/sync/engine/glances.ts'
import { property } from './support/garden.ts'
import { RuleDesk } from './support/rules.ts'
import { startWorld, until, type World } from './support/world.ts'

/** How often services are asked, and what that costs. */
describe('the pace of looking', () => {
  it('keeps to a quarter of a known limit, and to its share of an origin', () => {
    const one = { isWatched: false, isNotified: false, limits: null, requests: 1, neighbours: 1 }
    const table: [Parameters<typeof leastBetween>[0], number][] = [
      [one, 3_000],
      [{ ...one, isWatched: true }, 1_000],
      [{ ...one, isNotified: true }, 15_000],
      // Five requests a second, of which 1.25 are for looking.
      [{ ...one, requests: 20, limits: { requests: 5, perSeconds: 1 } }, 16_000],
      [{ ...one, isWatched: true, requests: 20, limits: { requests: 5, perSeconds: 1 } }, 16_000],
      [{ ...one, limits: { requests: 60, perSeconds: 3600 } }, 240_000],
      [{ ...one, neighbours: 8 }, 3_000],
      [{ ...one, neighbours: 100 }, 25_000],
      [{ ...one, requests: 20 }, 5_000],
    ]
    for (const [pacing, ms] of table) expect(leastBetween(pacing), JSON.stringify(pacing)).to.equal(ms)
  })

  describe('with nobody signed in', function () {
    this.timeout(90_000)
    let w: World
    let desk: RuleDesk
    const asked: string[] = []
    const count = (message: unknown): void => {
      const { request } = message as { request: { method: string; path: string } }
      asked.push(`${request.method} ${request.path.replace(/\?.*/, '')}`)
    }

    before(async () => {
      w = await startWorld({ watched: false })
      desk = new RuleDesk(w)
      await desk.ready()
      await desk.settled()
    })
    after(() => w.close())

    const looks = async (): Promise<string> =>
      JSON.stringify(
        await w.app.ctx.db.rows(
          `SELECT c.name, l.*, (SELECT COUNT(*) FROM looks) AS looks FROM look_times l
             JOIN connections c ON c.id = l.connection_id
           WHERE c.kind IN ('caldav', 'http-json') AND c.subscribed_at IS NULL ORDER BY c.id`,
        ),
      )

    it('asks an account at rest once a round, and writes nothing down for it', async () => {
      // The home, and a calendar that somebody shares from elsewhere.
      const isRound = (line: string): boolean => line === 'PROPFIND /garden/dav/calendars/ines/'
      const isShared = (line: string): boolean => line === 'PROPFIND /garden/dav/calendars/ines/trustees/'
      // What came in while it was connected has settled by then.
      await until(
        'a minute of rest',
        async () => {
          const [next] = await w.app.ctx.db.rows<{ ms: number }>(
            `SELECT MIN(l.next_look_at) AS ms FROM look_times l JOIN connections c ON c.id = l.connection_id
             WHERE c.kind = 'caldav'`,
          )
          return (next?.ms ?? 0) > Date.now() + 40_000
        },
        40_000,
      )
      const before = await looks()
      channel('undici:request:create').subscribe(count)
      try {
        await until('three rounds', async () => asked.filter(isRound).length >= 3, 40_000)
      } finally {
        channel('undici:request:create').unsubscribe(count)
      }
      const ofGarden = asked.filter(line => line.includes('/garden/'))
      expect(ofGarden.filter(line => !isRound(line) && !isShared(line))).to.deep.equal([])
      expect(await looks()).to.equal(before)
    })

    it('carries what changes at a service without notifications within seconds', async () => {
      await desk.save('Small repairs', 'House repairs', {})
      await desk.settled()
      const event = async () =>
        (await w.garden.events('house-repairs')).find(e => e.name === 'vent-motor.ics')
      const took: number[] = []
      for (const n of [1, 2, 3]) {
        const before = await event()
        if (!before) throw new Error('no event')
        const started = Date.now()
        await w.garden.edit('house-repairs', before, t => t.replace(/^SUMMARY:.*/m, `SUMMARY:Vent ${n}`))
        await until('it has arrived', async () => (await w.bench.titled('repairs', `Vent ${n}`))[0], 20_000)
        took.push(Date.now() - started)
        expect(property((await event())?.text ?? '', 'SUMMARY')).to.equal(`Vent ${n}`)
      }
      expect(Math.max(...took), took.join(' ')).to.be.lessThan(8_000)
    })
  })
})
