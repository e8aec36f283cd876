import type { Item } from '@loom/core'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Items that live here: our own lists and calendar. */

export interface OwnRow {
  id: string
  collection: string
  revision: number
  seq: number
  deleted: number
  item: Json<Item>
  /** The calendar object it came as from a file, a series say. */
  original: string | null
}

export const lastOwnSeq = (sql: Sql, p: { workspaceId: string }): Promise<{ seq: number | null } | null> =>
  sql.one('SELECT MAX(seq) AS seq FROM own_items WHERE workspace_id = :workspaceId', p)

export const ownItemWithUid = (
  sql: Sql,
  p: { workspaceId: string; uid: string },
): Promise<{ id: string; deleted: number } | null> =>
  sql.one('SELECT id, deleted FROM own_items WHERE workspace_id = :workspaceId AND uid = :uid', p)

export const putOwnItem = (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    collection: string
    uid: string
    seq: number
    item: Json<Item>
    original: string | null
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO own_items (id, workspace_id, collection, uid, revision, seq, item, original)
     VALUES (:id, :workspaceId, :collection, :uid, 1, :seq, :item, :original)
     ON DUPLICATE KEY UPDATE deleted = 0, revision = revision + 1, seq = VALUES(seq), item = VALUES(item),
       original = VALUES(original), collection = VALUES(collection)`,
    p,
  )

export const lockOwnItem = (sql: Sql, p: { id: string; workspaceId: string }): Promise<OwnRow | null> =>
  sql.one(
    'SELECT * FROM own_items WHERE id = :id AND workspace_id = :workspaceId AND deleted = 0 FOR UPDATE',
    p,
  )

export const changeOwnItem = (
  sql: Sql,
  p: { id: string; item: Json<Item>; original: string | null; seq: number; deleted: number },
): Promise<number> =>
  sql.run(
    `UPDATE own_items SET item = :item, original = :original, revision = revision + 1, seq = :seq,
           deleted = :deleted WHERE id = :id`,
    p,
  )

export const ownItemsSince = (sql: Sql, p: { workspaceId: string; since: number }): Promise<OwnRow[]> =>
  sql.rows(`SELECT * FROM own_items WHERE workspace_id = :workspaceId AND seq > :since ORDER BY seq`, p)
