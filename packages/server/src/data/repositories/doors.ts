import type { DoorColumns } from '../models/people.ts'
import type { Json } from '../json.ts'
import type { Item } from '@loom/core'
import type { Sql } from '../database.ts'

/** Secret addresses through which something comes into one intake, and what came through them. */

export type DoorRow = DoorColumns

export interface Door {
  id: string
  kind: DoorKind
  token: string
  madeAt: number
  usedAt: number | null
  uses: number
}

/**
 * A member's doors: a secret mail address and a capture address for bringing things into their intake from
 * outside. Each can be closed, or replaced by a new one.
 */
export type DoorKind = 'mail' | 'capture'

export const doorsOfMember = async (sql: Sql, p: { id: string }): Promise<DoorColumns[]> =>
  (await sql.models.doors.findAll({
    where: { member_id: p.id },
    order: ['kind'],
    ...sql.within,
  })) as unknown as DoorColumns[]

export const dropDoor = (sql: Sql, p: { id: string; kind: DoorKind }): Promise<number> =>
  sql.models.doors.destroy({
    where: { member_id: p.id, kind: p.kind },
    transaction: sql.within.transaction,
  })

export const dropDoorsOf = (sql: Sql, p: { memberId: string }): Promise<number> =>
  sql.models.doors.destroy({ where: { member_id: p.memberId }, transaction: sql.within.transaction })

export async function addDoor(
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    memberId: string
    kind: DoorKind
    hash: string
    token: string
    now: number
  },
): Promise<void> {
  const { id, workspaceId, memberId, kind, hash, token, now } = p
  const door = { id, workspace_id: workspaceId, member_id: memberId, kind, token_hash: hash, token }
  await sql.models.doors.create({ ...door, made_at: now }, sql.within)
}

export const doorByToken = async (
  sql: Sql,
  p: { hash: string; kind: DoorKind },
): Promise<DoorColumns | null> =>
  (await sql.models.doors.findOne({
    where: { token_hash: p.hash, kind: p.kind },
    ...sql.within,
  })) as unknown as DoorColumns | null

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
