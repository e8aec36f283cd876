import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Up to which day, by zone, it was counted what was planned and not done. */
export type CountedTo = Readonly<Record<string, string>>

export const workspacesAtWork = (sql: Sql): Promise<{ id: string }[]> =>
  sql.rows('SELECT id FROM workspaces WHERE deleted_at IS NULL ORDER BY id')

export const nightOf = (sql: Sql, p: { workspaceId: string }): Promise<{ counted: Json<CountedTo> } | null> =>
  sql.one('SELECT counted FROM nights WHERE workspace_id = :workspaceId', p)

/** The same, for this transaction alone. */
export const lockNight = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ counted: Json<CountedTo> } | null> =>
  sql.one('SELECT counted FROM nights WHERE workspace_id = :workspaceId FOR UPDATE', p)

export const putNight = (sql: Sql, p: { workspaceId: string; counted: Json<CountedTo> }): Promise<number> =>
  sql.run(
    `INSERT INTO nights (workspace_id, counted) VALUES (:workspaceId, :counted)
     ON DUPLICATE KEY UPDATE counted = VALUES(counted)`,
    p,
  )
