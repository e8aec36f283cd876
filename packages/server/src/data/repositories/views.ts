import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

export const SEEN_BY_MEMBER =
  'v.workspace_id = :workspaceId AND (v.member_id IS NULL OR v.member_id = :memberId)'

export interface ViewRow {
  id: string
  member_id: string | null
  name: string
  icon: string
  body: Json<unknown>
  version: number
  made_by: string | null
}

export const viewsOf = (sql: Sql, p: { workspaceId: string; memberId: string }): Promise<ViewRow[]> =>
  sql.rows(
    `SELECT v.id, v.member_id, v.name, v.icon, v.body, v.version, m.name AS made_by FROM views v
         LEFT JOIN members m ON m.id = v.made_by WHERE ${SEEN_BY_MEMBER} ORDER BY v.member_id IS NULL DESC, v.name, v.id`,
    p,
  )

export const addView = (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    owner: string | null
    memberId: string
    name: string
    icon: string
    body: Json<unknown>
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO views (id, workspace_id, member_id, made_by, name, icon, body)
           VALUES (:id, :workspaceId, :owner, :memberId, :name, :icon, :body)`,
    p,
  )

export const changeView = (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    memberId: string
    owner: string | null
    name: string
    icon: string
    body: Json<unknown>
    version: number
  },
): Promise<number> =>
  sql.run(
    `UPDATE views v SET v.name = :name, v.icon = :icon, v.body = :body, v.member_id = :owner, v.version = v.version + 1
           WHERE v.id = :id AND ${SEEN_BY_MEMBER} AND v.version = :version`,
    p,
  )

export const deleteView = (
  sql: Sql,
  p: { id: string; workspaceId: string; memberId: string },
): Promise<number> => sql.run(`DELETE v FROM views v WHERE v.id = :id AND ${SEEN_BY_MEMBER}`, p)
