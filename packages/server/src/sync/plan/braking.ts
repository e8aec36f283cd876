import {
  BRAKE_WINDOW_MS,
  type BrakeTerms,
  type Decision,
  isRemoval,
  type PlannedWrite,
  type PlanInput,
  type Rule,
} from '@loom/core'
import type { Sql } from '../../data/database.ts'
import type { Context } from '../../context/context.ts'
import type { RuleRow } from '../rules/rules.ts'

/** The brake against the database: what was removed lately, what waits for a yes, and what was answered. */

export interface CollectionHome {
  id: string
  connection_id: string
}

/** Where the writes of these decisions go, by mirror id or collection id. */
export async function homesOf(sql: Sql, rule: Rule, decisions: Decision[]): Promise<Map<string, CollectionHome>> {
  const ids = decisions.flatMap(d => d.writes.flatMap(w => (w.op === 'create' ? [] : [w.mirrorId])))
  const homes = new Map<string, CollectionHome>()
  for (const h of await sql.rows<CollectionHome>('SELECT id, connection_id FROM collections WHERE id IN (:ids)', {
    ids: [rule.home.a, rule.home.b],
  }))
    homes.set(h.id, h)
  for (let i = 0; i < ids.length; i += 1000)
    for (const m of await sql.rows<{ id: string; collection_id: string; connection_id: string }>(
      'SELECT id, collection_id, connection_id FROM mirrors WHERE id IN (:ids)',
      { ids: ids.slice(i, i + 1000) },
    ))
      homes.set(m.id, { id: m.collection_id, connection_id: m.connection_id })
  return homes
}

const collectionOf =
  (homes: Map<string, CollectionHome>) =>
  (write: PlannedWrite): string =>
    homes.get(write.op === 'create' ? write.collectionId : write.mirrorId)?.id ?? ''

export async function brakeTermsFor(
  ctx: Context,
  sql: Sql,
  rule: Rule,
  homes: Map<string, CollectionHome>,
  decisions: Decision[],
): Promise<BrakeTerms> {
  const of = collectionOf(homes)
  const removing = decisions.filter(d => d.writes.some(w => isRemoval(d, w)))
  // Where nothing is removed, nothing need be counted.
  const ids = [...new Set(removing.flatMap(d => d.writes.map(of)))].filter(Boolean)
  const sizes = new Map<string, number>()
  const recent = new Map<string, number>()
  for (const id of ids) {
    const size = await sql.one<{ n: number }>(
      // What was just deleted on the other side still counts: its counterparts stand here.
      `SELECT COUNT(*) AS n FROM mirrors WHERE collection_id = :id AND presence IN ('present', 'date', 'missing')`,
      { id },
    )
    sizes.set(id, size?.n ?? 0)
    const removed = await sql.one<{ n: number }>(
      `SELECT (SELECT COUNT(*) FROM journal WHERE collection_id = :id AND removal = 1 AND at > :since AND outcome = 'done')
        + (SELECT COUNT(*) FROM intents WHERE collection_id = :id AND removal = 1 AND state IN ('open', 'waiting')) AS n`,
      { id, since: ctx.now() - BRAKE_WINDOW_MS },
    )
    recent.set(id, removed?.n ?? 0)
  }
  const sides = removing.flatMap(d => [d.a, d.b]).filter(id => id !== null)
  const series = new Map<string, string>()
  for (let i = 0; i < sides.length; i += 1000)
    for (const m of await sql.rows<{ id: string; series_id: string }>(
      'SELECT id, series_id FROM mirrors WHERE id IN (:ids) AND series_id IS NOT NULL',
      { ids: sides.slice(i, i + 1000) },
    ))
      series.set(m.id, m.series_id)
  const approved = await sql.rows<{ tie_id: string }>(
    `SELECT tie_id FROM braked WHERE rule_id = :rule AND answer = 'go'`,
    { rule: rule.id },
  )
  return {
    sizeOf: id => sizes.get(id) ?? 0,
    recent: id => recent.get(id) ?? 0,
    approved: new Set(approved.map(a => a.tie_id)),
    collectionOf: of,
    partOf: d => series.get(d.a ?? '') ?? series.get(d.b ?? '') ?? null,
  }
}

/** Keeps the list of what waits true. `input` is what an incremental pass looked at; null for everything. */
export async function recordStopped(
  ctx: Context,
  sql: Sql,
  row: RuleRow,
  homes: Map<string, CollectionHome>,
  stopped: Decision[],
  input: PlanInput | null,
): Promise<void> {
  const still = stopped.flatMap(d => (d.tie ? [d.tie.id] : []))
  const looked = input?.pairs.map(p => p.tie.id)
  if (looked === undefined)
    await sql.run(
      `DELETE FROM braked WHERE rule_id = :rule ${still.length > 0 ? 'AND tie_id NOT IN (:still)' : ''}`,
      { rule: row.id, still },
    )
  else {
    const over = looked.filter(id => !still.includes(id))
    if (over.length > 0) await sql.run('DELETE FROM braked WHERE tie_id IN (:over)', { over })
  }
  const of = collectionOf(homes)
  for (const d of stopped) {
    const write = d.writes[0]
    if (!d.tie || !write) continue
    await sql.insert(
      `INSERT INTO braked (tie_id, workspace_id, rule_id, collection_id, title, reason, effect, side, since)
       VALUES (:tie, :workspaceId, :rule, :collection, :title, :reason, :effect, :side, :now)
       ON DUPLICATE KEY UPDATE reason = VALUES(reason), effect = VALUES(effect)`,
      {
        tie: d.tie.id,
        workspaceId: row.workspace_id,
        rule: row.id,
        collection: of(write),
        title: d.title,
        reason: d.reason,
        effect: d.effect,
        side: write.side,
        now: ctx.now(),
      },
    )
  }
}
