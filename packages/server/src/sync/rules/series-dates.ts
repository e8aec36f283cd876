import { createHash } from 'node:crypto'
import {
  type Mirror,
  type Reach,
  type Rule,
  settingsOf,
  SIDES,
  unroll,
  understoodOr,
  type Unrolled,
} from '@loom/core'
import { idFor } from '../../access/secrets.ts'
import type { Sql } from '../../data/database.ts'
import { mirrorOf, putMirrors, setPresence } from '../../data/repositories/mirrors.ts'
import { nowDoing } from '../../work/doing.ts'
import type { Context } from '../../context/context.ts'
import { harmsOnlyItself } from '../../data/harm.ts'
import type { Lease } from '../../data/leases.ts'
import { isPlannedAnew, ruleOf } from './rules.ts'
import {
  countDatesIn,
  countTooOften,
  anyUnrolled,
  seriesToLookAt,
  seriesRow,
  putUnrolled,
  datesOfSeries,
  seriesIn,
  type SeriesRow,
} from '../../data/repositories/series.ts'
import { zoneOfWorkspace } from '../../data/repositories/workspaces.ts'
import type { RuleRow } from '../../data/repositories/rules.ts'
import { passOnTie } from '../../data/repositories/ties.ts'
import { parsed } from '../../data/json.ts'

/**
 * Keeps a mirror for each date of the series that rules pair date by date. It runs before a pass, within its
 * lease, and when a write to a series is confirmed; `unroll` decides what changes.
 */

const DAY_MS = 86_400_000

const SERIES_AT_ONCE = 25
/** Dates of one calendar that have mirrors: more than these are no calendar that people keep. */
const MOST_OF_CALENDAR = 10_000

async function isFull(sql: Sql, collectionId: string): Promise<boolean> {
  const row = await countDatesIn(sql, { collectionId })
  return (row?.n ?? 0) >= MOST_OF_CALENDAR
}

/** How many series of these calendars are drawn, but not paired date by date: they repeat too often, or too many do. */
export async function notUnrolled(sql: Sql, collections: readonly string[]): Promise<number> {
  const row = await countTooOften(sql, { collections })
  return row?.n ?? 0
}

const revisionOf = (text: string): string => createHash('sha1').update(text).digest('hex')

/** By collection: how many days back and ahead its series are unrolled. */
export type Reaches = ReadonlyMap<string, { backDays: number; aheadDays: number }>

/** How far series are unrolled for these rules. */
export function reachesOf(rules: readonly Rule[]): Reaches {
  const byCollection = new Map<string, { backDays: number; aheadDays: number }>()
  for (const { kinds, collections, settings } of rules)
    for (const side of ['a', 'b'] as const) {
      if (settings.series !== 'dates' || kinds[side] !== 'event') continue
      for (const id of collections[side]) {
        const known = byCollection.get(id)
        byCollection.set(id, {
          backDays: Math.max(settings.backDays, known?.backDays ?? 0),
          aheadDays: Math.max(settings.aheadDays, known?.aheadDays ?? 0),
        })
      }
    }
  return byCollection
}

/**
 * Brings the dates of a workspace's series up to date. `everything`: those that did not change too, since days have
 * gone by or a rule has begun to ask for them.
 */
export async function unrollForRules(
  ctx: Context,
  lease: Lease,
  workspaceId: string,
  rows: readonly RuleRow[],
  full: boolean,
): Promise<void> {
  const asking = rows.filter(r => settingsOf(parsed(r.settings)).series === 'dates')
  const any = await anyUnrolled(ctx.db, {
    workspaceId,
  })
  if (asking.length === 0 && !any) return
  const reaches = reachesOf(await Promise.all(asking.map(r => ruleOf(ctx.db, r))))
  const everything = full || asking.some(r => isPlannedAnew(r, ctx.now()))
  const due = await seriesToLookAt(ctx.db, { workspaceId, everything, collections: ['', ...reaches.keys()] })
  for (let i = 0; i < due.length; i += SERIES_AT_ONCE)
    await ctx.db.commit(async sql => {
      await lease.check(sql)
      const changed: string[] = []
      for (const { id } of due.slice(i, i + SERIES_AT_ONCE))
        changed.push(...(await unrollAlone(ctx, sql, id, reaches)))
      if (changed.length > 0) sql.tell(workspaceId, { topics: ['rules'] }, changed)
    })
}

/** A series that cannot be unrolled, or whose dates cannot be kept, stops no other. */
async function unrollAlone(ctx: Context, sql: Sql, id: string, reaches: Reaches): Promise<string[]> {
  nowDoing(`item:${id}`)
  try {
    return await unrollOne(ctx, sql, id, reaches)
  } catch (error) {
    if (!harmsOnlyItself(error)) throw error
    ctx.log.error({ err: error, item: id }, 'a series could not be unrolled')
    return []
  }
}

