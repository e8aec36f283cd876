import type { Sql } from '../database.ts'
import { COLUMNS, type MirrorRow, MIRRORS } from './mirrors.ts'

/** Series and the dates that were made of them. */

export const SERIES = `SELECT ${COLUMNS}, m.workspace_id, p.original, k.synced_at, u.as_of FROM mirrors m
  JOIN payloads p ON p.mirror_id = m.id JOIN collections k ON k.id = m.collection_id
  LEFT JOIN own_layer o ON o.mirror_id = m.id LEFT JOIN unrolled u ON u.series_id = m.id`

export interface SeriesRow extends MirrorRow {
  workspace_id: string
  original: string
  /** When its calendar was last read whole, epoch ms. */
  synced_at: number | null
  /** When that was at the last unrolling. */
  as_of: number | null
}

export const countDatesIn = (sql: Sql, p: { collectionId: string }): Promise<{ n: number } | null> =>
  sql.one(`SELECT COUNT(*) AS n FROM mirrors WHERE collection_id = :collectionId AND presence = 'date'`, p)

export const countTooOften = (
  sql: Sql,
  p: { collections: readonly string[] },
): Promise<{ n: number } | null> =>
  sql.one(
    `SELECT COUNT(*) AS n FROM unrolled u JOIN mirrors m ON m.id = u.series_id
     WHERE u.too_often = 1 AND m.collection_id IN (:collections) AND m.presence = 'present'`,
    p,
  )

export const anyUnrolled = (sql: Sql, p: { workspaceId: string }): Promise<unknown> =>
  sql.one('SELECT series_id FROM unrolled WHERE workspace_id = :workspaceId LIMIT 1', p)

export const seriesToLookAt = (
  sql: Sql,
  p: { workspaceId: string; everything: boolean; collections: readonly string[] },
): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT m.id FROM unrolled u JOIN mirrors m ON m.id = u.series_id
       WHERE u.workspace_id = :workspaceId AND (:everything OR m.change_seq > u.seq)
     UNION SELECT m.id FROM mirrors m LEFT JOIN unrolled u ON u.series_id = m.id
       WHERE m.workspace_id = :workspaceId AND m.far_reaching = 1 AND m.recurring = 1 AND m.presence = 'present'
         AND u.series_id IS NULL AND m.collection_id IN (:collections)`,
    p,
  )

export const seriesRow = (sql: Sql, p: { seriesId: string }): Promise<SeriesRow | null> =>
  sql.one(`${SERIES} WHERE m.id = :seriesId`, p)

export const putUnrolled = (
  sql: Sql,
  p: { id: string; workspaceId: string; seq: number; asOf: number; tooOften: number },
): Promise<void> =>
  sql.insert(
    `INSERT INTO unrolled (series_id, workspace_id, seq, as_of, too_often)
     VALUES (:id, :workspaceId, :seq, :asOf, :tooOften)
     ON DUPLICATE KEY UPDATE seq = VALUES(seq), as_of = VALUES(as_of), too_often = VALUES(too_often)`,
    p,
  )

export const datesOfSeries = (sql: Sql, p: { id: string }): Promise<MirrorRow[]> =>
  sql.rows(`${MIRRORS} WHERE m.series_id = :id`, p)

export const seriesIn = (sql: Sql, p: { collections: readonly string[] }): Promise<SeriesRow[]> =>
  sql.rows(
    `${SERIES} WHERE m.collection_id IN (:collections) AND m.recurring = 1 AND m.presence = 'present'`,
    p,
  )

export const isUnrolled = (sql: Sql, p: { id: string }): Promise<unknown> =>
  sql.one('SELECT series_id FROM unrolled WHERE series_id = :id', p)

export const seriesWithDates = (sql: Sql, p: { collections: readonly string[] }): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT DISTINCT m.series_id AS id FROM mirrors m
         WHERE m.collection_id IN (:collections) AND m.presence = 'date'`,
    p,
  )

export const dateAt = (sql: Sql, p: { id: string; occurrence: string }): Promise<{ id: string } | null> =>
  sql.one(
    `SELECT id FROM mirrors WHERE series_id = :id AND occurrence = :occurrence AND presence = 'date'`,
    p,
  )

export const datesAt = (sql: Sql, p: { id: string; occurrence: string | null }): Promise<{ id: string }[]> =>
  sql.rows(
    'SELECT id FROM mirrors WHERE series_id = :id AND (:occurrence IS NULL OR occurrence = :occurrence)',
    p,
  )
