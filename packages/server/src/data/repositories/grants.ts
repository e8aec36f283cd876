import type { Level, Role } from '@loom/core'
import type { Sql } from '../database.ts'

/** What was granted on lists and calendars, and the groups that it may be granted to. */

export interface GrantRow {
  collection_id: string
  to_kind: 'everybody' | 'group' | 'person'
  /** '' for everybody. */
  to_id: string
  level: Level
}

export interface SharedRow {
  id: string
  connection_id: string
  owner_id: string | null
  as_before: number
}

/** Without an effect where it is there already: what was granted before stays. */
export const grantToEverybody = (
  sql: Sql,
  p: { workspaceId: string; collectionId: string; level: Level },
): Promise<void> =>
  sql.insert(
    `INSERT INTO grants (collection_id, to_kind, to_id, workspace_id, level)
     SELECT id, 'everybody', '', :workspaceId, :level FROM collections WHERE id = :collectionId
     ON DUPLICATE KEY UPDATE level = grants.level`,
    p,
  )

/** By id, in a steady order. */
export const sharedCollections = (sql: Sql, p: { workspaceId: string }): Promise<SharedRow[]> =>
  sql.rows(
    `SELECT k.id, k.connection_id, IFNULL(k.owner_id, n.owner_id) AS owner_id, k.as_before
     FROM collections k JOIN connections n ON n.id = k.connection_id
     WHERE k.workspace_id = :workspaceId ORDER BY k.id`,
    p,
  )

export const grantsOf = (sql: Sql, p: { workspaceId: string }): Promise<GrantRow[]> =>
  sql.rows(
    `SELECT collection_id, to_kind, to_id, level FROM grants WHERE workspace_id = :workspaceId
     ORDER BY collection_id, to_kind, to_id`,
    p,
  )

export const groupsOfMembers = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ member_id: string; group_id: string }[]> =>
  sql.rows(
    `SELECT member_id, group_id FROM group_members WHERE workspace_id = :workspaceId ORDER BY member_id, group_id`,
    p,
  )

export const roleOf = (sql: Sql, p: { id: string; workspaceId: string }): Promise<{ role: Role } | null> =>
  sql.one('SELECT role FROM members WHERE id = :id AND workspace_id = :workspaceId AND left_at IS NULL', p)
