import {
  addDays,
  type ClothItem,
  dateKey,
  dayAt,
  epochOf,
  type Event,
  type Item,
  type ItemSource,
  understoodOr,
  type Viewer,
} from '@loom/core'
import type { Sql } from '../data/database.ts'
import { latestSeq } from '../data/number-changes.ts'
import { changedSince } from './changed-items.ts'
import { patchedRows, type Rows, wholeRows } from './cloth-rows.ts'
import { datesInSpan } from './dates-in-span.ts'
import { beingMade, openIntents } from './open-edits.ts'
import { drawn, inConflict, loadPairs } from './pairs.ts'
import { type Circumstances, circumstancesOf } from './sources.ts'
import { type Instants, type Row, tiesIn } from '../data/repositories/cloth.ts'
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

/** Some days as they were at a change number. */
export interface Reading {
  seq: number
  /** The change as of which that was read which it went on from; null where it was read anew. */
  since: number | null
  items: ClothItem[]
  rows: Rows
  /** What the items were made from, as it was read. */
  sources: ReadonlyMap<string, ItemSource<Item>>
  bounded: boolean
  /** How many tasks on the shelf are not among the items: it holds only so many. */
  beyond: number
  under: Circumstances
}

/**
 * The items of these days, and tasks without a time.
 * @param sql of a snapshot
 * @param before an earlier reading: only what changed since is read
 */
export async function readCloth(
  sql: Sql,
  { workspaceId, from, days }: Days,
  viewer: Viewer,
  before: Reading | null,
): Promise<Reading> {
  const startOf = (date: string): number => epochOf({ kind: 'date', date }, viewer.zone)
  const at = {
    fromMs: startOf(from),
    toMs: startOf(addDays(from, days)),
    today: startOf(dayAt(viewer.now, viewer.zone)),
  }
  // What does not wait for one another is asked for at once: each answer is a way there and back.
  const [changed, open, conflicts] = await Promise.all([
    before && changedSince(sql, workspaceId, before.seq),
    openIntents(sql, workspaceId),
    inConflict(sql, workspaceId),
  ])
  const { rows, bounded, beyond, under } =
    before && changed
      ? { ...before, rows: await patchedRows(sql, workspaceId, at, before.rows, changed.ids) }
      : { ...(await wholeRows(sql, workspaceId, at)), under: await circumstancesOf(sql, workspaceId) }
  const same = new Map(changed ? before?.sources : [])
  for (const id of changed?.ids ?? []) same.delete(id)
  const read = { open, conflicts, under, same }
  const { items, sources } = await itemsOf(sql, workspaceId, at, viewer, rows, read)
  const seq = changed?.to ?? (await latestSeq(sql, workspaceId))
  return { seq, since: changed && before ? before.seq : null, items, rows, sources, bounded, beyond, under }
}

async function itemsOf(
  sql: Sql,
  workspaceId: string,
  { fromMs, toMs }: Instants,
  viewer: Viewer,
  rows: Rows,
  read: {
    open: OpenIntent[]
    conflicts: ReadonlySet<string>
    under: Circumstances
    same: Reading['sources']
  },
): Promise<Pick<Reading, 'items' | 'sources'>> {
  // In loops: of each change, all this is gone through again.
  const heads: Row[] = []
  const all: Row[] = []
  for (const held of rows.values()) {
    if (held[0]) heads.push(held[0])
    all.push(...held)
  }
  const ids = heads.map(h => h.id)
  for (const { mirror_id } of read.open) if (mirror_id !== null) ids.push(mirror_id)
  const known = { ...read, heads, ties: tiesIn(all) }
  const { pairs, sources, read: loaded, batches } = await loadPairs(sql, workspaceId, null, ids, known)
  const items = beingMade(read.open, viewer)
  /** Dates of series that are tied to something are drawn with it. */
  const tied = new Set<string>()
  for (const pair of pairs) {
    if (pair.event?.dateOf) tied.add(dateKey(pair.event.dateOf))
    // One that cannot be drawn, as kept by an earlier version say, is read again soon; the others are there.
    const item = pair.event?.item.recurring ? null : understoodOr(() => drawn(pair, viewer), null)
    if (item) items.push(item)
  }
  const series: ItemSource<Event>[] = []
  for (const { id } of heads) {
    const source = sources.get(id)
    if (source?.item.kind === 'event' && source.item.recurring) series.push(source as ItemSource<Event>)
  }
  const meetings = new Map<string, ClothItem>()
  for (const [source, dates] of await datesInSpan(sql, series, fromMs, toMs, viewer))
    for (const date of dates) {
      if (tied.has(date.key)) continue
      const batch = batches.get(date.key) ?? batches.get(source.id)
      const item = batch ? { ...date, batch } : date
      // The same meeting in the calendars of several is drawn once, and concerns them all.
      const name = `${source.item.uid} ${date.key.split('@')[1] ?? ''} ${JSON.stringify(date.place)}`
      const other = meetings.get(name)
      meetings.set(name, other ? metBy(other, item) : item)
    }
  return { items: [...items, ...meetings.values()], sources: loaded }
}

const metBy = (one: ClothItem, other: ClothItem): ClothItem => ({
  ...one,
  sources: [...new Set([...one.sources, ...other.sources])],
  people: [...new Set([...one.people, ...other.people])],
})
