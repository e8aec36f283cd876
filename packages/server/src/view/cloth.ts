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
import { datesInSpan } from './dates-in-span.ts'
import { beingMade, openIntents } from './open-edits.ts'
import { drawn, loadPairs } from './pairs.ts'
import { OWN_TIES, OWN_TIES_JOIN, type OwnTies, tiesIn } from './ties.ts'
import { type Head, HEAD_COLUMNS, HEAD_JOIN } from './sources.ts'

/** What the Cloth shows of a workspace: tied pairs as one, and a person's own edits before they arrive. */

/** Minutes a task counts with when nobody estimated it. */
export const DEFAULT_MINUTES = 30

/** The shelf is for people to look through; beyond this many tasks, searching is the way. */
export const MOST_ON_SHELF = 2000

/** What was planned longer ago, and not done, is found by searching; the shelf is for what still presses. */
const LEFT_OVER_MS = 60 * 86_400_000
const MOST_LEFT_OVER = 300

/** What lasts longer has an index of its own (migration 0005): all else in a week begins not long before it. */
const FAR_REACHING_MS = 8 * 86_400_000

/** The items of `days` days from `from` (`YYYY-MM-DD`, in the viewer's zone), and the tasks without a place. */
export async function clothItems(
  sql: Sql,
  workspaceId: string,
  from: string,
  days: number,
  viewer: Viewer,
): Promise<ClothItem[]> {
  const fromMs = epochOf({ kind: 'date', date: from }, viewer.zone)
  const toMs = epochOf({ kind: 'date', date: addDays(from, days) }, viewer.zone)
  const today = epochOf({ kind: 'date', date: dayAt(viewer.now, viewer.zone) }, viewer.zone)
  const rows = (where: string): Promise<(Head & OwnTies)[]> =>
    sql.rows(
      `SELECT ${HEAD_COLUMNS}, ${OWN_TIES} FROM mirrors m
       JOIN collections k ON k.id = m.collection_id AND k.takes_part = 1 ${HEAD_JOIN} ${OWN_TIES_JOIN}
       WHERE m.workspace_id = :workspaceId AND ${where}`,
      { workspaceId, fromMs, toMs, today },
    )
  // Sent all at once, and answered one after the other. As one UNION they take twice as long.
  const [within, reaching, shelf, leftOver, intents] = await Promise.all([
    rows(`m.presence = 'present' AND m.start_ms < :toMs AND m.start_ms >= :fromMs - ${FAR_REACHING_MS}
      AND m.end_ms >= :fromMs`),
    rows(`m.presence = 'present' AND m.far_reaching = 1 AND m.start_ms < :toMs
      AND (m.end_ms >= :fromMs OR m.recurring = 1)`),
    rows(`m.open_task = 1 AND m.start_ms IS NULL LIMIT ${MOST_ON_SHELF}`),
    rows(`m.open_task = 1 AND m.presence = 'present' AND m.start_ms < :today
      AND m.start_ms > :today - ${LEFT_OVER_MS} AND m.end_ms < :fromMs ORDER BY m.start_ms DESC LIMIT ${MOST_LEFT_OVER}`),
    openIntents(sql, workspaceId),
  ])
  const read = [...within, ...reaching, ...shelf, ...leftOver]
  const heads = [...new Map(read.map(h => [h.id, h])).values()]
  const ties = tiesIn(read)
  const ids = [...heads.map(h => h.id), ...intents.flatMap(i => i.mirror_id ?? [])]
  const { pairs, sources, batches } = await loadPairs(sql, workspaceId, null, ids, {
    heads,
    ties,
    open: intents,
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
