import type { Json } from '../json.ts'
import type { Item } from '@loom/core'
import type { Sql } from '../database.ts'

export interface DoorRow extends Omit<Door, 'madeAt' | 'usedAt'> {
  workspace_id: string
  member_id: string
  made_at: number
  used_at: number | null
}

export interface Door {
  id: string
  kind: DoorKind
  token: string
  madeAt: number
  usedAt: number | null
  uses: number
}

/**
 * A member's doors: a secret mail address and a capture address, through which things come into their
 * intake from outside. Each can be shut, and another opened in its place.
 */
export type DoorKind = 'mail' | 'capture'

export const doorsOfMember = (sql: Sql, p: { id: string }): Promise<DoorRow[]> =>
  sql.rows('SELECT * FROM doors WHERE member_id = :id ORDER BY kind', p)

export const dropDoor = (sql: Sql, p: { id: string; kind: string }): Promise<number> =>
  sql.run('DELETE FROM doors WHERE member_id = :id AND kind = :kind', p)

export const addDoor = (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    memberId: string
    kind: string
    hash: string
    token: string
    now: number
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO doors (id, workspace_id, member_id, kind, token_hash, token, made_at)
       VALUES (:id, :workspaceId, :memberId, :kind, :hash, :token, :now)`,
    p,
  )

export const doorIdByToken = (sql: Sql, p: { hash: string; kind: string }): Promise<{ id: string } | null> =>
  sql.one('SELECT id FROM doors WHERE token_hash = :hash AND kind = :kind', p)

export const doorByToken = (sql: Sql, p: { hash: string; kind: string }): Promise<DoorRow | null> =>
  sql.one('SELECT * FROM doors WHERE token_hash = :hash AND kind = :kind', p)

export const putMessage = (
  sql: Sql,
  p: { sender: string; raw: string; id: string; workspaceId: string },
): Promise<void> =>
  sql.insert(
    `INSERT INTO messages (own_item_id, workspace_id, sender, raw) VALUES (:id, :workspaceId, :sender, :raw)
         ON DUPLICATE KEY UPDATE raw = VALUES(raw)`,
    p,
  )

export const countUse = (sql: Sql, p: { id: string; now: number }): Promise<number> =>
  sql.run('UPDATE doors SET uses = uses + 1, used_at = :now WHERE id = :id', p)

export const messagesOf = (
  sql: Sql,
  p: { workspaceId: string; intake: string },
): Promise<{ id: string; item: Json<Item>; sender: string }[]> =>
  sql.rows(
    `SELECT o.id, o.item, g.sender FROM messages g JOIN own_items o ON o.id = g.own_item_id
         WHERE o.workspace_id = :workspaceId AND o.collection = :intake AND o.deleted = 0
         ORDER BY o.seq DESC LIMIT 20`,
    p,
  )

export const messageOf = (
  sql: Sql,
  p: { item: string; workspaceId: string; intake: string },
): Promise<{ sender: string; raw: string } | null> =>
  sql.one(
    `SELECT g.sender, g.raw FROM messages g JOIN own_items o ON o.id = g.own_item_id
         WHERE o.id = :item AND o.workspace_id = :workspaceId AND o.collection = :intake`,
    p,
  )
