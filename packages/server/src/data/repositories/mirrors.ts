import type { Raw } from '../raw.ts'
import { type Json, json, parsed } from '../json.ts'
import { DAY_MINUTES, epochOf, type Item, MINUTE, type Mirror, mustBeKept } from '@loom/core'
import { packedSeen, type StoredSeen, unpackedSeen } from '../packed-seen.ts'
import { chunks } from '../chunks.ts'
import type { Sql } from '../database.ts'

/** Items as they were last read at their services. */

export interface MirrorRow {
  id: string
  connection_id: string
  collection_id: string
  remote_id: string
  revision: string
  /** `date`: one date of a series, which is there for rules alone. */
  presence: Mirror['presence'] | 'date'
  item: Json<Raw<Item>>
  seen: Json<StoredSeen>
  first_seen_at: number
  arrived_at: number
  change_seq: number
  /** Of a date: its series, and which of its dates it is. */
  series_id: string | null
  occurrence: string | null
  estimate_minutes: number | null
}

export const COLUMNS = `m.id, m.connection_id, m.collection_id, m.remote_id, m.revision, m.presence, m.item, m.seen,
  m.first_seen_at, m.arrived_at, m.change_seq, m.series_id, m.occurrence, o.estimate_minutes`

/** What our own layer holds for an item is read as if its service held it. */
export const MIRRORS = `SELECT ${COLUMNS} FROM mirrors m LEFT JOIN own_layer o ON o.mirror_id = m.id`

/** The item with what its service cannot hold. Whatever is compared with a base must be read like this. */
export function withOwnLayer<I extends Item>(item: I, own: Pick<MirrorRow, 'estimate_minutes'> | null): I {
  return item.kind === 'task' && item.estimatedDuration === null && own?.estimate_minutes
    ? { ...item, estimatedDuration: own.estimate_minutes }
    : item
}

export function mirrorOf(row: MirrorRow): Mirror {
  const item = withOwnLayer(parsed(row.item), row)
  return {
    id: row.id,
    collectionId: row.collection_id,
    remoteId: row.remote_id,
    revision: row.revision,
    item,
    presence: row.presence === 'date' ? 'present' : row.presence,
    seen: unpackedSeen(parsed(row.seen)),
    firstSeenAt: row.first_seen_at,
    arrivedAt: row.arrived_at,
  }
}

/** What lists of this name, that can be written to, hold of an item by its uid, as other accounts bring them in. */
export const byOtherAccounts = (
  sql: Sql,
  p: { workspaceId: string; connectionId: string; list: string; uid: string; kind: Item['kind'] },
): Promise<{ id: string; collection_id: string; kind: string; address: string; item: Json<Raw<Item>> }[]> =>
  sql.rows(
    `SELECT m.id, m.collection_id, c.kind, c.address, m.item FROM connections c
       JOIN collections k ON k.connection_id = c.id AND k.remote_id = :list AND k.writable = 1
       JOIN mirrors m ON m.connection_id = c.id AND m.collection_id = k.id AND m.uid = :uid AND m.kind = :kind
         AND m.presence = 'present'
     WHERE c.workspace_id = :workspaceId AND c.id <> :connectionId ORDER BY m.id`,
    p,
  )

/** The item as its service holds it, without our own layer. */
export const remoteItemOf = (row: MirrorRow): Raw<Item> => parsed(row.item)

/** Told how many more items have been read. */
export type OnRead = (items: number) => void

export async function mirrorsById(
  sql: Sql,
  ids: readonly string[],
  onRead: OnRead = () => undefined,
): Promise<Map<string, Mirror>> {
  const found = new Map<string, Mirror>()
  for (const part of chunks([...new Set(ids)])) {
    for (const row of await sql.rows<MirrorRow>(`${MIRRORS} WHERE m.id IN (:part)`, { part }))
      found.set(row.id, mirrorOf(row))
    onRead(part.length)
  }
  return found
}

/** Mirrors of a connection by their ids at the service. */
export async function mirrorRows(sql: Sql, connectionId: string, remoteIds: string[]): Promise<MirrorRow[]> {
  const rows: MirrorRow[] = []
  for (let i = 0; i < remoteIds.length; i += 500)
    rows.push(
      ...(await sql.rows<MirrorRow>(
        `${MIRRORS} WHERE m.connection_id = :connectionId AND m.remote_id IN (:ids)`,
        {
          connectionId,
          ids: remoteIds.slice(i, i + 500),
        },
      )),
    )
  return rows
}

/** What has gone of a connection, by uid. */
export async function goneMirrorRows(
  sql: Sql,
  connectionId: string,
  uids: string[],
): Promise<Map<string, MirrorRow[]>> {
  const found = new Map<string, MirrorRow[]>()
  for (const part of chunks(uids))
    for (const row of await sql.rows<MirrorRow>(
      `${MIRRORS} WHERE m.connection_id = :connectionId AND m.uid IN (:part) AND m.presence = 'gone'
         AND m.series_id IS NULL`,
      { connectionId, part },
    )) {
      const { uid } = remoteItemOf(row)
      found.set(uid, [...(found.get(uid) ?? []), row])
    }
  return found
}

/** The span an item covers, epoch ms; an all-day one from midnight to midnight in `zone`. */
function spanOf(item: Item, zone: string): { start: number | null; end: number | null } {
  if (item.kind === 'event') {
    const start = epochOf(item.time.anchor, zone)
    return { start, end: start + item.time.minutes * MINUTE }
  }
  if (!item.start) return { start: null, end: null }
  const start = epochOf(item.start, zone)
  return {
    start,
    end: start + (item.start.kind === 'date' ? DAY_MINUTES : (item.estimatedDuration ?? 30)) * MINUTE,
  }
}

