import type { Terms } from '@loom/connectors'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Collections as screens list them. */

export interface PlaceRow {
  id: string
  connection_id: string
  place: string
}

export interface SourceRow {
  id: string
  name: string
  dye: string
  itemKind: 'task' | 'event'
  writable: number
  service: string
  connection: string
  own: number
  owner: string | null
  /** Properties that its service has no room for, or takes from nobody. */
  unsupported: readonly string[]
}

export interface NamedCollection {
  id: string
  service: string
  list: string
}

export const placesOfCollections = (sql: Sql, p: { ids: readonly string[] }): Promise<PlaceRow[]> =>
  sql.rows(
    `SELECT k.id, k.connection_id, CONCAT(n.name, ' · ', k.name) AS place FROM collections k
     JOIN connections n ON n.id = k.connection_id WHERE k.id IN (:ids)`,
    p,
  )

export const namesOfCollections = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<{ id: string; name: string }[]> =>
  sql.rows('SELECT id, name FROM collections WHERE id IN (:ids)', p)

export const collectionsOnCloth = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<Omit<SourceRow, 'unsupported'>[]> =>
  sql.rows(
    `SELECT k.id, k.name, k.dye, k.item_kind AS itemKind, k.writable, n.name AS service, n.id AS connection, n.kind = 'own' AS own,
         m.name AS owner
       FROM collections k JOIN connections n ON n.id = k.connection_id LEFT JOIN members m ON m.id = n.owner_id
       WHERE k.workspace_id = :workspaceId AND k.takes_part = 1 ORDER BY n.kind = 'own', n.name, k.item_kind DESC, k.name`,
    p,
  )

export const collectionSettings = (
  sql: Sql,
  p: { id: string },
): Promise<
  {
    remoteId: string
    name: string
    itemKind: 'task' | 'event'
    takesPart: number
    parent: string | null
    whyNot: string | null
    dye: string
    terms: Json<Terms>
    meaning: Json<unknown> | null
    unknown: Json<string[]>
  }[]
> =>
  sql.rows(
    `SELECT remote_id AS remoteId, name, item_kind AS itemKind, takes_part AS takesPart, parent_remote_id AS parent, why_not AS whyNot,
           dye, terms, meaning, unknown_statuses AS unknown FROM collections WHERE connection_id = :id ORDER BY name`,
    p,
  )

export const placeOfCollection = (sql: Sql, p: { collectionId: string }): Promise<{ place: string } | null> =>
  sql.one(
    `SELECT CONCAT(n.name, ' · ', c.name) AS place FROM collections c JOIN connections n ON n.id = c.connection_id
     WHERE c.id = :collectionId`,
    p,
  )

export const collectionNames = (sql: Sql, p: { workspaceId: string }): Promise<NamedCollection[]> =>
  sql.rows(
    `SELECT c.id, n.name AS service, c.name AS list FROM collections c JOIN connections n ON n.id = c.connection_id
       WHERE c.workspace_id = :workspaceId AND c.takes_part = 1`,
    p,
  )

export const collectionsInBrief = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<
  {
    id: string
    name: string
    service: string
    dye: string
    itemKind: 'task' | 'event'
    items: number
  }[]
> =>
  sql.rows(
    `SELECT c.id, c.name, n.name AS service, c.dye, c.item_kind AS itemKind,
                 (SELECT COUNT(*) FROM mirrors m WHERE m.collection_id = c.id AND m.presence = 'present') AS items
               FROM collections c JOIN connections n ON n.id = c.connection_id WHERE c.id IN (:ids)`,
    p,
  )

/** A list or calendar, and how far it has been read. */
export interface CollectionOverview {
  id: string
  connectionId: string
  remoteId: string
  name: string
  dye: string
  itemKind: 'task' | 'event'
  writable: number
  takesPart: number
  items: number
  outside: number
  problems: number
  trouble: string | null
  syncedAt: number | null
  whyNot: string | null
  parent: string | null
  unknown: Json<string[]>
  importDone: number
  importTotal: number | null
  terms: Json<Terms>
  meaning: Json<unknown> | null
}

export const collectionsOverview = (sql: Sql, p: { workspaceId: string }): Promise<CollectionOverview[]> =>
  sql.rows(
    `SELECT k.id, k.connection_id AS connectionId, k.remote_id AS remoteId, k.name, k.dye, k.item_kind AS itemKind, k.writable,
           k.takes_part AS takesPart, k.trouble, k.synced_at AS syncedAt, k.why_not AS whyNot,
           k.parent_remote_id AS parent, k.unknown_statuses AS unknown, k.import_done AS importDone,
           k.import_total AS importTotal, k.terms, k.meaning,
           (SELECT COUNT(*) FROM mirrors m WHERE m.collection_id = k.id AND m.presence = 'present') AS items,
           (SELECT COUNT(*) FROM mirrors m WHERE m.collection_id = k.id AND m.presence = 'outside') AS outside,
           (SELECT COUNT(*) FROM problems p WHERE p.collection_id = k.id) AS problems
         FROM collections k WHERE k.workspace_id = :workspaceId ORDER BY k.name`,
    p,
  )

export const namesOfLists = async (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<{ id: string; name: string }[]> =>
  p.ids.length === 0 ? [] : sql.rows('SELECT id, name FROM collections WHERE id IN (:ids) ORDER BY name', p)
