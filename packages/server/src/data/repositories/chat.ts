import type { ServiceDescription } from '@loom/connectors'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Accounts of services in which people write to one another, and what is said of a person there. */

export const chatsOfMember = (
  sql: Sql,
  p: { memberId: string },
): Promise<{ id: string; name: string; description: Json<ServiceDescription> }[]> =>
  sql.rows(
    `SELECT id, name, description FROM connections
     WHERE owner_id = :memberId AND kind = 'http-json' AND paused = 0 AND JSON_EXISTS(description, '$.chat')
     ORDER BY name, id`,
    p,
  )

/** Whether or not they take part. */
export const channelsOf = (
  sql: Sql,
  p: { connections: readonly string[] },
): Promise<{ connection: string; channel: string; name: string }[]> =>
  sql.rows(
    `SELECT connection_id AS connection, remote_id AS channel, name FROM collections
     WHERE connection_id IN (:connections) ORDER BY name, id LIMIT 500`,
    { connections: ['', ...p.connections] },
  )

export interface SaidStatus {
  connection_id: string
  text: string
  until_ms: number
}

export const statusSaid = (sql: Sql, p: { memberId: string }): Promise<SaidStatus | null> =>
  sql.one('SELECT connection_id, text, until_ms FROM chat_status WHERE member_id = :memberId', p)

export const putStatusSaid = (
  sql: Sql,
  p: { memberId: string; workspaceId: string; connectionId: string; text: string; untilMs: number },
): Promise<number> =>
  sql.run(
    `INSERT INTO chat_status (member_id, workspace_id, connection_id, text, until_ms)
     VALUES (:memberId, :workspaceId, :connectionId, :text, :untilMs)
     ON DUPLICATE KEY UPDATE connection_id = VALUES(connection_id), text = VALUES(text), until_ms = VALUES(until_ms)`,
    p,
  )

export const dropStatusSaid = (sql: Sql, p: { memberId: string }): Promise<number> =>
  sql.run('DELETE FROM chat_status WHERE member_id = :memberId', p)

/** Those who have their status told, or of whom one is still said; with what may change it. */
export const membersWithStatus = (
  sql: Sql,
): Promise<{ member: string; workspace: string; seq: number; version: number }[]> =>
  sql.rows(
    `SELECT p.member_id AS member, p.workspace_id AS workspace, c.change_seq AS seq, p.version
     FROM planning p JOIN members m ON m.id = p.member_id AND m.left_at IS NULL
       JOIN change_counters c ON c.workspace_id = p.workspace_id
       LEFT JOIN chat_status s ON s.member_id = p.member_id
     WHERE p.tells_status = 1 OR s.member_id IS NOT NULL`,
  )
