import type { Change } from '../change.ts'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'
import { PRIVACY, type PrivacyRow } from './privacy.ts'

/** The numbered changes of a workspace, for those who look on. */

/** Beyond this many, all of it is read anew. */
export const MOST_CHANGED = 500

/** Every change that is numbered as exact names its items (`Change`). */
const CHANGED = 'm.workspace_id = :workspaceId AND m.change_seq > :from'

const ITEMS = `SELECT m.id FROM mirrors m WHERE ${CHANGED}
  UNION SELECT t.b_mirror FROM mirrors m JOIN ties t ON t.a_mirror = m.id AND t.released IS NULL
    WHERE ${CHANGED} AND t.b_mirror IS NOT NULL
  UNION SELECT t.a_mirror FROM mirrors m JOIN ties t ON t.b_mirror = m.id AND t.released IS NULL
    WHERE ${CHANGED} AND t.a_mirror IS NOT NULL
  LIMIT ${MOST_CHANGED + 1}`

export const changesFrom = (
  sql: Sql,
  p: { workspaceId: string; from: number },
): Promise<{ latest: number; body: Json<Change> | null }[]> =>
  sql.rows(
    `SELECT w.change_seq AS latest, c.body FROM change_counters w
       LEFT JOIN changes c ON c.workspace_id = w.workspace_id AND c.seq > :from
       WHERE w.workspace_id = :workspaceId LIMIT ${MOST_CHANGED + 1}`,
    p,
  )

export const itemsChanged = (sql: Sql, p: { workspaceId: string; from: number }): Promise<{ id: string }[]> =>
  sql.rows(ITEMS, p)

/** Items by the number of their last change, with what decides who may know of them; once for each whom one is given to. */
export const whoseChanged = (
  sql: Sql,
  p: { workspaceId: string; from: number },
): Promise<(Pick<PrivacyRow, 'collection_id' | 'privacy'> & { seq: number; given_to: string | null })[]> =>
  sql.rows(
    `SELECT DISTINCT m.change_seq AS seq, m.collection_id, ${PRIVACY} AS privacy, p.member_id AS given_to FROM mirrors m
       LEFT JOIN own_layer o ON o.mirror_id = IFNULL(m.series_id, m.id)
       LEFT JOIN people p ON p.connection_id = m.connection_id AND p.member_id IS NOT NULL AND m.kind = 'task'
         AND JSON_CONTAINS(m.item, JSON_QUOTE(p.remote_id), '$.assignees')
     WHERE ${CHANGED} LIMIT ${MOST_CHANGED + 1}`,
    p,
  )

/** Connections by id, with whose they are and the lists that take part by them: of others nobody is told anything. */
export const connectionsToldOf = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<{ id: string; owner_id: string | null; list: string | null }[]> =>
  sql.rows(
    `SELECT n.id, n.owner_id, k.id AS list FROM connections n
       LEFT JOIN collections k ON k.connection_id = n.id AND k.takes_part = 1 WHERE n.id IN (:ids)`,
    p,
  )
