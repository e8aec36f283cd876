import { channel } from 'node:diagnostics_channel'
import { expect } from 'chai'
import type { Connector } from '@loom/connectors'
import type { CollectionRow } from '../src/data/repositories/collections.ts'
import type { ConnectionRow } from '../src/data/repositories/connections.ts'
import { Glances, leastBetween, type Standing } from '../src/sync/engine/glances.ts'
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

  describe('of one account', () => {
    const row = {
      id: 'c',
      settings_version: 1,
      address: 'https://board.example',
    } as unknown as ConnectionRow
    const lists = ['one', 'two'].map(
      id => ({ remote_id: id, sync_token: 't', synced_at: 1, trouble: null }) as unknown as CollectionRow,
    )
    const idle: Standing = { isWatched: false, isNotified: false, limits: null }
    /** Looks and glances in turn, as the engine does; `marks` is what the service says. */
    const account = (marks: Record<string, string>) => {
      const glances = new Glances()
      const connector = {
        glance: async () => ({ marks: new Map(Object.entries(marks)), requests: 1 }),
      } as unknown as Connector
      let now = Date.now()
      let standing = idle
      return {
        glances,
        marks,
        async look(hasChanged = false) {
          const before = await glances.before(row, connector, lists, now)
          const kept = glances.keep(row, before, lists, { hasChanged, standing, now })
          return { still: [...before.still], kept }
        },
        hasMoved: () => glances.hasMoved(row, connector, standing),
        stand: (as: Partial<Standing>) => (standing = { ...idle, ...as }),
        later: (ms: number) => (now += ms),
        /** How long until the next glance, as of now. */
        rest: (): number => {
          for (let ms = 0; ; ms += 500) if (glances.due(Date.now() + ms).length > 0) return ms
        },
      }
    }

    it('tells what has moved, and reads only that; once more when its listing may have been behind', async () => {
      const a = account({ one: '1', two: '1' })
      expect(await a.look()).to.deep.equal({ still: [], kept: true })
      expect(await a.hasMoved()).to.equal(false)
      a.marks.two = '2'
      expect(await a.hasMoved()).to.equal(true)
      expect((await a.look(true)).still).to.deep.equal(['one'])
      expect(await a.hasMoved()).to.equal(false)
      // Lately moved, so it is read again with the next look, and then no more.
      expect((await a.look()).still).to.deep.equal(['one'])
      a.later(11_000)
      expect((await a.look()).still).to.deep.equal(['one'])
      expect((await a.look()).still).to.deep.equal(['one', 'two'])
      a.later(700_000)
      expect((await a.look()).still, 'everything, whatever the marks say').to.deep.equal([])
    })

    it('is asked at once again every second when somebody comes to watch', async () => {
      const a = account({ one: '1', two: '1' })
      a.stand({ isNotified: true })
      await a.look()
      for (let n = 0; n < 9; n++) await a.hasMoved()
      expect(a.rest()).to.be.within(14_000, 15_000)
      a.stand({ isNotified: true, isWatched: true })
      await a.look()
      expect(a.rest()).to.be.at.most(1_000)
    })

    it('does not tell where a list has no mark', async () => {
      const a = account({ one: '1' })
      expect((await a.look()).kept).to.equal(false)
      expect(await a.hasMoved()).to.equal(true)
    })

    it('is asked less often where answers never read the same twice, but not for what we wrote ourselves', async () => {
      const a = account({ one: '0', two: '0' })
      await a.look()
      for (let n = 1; n < 12; n++) await a.hasMoved()
      const usual = a.rest()
      for (let n = 1; n < 12; n++) {
        a.marks.one = String(n)
        a.glances.wrote('c', Date.now())
        expect(await a.hasMoved()).to.equal(true)
        await a.look()
      }
      expect(a.rest(), 'our own writes').to.be.at.most(usual)
      a.later(20_000)
      for (let n = 100; n < 112; n++) {
        a.marks.one = String(n)
        a.later(10_000)
        await a.hasMoved()
        await a.look()
      }
      expect(a.rest(), 'a service that is never the same').to.be.greaterThan(usual * 3)
    })
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
          `SELECT c.name, l.*, (SELECT COUNT(*) FROM looks s WHERE s.connection_id = c.id) AS looks FROM look_times l
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
