import type { Sql } from '../database.ts'
import { MIRRORS, type MirrorRow } from './mirrors.ts'

/** What an item came as, kept to be written back unchanged and to be read again by a newer boundary. */

export const ORIGINALS_AT_ONCE = 200

export type KeptOriginal = MirrorRow & { original: string }

export interface HeldRow extends MirrorRow {
  uid: string
  writable: number
  original: string | null
}

export const originalOf = (sql: Sql, p: { id: string }): Promise<{ original: string } | null> =>
  sql.one('SELECT original FROM payloads WHERE mirror_id = :id', p)

/** Null where it is kept at no service, or is gone. */
export const placeAndOriginalOf = (
  sql: Sql,
  p: { id: string },
): Promise<{ kind: string; uid: string; ownerId: string | null; original: string | null } | null> =>
  sql.one(
    `SELECT n.kind, m.uid, IFNULL(k.owner_id, n.owner_id) AS ownerId, p.original FROM mirrors m
       JOIN connections n ON n.id = m.connection_id JOIN collections k ON k.id = m.collection_id
       LEFT JOIN payloads p ON p.mirror_id = m.id
     WHERE m.id = :id AND m.kind = 'event' AND m.presence = 'present'`,
    p,
  )

export const keptOriginals = (sql: Sql, p: { id: string; after: string }): Promise<KeptOriginal[]> =>
  sql.rows(
    `${MIRRORS.replace('SELECT', 'SELECT p.original,')}
       JOIN collections k ON k.id = m.collection_id JOIN payloads p ON p.mirror_id = m.id
       WHERE m.connection_id = :id AND m.presence = 'present' AND m.series_id IS NULL AND m.id > :after
       ORDER BY m.id LIMIT ${ORIGINALS_AT_ONCE}`,
    p,
  )

export const originalsOfMirrors = (
  sql: Sql,
  p: { part: readonly string[] },
): Promise<{ mirror_id: string; original: string }[]> =>
  sql.rows('SELECT mirror_id, original FROM payloads WHERE mirror_id IN (:part)', p)

export const mirrorWithOriginal = (
  sql: Sql,
  p: { mirrorId: string; workspaceId: string },
): Promise<(MirrorRow & { original: string | null }) | null> =>
  sql.one(
    MIRRORS.replace('SELECT', 'SELECT p.original,') +
      ' LEFT JOIN payloads p ON p.mirror_id = m.id WHERE m.id = :mirrorId AND m.workspace_id = :workspaceId',
    p,
  )

export const originalWithHome = (
  sql: Sql,
  p: { mirrorId: string },
): Promise<{ original: string; connection_id: string } | null> =>
  sql.one(
    `SELECT p.original, m.connection_id FROM payloads p JOIN mirrors m ON m.id = p.mirror_id
     WHERE m.id = :mirrorId`,
    p,
  )

export const itemsToJudge = (
  sql: Sql,
  p: { id: string; after: string },
): Promise<(MirrorRow & { remote: string; original: string })[]> =>
  sql.rows(
    MIRRORS.replace('SELECT', 'SELECT k.remote_id AS remote, p.original,') +
      ` JOIN collections k ON k.id = m.collection_id JOIN payloads p ON p.mirror_id = m.id
         WHERE m.connection_id = :id AND m.presence IN ('present', 'outside') AND m.id > :after ORDER BY m.id LIMIT 500`,
    p,
  )

export const heldWithUids = (
  sql: Sql,
  p: { workspaceId: string; uids: readonly string[] },
): Promise<HeldRow[]> =>
  sql.rows(
    `${MIRRORS.replace('SELECT', 'SELECT m.uid, k.writable, IF(m.recurring = 1, p.original, NULL) AS original,')}
       JOIN collections k ON k.id = m.collection_id LEFT JOIN payloads p ON p.mirror_id = m.id
       WHERE m.connection_id IN (SELECT id FROM connections WHERE workspace_id = :workspaceId)
         AND m.uid IN (:uids) AND m.presence = 'present' AND k.takes_part = 1`,
    p,
  )

export const itemsToExport = (
  sql: Sql,
  p: { workspaceId: string; after: string; collections: readonly string[] },
): Promise<(MirrorRow & { original: string | null })[]> =>
  sql.rows(
    `${MIRRORS.replace('SELECT', 'SELECT p.original,')} JOIN collections k ON k.id = m.collection_id
       LEFT JOIN payloads p ON p.mirror_id = m.id
       WHERE m.workspace_id = :workspaceId AND m.presence = 'present' AND k.takes_part = 1 AND m.id > :after
         AND k.id IN (:collections) ORDER BY m.id LIMIT 500`,
    p,
  )
