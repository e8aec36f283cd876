import {
  addDays,
  busyItems,
  type ClothItem,
  dateKey,
  dayAt,
  epochOf,
  type Event,
  type Item,
  type ItemSource,
  type Taken,
  takesTime,
  type Task,
  understoodOr,
  type Viewer,
} from '@loom/core'
import { type Sharing, type Sight, sharingOf } from '../access/sight.ts'
import type { Sql } from '../data/database.ts'
import { latestSeq } from '../data/number-changes.ts'
import { changedSince } from './changed-items.ts'
import { patchedRows, type Rows, wholeRows } from './cloth-rows.ts'
import { datesAsSeen, datesInSpan } from './dates-in-span.ts'
import { beingMade, openIntents } from './open-edits.ts'
import { drawn, inConflict, loadUnseen, pairedUp, type Unseen } from './pairs.ts'
import { type Circumstances, circumstancesOf } from './sources.ts'
import { type Instants, type Row, type TieLine, tiesIn } from '../data/repositories/cloth.ts'
import type { OpenIntent } from '../data/repositories/intents.ts'

/** What the Cloth shows of a workspace: tied pairs as one, and a person's own edits before they arrive. */

/** Minutes that a task without an estimate counts for. */
export const DEFAULT_MINUTES = 30

export interface Days {
  workspaceId: string
  /** `YYYY-MM-DD`, in the viewer's zone. */
  from: string
  days: number
}

/** Some days as they were at a change number, before anybody sees them. */
export interface Reading {
  seq: number
  /** The change as of which that was read which it went on from; null where it was read anew. */
  since: number | null
  found: Unseen
  /** The dates of each series in these days. */
  series: readonly (readonly [ItemSource<Event>, readonly ClothItem[]])[]
  /** Those of the days themselves, and not only tied to them. */
  ids: readonly string[]
  open: readonly OpenIntent[]
  rows: Rows
  bounded: boolean
  /** How many tasks on the shelf are not among the items: it holds only so many. */
  beyond: number
  under: Circumstances
  sharing: Sharing
}

/**
 * The items of these days, and tasks without a time.
 * @param sql of a snapshot
 * @param before an earlier reading: only what changed since is read
 * @param only of these lists and calendars; null for all
 */
export async function readCloth(
  sql: Sql,
  { workspaceId, from, days }: Days,
  viewer: Viewer,
  before: Reading | null,
  only: readonly string[] | null = null,
): Promise<Reading> {
  const at = { ...instantsOf({ from, days }, viewer), only }
  // What does not wait for one another is asked for at once: each answer is a way there and back.
  const [changed, open, conflicts] = await Promise.all([
    before && changedSince(sql, workspaceId, before.seq),
    openIntents(sql, workspaceId),
    inConflict(sql, workspaceId),
  ])
  const { rows, bounded, beyond, under, sharing } =
    before && changed
      ? { ...before, rows: await patchedRows(sql, workspaceId, at, before.rows, changed.ids) }
      : {
          ...(await wholeRows(sql, workspaceId, at)),
          under: await circumstancesOf(sql, workspaceId),
          sharing: await sharingOf(sql, workspaceId),
        }
  const same = new Map(changed ? before?.found.read : [])
  for (const id of changed?.ids ?? []) same.delete(id)
  const { heads, ties } = headsIn(rows)
  const ids = heads.map(h => h.id)
  for (const { mirror_id } of open) if (mirror_id !== null) ids.push(mirror_id)
  const found = await loadUnseen(sql, workspaceId, null, ids, { open, conflicts, under, same, heads, ties })
  const repeating = heads.flatMap(({ id }) => {
    const source = found.sources.get(id)
    return source?.item.kind === 'event' && source.item.recurring ? [source as ItemSource<Event>] : []
  })
  const series = await datesInSpan(sql, repeating, at.fromMs, at.toMs, viewer)
  const seq = changed?.to ?? (await latestSeq(sql, workspaceId))
  const since = changed && before ? before.seq : null
  const shown = heads.map(h => h.id)
  return { seq, since, found, series, ids: shown, open, rows, bounded, beyond, under, sharing }
}

