import {
  addDays,
  clothItem,
  dayAt,
  type ClothItem,
  epochOf,
  type Event,
  type Item,
  type ItemPatch,
  type ItemSource,
  NotUnderstood,
  occurrencesBetween,
  type Task,
  type Viewer,
  withPatch,
} from '@loom/core'
import type { Sql } from '../data/database.ts'
import { type MirrorRow, mirrorOf, MIRRORS } from '../data/mirrors.ts'
import type { IntentBody } from '../sync/intents.ts'

/** What the Cloth shows of a workspace: tied pairs as one, and a person's own edits before they arrive. */

/** Minutes a task counts with when nobody estimated it. */
export const DEFAULT_MINUTES = 30

interface Pair {
  task: ItemSource<Task> | null
  event: ItemSource<Event> | null
}

interface Loaded {
  pairs: Pair[]
  sources: Map<string, ItemSource<Item>>
}

/** Items by mirror id with their counterparts, open edits applied. */
export async function loadPairs(sql: Sql, workspaceId: string, mirrorIds: string[]): Promise<Loaded> {
  const ids = new Set(mirrorIds)
  const ties: { a_mirror: string | null; b_mirror: string | null }[] = []
  for (const part of chunks([...ids], 1000))
    ties.push(
      ...(await sql.rows<{ a_mirror: string | null; b_mirror: string | null }>(
        `SELECT a_mirror, b_mirror FROM ties WHERE released IS NULL AND role = 'mirror' AND a_mirror IN (:part)
         UNION SELECT a_mirror, b_mirror FROM ties WHERE released IS NULL AND role = 'mirror' AND b_mirror IN (:part)`,
        { part },
      )),
    )
  for (const t of ties) for (const id of [t.a_mirror, t.b_mirror]) if (id) ids.add(id)
  const sources = new Map<string, ItemSource<Item>>()
  for (const part of chunks([...ids], 1000)) {
    const rows = await sql.rows<MirrorRow & { writable: number }>(
      MIRRORS.replace('SELECT', 'SELECT k.writable,') +
        ` JOIN collections k ON k.id = m.collection_id
         WHERE m.id IN (:part) AND m.workspace_id = :workspaceId AND m.presence = 'present' AND k.takes_part = 1`,
      { part, workspaceId },
    )
    for (const row of rows)
      sources.set(row.id, {
        id: row.id,
        item: mirrorOf(row).item,
        collectionId: row.collection_id,
        pending: false,
        writable: row.writable === 1,
      })
  }
  await applyOpenEdits(sql, workspaceId, sources)
  const tied = new Set<string>()
  const pairs: Pair[] = []
  for (const t of ties) {
    const task = sources.get(t.a_mirror ?? '') as ItemSource<Task> | undefined
    const event = sources.get(t.b_mirror ?? '') as ItemSource<Event> | undefined
    if (!task || !event || tied.has(task.id) || tied.has(event.id)) continue
    tied.add(task.id).add(event.id)
    pairs.push({ task, event })
  }
  for (const s of sources.values()) {
    if (tied.has(s.id)) continue
    if (s.item.kind === 'task') pairs.push({ task: s as ItemSource<Task>, event: null })
    else pairs.push({ task: null, event: s as ItemSource<Event> })
  }
  return { pairs, sources }
}

/** A person's own edit shows at once; it is taken back if the service refuses it. */
async function applyOpenEdits(
  sql: Sql,
  workspaceId: string,
  sources: Map<string, ItemSource<Item>>,
): Promise<void> {
  const open = await sql.rows<{ mirror_id: string; body: string }>(
    `SELECT mirror_id, body FROM intents WHERE workspace_id = :workspaceId AND member_id IS NOT NULL
     AND state IN ('open', 'waiting') ORDER BY made_seq`,
    { workspaceId },
  )
  for (const { mirror_id, body } of open) {
    const source = sources.get(mirror_id)
    const intent = JSON.parse(body) as IntentBody
    if (!source || intent.by !== 'person') continue
    sources.set(mirror_id, {
      ...source,
      item: withPatch(source.item, intent.patch as ItemPatch),
      pending: true,
    })
  }
}

function* chunks<T>(list: T[], size: number): Generator<T[]> {
  for (let i = 0; i < list.length; i += size) yield list.slice(i, i + size)
}

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
  const found = await sql.rows<{ id: string; recurring: number }>(
    `SELECT m.id, m.recurring FROM mirrors m JOIN collections k ON k.id = m.collection_id AND k.takes_part = 1
       WHERE m.workspace_id = :workspaceId AND m.presence = 'present' AND m.start_ms < :toMs
         AND (m.end_ms >= :fromMs OR m.recurring = 1)
     UNION SELECT m.id, 0 FROM mirrors m JOIN collections k ON k.id = m.collection_id AND k.takes_part = 1
       WHERE m.workspace_id = :workspaceId AND m.open_task = 1 AND m.start_ms IS NULL
     UNION SELECT i.mirror_id, 0 FROM intents i
       WHERE i.workspace_id = :workspaceId AND i.member_id IS NOT NULL AND i.state IN ('open', 'waiting')`,
    { workspaceId, fromMs, toMs },
  )
  const recurring = found.filter(f => f.recurring === 1).map(f => f.id)
  const { pairs, sources } = await loadPairs(
    sql,
    workspaceId,
    found.map(f => f.id),
  )
  const items = pairs.flatMap(({ task, event }) => {
    if (event?.item.recurring) return []
    return clothItem(task, event, viewer) ?? []
  })
  if (recurring.length === 0) return items
  const originals = await sql.rows<{ mirror_id: string; original: string }>(
    'SELECT mirror_id, original FROM payloads WHERE mirror_id IN (:recurring)',
    { recurring },
  )
  for (const { mirror_id, original } of originals) {
    const source = sources.get(mirror_id)
    if (source?.item.kind !== 'event') continue
    items.push(...occurrences(source as ItemSource<Event>, original, fromMs, toMs, viewer))
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
