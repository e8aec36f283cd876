import {
  addDays,
  clothItem,
  dateKey,
  dayAt,
  type ClothItem,
  epochOf,
  type Event,
  type ItemSource,
  NotUnderstood,
  occurrencesBetween,
  type Viewer,
} from '@loom/core'
import type { Sql } from '../data/database.ts'
import { beingMade, drawn, loadPairs, SOURCE_COLUMNS, SOURCE_JOINS, type SourceRow } from './pairs.ts'

/** What the Cloth shows of a workspace: tied pairs as one, and a person's own edits before they arrive. */

/** Minutes a task counts with when nobody estimated it. */
export const DEFAULT_MINUTES = 30

/** The shelf is for people to look through; beyond this many tasks, searching is the way. */
export const MOST_ON_SHELF = 2000

/** What was planned longer ago, and not done, is found by searching; the shelf is for what still presses. */
const LEFT_OVER_MS = 60 * 86_400_000
const MOST_LEFT_OVER = 300

/** What each person leaves out of their own plan is added for each. */
const NOBODY = ''

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
  const open = 'm.workspace_id = :workspaceId AND m.open_task = 1'
  const select = `SELECT ${SOURCE_COLUMNS} FROM mirrors m
    JOIN collections k ON k.id = m.collection_id AND k.takes_part = 1 ${SOURCE_JOINS}`
  const rows = await sql.rows<SourceRow>(
    `${select} WHERE m.workspace_id = :workspaceId AND m.presence = 'present'
       AND m.start_ms < :toMs AND m.start_ms >= :fromMs - ${FAR_REACHING_MS} AND m.end_ms >= :fromMs
     UNION ALL ${select} WHERE m.workspace_id = :workspaceId AND m.presence = 'present' AND m.far_reaching = 1
       AND m.start_ms < :toMs AND (m.end_ms >= :fromMs OR m.recurring = 1)
     UNION ALL (${select} WHERE ${open} AND m.start_ms IS NULL LIMIT ${MOST_ON_SHELF})
     UNION ALL (${select} WHERE ${open} AND m.presence = 'present'
         AND m.start_ms < :today AND m.start_ms > :today - ${LEFT_OVER_MS} AND m.end_ms < :fromMs
       ORDER BY m.start_ms DESC LIMIT ${MOST_LEFT_OVER})`,
    { workspaceId, fromMs, toMs, today, memberId: NOBODY },
  )
  const found = [...new Map(rows.map(r => [r.id, r])).values()]
  const edited = await sql.rows<{ id: string }>(
    `SELECT mirror_id AS id FROM intents WHERE workspace_id = :workspaceId AND member_id IS NOT NULL
       AND mirror_id IS NOT NULL AND state IN ('open', 'waiting')`,
    { workspaceId },
  )
  const recurring = found.filter(f => f.recurring === 1).map(f => f.id)
  const ids = [...found, ...edited].map(f => f.id)
  const { pairs, sources, batches } = await loadPairs(sql, workspaceId, NOBODY, ids, found)
  const items = pairs.flatMap(pair => (pair.event?.item.recurring ? [] : (drawn(pair, viewer) ?? [])))
  // Dates of series that are tied to something are drawn with it.
  const drawnDates = new Set(pairs.flatMap(({ event }) => (event?.dateOf ? [dateKey(event.dateOf)] : [])))
  items.push(...(await beingMade(sql, workspaceId, viewer)))
  if (recurring.length === 0) return items
  const originals = await sql.rows<{ mirror_id: string; original: string }>(
    'SELECT mirror_id, original FROM payloads WHERE mirror_id IN (:recurring)',
    { recurring },
  )
  const meetings = new Map<string, ClothItem>()
  for (const { mirror_id, original } of originals) {
    const source = sources.get(mirror_id)
    if (source?.item.kind !== 'event') continue
    const { uid } = source.item
    const dates = occurrences(source as ItemSource<Event>, original, fromMs, toMs, viewer)
    for (const date of dates) {
      if (drawnDates.has(date.key)) continue
      const batch = batches.get(date.key) ?? batches.get(mirror_id)
      const item = batch ? { ...date, batch } : date
      // The same meeting in the calendars of several is drawn once, and concerns them all.
      const name = `${uid} ${date.key.split('@')[1] ?? ''} ${JSON.stringify(date.place)}`
      const other = meetings.get(name)
      if (other) {
        other.sources = [...new Set([...other.sources, ...item.sources])]
        other.people = [...new Set([...other.people, ...item.people])]
        continue
      }
      meetings.set(name, item)
      items.push(item)
    }
  }
  return items
}

function occurrences(
  source: ItemSource<Event>,
  original: string,
  fromMs: number,
  toMs: number,
  viewer: Viewer,
): ClothItem[] {
  const whole = clothItem(null, source, viewer)
  if (!whole) return []
  try {
    return occurrencesBetween(original, fromMs, toMs, viewer.zone).map(o => ({
      ...whole,
      key: `${source.id}@${o.recurrenceId}`,
      title: o.summary || whole.title,
      place: o.allDay
        ? { kind: 'all-day', from: dayAt(o.startMs, viewer.zone), to: dayAt(o.endMs, viewer.zone) }
        : { kind: 'timed', startMs: o.startMs, endMs: o.endMs },
    }))
  } catch (error) {
    // A series that cannot be unrolled still stands there with its first date.
    if (error instanceof NotUnderstood) return [whole]
    throw error
  }
}
