import { Op } from 'sequelize'
import { plain } from '../models/rows.ts'
import type { EntryLinkColumns } from '../models/people.ts'
import type { Sql } from '../database.ts'

/** Addresses by which somebody enters once: to begin, by an invitation, or after a forgotten password. */

export async function addEntryLink(sql: Sql, link: EntryLinkColumns): Promise<void> {
  await sql.models.entryLinks.create(link, sql.within)
}

export const entryLink = (
  sql: Sql,
  p: { hash: string; now: number },
): Promise<
  | (Pick<EntryLinkColumns, 'id' | 'purpose' | 'user_id' | 'email' | 'role' | 'workspace_id'> & {
      workspace: string | null
      zone: string | null
      by: string | null
    })
  | null
> =>
  sql.one(
    `SELECT e.id, e.purpose, e.user_id, e.email, e.role, e.workspace_id, w.name AS workspace, w.zone, m.name AS \`by\`
       FROM entry_links e LEFT JOIN workspaces w ON w.id = e.workspace_id LEFT JOIN members m ON m.id = e.made_by
       WHERE e.token_hash = :hash AND e.expires_at > :now`,
    p,
  )

/** Of those who use a link in the same moment, one gets 1. */
export const takeEntryLink = (sql: Sql, p: { hash: string; now: number }): Promise<number> =>
  sql.run('DELETE FROM entry_links WHERE token_hash = :hash AND expires_at > :now', p)

/** `id` or `email` names which; what is not named does not narrow it. */
export const dropEntryLinks = (
  sql: Sql,
  where: Partial<Pick<EntryLinkColumns, 'id' | 'purpose' | 'workspace_id' | 'user_id' | 'email'>>,
): Promise<number> => sql.models.entryLinks.destroy({ where, transaction: sql.within.transaction })

export const openInvitations = (
  sql: Sql,
  p: { workspaceId: string; now: number },
): Promise<Pick<EntryLinkColumns, 'id' | 'email' | 'role' | 'made_at' | 'expires_at'>[]> =>
  plain(
    sql.models.entryLinks.findAll({
      attributes: ['id', 'email', 'role', 'made_at', 'expires_at'],
      where: { workspace_id: p.workspaceId, purpose: 'invite', expires_at: { [Op.gt]: p.now } },
      order: ['email'],
      ...sql.within,
    }),
  )

export const forgetPastEntryLinks = (sql: Sql, p: { now: number }): Promise<number> =>
  sql.run('DELETE FROM entry_links WHERE expires_at <= :now', p)