export interface MirrorPlace {
  workspaceId: string
  connectionId: string
  zone: string
}

export interface ToPut {
  mirror: Mirror
  /** None for a date: it stands in its series. */
  original?: string
  dateOf?: { seriesId: string; occurrence: string }
}

const rowOf = ({ workspaceId, connectionId, zone }: MirrorPlace, { mirror: m, dateOf }: ToPut): unknown[] => {
  const { item } = m
  mustBeKept(item)
  const { start, end } = spanOf(item, zone)
  const open = item.kind === 'task' && (item.status === 'needs-action' || item.status === 'in-process')
  const recurring = item.kind === 'event' && item.recurring
  return [
    m.id,
    workspaceId,
    connectionId,
    m.collectionId,
    m.remoteId,
    m.revision,
    item.uid,
    item.kind,
    dateOf && m.presence === 'present' ? 'date' : m.presence,
    JSON.stringify(item),
    json(packedSeen(m.seen)),
    m.firstSeenAt,
    m.arrivedAt,
    start,
    end,
    recurring ? 1 : 0,
    open && m.presence === 'present' ? 1 : 0,
    `${item.summary} ${item.description}`.toLowerCase().slice(0, 600),
    dateOf?.seriesId ?? null,
    dateOf?.occurrence ?? null,
  ]
}

/** Writes mirrors and their originals; numbered with `seq`, or when the change is numbered. */
export async function putMirrors(sql: Sql, place: MirrorPlace, mirrors: ToPut[], seq = 0): Promise<void> {
  await sql.insertMany(
    `INSERT INTO mirrors (id, workspace_id, connection_id, collection_id, remote_id, revision, uid, kind, presence,
       item, seen, first_seen_at, arrived_at, start_ms, end_ms, recurring, open_task, words, series_id, occurrence, change_seq)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE collection_id = VALUES(collection_id), remote_id = VALUES(remote_id),
       revision = VALUES(revision), uid = VALUES(uid), presence = VALUES(presence), item = VALUES(item),
       seen = VALUES(seen), arrived_at = VALUES(arrived_at), start_ms = VALUES(start_ms), end_ms = VALUES(end_ms),
       recurring = VALUES(recurring), open_task = VALUES(open_task), words = VALUES(words),
       occurrence = VALUES(occurrence), change_seq = GREATEST(change_seq, VALUES(change_seq))`,
    mirrors.map(m => [...rowOf(place, m), seq]),
  )
  await sql.insertMany(
    `INSERT INTO payloads (mirror_id, workspace_id, original) VALUES (?, ?, ?)
     ON DUPLICATE KEY UPDATE original = VALUES(original)`,
    mirrors.flatMap(({ mirror, original }) =>
      original === undefined ? [] : [[mirror.id, place.workspaceId, original]],
    ),
  )
}

/** The item is gone at its service; what it was stays readable. */
export async function setPresence(sql: Sql, ids: string[], presence: Mirror['presence']): Promise<void> {
  if (ids.length === 0) return
  await sql.run(
    `UPDATE mirrors SET presence = :presence, open_task = IF(:presence = 'present', open_task, 0) WHERE id IN (:ids)`,
    { ids, presence },
  )
}

export const mirrorRow = (sql: Sql, p: { id: string }): Promise<MirrorRow | null> =>
  sql.one(`${MIRRORS} WHERE m.id = :id`, p)

/** Of this workspace, and there. */
export const presentMirror = (sql: Sql, p: { id: string; workspaceId: string }): Promise<MirrorRow | null> =>
  sql.one(`${MIRRORS} WHERE m.id = :id AND m.workspace_id = :workspaceId AND m.presence = 'present'`, p)

export const mirrorRowsById = (sql: Sql, p: { ids: readonly string[] }): Promise<MirrorRow[]> =>
  sql.rows(`${MIRRORS} WHERE m.id IN (:ids)`, p)

export const dropMirror = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run('DELETE FROM mirrors WHERE id = :id', p)

export const lockMirrors = (sql: Sql, p: { ids: readonly string[] }): Promise<unknown[]> =>
  sql.rows('SELECT id FROM mirrors WHERE id IN (:ids) ORDER BY id FOR UPDATE', p)

export const lockPlaceOf = (
  sql: Sql,
  p: { mirrorId: string },
): Promise<{ connection_id: string; collection_id: string } | null> =>
  sql.one('SELECT connection_id, collection_id FROM mirrors WHERE id = :mirrorId FOR UPDATE', p)

export const becomeUnseen = (sql: Sql, p: { mirrorId: string | null }): Promise<number> =>
  sql.run('UPDATE mirrors SET first_seen_at = 0, arrived_at = 0 WHERE id = :mirrorId', p)

/**
 * Moves everything that refers to another mirror of the same item to this one. IGNORE: duplicates stay where they
 * are.
 */
export async function takeOverMirror(sql: Sql, p: { id: string; twin: string }): Promise<void> {
  for (const table of ['intents', 'journal', 'own_layer', 'left_out', 'requests', 'waits', 'laid_pieces'])
    await sql.run(`UPDATE IGNORE ${table} SET mirror_id = :id WHERE mirror_id = :twin`, p)
  await sql.run('UPDATE laid_pieces SET task_id = :id WHERE task_id = :twin', p)
}
