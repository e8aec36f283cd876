import type { Terms, ServiceDescription } from '@loom/connectors'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** The two sides of a rule, with all that planning has to know of them. */

export const SIDE = `SELECT c.id, c.connection_id, c.item_kind AS itemKind, c.writable, c.meaning, n.zone, n.kind, n.description, n.scope,
    n.address, n.workspace_id, c.remote_id, w.zone AS workspace_zone
  FROM collections c JOIN connections n ON n.id = c.connection_id JOIN workspaces w ON w.id = c.workspace_id`

export interface SideRow {
  id: string
  remote_id: string
  address: string
  workspace_id: string
  connection_id: string
  itemKind: 'task' | 'event'
  writable: number
  zone: string | null
  kind: string
  description: Json<ServiceDescription> | null
  scope: Json<unknown>
  meaning: Json<unknown> | null
  workspace_zone: string
}

export const healthOfSides = (
  sql: Sql,
  p: { a: string; b: string },
): Promise<
  {
    name: string
    trouble: string | null
    state: string
    synced_at: number | null
    takes_part: number
  }[]
> =>
  sql.rows(
    `SELECT c.name, c.trouble, c.synced_at, c.takes_part, n.state FROM collections c
     JOIN connections n ON n.id = c.connection_id WHERE c.id IN (:a, :b)`,
    p,
  )

/** The first of these that was never read to its end. */
export const firstUnread = (sql: Sql, p: { ids: readonly string[] }): Promise<{ name: string } | null> =>
  sql.one('SELECT name FROM collections WHERE id IN (:ids) AND synced_at IS NULL ORDER BY name LIMIT 1', p)

/** The lists and calendars of a workspace that cannot be found at their services. */
export const vanishedLists = async (sql: Sql, p: { home: string }): Promise<ReadonlySet<string>> => {
  const rows = await sql.rows<{ id: string }>(
    `SELECT id FROM collections
     WHERE workspace_id = (SELECT workspace_id FROM collections WHERE id = :home) AND trouble IS NOT NULL`,
    p,
  )
  return new Set(rows.map(r => r.id))
}

export const sideRows = (sql: Sql, p: { a: string; b: string }): Promise<SideRow[]> =>
  sql.rows(`${SIDE} WHERE c.id IN (:a, :b)`, p)

export const sideRow = (sql: Sql, p: { id: string }): Promise<SideRow | null> =>
  sql.one(`${SIDE} WHERE c.id = :id`, p)

export const unknownIn = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<{ name: string; unknown_statuses: Json<string[]>; terms: Json<Terms>; problems: number }[]> =>
  sql.rows(
    `SELECT c.name, c.unknown_statuses, c.terms, (SELECT COUNT(*) FROM problems p WHERE p.collection_id = c.id) AS problems
     FROM collections c WHERE c.id IN (:ids)`,
    p,
  )

export const describedWritable = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<{ name: string; kind: string; description: Json<ServiceDescription> | null }[]> =>
  sql.rows(
    `SELECT DISTINCT n.name, n.kind, n.description FROM collections c JOIN connections n ON n.id = c.connection_id
     WHERE c.id IN (:ids) AND c.writable = 1 ORDER BY n.name`,
    p,
  )

export const collectionsOfPair = (
  sql: Sql,
  p: { workspaceId: string; a: string; b: string },
): Promise<{ id: string; itemKind: string; writable: number; name: string }[]> =>
  sql.rows(
    'SELECT id, item_kind AS itemKind, writable, name FROM collections WHERE workspace_id = :workspaceId AND id IN (:a, :b)',
    p,
  )

export const countKinds = (sql: Sql, p: { ids: readonly string[] }): Promise<{ n: number } | null> =>
  sql.one('SELECT COUNT(DISTINCT item_kind) AS n FROM collections WHERE id IN (:ids)', p)

/** Those that take part. */
/** A list, and what its service calls it. */
export interface NamedList {
  id: string
  remote_id: string
}

export const collectionsOfConnection = (
  sql: Sql,
  p: { workspaceId: string; itemKind: string; connection: string },
): Promise<NamedList[]> =>
  sql.rows(
    `SELECT id, remote_id FROM collections WHERE workspace_id = :workspaceId AND item_kind = :itemKind AND takes_part = 1
       AND connection_id = :connection`,
    p,
  )

/** Of these, those that take part. */
export const collectionsAmong = (
  sql: Sql,
  p: { workspaceId: string; itemKind: string; also: readonly string[] },
): Promise<NamedList[]> =>
  sql.rows(
    `SELECT id, remote_id FROM collections WHERE workspace_id = :workspaceId AND item_kind = :itemKind AND takes_part = 1
       AND id IN (:also)`,
    p,
  )
