import type { Sql } from '../database.ts'

/** Who asks, and the number of the last change in their workspace when they did. */
export interface Asking extends Member {
  seq: number
}

export interface Member {
  id: string
  workspaceId: string
  name: string
  email: string
  zone: string
}

export const addSession = (
  sql: Sql,
  p: { hash: string; workspace: string; member: string; expires: number },
): Promise<void> =>
  sql.insert(
    `INSERT INTO sessions (token_hash, workspace_id, member_id, expires_at)
       VALUES (:hash, :workspace, :member, :expires)`,
    p,
  )

export const openSession = (sql: Sql, p: { hash: string; now: number }): Promise<unknown> =>
  sql.one('SELECT token_hash FROM sessions WHERE token_hash = :hash AND expires_at > :now', p)

export const dropSession = (sql: Sql, p: { hash: string }): Promise<number> =>
  sql.run('DELETE FROM sessions WHERE token_hash = :hash', p)

export const membersOfSessions = (
  sql: Sql,
  p: { hashes: readonly string[]; now: number },
): Promise<(Asking & { hash: string })[]> =>
  sql.rows(
    `SELECT s.token_hash AS hash, m.id, m.workspace_id AS workspaceId, m.name, m.email, m.zone, w.change_seq AS seq
       FROM sessions s JOIN members m ON m.id = s.member_id JOIN workspaces w ON w.id = m.workspace_id
       WHERE s.token_hash IN (:hashes) AND s.expires_at > :now`,
    p,
  )
