import type { Sql } from '../database.ts'

/** Workspaces, with their zone and number of changes. */

/** Nobody else numbers a change of it until the end of the commit. */
export const lockWorkspace = (sql: Sql, p: { workspaceId: string }): Promise<unknown> =>
  sql.one('SELECT change_seq FROM change_counters WHERE workspace_id = :workspaceId FOR UPDATE', p)

export const zoneOfWorkspace = (sql: Sql, p: { workspaceId: string }): Promise<{ zone: string } | null> =>
  sql.one('SELECT zone FROM workspaces WHERE id = :workspaceId', p)

export const changeSeqOf = (sql: Sql, p: { id: string }): Promise<{ change_seq: number } | null> =>
  sql.one('SELECT change_seq FROM change_counters WHERE workspace_id = :id', p)

export const anyWorkspace = (sql: Sql): Promise<unknown> =>
  sql.one('SELECT id FROM workspaces WHERE deleted_at IS NULL LIMIT 1')

export async function addWorkspace(sql: Sql, p: { id: string; name: string; zone: string }): Promise<void> {
  await sql.insert('INSERT INTO workspaces (id, name, zone) VALUES (:id, :name, :zone)', p)
  await sql.insert('INSERT INTO change_counters (workspace_id) VALUES (:id)', p)
}

export const workspaceInBrief = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ name: string; zone: string; wants_second: number } | null> =>
  sql.one('SELECT name, zone, wants_second FROM workspaces WHERE id = :workspaceId', p)

export const renameWorkspace = (
  sql: Sql,
  p: { workspaceId: string; name: string; zone: string },
): Promise<number> => sql.run('UPDATE workspaces SET name = :name, zone = :zone WHERE id = :workspaceId', p)

export const setWantsSecond = (sql: Sql, p: { workspaceId: string; wants: number }): Promise<number> =>
  sql.run('UPDATE workspaces SET wants_second = :wants WHERE id = :workspaceId', p)

export const workspaceIds = (sql: Sql): Promise<{ id: string }[]> =>
  sql.rows('SELECT id FROM workspaces WHERE deleted_at IS NULL')

/** Two are enough to know that there are several. */
export const workspacesToJoin = (sql: Sql): Promise<{ id: string; zone: string }[]> =>
  sql.rows('SELECT id, zone FROM workspaces WHERE deleted_at IS NULL LIMIT 2')
