import { randomUUID } from 'node:crypto'
import { channel } from 'node:diagnostics_channel'
import type { IncomingMessage } from 'node:http'
import { lensesOf } from '@loom/core'
import type { Database } from '../src/data/database.ts'
import { type MirrorRow, mirrorOf, MIRRORS } from '../src/data/repositories/mirrors.ts'
import { ruleOf } from '../src/sync/rules/rules.ts'
import { bare } from './bare.ts'
import { largeGarden } from './large-garden.ts'
import { LargeService } from './large-service.ts'
import { hostOf, ms, Server } from './server-under-test.ts'
import { WatchedCloth } from './watched-cloth.ts'
import type { RuleRow } from '../src/data/repositories/rules.ts'

/** A rule between a large list and a large calendar, at rest. */

/** Ties the items of two collections one to one, as if a rule had done it long ago: nothing is left to write. */
async function tieAll(db: Database, ruleId: string): Promise<number> {
  const row = await db.one<RuleRow>('SELECT * FROM rules WHERE id = :ruleId', { ruleId })
  if (!row) throw new Error('no rule')
  const rule = await ruleOf(db, row)
  const of = async (collection: string) =>
    (
      await db.rows<MirrorRow>(
        `${MIRRORS} WHERE m.collection_id = :collection ORDER BY LENGTH(m.remote_id), m.remote_id`,
        { collection },
      )
    ).map(mirrorOf)
  const [tasks, events] = [await of(row.a_collection), await of(row.b_collection)]
  const rows = tasks.flatMap((a, i) => {
    const b = events[i]
    if (!b) return []
    const base = Object.fromEntries(
      lensesOf(rule).map(l => [
        l.field,
        { a: l.read('a', a.item, undefined), b: l.read('b', b.item, undefined) },
      ]),
    )
    return [[`tie-${i}`, row.workspace_id, row.id, row.version, a.id, b.id, JSON.stringify(base), 0]]
  })
  for (let i = 0; i < rows.length; i += 500)
    await db.insert(
      'INSERT INTO ties (id, workspace_id, rule_id, rule_version, a_mirror, b_mirror, base, made_at) VALUES :rows',
      { rows: rows.slice(i, i + 500) },
    )
  return rows.length
}

/** When the next write reaches a service of this process: Node tells of each request that arrives. */
function nextWrite(): Promise<number> {
  const requests = channel('http.server.request.start')
  return new Promise(done => {
    const hear = (message: unknown): void => {
      if ((message as { request: IncomingMessage }).request.method !== 'PUT') return
      requests.unsubscribe(hear)
      done(performance.now())
    }
    requests.subscribe(hear)
  })
}

/** A list and a calendar of the same size, all of it tied: comparing everything, and one change going over. */
export async function inStep(count: number): Promise<string[]> {
  const garden = await largeGarden(count)
  const large = await new LargeService(count).listen()
  const server = await Server.start([hostOf(garden.base), hostOf(large.base)])
  const [events, tasks] = await server.connectBoth(garden.base, large.base)
  await server.read([events, tasks])
  const id = randomUUID()
  await server.db.insert(
    `INSERT INTO rules (id, workspace_id, a_collection, b_collection, settings, state, version, enabled_at, notices)
     SELECT :id, workspace_id, (SELECT id FROM collections WHERE connection_id = :tasks LIMIT 1),
       (SELECT id FROM collections WHERE connection_id = :events AND name = 'Large' LIMIT 1), :settings, 'paused', 1, 0, '[]'
     FROM connections WHERE id = :tasks`,
    { id, tasks, events, settings: JSON.stringify({ noHour: 'all-day', date: 'due' }) },
  )
  await server.db.insert('INSERT INTO rule_progress (rule_id, planned_seq) VALUES (:id, 0)', { id })
  await tieAll(server.db, id)
  await server.db.run(
    `UPDATE rules r JOIN rule_progress p ON p.rule_id = r.id JOIN change_counters w ON w.workspace_id = r.workspace_id
     SET r.state = 'on', p.planned_seq = w.change_seq, p.anew_at = :now
     WHERE r.id = :id`,
    { id, now: Date.now() },
  )
  const floor = await bare(garden.base, large.base)
  await server.gauge()
  let from = performance.now()
  await server.db.run(
    'UPDATE collections SET sync_token = NULL, synced_at = 1 WHERE connection_id IN (:ids)',
    { ids: [events, tasks] },
  )
  await Promise.all([events, tasks].map(c => server.call('POST', `/connections/${c}/look`)))
  await server.until(
    'SELECT 1 FROM DUAL WHERE NOT EXISTS (SELECT 1 FROM collections WHERE connection_id IN (:ids) AND takes_part = 1 AND synced_at = 1)',
    { ids: [events, tasks] },
  )
  const compared = ms(from)
  const arrivals: number[] = []
  const confirmed: number[] = []
  const screens: number[] = []
  const cloth = await WatchedCloth.open(server.client.base, await server.client.session(), '2025-12-29')
  for (let round = 0; round < 25; round++) {
    // What the change before this one set going has come to rest.
    await server.until(
      `SELECT 1 FROM rules r JOIN rule_progress p ON p.rule_id = r.id JOIN change_counters w ON w.workspace_id = r.workspace_id
       WHERE r.id = :id AND p.planned_seq >= w.change_seq
         AND NOT EXISTS (SELECT 1 FROM leases WHERE expires_at > 0)`,
      { id },
      20,
    )
    large.change(1, `Round${round}`)
    const shown = cloth.shows(`Round${round} r0`)
    const arrived = nextWrite()
    from = performance.now()
    void large.notify()
    arrivals.push((await arrived) - from)
    await server.until(
      // The latest of the journal, which is written with the confirmation.
      'SELECT 1 FROM (SELECT title FROM journal ORDER BY id DESC LIMIT 3) AS latest WHERE title LIKE :like',
      { like: `%Round${round} %` },
      5,
    )
    const all = ms(from)
    screens.push((await shown) - from)
    // The calendar keeps its whole store with each write; what it takes for that is its own.
    const wrote = await server.db.one<{ ms: number }>(
      'SELECT took_ms AS ms FROM journal ORDER BY id DESC LIMIT 1',
    )
    confirmed.push(all - (wrote?.ms ?? 0))
  }
  cloth.close()
  const at = (of: number[], share: number): string =>
    `${of.toSorted((x, y) => x - y)[Math.floor(of.length * share)]?.toFixed(0)} ms`
  const cells = [
    `${count} pairs`,
    `${compared.toFixed(0)} ms`,
    `${(floor.calendar + floor.tasks).toFixed(0)} ms`,
    at(arrivals, 0.5),
    at(arrivals, 0.95),
    at(confirmed, 0.5),
    at(screens, 0.5),
    at(screens, 0.95),
  ]
  await server.stop()
  large.close()
  await garden.close()
  return cells
}
