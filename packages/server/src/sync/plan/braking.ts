import { homesOfMirrors, countStanding, seriesOfDates } from '../../data/repositories/to-plan.ts'
import {
  type brake,
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
  answeredTies,
  countTiedOfLook,
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
    ...(lossOf(d) || d.arrived !== undefined ? [d.a, d.b].filter(id => id !== null) : []),
  ])
  const homes = new Map<string, CollectionHome>()
  for (const h of await connectionsOfCollections(sql, { ids: [rule.home.a, rule.home.b] })) homes.set(h.id, h)
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
  const looks = new Map<string, number>()
  const arrivals = decisions.filter(d => d.arrived !== undefined)
  for (const { a, b, arrived } of arrivals) {
    const from = ofMirror(a ?? b ?? '')
    const key = `${from} ${arrived}`
    if (arrived === undefined || looks.has(key)) continue
    const tied = await countTiedOfLook(sql, { rule: rule.id, collection: from, arrived })
    looks.set(key, tied?.n ?? 0)
    if (!sizes.has(from)) sizes.set(from, (await countStanding(sql, { id: from }))?.n ?? 0)
  }
  const sides = [...removing, ...arrivals].flatMap(d => [d.a, d.b]).filter(id => id !== null)
  const series = new Map<string, string>()
  for (let i = 0; i < sides.length; i += 1000)
    for (const m of await seriesOfDates(sql, { ids: sides.slice(i, i + 1000) })) series.set(m.id, m.series_id)
  const answered = await answeredTies(sql, { rule: rule.id })
  const having = (answer: 'go' | 'none'): Set<string> =>
    new Set(answered.flatMap(a => (a.answer === answer ? [a.tie_id] : [])))
  return {
    sizeOf: id => sizes.get(id) ?? 0,
    recent: id => recent.get(id) ?? 0,
    tiedOf: (id, arrived) => looks.get(`${id} ${arrived}`) ?? 0,
    approved: having('go'),
    declined: having('none'),
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
  { stopped, declined }: Pick<ReturnType<typeof brake>, 'stopped' | 'declined'>,
  input: PlanInput | null,
): Promise<void> {
  const still = [...stopped, ...declined].flatMap(d => (d.tie ? [d.tie.id] : []))
  if (input === null) await keepBraked(sql, { rule: row.id, still })
  else {
    const ties = input.pairs.map(p => p.tie.id)
    const mirrors = [...input.untied.a, ...input.untied.b].map(m => m.id)
    if (ties.length + mirrors.length > 0) await dropBraked(sql, { rule: row.id, ties, mirrors, still })
  }
  const of = collectionOf(homes)
  for (const d of stopped) {
    const went = lossOf(d)
    const [write] = d.writes
    const at = d.arrived === undefined ? went && d[went.side] : (d.a ?? d.b)
    if (!d.tie || (!went && d.arrived === undefined)) continue
    const isMade = !went
    await putBraked(sql, {
      tie: d.tie.id,
      workspaceId: row.workspace_id,
      rule: row.id,
      collection: write && !isMade ? of(write) : (homes.get(at ?? '')?.id ?? ''),
      title: d.title,
      reason: d.reason,
      effect: went?.loss ?? 'made',
      side: went?.side ?? d.on ?? 'b',
      mirror: isMade ? at : null,
      now: ctx.now(),
    })
  }
}
