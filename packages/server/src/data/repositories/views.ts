import type { Chosen, Level, Role } from '@loom/core'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'
import { changed } from '../models/rows.ts'

/** Saved views, and whom they are granted to. */

export interface ViewRow {
  id: string
  /** Null where whose it was has left: coordinators look after it. */
  owner: string | null
  name: string
  icon: string
  body: Json<unknown>
  version: number
  /** Its maker's name. */
  made_by: string | null
}

export interface ViewGrantRow {
  view_id: string
  to_kind: 'everybody' | 'group' | 'person'
  /** '' for everybody. */
  to_id: string
  /** What they may do with the view. */
  level: Level
  /** How much of what it shows comes into sight by it; null where each sees what they see anyway. */
  opens: Level | null
  /** Who opened it, and as what; the latter null where they have left. */
  granted_by: string | null
  giver_role: Role | null
  /** What it showed then. */
  chosen: Json<Chosen> | null
}

interface Said {
  name: string
  icon: string
  body: Json<unknown>
}

/** Whoever they belong to; `id`: only that one. */
export const viewsOfWorkspace = (sql: Sql, p: { workspaceId: string; id?: string }): Promise<ViewRow[]> =>
  sql.rows(
    `SELECT v.id, IF(o.left_at IS NULL, v.member_id, NULL) AS owner, v.name, v.icon, v.body, v.version,
       m.name AS made_by
     FROM views v LEFT JOIN members o ON o.id = v.member_id LEFT JOIN members m ON m.id = v.made_by
     WHERE v.workspace_id = :workspaceId ${p.id === undefined ? '' : 'AND v.id = :id'} ORDER BY v.name, v.id`,
    { ...p },
  )

export const viewGrants = (sql: Sql, p: { workspaceId: string }): Promise<ViewGrantRow[]> =>
  sql.rows(
    `SELECT g.view_id, g.to_kind, g.to_id, g.level, g.opens, g.granted_by, m.role AS giver_role, g.chosen
     FROM view_grants g LEFT JOIN members m ON m.id = g.granted_by AND m.left_at IS NULL
     WHERE g.workspace_id = :workspaceId ORDER BY g.view_id, g.to_kind, g.to_id`,
    p,
  )

export async function addView(
  sql: Sql,
  p: Said & { id: string; workspaceId: string; memberId: string },
): Promise<void> {
  const { id, workspaceId, memberId, name, icon, body } = p
  await sql.models.views.create(
    { id, workspace_id: workspaceId, member_id: memberId, made_by: memberId, name, icon, body },
    sql.within,
  )
}

/** Only from the version that its editor saw; how many were changed. */
export const changeView = (
  sql: Sql,
  { id, workspaceId, version, ...said }: Said & { id: string; workspaceId: string; version: number },
): Promise<number> =>
  changed(
    sql.models.views.update(
      { ...said, version: version + 1 },
      { where: { id, version, workspace_id: workspaceId }, transaction: sql.within.transaction },
    ),
  )

/** In place of all that was granted before. */
export async function putViewGrants(
  sql: Sql,
  p: { id: string; workspaceId: string; grants: readonly Omit<ViewGrantRow, 'view_id' | 'giver_role'>[] },
): Promise<void> {
  await sql.run('DELETE FROM view_grants WHERE view_id = :id AND workspace_id = :workspaceId', {
    id: p.id,
    workspaceId: p.workspaceId,
  })
  await sql.insertMany(
    `INSERT INTO view_grants (view_id, to_kind, to_id, workspace_id, level, opens, granted_by, chosen)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
    p.grants.map(g => [p.id, g.to_kind, g.to_id, p.workspaceId, g.level, g.opens, g.granted_by, g.chosen]),
  )
}

export const deleteView = (sql: Sql, p: { id: string; workspaceId: string }): Promise<number> =>
  sql.run('DELETE FROM views WHERE id = :id AND workspace_id = :workspaceId', p)
