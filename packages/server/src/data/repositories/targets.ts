import type { Sql } from '../database.ts'

/** Collections that something new can go to. */

export interface MoveTarget {
  id: string
  connection_id: string
  itemKind: 'task' | 'event'
  writable: number
  place: string
}

export interface ImportTarget {
  id: string
  connectionId: string
  itemKind: 'task' | 'event'
}

export interface HomeOfNew {
  id: string
  connection_id: string
  itemKind: 'task' | 'event'
  writable: number
  takes_part: number
  place: string
}

export const targetOfMove = (sql: Sql, p: { to: string; workspaceId: string }): Promise<MoveTarget | null> =>
  sql.one(
    `SELECT k.id, k.connection_id, k.item_kind AS itemKind, k.writable, CONCAT(n.name, ' · ', k.name) AS place
     FROM collections k JOIN connections n ON n.id = k.connection_id
     WHERE k.id = :to AND k.workspace_id = :workspaceId AND k.takes_part = 1`,
    p,
  )

export const targetOfImport = (
  sql: Sql,
  p: { id: string | null; workspaceId: string; itemKind: string },
): Promise<ImportTarget | null> =>
  sql.one(
    `SELECT id, connection_id AS connectionId, item_kind AS itemKind FROM collections
       WHERE id = :id AND workspace_id = :workspaceId AND item_kind = :itemKind AND writable = 1 AND takes_part = 1`,
    p,
  )

/** Where something new goes: a list that was chosen, or one of our own by its name at our own service. */
export const homeOfNew = (
  sql: Sql,
  p: { workspaceId: string; into: string | null; ownList: string },
): Promise<HomeOfNew | null> =>
  sql.one(
    `SELECT k.id, k.connection_id, k.item_kind AS itemKind, k.writable, k.takes_part, CONCAT(n.name, ' · ', k.name) AS place
     FROM collections k JOIN connections n ON n.id = k.connection_id WHERE k.workspace_id = :workspaceId
       AND ${p.into === null ? `n.kind = 'own' AND k.remote_id = :ownList` : 'k.id = :into'}`,
    p,
  )