function instantsOf({ from, days }: Pick<Days, 'from' | 'days'>, viewer: Viewer): Instants {
  const startOf = (date: string): number => epochOf({ kind: 'date', date }, viewer.zone)
  return {
    fromMs: startOf(from),
    toMs: startOf(addDays(from, days)),
    today: startOf(dayAt(viewer.now, viewer.zone)),
  }
}

/** In loops: of each change, all this is gone through again. */
function headsIn(rows: Rows): { heads: Row[]; ties: TieLine[] } {
  const heads: Row[] = []
  const all: Row[] = []
  for (const held of rows.values()) {
    if (held[0]) heads.push(held[0])
    all.push(...held)
  }
  return { heads, ties: tiesIn(all) }
}

/**
 * What of a reading somebody sees, drawn for their zone: each item as far as they may, and merged, by person, the time
 * that is taken by what they may not.
 * @param zoneOf of a person, for their whole days
 */
export function clothOf(
  reading: Reading,
  sight: Sight,
  span: Pick<Days, 'from' | 'days'>,
  viewer: Viewer,
  zoneOf: (person: string | null) => string,
): ClothItem[] {
  const { pairs, sources, batches } = pairedUp(reading.found, sight)
  const items = beingMade(reading.open, sight, viewer)
  /** Dates of series that are tied to something are drawn with it. */
  const tied = new Set<string>()
  for (const pair of pairs) {
    if (pair.event?.dateOf) tied.add(dateKey(pair.event.dateOf))
    // One that cannot be drawn, as kept by an earlier version say, is read again soon; the others are there.
    const item = pair.event?.item.recurring ? null : understoodOr(() => drawn(pair, viewer), null)
    if (item) items.push(item)
  }
  const meetings = new Map<string, ClothItem>()
  for (const [whole, all] of reading.series) {
    const source = sources.get(whole.id) as ItemSource<Event> | undefined
    if (!source) continue
    for (const date of datesAsSeen(source, whole, all, viewer)) {
      if (tied.has(date.key)) continue
      const batch = batches.get(date.key) ?? batches.get(source.id)
      const item = batch ? { ...date, batch } : date
      // The same meeting in the calendars of several is drawn once, and concerns them all.
      const name = `${source.item.uid} ${date.key.split('@')[1] ?? ''} ${JSON.stringify(date.place)}`
      const other = meetings.get(name)
      meetings.set(name, other ? metBy(other, item) : item)
    }
  }
  items.push(...meetings.values())
  if (sight.isWhole) return items
  const { fromMs, toMs } = instantsOf(span, viewer)
  return [...items, ...busyItems(takenIn(reading, sight, viewer), { startMs: fromMs, endMs: toMs }, zoneOf)]
}

/** Time that is taken by what whoever looks may know nothing else of. */
function takenIn(reading: Reading, sight: Sight, viewer: Viewer): Taken[] {
  const dates = new Map(reading.series.map(([source, all]) => [source.id, all]))
  return reading.ids.flatMap((id): Taken[] => {
    const source = reading.found.sources.get(id)
    if (!source || sight.levelOf(source) !== 'busy' || !takesTime(source.item)) return []
    const { people = [] } = source
    const places = dates.get(id)?.map(d => d.place) ?? placeOf(source, viewer)
    const whose = people.length === 0 ? [null] : people
    return places.flatMap(place => whose.map((person): Taken => ({ person, place })))
  })
}

function placeOf(source: ItemSource<Item>, viewer: Viewer): ClothItem['place'][] {
  const pair = { around: {}, twins: [] }
  const item = understoodOr(
    () =>
      source.item.kind === 'task'
        ? drawn({ ...pair, task: source as ItemSource<Task>, event: null }, viewer)
        : drawn({ ...pair, task: null, event: source as ItemSource<Event> }, viewer),
    null,
  )
  return item ? [item.place] : []
}

const metBy = (one: ClothItem, other: ClothItem): ClothItem => ({
  ...one,
  sources: [...new Set([...one.sources, ...other.sources])],
  people: [...new Set([...one.people, ...other.people])],
})
