import {
  type Around,
  type BatchTask,
  type BlockTime,
  clothItem,
  type ClothItem,
  dateKey,
  type Event,
  type Item,
  type ItemPatch,
  type ItemSource,
  noOwnLayer,
  type Task,
  type TieMemory,
  type Viewer,
  withPatch,
} from '@loom/core'
import type { Sql } from '../data/database.ts'
import { withOwnLayer } from '../data/mirrors.ts'
import { OWN_TEXT, ownLayerOf, type OwnRow } from '../data/own-layer.ts'
import type { IntentBody } from '../sync/intents.ts'
import { sameUid, twinned } from './twins.ts'

/** Items with what they are tied to, a person's own edits already applied to them. */

export interface Pair {
  task: ItemSource<Task> | null
  event: ItemSource<Event> | null
  around: Around
  /** The same in further lists or calendars, which rules keep in step with this. */
  twins: ItemSource<Item>[]
}

/** The pair that an item is part of, or stands for. */
export const pairOf = (pairs: readonly Pair[], id: string): Pair | undefined =>
  pairs.find(p => p.task?.id === id || p.event?.id === id || p.twins.some(t => t.id === id))

export interface Loaded {
  pairs: Pair[]
  sources: Map<string, ItemSource<Item>>
  /** What batches hold: by the event's id, or of one that repeats by the key of the date. */
  batches: Map<string, BatchTask[]>
}

export interface TieLine {
  a: string | null
  b: string | null
  role: 'mirror' | 'block' | 'batch'
  memory: string
}

export function* chunks<T>(list: readonly T[], size: number): Generator<T[]> {
  for (let i = 0; i < list.length; i += size) yield list.slice(i, i + size)
}

async function tiesOf(sql: Sql, ids: Iterable<string>): Promise<TieLine[]> {
  const found: TieLine[] = []
  for (const part of chunks([...ids], 1000))
    found.push(
      ...(await sql.rows<TieLine>(
        `SELECT id, a_mirror AS a, b_mirror AS b, role, memory FROM ties WHERE released IS NULL AND a_mirror IN (:part)
         UNION SELECT id, a_mirror, b_mirror, role, memory FROM ties WHERE released IS NULL AND b_mirror IN (:part)`,
        { part },
      )),
    )
  return found
}

/**
 * Keeps an item and what it is tied to as they are until this transaction ends: an edit is decided upon the pair,
 * and no write to either side is confirmed between the looking and the deciding.
 */
export async function lockPair(sql: Sql, mirrorId: string): Promise<void> {
  const ties = await tiesOf(sql, [mirrorId])
  const ids = [...new Set([mirrorId, ...ties.flatMap(t => [t.a, t.b]).filter(id => id !== null)])]
  await sql.rows('SELECT id FROM mirrors WHERE id IN (:ids) ORDER BY id FOR UPDATE', { ids })
}

/** Whose each item is: those a task is given to, else whose account it comes from. */
async function peopleOf(sql: Sql, workspaceId: string) {
  const rows = await sql.rows<{ connection_id: string; remote_id: string; member_id: string }>(
    'SELECT connection_id, remote_id, member_id FROM people WHERE workspace_id = :workspaceId AND member_id IS NOT NULL',
    { workspaceId },
  )
  const known = new Map(rows.map(r => [`${r.connection_id} ${r.remote_id}`, r.member_id]))
  const accounts = new Map<string, Record<string, string>>()
  for (const r of rows)
    accounts.set(r.connection_id, { [r.member_id]: r.remote_id, ...accounts.get(r.connection_id) })
  const whose = (connectionId: string, ownerId: string | null, item: Item): string[] => {
    const assigned = item.kind === 'task' ? item.assignees : []
    const members = assigned.flatMap(id => known.get(`${connectionId} ${id}`) ?? [])
    if (members.length > 0) return [...new Set(members)]
    return assigned.length === 0 && ownerId ? [ownerId] : []
  }
  return { whose, accountsAt: (connectionId: string) => accounts.get(connectionId) ?? {} }
}

/** For a query of mirrors `m`: what `sourcesOf` reads of each. Few columns, since hundreds of rows are read. */
export const SOURCE_COLUMNS = `m.id, m.recurring, m.collection_id, m.item, m.series_id, m.occurrence,
  x.member_id IS NOT NULL AS left_out, ${OWN_TEXT} AS own`
/** What `SOURCE_COLUMNS` wants joined. Of a date, what is kept on its series counts. */
export const SOURCE_JOINS = `LEFT JOIN own_layer o ON o.mirror_id = IFNULL(m.series_id, m.id)
  LEFT JOIN left_out x ON x.mirror_id = IFNULL(m.series_id, m.id) AND x.member_id = :memberId`

export interface SourceRow {
  id: string
  recurring: number
  collection_id: string
  item: string
  series_id: string | null
  occurrence: string | null
  left_out: number
  own: string | null
}

