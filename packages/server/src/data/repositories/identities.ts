import type { EntryLinkColumns } from '../models/people.ts'
import type { Sql } from '../database.ts'

/** Who users are at an identity provider. */

export const userOfIdentity = (sql: Sql, p: { hash: string }): Promise<{ id: string } | null> =>
  sql.one('SELECT user_id AS id FROM identities WHERE subject_hash = :hash', p)

/** Of two that come in the same moment, both end as the same user. */
export const keepIdentity = (sql: Sql, p: { hash: string; userId: string; now: number }): Promise<void> =>
  sql.insert(
    `INSERT INTO identities (subject_hash, user_id, made_at) VALUES (:hash, :userId, :now)
     ON DUPLICATE KEY UPDATE made_at = made_at`,
    p,
  )

/** Open invitations to a mail address, locked: each is taken once. */
export const invitationsFor = (
  sql: Sql,
  p: { email: string; now: number },
): Promise<(Pick<EntryLinkColumns, 'id' | 'role' | 'workspace_id'> & { zone: string })[]> =>
  sql.rows(
    `SELECT e.id, e.role, e.workspace_id, w.zone FROM entry_links e
       JOIN workspaces w ON w.id = e.workspace_id AND w.deleted_at IS NULL
     WHERE e.purpose = 'invite' AND e.email = :email AND e.expires_at > :now ORDER BY e.made_at FOR UPDATE`,
    p,
  )
