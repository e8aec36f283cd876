import type { Sql } from '../database.ts'

/** What goes with a workspace, or with a user. */

export interface WorkspaceCounts {
  members: number
  connections: number
  rules: number
  items: number
  kept: number
}

export const countsOfWorkspace = async (sql: Sql, p: { workspaceId: string }): Promise<WorkspaceCounts> => {
  const counts = await sql.one<WorkspaceCounts>(
    `SELECT (SELECT COUNT(*) FROM members WHERE workspace_id = :workspaceId AND left_at IS NULL) AS members,
       (SELECT COUNT(*) FROM connections WHERE workspace_id = :workspaceId AND kind <> 'own') AS connections,
       (SELECT COUNT(*) FROM rules WHERE workspace_id = :workspaceId) AS rules,
       (SELECT COUNT(*) FROM mirrors WHERE workspace_id = :workspaceId AND presence = 'present') AS items,
       (SELECT COUNT(*) FROM own_items WHERE workspace_id = :workspaceId AND deleted = 0) AS kept`,
    p,
  )
  return counts ?? { members: 0, connections: 0, rules: 0, items: 0, kept: 0 }
}

/** Nobody gets in any more, and nothing is read or written: the rest follows. */
export async function markWorkspaceDeleted(sql: Sql, p: { workspaceId: string; now: number }): Promise<void> {
  await sql.run('UPDATE workspaces SET deleted_at = :now WHERE id = :workspaceId', p)
  await sql.run('UPDATE members SET left_at = :now WHERE workspace_id = :workspaceId AND left_at IS NULL', p)
  await sql.run('UPDATE connections SET paused = 1 WHERE workspace_id = :workspaceId', p)
  await sql.run("UPDATE rules SET state = 'paused' WHERE workspace_id = :workspaceId", p)
  await sql.run('DELETE FROM doors WHERE workspace_id = :workspaceId', p)
  await sql.run('DELETE FROM entry_links WHERE workspace_id = :workspaceId', p)
}

export const deletedWorkspaces = (sql: Sql): Promise<{ id: string }[]> =>
  sql.rows('SELECT id FROM workspaces WHERE deleted_at IS NOT NULL')

/** Rows removed in one statement, so that nobody waits long for it. */
export const PART = 1000

/** Removes some rows of one table. Returns how many. */
export const removePart = (sql: Sql, table: string, p: { workspaceId: string }): Promise<number> =>
  sql.run(`DELETE FROM ${table} WHERE workspace_id = :workspaceId LIMIT ${PART}`, p)

/** Tables that have a column for the workspace, as the database tells it: a new one is not forgotten. */
export const tablesWithWorkspace = (sql: Sql): Promise<{ name: string }[]> =>
  sql.rows(
    `SELECT c.table_name AS name FROM information_schema.columns c
       JOIN information_schema.tables t ON t.table_schema = c.table_schema AND t.table_name = c.table_name
       WHERE c.table_schema = DATABASE() AND c.column_name = 'workspace_id' AND t.table_type = 'BASE TABLE'
       ORDER BY c.table_name`,
  )

/** What is the user's own in a workspace that goes on: out of every list, and under no name. */
export async function forgetMember(
  sql: Sql,
  p: { memberId: string; workspaceId: string; intake: string; email: string },
): Promise<void> {
  await sql.run(
    `UPDATE members SET name = 'Former member', email = :email, settings = '{}', daily_summary = 0 WHERE id = :memberId`,
    p,
  )
  await sql.run(`UPDATE people SET name = 'Former member', email = NULL WHERE member_id = :memberId`, p)
  await sql.run('DELETE FROM own_items WHERE workspace_id = :workspaceId AND collection = :intake', p)
  await sql.run('DELETE FROM received_invitations WHERE member_id = :memberId', p)
  await sql.run(
    `DELETE m FROM mirrors m JOIN collections k ON k.id = m.collection_id JOIN connections c ON c.id = k.connection_id
       WHERE k.workspace_id = :workspaceId AND k.remote_id = :intake AND c.kind = 'own'`,
    p,
  )
}

export const removeWorkspaceRow = (sql: Sql, p: { workspaceId: string }): Promise<number> =>
  sql.run('DELETE FROM workspaces WHERE id = :workspaceId', p)

export async function forgetUser(
  sql: Sql,
  p: { userId: string; email: string; passwordHash: string },
): Promise<void> {
  await sql.run('UPDATE users SET email = :email, password_hash = :passwordHash WHERE id = :userId', p)
  await sql.run('DELETE FROM passkeys WHERE user_id = :userId', p)
  await sql.run('DELETE FROM identities WHERE user_id = :userId', p)
  await sql.run('DELETE FROM sessions WHERE user_id = :userId', p)
  await sql.run('DELETE FROM entry_links WHERE user_id = :userId', p)
}

export const countOfIntakes = (sql: Sql, p: { intakes: readonly string[] }): Promise<{ n: number } | null> =>
  sql.one('SELECT COUNT(*) AS n FROM own_items WHERE deleted = 0 AND collection IN (:intakes)', {
    intakes: ['', ...p.intakes],
  })
