import type { Level } from '@loom/core'
import type { Sql } from '../database.ts'

/** How much of a list its owner agreed that is shown of it where rules carry it. */

export interface ConsentRow {
  collection_id: string
  target_id: string
  level: Level
}

export const consentsOf = (sql: Sql, p: { workspaceId: string }): Promise<ConsentRow[]> =>
  sql.rows('SELECT collection_id, target_id, level FROM consents WHERE workspace_id = :workspaceId', p)

export const putConsent = (
  sql: Sql,
  p: { list: string; target: string; workspaceId: string; level: Level; by: string; at: number },
): Promise<void> =>
  sql.insert(
    `INSERT INTO consents (collection_id, target_id, workspace_id, level, given_by, given_at)
     VALUES (:list, :target, :workspaceId, :level, :by, :at)
     ON DUPLICATE KEY UPDATE level = VALUES(level), given_by = VALUES(given_by), given_at = VALUES(given_at)`,
    p,
  )
