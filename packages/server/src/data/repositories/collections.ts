import { Op } from 'sequelize'
import { changed, plain } from '../models/rows.ts'
import type { Terms, ServiceDescription } from '@loom/connectors'
import { type Json, json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Lists and calendars of a connection, how far each was read, and what its words mean. */

export interface CollectionRow {
  id: string
  remote_id: string
  sync_token: string | null
  synced_at: number | null
  baseline_at: number | null
  trouble: string | null
  import_cursor: string | null
  import_done: number
  unknown_statuses: Json<string[]>
  /** How many items of it were not understood when this look began. */
  problems: number
}

export interface CollectionHome {
  id: string
  connection_id: string
}

export interface Described {
  kind: string
  description: Json<ServiceDescription> | null
  /** What its words are, and what a person has said that they mean, if anybody has. */
  terms: Json<Terms>
  meaning: Json<unknown> | null
}

export interface Home {
  /** Of its connection. */
  kind: string
  address: string
  id: string
  remote_id: string
  connection_id: string
  writable: number
  owner_id: string | null
  /** Of the connection's settings. */
  version: number
}

export const meaningsOfCollections = (
  sql: Sql,
  p: { connectionId: string },
): Promise<{ remote_id: string; meaning: Json<unknown> }[]> =>
  plain(
    sql.models.collections.findAll({
      attributes: ['remote_id', 'meaning'],
      where: { connection_id: p.connectionId, meaning: { [Op.ne]: null } },
      ...sql.within,
    }),
  )

export const addCollection = (
  sql: Sql,
  p: {
    id: string
    remoteId: string
    name: string
    dye: string
    itemKind: string
    writable: number
    takesPart: number
    terms: Json<Terms>
    meaning: Json<unknown> | null
    parent: string | null
    whyNot: string | null
    ownerId: string | null
    workspaceId: string
    connectionId: string
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO collections (id, workspace_id, connection_id, remote_id, name, dye, item_kind, writable, takes_part,
       terms, meaning, parent_remote_id, why_not, owner_id)
     VALUES (:id, :workspaceId, :connectionId, :remoteId, :name, :dye, :itemKind, :writable, :takesPart, :terms, :meaning,
       :parent, :whyNot, :ownerId)
     ON DUPLICATE KEY UPDATE name = VALUES(name), writable = VALUES(writable), terms = VALUES(terms),
       parent_remote_id = VALUES(parent_remote_id), why_not = VALUES(why_not)`,
    p,
  )

/** Ours, of a list or calendar that its service calls so. Throws where there is none. */
export async function idAtService(sql: Sql, p: { connection: string; remoteId: string }): Promise<string> {
  const row = await sql.one<{ id: string }>(
    'SELECT id FROM collections WHERE connection_id = :connection AND remote_id = :remoteId',
    p,
  )
  if (!row) throw new Error('what was made just now is not there')
  return row.id
}

export const countCollections = (sql: Sql, p: { workspaceId: string }): Promise<{ n: number } | null> =>
  sql.models.collections
    .count({ where: { workspace_id: p.workspaceId }, transaction: sql.within.transaction })
    .then(n => ({ n }))

export const collectionsFound = (
  sql: Sql,
  p: { id: string },
): Promise<
  {
    remote_id: string
    name: string
    terms: Json<Terms>
    why_not: string | null
  }[]
> =>
  plain(
    sql.models.collections.findAll({
      attributes: ['remote_id', 'name', 'terms', 'why_not'],
      where: { connection_id: p.id },
      ...sql.within,
    }),
  )

export const setImportProgress = (
  sql: Sql,
  p: { id: string; done: number; total: number | null; cursor: string | null },
): Promise<number> =>
  sql.run(
    `UPDATE collections SET import_done = :done, import_total = IFNULL(:total, import_total), import_cursor = :cursor
         WHERE id = :id`,
    p,
  )

export const setUnknownStatuses = (sql: Sql, p: { id: string; unknown: Json<string[]> }): Promise<number> =>
  changed(
    sql.models.collections.update(
      { unknown_statuses: p.unknown },
      { where: { id: p.id }, transaction: sql.within.transaction },
    ),
  )

export const collectionAt = (
  sql: Sql,
  p: { id: string; remoteId: string },
): Promise<{
  id: string
  synced_at: number | null
  baseline_at: number | null
  unknown_statuses: Json<string[]>
} | null> =>
  plain(
    sql.models.collections.findOne({
      attributes: ['id', 'synced_at', 'baseline_at', 'unknown_statuses'],
      where: { connection_id: p.id, remote_id: p.remoteId },
      ...sql.within,
    }),
  )

export const syncedAtOf = (
  sql: Sql,
  p: { collectionId: string },
): Promise<{ synced_at: number | null } | null> =>
  plain(
    sql.models.collections.findOne({
      attributes: ['synced_at'],
      where: { id: p.collectionId },
      ...sql.within,
    }),
  )

export const remoteIdOfCollection = (sql: Sql, p: { id: string }): Promise<{ remote_id: string } | null> =>
  plain(sql.models.collections.findOne({ attributes: ['remote_id'], where: { id: p.id }, ...sql.within }))

export const forgetSyncTokens = (sql: Sql, p: { connectionId: string }): Promise<number> =>
  sql.run(
    'UPDATE collections SET sync_token = NULL WHERE connection_id = :connectionId AND import_cursor IS NULL',
    p,
  )

export const collectionsToRead = (sql: Sql, p: { connectionId: string }): Promise<CollectionRow[]> =>
  sql.rows(
    `SELECT id, remote_id, sync_token, synced_at, trouble, import_cursor, import_done, unknown_statuses, baseline_at,
       (SELECT COUNT(*) FROM problems p WHERE p.collection_id = c.id) AS problems
     FROM collections c WHERE connection_id = :connectionId AND takes_part = 1`,
    p,
  )

export const advanceSyncToken = (
  sql: Sql,
  p: { id: string; token: string | null; begun: string | null; at: number; version: number },
): Promise<number> =>
  sql.run(
    `UPDATE collections c JOIN connections n ON n.id = c.connection_id
       SET c.sync_token = :token, c.synced_at = :at, c.import_cursor = NULL, c.baseline_at = IFNULL(c.baseline_at, :at)
       WHERE c.id = :id AND n.settings_version = :version AND c.sync_token <=> :begun`,
    p,
  )

export const setCollectionTrouble = (sql: Sql, p: { id: string; trouble: string | null }): Promise<number> =>
  changed(
    sql.models.collections.update(
      { trouble: p.trouble },
      { where: { id: p.id }, transaction: sql.within.transaction },
    ),
  )

export const connectionsOfCollections = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<CollectionHome[]> =>
  plain(
    sql.models.collections.findAll({
      attributes: ['id', 'connection_id'],
      where: { id: { [Op.in]: [...p.ids] } },
      ...sql.within,
    }),
  )

/** @param ownerId of whose connection it is, where several have one of that name: the one that takes part */
export const collectionNamed = (
  sql: Sql,
  p: { workspaceId: string; name: string; ownerId?: string },
): Promise<{ id: string } | null> =>
  plain(
    sql.models.collections.findOne({
      attributes: ['id'],
      where: { workspace_id: p.workspaceId, name: p.name, ...(p.ownerId !== undefined && { takes_part: 1 }) },
      ...(p.ownerId !== undefined && {
        include: [{ association: 'connection', attributes: [], where: { owner_id: p.ownerId } }],
      }),
      ...sql.within,
    }),
  )

export const describedCollection = (sql: Sql, p: { collectionId: string }): Promise<Described | null> =>
  sql.one(
    `SELECT n.kind, n.description, k.terms, k.meaning FROM collections k
     JOIN connections n ON n.id = k.connection_id WHERE k.id = :collectionId`,
    p,
  )

export const describedCollections = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<(Pick<Home, 'id' | 'version'> & Described)[]> =>
  sql.rows(
    `SELECT k.id, n.settings_version AS version, n.kind, n.description, k.terms, k.meaning FROM collections k
       JOIN connections n ON n.id = k.connection_id WHERE k.id IN (:ids)`,
    p,
  )

/** The service that an address leads to: `http-json https://board.example`. */
export const serviceOf = ({ kind, address }: Pick<Home, 'kind' | 'address'>): string =>
  `${kind} ${URL.canParse(address) ? new URL(address).origin : address}`

export const homesOfWorkspace = (sql: Sql, p: { workspaceId: string }): Promise<Home[]> =>
  sql.rows(
    `SELECT k.id, k.remote_id, k.connection_id, k.writable, IFNULL(k.owner_id, n.owner_id) AS owner_id, n.settings_version AS version, n.kind, n.address
       FROM collections k
       JOIN connections n ON n.id = k.connection_id WHERE k.workspace_id = :workspaceId AND k.takes_part = 1
       ORDER BY k.id`,
    p,
  )

/**
 * The same lists as these, by other accounts of the same service: it calls them alike, and they have something in
 * common, as another account may have a list of that name of its own.
 */
export async function sameLists(
  sql: Sql,
  p: { workspaceId: string; ids: readonly string[] },
): Promise<string[]> {
  if (p.ids.length === 0) return []
  const rows = await sql.rows<{ id: string; kind: string; address: string; here: string }>(
    `SELECT DISTINCT k.id, n.kind, c.address, n.address AS here FROM collections a
       JOIN connections n ON n.id = a.connection_id
       JOIN connections c ON c.workspace_id = n.workspace_id AND c.id <> n.id AND c.kind = n.kind
       JOIN collections k ON k.connection_id = c.id AND k.remote_id = a.remote_id AND k.item_kind = a.item_kind
     WHERE a.workspace_id = :workspaceId AND a.id IN (:ids) AND EXISTS (
       SELECT 1 FROM mirrors x JOIN mirrors y ON y.connection_id = k.connection_id AND y.uid = x.uid
         AND y.collection_id = k.id AND y.presence = 'present'
       WHERE x.collection_id = a.id AND x.presence = 'present')`,
    p,
  )
  return rows
    .filter(({ kind, address, here }) => serviceOf({ kind, address }) === serviceOf({ kind, address: here }))
    .map(r => r.id)
}

export const termsOf = (sql: Sql, p: { id: string }): Promise<{ terms: Json<Terms> } | null> =>
  plain(sql.models.collections.findOne({ attributes: ['terms'], where: { id: p.id }, ...sql.within }))

export const setDye = (sql: Sql, p: { id: string; remoteId: string; dye: string }): Promise<number> =>
  changed(
    sql.models.collections.update(
      { dye: p.dye },
      { where: { connection_id: p.id, remote_id: p.remoteId }, transaction: sql.within.transaction },
    ),
  )

export const chooseAnew = (sql: Sql, p: { id: string; chosen: readonly string[] }): Promise<number> =>
  sql.run(
    `UPDATE collections SET takes_part = (remote_id IN (:chosen) AND why_not IS NULL), sync_token = NULL, baseline_at = NULL,
         import_cursor = NULL, import_done = 0, import_total = NULL WHERE connection_id = :id`,
    p,
  )

export const setMeaning = (
  sql: Sql,
  p: { id: string; remoteId: string; meaning: Json<unknown> },
): Promise<number> =>
  changed(
    sql.models.collections.update(
      { meaning: p.meaning, unknown_statuses: json([]) },
      { where: { connection_id: p.id, remote_id: p.remoteId }, transaction: sql.within.transaction },
    ),
  )

export const choose = (sql: Sql, p: { id: string; chosen: readonly string[] }): Promise<number> =>
  sql.run(
    `UPDATE collections SET sync_token = IF(takes_part = 1, sync_token, NULL),
             takes_part = (remote_id IN (:chosen) AND why_not IS NULL) WHERE connection_id = :id`,
    p,
  )

export const countCollectionsOf = (sql: Sql, p: { id: string }): Promise<{ n: number } | null> =>
  sql.models.collections
    .count({ where: { connection_id: p.id }, transaction: sql.within.transaction })
    .then(n => ({ n }))

export const leaveUnfinished = (sql: Sql, p: { id: string }): Promise<number> =>
  changed(
    sql.models.collections.update(
      { takes_part: 0, import_done: 0, import_total: null, import_cursor: null },
      { where: { connection_id: p.id, synced_at: null }, transaction: sql.within.transaction },
    ),
  )

export const connectionOfCollection = (
  sql: Sql,
  p: { collectionId: string },
): Promise<{ connection_id: string } | null> =>
  plain(
    sql.models.collections.findOne({
      attributes: ['connection_id'],
      where: { id: p.collectionId },
      ...sql.within,
    }),
  )