/** Brings the dates of one series up to date. Returns the mirrors of those that changed. */
export async function unrollOne(
  ctx: Context,
  sql: Sql,
  seriesId: string,
  reaches: Reaches = new Map(),
): Promise<string[]> {
  const row = await seriesRow(sql, { seriesId })
  if (!row) return []
  const zone = await zoneOf(sql, row.workspace_id)
  const { unrolled, held } = await looked(ctx.now(), sql, row, zone, reaches)
  const isSeries = row.item.includes('"recurring":true')
  const tooOften =
    (unrolled === null && isSeries) || (held.length === 0 && (await isFull(sql, row.collection_id)))
  await putUnrolled(sql, {
    id: row.id,
    workspaceId: row.workspace_id,
    seq: row.change_seq,
    asOf: row.synced_at ?? 0,
    tooOften: tooOften ? 1 : 0,
  })
  if (!unrolled || tooOften) return []
  const place = { workspaceId: row.workspace_id, connectionId: row.connection_id, zone }
  await setPresence(sql, unrolled.gone, 'gone')
  await putMirrors(
    sql,
    place,
    unrolled.put.map(({ mirror, occurrence }) => ({ mirror, dateOf: { seriesId: row.id, occurrence } })),
  )
  const passed = await passOn(sql, row, [...held.map(h => h.mirror), ...unrolled.put.map(p => p.mirror)])
  return [...unrolled.gone, ...unrolled.put.flatMap(p => (p.changed ? [p.mirror.id] : [])), ...passed]
}

async function zoneOf(sql: Sql, workspaceId: string): Promise<string> {
  const row = await zoneOfWorkspace(sql, {
    workspaceId,
  })
  return row?.zone ?? 'UTC'
}

async function looked(
  now: number,
  sql: Sql,
  row: SeriesRow,
  zone: string,
  reaches: Reaches,
): Promise<{ unrolled: Unrolled | null; held: { occurrence: string; mirror: Mirror }[] }> {
  const rows = await datesOfSeries(sql, { id: row.id })
  const held = rows.map(r => ({ occurrence: r.occurrence ?? '', mirror: mirrorOf(r) }))
  const days = reaches.get(row.collection_id)
  // Without a rule that asks for more, what there is follows its series and nothing is added.
  const reach: Reach = {
    fromMs: days ? now - days.backDays * DAY_MS : now,
    toMs: days ? now + days.aheadDays * DAY_MS : now - 2 * DAY_MS,
    zone,
  }
  const before = { before: row.as_of ?? 0, now, skew: 0, hasBaseline: true }
  if (!row.original.startsWith('BEGIN:VCALENDAR')) return { unrolled: null, held }
  // A series that cannot be unrolled is drawn where it stands, and its dates stay as they were.
  const unrolled = understoodOr(
    () => unroll(mirrorOf(row), row.original, held, reach, before, { idFor, revisionOf }),
    null,
  )
  return { unrolled, held }
}

/**
 * A pair follows its event to the first date when it begins to repeat, and back when it stops. Returns what must
 * be planned again.
 */
async function passOn(sql: Sql, row: SeriesRow, dates: Mirror[]): Promise<string[]> {
  const series = mirrorOf(row)
  if (series.item.kind !== 'event') return []
  const at = JSON.stringify(series.item.time.anchor)
  const first = dates.find(d => d.item.kind === 'event' && JSON.stringify(d.item.time.anchor) === at)
  if (!first) return []
  const [from, to] = series.item.recurring ? [series.id, first.id] : [first.id, series.id]
  let moved = 0
  for (const side of SIDES) moved += await passOnTie(sql, side, { from, to })
  return moved > 0 ? [first.id, series.id] : []
}

/** The dates that series of these collections would be given: what a preview adds to what is there. */
export async function datesToCome(
  now: number,
  sql: Sql,
  rule: Rule,
): Promise<{ seriesId: string; mirror: Mirror }[]> {
  const reaches = reachesOf([rule])
  if (reaches.size === 0) return []
  const rows = await seriesIn(sql, { collections: [...reaches.keys()] })
  const found: { seriesId: string; mirror: Mirror }[] = []
  for (const row of rows) {
    const { unrolled, held } = await looked(now, sql, row, rule.zone, reaches)
    const known = new Set(held.map(h => h.mirror.id))
    for (const { mirror } of unrolled?.put ?? [])
      if (!known.has(mirror.id)) found.push({ seriesId: row.id, mirror })
  }
  return found
}
