import type { Level } from '@loom/core'
import type { Sql } from '../database.ts'

/** How much of a list its owner agreed that a rule may show to others. */

export interface ConsentRow {
  rule_id: string
  collection_id: string
  level: Level
}

export const consentsOf = (sql: Sql, p: { workspaceId: string }): Promise<ConsentRow[]> =>
  sql.rows('SELECT rule_id, collection_id, level FROM rule_consents WHERE workspace_id = :workspaceId', p)

export const putConsent = (
  sql: Sql,
  p: { rule: string; list: string; workspaceId: string; level: Level; by: string; at: number },
): Promise<void> =>
  sql.insert(
    `INSERT INTO rule_consents (rule_id, collection_id, workspace_id, level, given_by, given_at)
     VALUES (:rule, :list, :workspaceId, :level, :by, :at)
     ON DUPLICATE KEY UPDATE level = VALUES(level), given_by = VALUES(given_by), given_at = VALUES(given_at)`,
    p,
  )
