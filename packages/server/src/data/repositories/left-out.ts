import type { Sql } from '../database.ts'

/** Items that somebody leaves out of their own plan. */

export const leftOutByMember = (
  sql: Sql,
  p: { memberId: string; workspaceId: string },
): Promise<{ id: string }[]> =>
  sql.rows(
    'SELECT mirror_id AS id FROM left_out WHERE member_id = :memberId AND workspace_id = :workspaceId',
    p,
  )

export const leaveOut = (
  sql: Sql,
  p: { memberId: string; mirrorId: string; workspaceId: string },
): Promise<void> =>
  sql.insert(
    `INSERT IGNORE INTO left_out (member_id, mirror_id, workspace_id) VALUES (:memberId, :mirrorId, :workspaceId)`,
    p,
  )

export const takeIn = (sql: Sql, p: { memberId: string; mirrorId: string }): Promise<number> =>
  sql.run('DELETE FROM left_out WHERE member_id = :memberId AND mirror_id = :mirrorId', p)

export const leftOutIn = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ member_id: string; mirror_id: string }[]> =>
  sql.rows('SELECT member_id, mirror_id FROM left_out WHERE workspace_id = :workspaceId', p)
