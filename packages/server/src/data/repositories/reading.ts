import type { Item, Mirror } from '@loom/core'
import type { Sql } from '../database.ts'

/** What a reading of a collection compares with: revisions, and what was not listed. */

export const holdsItems = async (sql: Sql, p: { connectionId: string }): Promise<boolean> =>
  (await sql.one('SELECT 1 AS held FROM mirrors WHERE connection_id = :connectionId LIMIT 1', p)) !== null

export type SameUid = Pick<Mirror, 'remoteId' | 'presence'>

export const sameUids = (
  sql: Sql,
  p: { connectionId: string; uids: readonly string[]; before: number },
): Promise<(SameUid & { uid: string })[]> =>
  sql.rows(
    `SELECT uid, remote_id AS remoteId, presence FROM mirrors
     WHERE connection_id = :connectionId AND uid IN (:uids) AND presence <> 'gone' AND series_id IS NULL
       AND first_seen_at < :before`,
    p,
  )

export const arrivingIn = (
  sql: Sql,
  p: { workspace: string; connection: string },
): Promise<{ id: string; remote_id: string; collection: string }[]> =>
  sql.rows(
    `SELECT m.id, m.remote_id, c.remote_id AS collection FROM mirrors m JOIN collections c ON c.id = m.collection_id
       WHERE m.workspace_id = :workspace AND m.connection_id = :connection AND m.presence = 'arriving'`,
    p,
  )

export const arrivedElsewhere = (
  sql: Sql,
  p: { workspace: string; connection: string },
): Promise<{ remote_id: string }[]> =>
  sql.rows(
    `SELECT DISTINCT s.remote_id FROM mirrors m JOIN mirrors s ON s.connection_id = m.connection_id AND s.uid = m.uid
       WHERE m.workspace_id = :workspace AND m.connection_id = :connection AND m.presence = 'arriving'
         AND s.presence = 'present' AND s.series_id IS NULL`,
    p,
  )

export const dropArriving = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run(`DELETE FROM mirrors WHERE id = :id AND presence = 'arriving'`, p)

export const admit = (sql: Sql, p: { ids: readonly string[] }): Promise<number> =>
  sql.run(
    `UPDATE mirrors SET presence = 'present', open_task =
         IF(kind = 'task' AND JSON_VALUE(item, '$.status') IN ('needs-action', 'in-process'), 1, 0)
       WHERE id IN (:ids) AND presence = 'arriving'`,
    p,
  )

export const revisionsIn = (
  sql: Sql,
  p: { collectionId: string },
): Promise<{ remote_id: string; revision: string }[]> =>
  sql.rows(
    `SELECT remote_id, revision FROM mirrors WHERE collection_id = :collectionId AND presence = 'present'
     UNION ALL SELECT remote_id, revision FROM problems WHERE collection_id = :collectionId`,
    p,
  )

export const remoteIdsIn = (sql: Sql, p: { id: string }): Promise<{ remote_id: string }[]> =>
  sql.rows(
    `SELECT remote_id FROM mirrors WHERE collection_id = :id AND presence <> 'gone' AND series_id IS NULL`,
    p,
  )

export const dropUnfinishedImports = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run(
    'DELETE FROM mirrors WHERE collection_id IN (SELECT id FROM collections WHERE connection_id = :id AND synced_at IS NULL)',
    p,
  )

export const idsIn = (sql: Sql, p: { id: string }): Promise<{ id: string }[]> =>
  sql.rows(`SELECT id FROM mirrors WHERE collection_id = :id AND presence <> 'gone'`, p)

export const isTied = async (sql: Sql, p: { id: string }): Promise<boolean> =>
  (await sql.one(
    `SELECT 1 AS tied FROM ties WHERE (a_mirror = :id OR b_mirror = :id) AND released IS NULL LIMIT 1`,
    p,
  )) !== null

/** What came up under a uid in calendars and lists of other accounts, not by their first reading. */
export const cameUpElsewhere = (
  sql: Sql,
  p: { workspaceId: string; connectionId: string; uid: string; kind: Item['kind']; since: number },
): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT m.id FROM connections c
       JOIN mirrors m ON m.connection_id = c.id AND m.uid = :uid AND m.kind = :kind AND m.series_id IS NULL
         AND m.presence <> 'gone' AND m.first_seen_at >= :since
       JOIN collections k ON k.id = m.collection_id AND k.baseline_at < m.first_seen_at
     WHERE c.workspace_id = :workspaceId AND c.id <> :connectionId`,
    p,
  )

/** Other accounts of this protocol, in step, that were not read since. */
export const othersNotReadSince = (
  sql: Sql,
  p: { workspaceId: string; connectionId: string; protocol: string; kind: Item['kind']; since: number },
): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT c.id FROM connections c JOIN look_times l ON l.connection_id = c.id
     WHERE c.workspace_id = :workspaceId AND c.id <> :connectionId AND c.kind = :protocol AND c.state = 'ok'
       AND c.paused = 0 AND IFNULL(l.last_ok_at, 0) <= :since
       AND EXISTS (SELECT 1 FROM collections k WHERE k.connection_id = c.id AND k.item_kind = :kind AND k.takes_part = 1)`,
    p,
  )
