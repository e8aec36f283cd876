import { type MirrorRow, COLUMNS } from './mirrors.ts'
import type { Sql } from '../database.ts'

/** What has changed since a rule was last planned. */

/** A change of more items than this is planned in full: that is quicker than naming each of them. */
export const MOST_NAMED = 20_000

export interface ChangedMirror {
  id: string
  collection_id: string
  presence: MirrorRow['presence']
}

export const homesOfMirrors = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<{ id: string; collection_id: string; connection_id: string }[]> =>
  sql.rows('SELECT id, collection_id, connection_id FROM mirrors WHERE id IN (:ids)', p)

export const countStanding = (sql: Sql, p: { id: string }): Promise<{ n: number } | null> =>
  sql.one(
    `SELECT COUNT(*) AS n FROM mirrors WHERE collection_id = :id AND presence IN ('present', 'date', 'missing')`,
    p,
  )

export const seriesOfDates = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<{ id: string; series_id: string }[]> =>
  sql.rows('SELECT id, series_id FROM mirrors WHERE id IN (:ids) AND series_id IS NOT NULL', p)

export const changedMirrors = (sql: Sql, p: { since: number; home: string }): Promise<ChangedMirror[]> =>
  sql.rows(
    `SELECT m.id, m.collection_id, m.presence FROM mirrors m WHERE m.change_seq > :since
       AND m.workspace_id = (SELECT workspace_id FROM collections WHERE id = :home) LIMIT ${MOST_NAMED + 1}`,
    p,
  )

export const countPresentIn = (
  sql: Sql,
  p: { collections: readonly string[] },
): Promise<{ n: number } | null> =>
  sql.one(
    `SELECT COUNT(*) AS n FROM mirrors WHERE collection_id IN (:collections) AND presence = 'present'`,
    p,
  )

/**
 * Items that a rule may tie and that it has not tied, by their ids, a part at a time.
 * @param p.presence a rule of dates also takes `date`
 */
export const untiedAfter = (
  sql: Sql,
  p: {
    rule: string
    collections: readonly string[]
    presence: readonly string[]
    after: string
    most: number
  },
): Promise<MirrorRow[]> =>
  sql.rows(
    `SELECT ${COLUMNS} FROM mirrors m LEFT JOIN own_layer o ON o.mirror_id = m.id
       LEFT JOIN ties ta ON ta.a_mirror = m.id AND ta.rule_id = :rule AND ta.released IS NULL AND ta.role = 'mirror'
       LEFT JOIN ties tb ON tb.b_mirror = m.id AND tb.rule_id = :rule AND tb.released IS NULL
     WHERE m.collection_id IN (:collections) AND m.presence IN (:presence) AND ta.id IS NULL AND tb.id IS NULL
       AND NOT EXISTS (SELECT 1 FROM ties x WHERE x.b_mirror = m.id AND x.role <> 'mirror')
       AND m.id > :after ORDER BY m.id LIMIT :most`,
    p,
  )

/** Which of these uids something has, or had, at the account of a collection. */
export const uidsAmong = (
  sql: Sql,
  p: { collection: string; uids: readonly string[] },
): Promise<{ uid: string }[]> =>
  sql.rows(
    `SELECT uid FROM mirrors
     WHERE connection_id = (SELECT connection_id FROM collections WHERE id = :collection) AND uid IN (:uids)`,
    p,
  )

/** Of these, those whose uid something else at the same account bears as well. */
export const copiesAmong = (sql: Sql, p: { ids: readonly string[] }): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT DISTINCT m.id FROM mirrors m JOIN mirrors o ON o.connection_id = m.connection_id AND o.uid = m.uid
     WHERE m.id IN (:ids) AND o.id <> m.id AND o.presence <> 'gone' AND o.series_id IS NULL`,
    p,
  )
