import {
  addDays,
  type ClothItem,
  dateKey,
  dayAt,
  epochOf,
  type Event,
  type ItemSource,
  type Viewer,
} from '@loom/core'
import type { Sql } from '../data/database.ts'
import { itemsChanged, latestSeq } from '../sync/changes.ts'
import { type Instants, patchedRows, type Rows, wholeRows } from './cloth-rows.ts'
import { datesInSpan } from './dates-in-span.ts'
import { beingMade, type OpenIntent, openIntents } from './open-edits.ts'
import { drawn, loadPairs } from './pairs.ts'
import { type Circumstances, circumstancesOf } from './sources.ts'
import { tiesIn } from './ties.ts'

/** What the Cloth shows of a workspace: tied pairs as one, and a person's own edits before they arrive. */

/** Minutes a task counts with when nobody estimated it. */
export const DEFAULT_MINUTES = 30

export interface Days {
  workspaceId: string
  /** `YYYY-MM-DD`, in the viewer's zone. */
  from: string
  days: number
}

/** What was read of some days as of a change. */
export interface Reading {
  seq: number
  /** The change as of which that was read which it went on from; null where it was read anew. */
  since: number | null
  items: ClothItem[]
  rows: Rows
  bounded: boolean
  /** How many tasks on the shelf are not among the items: it holds only so many. */
  beyond: number
  under: Circumstances
}

/**
 * The items of these days, and the tasks without a place.
 * @param sql of a snapshot
 * @param before what was read of them earlier: the reading goes on from there, with what has changed since
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
  const [seq, open] = await Promise.all([latestSeq(sql, workspaceId), openIntents(sql, workspaceId)])
  const changed = before ? await itemsChanged(sql, workspaceId, before.seq, seq) : null
  const { rows, bounded, beyond, under } =
    before && changed
      ? { ...before, rows: await patchedRows(sql, workspaceId, at, before.rows, changed) }
      : { ...(await wholeRows(sql, workspaceId, at)), under: await circumstancesOf(sql, workspaceId) }
  const items = await itemsOf(sql, workspaceId, at, viewer, rows, open, under)
  return { seq, since: changed && before ? before.seq : null, items, rows, bounded, beyond, under }
}

async function itemsOf(
  sql: Sql,
  workspaceId: string,
  { fromMs, toMs }: Instants,
  viewer: Viewer,
  rows: Rows,
  intents: OpenIntent[],
  under: Circumstances,
): Promise<ClothItem[]> {
  const heads = [...rows.values()].flatMap(r => r[0] ?? [])
  const ties = tiesIn([...rows.values()].flat())
  const ids = [...heads.map(h => h.id), ...intents.flatMap(i => i.mirror_id ?? [])]
  const { pairs, sources, batches } = await loadPairs(sql, workspaceId, null, ids, {
    heads,
    ties,
    open: intents,
    under,
  })
  const items = pairs.flatMap(pair => (pair.event?.item.recurring ? [] : (drawn(pair, viewer) ?? [])))
  // Dates of series that are tied to something are drawn with it.
  const tied = new Set(pairs.flatMap(({ event }) => (event?.dateOf ? [dateKey(event.dateOf)] : [])))
  items.push(...beingMade(intents, viewer))
  const series = heads.flatMap(({ id }) => {
    const source = sources.get(id)
    return source?.item.kind === 'event' && source.item.recurring ? [source as ItemSource<Event>] : []
  })
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
  return [...items, ...meetings.values()]
}

const metBy = (one: ClothItem, other: ClothItem): ClothItem => ({
  ...one,
  sources: [...new Set([...one.sources, ...other.sources])],
  people: [...new Set([...one.people, ...other.people])],
})
