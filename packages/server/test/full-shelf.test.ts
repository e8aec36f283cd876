import { expect } from 'chai'
import { newTask } from '@loom/core'
import { putMirrors } from '../src/data/repositories/mirrors.ts'
import { startWorld, weekDay, type World } from './support/world.ts'

/** More open tasks than a shelf holds: those that press are on it, and it says how many are not. */
describe('a full shelf', function () {
  this.timeout(60_000)
  const MANY = 2400
  let w: World
  let place: { workspaceId: string; connectionId: string; zone: string }
  let list: string

  before(async () => {
    w = await startWorld()
    const home = await w.app.ctx.db.one<{ id: string; connection_id: string; workspace_id: string }>(
      // By its name: of the lists there are, some are another person's alone.
      `SELECT id, connection_id, workspace_id FROM collections WHERE name = 'Festival' AND item_kind = 'task'`,
    )
    if (!home) throw new Error('there is no list')
    list = home.id
    // They are not at their service: nobody is to look there for them.
    await w.app.ctx.db.run('UPDATE connections SET paused = 1')
    place = { workspaceId: home.workspace_id, connectionId: home.connection_id, zone: 'Europe/Dublin' }
    // What is due last comes first, so that the order in which they are stored is of no help.
    for (let from = 0; from < MANY; from += 800)
      await put(Array.from({ length: 800 }, (_, i) => MANY - from - i))
  })
  after(() => w.close())

  /** Tasks that are due so many days into the year; every third has no date. */
  async function put(numbers: readonly number[]): Promise<void> {
    const { db } = w.app.ctx
    const day = (n: number): string => new Date(Date.UTC(2027, 0, n)).toISOString().slice(0, 10)
    const all = numbers.map(n => ({
      mirror: {
        id: `many-${n}`,
        collectionId: list,
        remoteId: `many-${n}`,
        revision: '1',
        item: newTask(`many-${n}`, {
          summary: `Bed ${n}`,
          due: n % 3 === 0 ? null : { kind: 'date' as const, date: day(n) },
        }),
        presence: 'present' as const,
        seen: {},
        firstSeenAt: 0,
        arrivedAt: 0,
      },
      original: '',
    }))
    await db.commit(async sql => {
      await putMirrors(sql, place, all)
      const ids = all.map(t => t.mirror.id)
      sql.tell(place.workspaceId, { topics: ['cloth'], exact: true }, ids)
    })
  }
  async function shelf(monday: number): Promise<{ titles: Set<string>; keys: Set<string>; beyond: number }> {
    const { body } = await w.client.call('GET', `/cloth?from=${weekDay(monday)}&days=7`)
    const items: { title: string; key: string }[] = body.items
    return {
      titles: new Set(items.map(i => i.title)),
      keys: new Set(items.map(i => i.key)),
      beyond: body.beyond,
    }
  }
  const open = (): Promise<{ id: string }[]> =>
    w.app.ctx.db.rows('SELECT id FROM mirrors WHERE open_task = 1 AND start_ms IS NULL')

  it('holds what is due first, and says how many tasks it does not hold', async () => {
    const { titles, keys, beyond } = await shelf(0)
    const dated = Array.from({ length: MANY }, (_, i) => i + 1).filter(n => n % 3 !== 0)
    expect(dated.filter(n => !titles.has(`Bed ${n}`))).to.deep.equal([])
    expect(beyond).to.be.greaterThan(0)
    expect((await open()).filter(({ id }) => !keys.has(id)).length).to.equal(beyond)
  })

  it('has what somebody means to do in a week, or has put by, due or not', async () => {
    const { db } = w.app.ctx
    const held = (await shelf(0)).titles
    const far = Array.from({ length: MANY / 3 }, (_, i) => (i + 1) * 3).filter(n => !held.has(`Bed ${n}`))
    const [meant = 0, put = 0] = far
    await db.insert(
      `INSERT INTO own_layer (mirror_id, workspace_id, week_of, put_by)
       VALUES (:meant, :workspaceId, :week, NULL), (:put, :workspaceId, NULL, :week)`,
      {
        meant: `many-${meant}`,
        put: `many-${put}`,
        workspaceId: place.workspaceId,
        week: weekDay(7),
      },
    )
    // In a span that nobody has looked at yet.
    const { titles } = await shelf(7)
    expect([titles.has(`Bed ${meant}`), titles.has(`Bed ${put}`)]).to.deep.equal([true, true])
  })

  it('follows what changes', async () => {
    await shelf(0)
    await put([MANY + 1])
    expect((await shelf(0)).titles.has(`Bed ${MANY + 1}`)).to.equal(true)
  })
})
