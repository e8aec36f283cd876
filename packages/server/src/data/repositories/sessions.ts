import { Op } from 'sequelize'
import type { Sql } from '../database.ts'

/** Who is signed in where. */

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

export async function addSession(
  sql: Sql,
  p: { hash: string; workspace: string; member: string; expires: number },
): Promise<void> {
  await sql.models.sessions.create(
    { token_hash: p.hash, workspace_id: p.workspace, member_id: p.member, expires_at: p.expires },
    sql.within,
  )
}

export const openSession = (sql: Sql, p: { hash: string; now: number }): Promise<unknown> =>
  sql.models.sessions.findOne({
    where: { token_hash: p.hash, expires_at: { [Op.gt]: p.now } },
    ...sql.within,
  })

export const dropSession = (sql: Sql, p: { hash: string }): Promise<number> =>
  sql.models.sessions.destroy({ where: { token_hash: p.hash }, transaction: sql.within.transaction })

/** Asked for with every request: all that came in at the same moment in one statement. */
export const membersOfSessions = (
  sql: Sql,
  p: { hashes: readonly string[]; now: number },
): Promise<(Asking & { hash: string })[]> =>
  sql.rows(
    `SELECT s.token_hash AS hash, m.id, m.workspace_id AS workspaceId, m.name, m.email, m.zone, IFNULL(w.change_seq, 0) AS seq
       FROM sessions s JOIN members m ON m.id = s.member_id LEFT JOIN change_counters w ON w.workspace_id = m.workspace_id
       WHERE s.token_hash IN (:hashes) AND s.expires_at > :now`,
    p,
  )
