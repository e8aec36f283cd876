import type { Level } from '@loom/core'
import { plain } from '../models/rows.ts'
import { type Json, json } from '../json.ts'
import type { Sql } from '../database.ts'

/** What was granted on lists and calendars, and the groups that it may be granted to. */

export interface GrantRow {
  collection_id: string
  to_kind: 'everybody' | 'group' | 'person'
  /** '' for everybody. */
  to_id: string
  level: Level
  /** Whether they may show it to others in turn. */
  pass_on?: number
  /** The member who said so; null for what was there from the beginning. */
  granted_by?: string | null
}

export interface SharedRow {
  id: string
  connection_id: string
  owner_id: string | null
  as_before: number
  /** Whether whose it is has left. */
  hidden: number
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
    `SELECT k.id, k.connection_id, IFNULL(k.owner_id, n.owner_id) AS owner_id, k.as_before, o.left_at IS NOT NULL AS hidden
     FROM collections k JOIN connections n ON n.id = k.connection_id
       LEFT JOIN members o ON o.id = IFNULL(k.owner_id, n.owner_id)
     WHERE k.workspace_id = :workspaceId ORDER BY k.id`,
    p,
  )

export const grantsOf = (sql: Sql, p: { workspaceId: string }): Promise<GrantRow[]> =>
  sql.rows(
    `SELECT collection_id, to_kind, to_id, level, pass_on, granted_by FROM grants WHERE workspace_id = :workspaceId
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

export interface DeputyRow {
  member_id: string
  deputy_id: string
  from_day: string
  to_day: string
}

export const deputiesOf = (sql: Sql, p: { workspaceId: string }): Promise<DeputyRow[]> =>
  sql.rows(
    `SELECT d.member_id, d.deputy_id, d.from_day, d.to_day FROM deputies d
       JOIN members m ON m.id = d.deputy_id AND m.left_at IS NULL
     WHERE d.workspace_id = :workspaceId ORDER BY d.member_id`,
    p,
  )

export const putDeputy = (sql: Sql, p: DeputyRow & { workspaceId: string }): Promise<void> =>
  sql.insert(
    `INSERT INTO deputies (member_id, deputy_id, workspace_id, from_day, to_day)
     VALUES (:member_id, :deputy_id, :workspaceId, :from_day, :to_day)
     ON DUPLICATE KEY UPDATE deputy_id = :deputy_id, from_day = :from_day, to_day = :to_day`,
    { ...p },
  )

export const dropDeputy = (sql: Sql, p: { memberId: string }): Promise<number> =>
  sql.run('DELETE FROM deputies WHERE member_id = :memberId', p)

/** Null takes a grant away. */
export async function putGrant(sql: Sql, p: GrantRow & { workspaceId: string }): Promise<void> {
  await sql.insert(
    `INSERT INTO grants (collection_id, to_kind, to_id, workspace_id, level, pass_on, granted_by)
     VALUES (:collection_id, :to_kind, :to_id, :workspaceId, :level, :pass_on, :granted_by)
     ON DUPLICATE KEY UPDATE level = VALUES(level), pass_on = VALUES(pass_on), granted_by = VALUES(granted_by)`,
    { pass_on: 0, granted_by: null, ...p },
  )
}

export const dropGrant = (sql: Sql, p: Omit<GrantRow, 'level'>): Promise<number> =>
  sql.run(
    'DELETE FROM grants WHERE collection_id = :collection_id AND to_kind = :to_kind AND to_id = :to_id',
    {
      ...p,
    },
  )

export const setAsBefore = (sql: Sql, p: { id: string; asBefore: number }): Promise<number> =>
  sql.run('UPDATE collections SET as_before = :asBefore WHERE id = :id', p)

export interface Group {
  id: string
  name: string
}

export const groupsOf = (sql: Sql, p: { workspaceId: string }): Promise<Group[]> =>
  plain(
    sql.models.groups.findAll({
      attributes: ['id', 'name'],
      where: { workspace_id: p.workspaceId },
      order: ['name'],
      ...sql.within,
    }),
  )

/** Makes a group or names it anew, and says who is in it. */
export async function putGroup(
  sql: Sql,
  p: { id: string; workspaceId: string; name: string; members: readonly string[] },
): Promise<void> {
  const { id, workspaceId, name } = p
  await sql.insert(
    'INSERT INTO member_groups (id, workspace_id, name) VALUES (:id, :workspaceId, :name) ON DUPLICATE KEY UPDATE name = :name',
    { id, workspaceId, name },
  )
  await sql.run('DELETE FROM group_members WHERE group_id = :id', { id })
  await sql.insertMany(
    'INSERT INTO group_members (group_id, member_id, workspace_id) VALUES (?, ?, ?)',
    p.members.map(member => [id, member, workspaceId]),
  )
}

/** What was granted to it goes with it. */
export async function dropGroup(sql: Sql, p: { id: string; workspaceId: string }): Promise<number> {
  await sql.run(
    `DELETE FROM view_grants WHERE workspace_id = :workspaceId AND to_kind = 'group' AND to_id = :id`,
    p,
  )
  await sql.run(
    `DELETE FROM grants WHERE workspace_id = :workspaceId AND to_kind = 'group' AND to_id = :id`,
    p,
  )
  return sql.run('DELETE FROM member_groups WHERE id = :id AND workspace_id = :workspaceId', p)
}

/** A list or calendar as who shares it sees it, with how many items are in it and how many of them are private. */
export interface SharedList {
  id: string
  name: string
  service: string
  dye: string
  itemKind: 'task' | 'event'
  own: number
  items: number
  classed: number
}

export const listsToShare = (
  sql: Sql,
  p: { workspaceId: string; lists: readonly string[] },
): Promise<SharedList[]> =>
  sql.rows(
    `SELECT k.id, k.name, n.name AS service, k.dye, k.item_kind AS itemKind, n.kind = 'own' AS own,
       (SELECT COUNT(*) FROM mirrors m WHERE m.collection_id = k.id AND m.presence = 'present') AS items,
       (SELECT COUNT(*) FROM mirrors m WHERE m.collection_id = k.id AND m.presence = 'present' AND m.kind = 'event'
          AND JSON_VALUE(m.item, '$.class') IN ('private', 'confidential')) AS classed
     FROM collections k JOIN connections n ON n.id = k.connection_id
     WHERE k.workspace_id = :workspaceId AND k.takes_part = 1 AND k.id IN (:lists)
     ORDER BY n.kind = 'own', n.name, k.item_kind DESC, k.name`,
    { workspaceId: p.workspaceId, lists: ['', ...p.lists] },
  )

export interface SharingLine {
  id: number
  at: number
  who: string
  /** Whether whoever asks did it. */
  isMine: number
  list: string | null
  body: Json<SharingAct>
}

/** What somebody did about sharing. */
export type SharingAct =
  | { do: 'grant'; to: string; level: Level | null; before: Level | null; passOn?: boolean }
  | { do: 'group'; name: string; members: number | null }
  | { do: 'link'; name: string; level: Level; isEnded: boolean }
  /** What comes into sight by a saved view; null for nothing. */
  | { do: 'lens'; view: string; to: string; level: Level | null; before: Level | null }
  | { do: 'see-as'; whom: string }
  | { do: 'deputy'; whom: string | null; from: string; to: string }
  /** `lists`: all that it was between, whoever may change all of them may know of it. */
  | { do: 'rule'; name: string; did: RuleAct; lists: string[] }
export type RuleAct = 'made' | 'changed' | 'paused' | 'turned on' | 'removed'

export const logSharing = (
  sql: Sql,
  p: { workspaceId: string; at: number; memberId: string; collectionId: string | null; act: SharingAct },
): Promise<void> =>
  sql.insert(
    `INSERT INTO sharing_log (workspace_id, at, member_id, collection_id, body)
     VALUES (:workspaceId, :at, :memberId, :collectionId, :body)`,
    { ...p, body: json(p.act) },
  )

/** Newest first: of these lists, what somebody did themselves, what concerns groups, and all about rules. */
export const sharingLines = (
  sql: Sql,
  p: {
    workspaceId: string
    lists: readonly string[]
    memberId: string
    groups: boolean
    before: number | null
  },
): Promise<SharingLine[]> =>
  sql.rows(
    `SELECT l.id, l.at, m.name AS who, l.member_id = :memberId AS isMine, k.name AS list, l.body FROM sharing_log l
       JOIN members m ON m.id = l.member_id LEFT JOIN collections k ON k.id = l.collection_id
     WHERE l.workspace_id = :workspaceId AND (l.collection_id IN (:lists) OR l.collection_id IS NULL
       AND (l.member_id = :memberId OR :groups AND JSON_VALUE(l.body, '$.do') = 'group'
         OR JSON_VALUE(l.body, '$.do') = 'rule'))
       AND (:before IS NULL OR l.id < :before) ORDER BY l.id DESC LIMIT 100`,
    { ...p, lists: ['', ...p.lists] },
  )
