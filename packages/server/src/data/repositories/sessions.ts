import { Op } from 'sequelize'
import type { Role } from '@loom/core'
import { plain } from '../models/rows.ts'
import type { SessionColumns } from '../models/people.ts'
import type { Sql } from '../database.ts'

/** Who is signed in where. */

/** Who asks, and the number of the last change in their workspace when they did. */
export interface Asking extends Member {
  seq: number
  /** Whether their workspace wants more than a password. */
  wantsSecond: boolean
  /**
   * More than a password is still to be given in this session: by what the user has, or by setting it up. Null where
   * nothing is.
   */
  owes: 'proof' | 'setup' | null
}

export interface Member {
  id: string
  userId: string
  role: Role
  workspaceId: string
  name: string
  email: string
  zone: string
}

export async function addSession(sql: Sql, session: SessionColumns): Promise<void> {
  await sql.models.sessions.create(session, sql.within)
}

export const sessionsOfUser = (
  sql: Sql,
  p: { userId: string; now: number },
): Promise<Pick<SessionColumns, 'id' | 'token_hash' | 'workspace_id' | 'device' | 'made_at' | 'used_at'>[]> =>
  plain(
    sql.models.sessions.findAll({
      attributes: ['id', 'token_hash', 'workspace_id', 'device', 'made_at', 'used_at'],
      where: { user_id: p.userId, expires_at: { [Op.gt]: p.now } },
      order: [['used_at', 'DESC']],
      limit: 100,
      ...sql.within,
    }),
  )

export const sessionsOfMember = (
  sql: Sql,
  p: { memberId: string },
): Promise<{ token_hash: string; workspace_id: string }[]> =>
  plain(
    sql.models.sessions.findAll({
      attributes: ['token_hash', 'workspace_id'],
      where: { member_id: p.memberId },
      ...sql.within,
    }),
  )

export const dropSessions = (sql: Sql, p: { hashes: readonly string[] }): Promise<number> =>
  sql.models.sessions.destroy({
    where: { token_hash: { [Op.in]: [...p.hashes] } },
    transaction: sql.within.transaction,
  })

/** The session goes on in another workspace of its user. */
export const moveSession = (
  sql: Sql,
  p: { hash: string; workspaceId: string; memberId: string },
): Promise<number> =>
  sql.run(
    'UPDATE sessions SET workspace_id = :workspaceId, member_id = :memberId WHERE token_hash = :hash',
    p,
  )

export const markSessionsUsed = (sql: Sql, p: { hashes: readonly string[]; now: number }): Promise<number> =>
  sql.run('UPDATE sessions SET used_at = :now WHERE token_hash IN (:hashes)', p)

export const openSession = (sql: Sql, p: { hash: string; now: number }): Promise<unknown> =>
  sql.models.sessions.findOne({
    where: { token_hash: p.hash, expires_at: { [Op.gt]: p.now } },
    ...sql.within,
  })

export const dropSession = (sql: Sql, p: { hash: string }): Promise<number> =>
  sql.models.sessions.destroy({ where: { token_hash: p.hash }, transaction: sql.within.transaction })

export interface SessionState {
  hash: string
  usedAt: number
  proven: number
  wantsSecond: number
  hasCodes: number
  /** Looked at only where the workspace wants more than a password. */
  hasPasskey: number
}

/** Asked for with every request: all that came in at the same moment in one statement. */
export const membersOfSessions = (
  sql: Sql,
  p: { hashes: readonly string[]; now: number },
): Promise<(Omit<Asking, 'owes' | 'wantsSecond'> & SessionState)[]> =>
  sql.rows(
    `SELECT s.token_hash AS hash, s.used_at AS usedAt, m.id, m.user_id AS userId, m.role, m.workspace_id AS workspaceId, m.name, m.email, m.zone, IFNULL(w.change_seq, 0) AS seq,
         s.proven, g.wants_second AS wantsSecond, u.totp_at IS NOT NULL AS hasCodes,
         g.wants_second = 1 AND EXISTS (SELECT 1 FROM passkeys p WHERE p.user_id = u.id) AS hasPasskey
       FROM sessions s JOIN members m ON m.id = s.member_id JOIN users u ON u.id = m.user_id
         JOIN workspaces g ON g.id = m.workspace_id LEFT JOIN change_counters w ON w.workspace_id = m.workspace_id
       WHERE s.token_hash IN (:hashes) AND s.expires_at > :now AND m.left_at IS NULL`,
    p,
  )