async function loadSources(
  sql: Sql,
  workspaceId: string,
  memberId: string,
  ids: Iterable<string>,
  read: readonly SourceRow[],
): Promise<Map<string, ItemSource<Item>>> {
  const people = await peopleOf(sql, workspaceId)
  const homes = new Map(
    (
      await sql.rows<{ id: string; connection_id: string; writable: number; owner_id: string | null }>(
        `SELECT k.id, k.connection_id, k.writable, n.owner_id FROM collections k
         JOIN connections n ON n.id = k.connection_id WHERE k.workspace_id = :workspaceId AND k.takes_part = 1`,
        { workspaceId },
      )
    ).map(k => [k.id, k] as const),
  )
  const known = new Set(read.map(r => r.id))
  const rows = [...read]
  for (const part of chunks(
    [...ids].filter(id => !known.has(id)),
    1000,
  ))
    rows.push(
      ...(await sql.rows<SourceRow>(
        `SELECT ${SOURCE_COLUMNS} FROM mirrors m ${SOURCE_JOINS}
         WHERE m.id IN (:part) AND m.workspace_id = :workspaceId AND m.presence IN ('present', 'date')`,
        { part, workspaceId, memberId },
      )),
    )
  const sources = new Map<string, ItemSource<Item>>()
  for (const row of rows) {
    const home = homes.get(row.collection_id)
    if (!home) continue
    const own = row.own === null ? null : (JSON.parse(row.own) as OwnRow)
    const remote = JSON.parse(row.item) as Item
    const item = withOwnLayer(remote, own && { estimate_minutes: own.own_estimate })
    sources.set(row.id, {
      id: row.id,
      item,
      collectionId: row.collection_id,
      pending: false,
      writable: home.writable === 1,
      own: own ? ownLayerOf(own) : noOwnLayer,
      people: people.whose(home.connection_id, home.owner_id, item),
      accounts: people.accountsAt(home.connection_id),
      leftOut: row.left_out === 1,
      ...(row.series_id && { dateOf: { seriesId: row.series_id, occurrence: row.occurrence ?? '' } }),
      holdsEstimate: remote.kind === 'task' && remote.estimatedDuration !== null,
    })
  }
  return sources
}

/** Items by mirror id with their counterparts, open edits applied. `read`: those of them that were read already. */
export async function loadPairs(
  sql: Sql,
  workspaceId: string,
  memberId: string,
  mirrorIds: readonly string[],
  read: readonly SourceRow[] = [],
): Promise<Loaded> {
  const ids = new Set(mirrorIds)
  let ties = await tiesOf(sql, ids)
  const first = ids.size
  for (const t of ties) for (const id of [t.a, t.b]) if (id) ids.add(id)
  // The task of a block has blocks elsewhere; a batch holds tasks that are not in sight.
  if (ids.size > first) ties = await tiesOf(sql, ids)
  for (const t of ties) for (const id of [t.a, t.b]) if (id) ids.add(id)
  const sources = await loadSources(sql, workspaceId, memberId, ids, read)
  await applyOpenEdits(sql, workspaceId, sources)
  const batches = batchesOf(ties, sources)
  return { pairs: joined(ties, sources, batches, await inConflict(sql, workspaceId)), sources, batches }
}

/** Items with a field that waits for somebody to say which of two values counts. */
async function inConflict(sql: Sql, workspaceId: string): Promise<Set<string>> {
  const rows = await sql.rows<{ a: string | null; b: string | null }>(
    `SELECT DISTINCT t.a_mirror AS a, t.b_mirror AS b FROM conflicts k JOIN ties t ON t.id = k.tie_id
     WHERE k.workspace_id = :workspaceId AND k.answer IS NULL LIMIT 2000`,
    { workspaceId },
  )
  return new Set(rows.flatMap(r => [r.a, r.b]).filter(id => id !== null))
}

function batchesOf(
  ties: readonly TieLine[],
  sources: ReadonlyMap<string, ItemSource<Item>>,
): Map<string, BatchTask[]> {
  const found = new Map<string, { at: number; task: BatchTask }[]>()
  for (const t of ties) {
    const task = sources.get(t.a ?? '')
    if (t.role !== 'batch' || t.b === null || task?.item.kind !== 'task') continue
    const { place: at = 0, occurrence } = JSON.parse(t.memory) as TieMemory
    const key = occurrence === undefined ? t.b : dateKey({ seriesId: t.b, occurrence })
    const { status, summary } = task.item
    const done = status === 'completed' || status === 'cancelled'
    const line = { key: task.id, title: summary || 'Untitled', done, completable: task.writable }
    found.set(key, [...(found.get(key) ?? []), { at, task: line }])
  }
  return new Map([...found].map(([key, held]) => [key, held.sort((x, y) => x.at - y.at).map(h => h.task)]))
}

