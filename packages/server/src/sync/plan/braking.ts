import { homesOfMirrors, countStanding, seriesOfDates } from '../../data/repositories/to-plan.ts'
import {
  BRAKE_WINDOW_MS,
  type BrakeTerms,
  type Decision,
  lossOf,
  type PlannedWrite,
  type PlanInput,
  type Rule,
} from '@loom/core'
import type { Sql } from '../../data/database.ts'
import type { Context } from '../../context/context.ts'
import { connectionsOfCollections, type CollectionHome } from '../../data/repositories/collections.ts'

import {
  countGonePairs,
  countRemovals,
  releasedTies,
  dropBraked,
  putBraked,
  keepBraked,
} from '../../data/repositories/braked.ts'
import type { RuleRow } from '../../data/repositories/rules.ts'

/** The brake against the database: what was removed lately, what waits for a yes, and what was answered. */

/** Where the writes of these decisions go, by mirror id or collection id. */
export async function homesOf(
  sql: Sql,
  rule: Rule,
  decisions: Decision[],
): Promise<Map<string, CollectionHome>> {
  const ids = decisions.flatMap(d => [
    ...d.writes.flatMap(w => (w.op === 'create' ? [] : [w.mirrorId])),
    ...(lossOf(d) ? [d.a, d.b].filter(id => id !== null) : []),
  ])
  const homes = new Map<string, CollectionHome>()
  for (const h of await connectionsOfCollections(sql, {
    ids: [rule.home.a, rule.home.b],
  }))
    homes.set(h.id, h)
  for (let i = 0; i < ids.length; i += 1000)
    for (const m of await homesOfMirrors(sql, { ids: ids.slice(i, i + 1000) }))
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
  { rule, workspaceId }: { rule: Rule; workspaceId: string },
  homes: Map<string, CollectionHome>,
  decisions: Decision[],
): Promise<BrakeTerms> {
  const of = collectionOf(homes)
  const ofMirror = (id: string): string => homes.get(id)?.id ?? ''
  const removing = decisions.filter(d => lossOf(d) !== null)
  // Where nothing goes, nothing need be counted.
  const ids = [
    ...new Set(
      removing.flatMap(d => [...d.writes.map(of), ...[d.a, d.b].flatMap(id => (id ? [ofMirror(id)] : []))]),
    ),
  ].filter(Boolean)
  const sizes = new Map<string, number>()
  const recent = new Map<string, number>()
  for (const id of ids) {
    const size = await countStanding(sql, { id })
    sizes.set(id, size?.n ?? 0)
    const window = { id, workspaceId, since: ctx.now() - BRAKE_WINDOW_MS }
    const [removed, gone] = [await countRemovals(sql, window), await countGonePairs(sql, window)]
    recent.set(id, (removed?.n ?? 0) + (gone?.n ?? 0))
  }
  const sides = removing.flatMap(d => [d.a, d.b]).filter(id => id !== null)
  const series = new Map<string, string>()
  for (let i = 0; i < sides.length; i += 1000)
    for (const m of await seriesOfDates(sql, { ids: sides.slice(i, i + 1000) })) series.set(m.id, m.series_id)
  const approved = await releasedTies(sql, { rule: rule.id })
  return {
    sizeOf: id => sizes.get(id) ?? 0,
    recent: id => recent.get(id) ?? 0,
    approved: new Set(approved.map(a => a.tie_id)),
    collectionOf: of,
    collectionOfMirror: ofMirror,
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
  if (looked === undefined) await keepBraked(sql, { rule: row.id, still })
  else {
    const over = looked.filter(id => !still.includes(id))
    if (over.length > 0) await dropBraked(sql, { over })
  }
  const of = collectionOf(homes)
  for (const d of stopped) {
    const went = lossOf(d)
    const [write] = d.writes
    const at = went && d[went.side]
    if (!d.tie || !went) continue
    await putBraked(sql, {
      tie: d.tie.id,
      workspaceId: row.workspace_id,
      rule: row.id,
      collection: write ? of(write) : (homes.get(at ?? '')?.id ?? ''),
      title: d.title,
      reason: d.reason,
      effect: went.loss,
      side: went.side,
      now: ctx.now(),
    })
  }
}