function joined(
  ties: readonly TieLine[],
  sources: Map<string, ItemSource<Item>>,
  batches: ReadonlyMap<string, BatchTask[]>,
  conflicts: ReadonlySet<string>,
): Pair[] {
  const taskOf = (id: string | null) => sources.get(id ?? '') as ItemSource<Task> | undefined
  const eventOf = (id: string | null) => sources.get(id ?? '') as ItemSource<Event> | undefined
  const blocks = new Map<string, BlockTime>()
  const blockOf = new Map<string, ItemSource<Task>>()
  for (const t of ties) {
    const [task, event] = [taskOf(t.a), eventOf(t.b)]
    if (t.role !== 'block' || task?.item.kind !== 'task' || event?.item.kind !== 'event') continue
    blockOf.set(event.id, task)
    const so = blocks.get(task.id) ?? { ahead: 0, spent: 0 }
    const { minutes } = event.item.time
    blocks.set(
      task.id,
      event.own?.spent ? { ...so, spent: so.spent + minutes } : { ...so, ahead: so.ahead + minutes },
    )
  }
  const around = (id: string): Around => {
    const batch = batches.get(id)
    const [of, time] = [blockOf.get(id), blocks.get(id)]
    return {
      ...(time && { blocks: time }),
      ...(of && { blockOf: of }),
      ...(batch && { batch }),
      ...(conflicts.has(id) && { conflict: true }),
    }
  }
  const { leadOf, twinsOf } = twinned(ties, sources)
  const pairOfBoth = (task: ItemSource<Task> | null, event: ItemSource<Event> | null, id: string): Pair => {
    const twins = [task, event].flatMap(s => (s ? twinsOf(s.id) : []))
    if (twins.length === 0) return { task, event, twins, around: around(id) }
    const also = twins.map(t => t.collectionId)
    // A meeting concerns everybody in whose calendar it is.
    const meet = task ? [] : twins.flatMap(t => (sameUid(t, event) ? (t.people ?? []) : []))
    return { task, event, twins, around: { ...around(id), also, meet } }
  }
  const tied = new Set<string>()
  const pairs: Pair[] = []
  for (const t of ties) {
    const [task, event] = [taskOf(leadOf(t.a)), eventOf(leadOf(t.b))]
    if (t.role !== 'mirror' || task?.item.kind !== 'task' || event?.item.kind !== 'event') continue
    if (tied.has(task.id) || tied.has(event.id)) continue
    tied.add(task.id).add(event.id)
    pairs.push(pairOfBoth(task, event, task.id))
  }
  for (const s of sources.values()) {
    if (tied.has(s.id) || leadOf(s.id) !== s.id) continue
    if (s.item.kind === 'task') pairs.push(pairOfBoth(s as ItemSource<Task>, null, s.id))
    else pairs.push(pairOfBoth(null, s as ItemSource<Event>, s.id))
  }
  return pairs
}

/** A person's own edit shows at once; it is taken back if the service refuses it. */
async function applyOpenEdits(
  sql: Sql,
  workspaceId: string,
  sources: Map<string, ItemSource<Item>>,
): Promise<void> {
  const open = await sql.rows<{ mirror_id: string; body: string }>(
    `SELECT mirror_id, body FROM intents WHERE workspace_id = :workspaceId AND member_id IS NOT NULL
     AND mirror_id IS NOT NULL AND state IN ('open', 'waiting') ORDER BY made_seq`,
    { workspaceId },
  )
  for (const { mirror_id, body } of open) {
    const source = sources.get(mirror_id)
    const intent = JSON.parse(body) as IntentBody
    if (!source) continue
    if (intent.by === 'remover') sources.delete(mirror_id)
    if (intent.by === 'person')
      sources.set(mirror_id, {
        ...source,
        item: withPatch(source.item, intent.patch as ItemPatch),
        pending: true,
      })
  }
}

export const drawn = ({ task, event, around }: Pair, viewer: Viewer): ClothItem | null =>
  clothItem(task, event, viewer, around)

/** What somebody is making and no service has confirmed yet. */
export async function beingMade(sql: Sql, workspaceId: string, viewer: Viewer): Promise<ClothItem[]> {
  const open = await sql.rows<{ id: string; collection_id: string; body: string }>(
    `SELECT id, collection_id, body FROM intents WHERE workspace_id = :workspaceId AND member_id IS NOT NULL
     AND mirror_id IS NULL AND state IN ('open', 'waiting') AND cause <> 'person-move' ORDER BY made_seq LIMIT 200`,
    { workspaceId },
  )
  return open.flatMap(({ id, collection_id, body }) => {
    const intent = JSON.parse(body) as IntentBody
    if (intent.by !== 'maker' || intent.item.recurring) return []
    const source = { id: `new ${id}`, collectionId: collection_id, pending: true, writable: false }
    const { item } = intent
    const made =
      item.kind === 'task'
        ? clothItem({ ...source, item }, null, viewer)
        : clothItem(null, { ...source, item }, viewer)
    return made ? [{ ...made, fixedBecause: 'It is on its way.', movable: false }] : []
  })
}
