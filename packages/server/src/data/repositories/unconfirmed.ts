import type { Sql } from '../database.ts'
import { type IntentRow, INTENT_COLUMNS } from './intents.ts'
import { RULE_NAME } from './rules.ts'

/** New items of which nobody can tell whether they were made. */

/** A creation of which nobody can tell whether it took effect. */
export interface UnconfirmedView {
  id: string
  title: string
  kind: 'task' | 'event'
  rule: string | null
  ruleId: string | null
  place: string
  reason: string
  since: number
}

/** Whose it is to know of. */
export interface Whose {
  collectionId: string
  memberId: string | null
  a: string | null
  b: string | null
}

export const lockUnconfirmed = (sql: Sql, p: { id: string }): Promise<{ asks_since: number | null } | null> =>
  sql.one(`SELECT asks_since FROM intents WHERE id = :id AND state = 'open' AND attempts > 0 FOR UPDATE`, p)

export const setUnconfirmed = (
  sql: Sql,
  p: { id: string; next: number; reason: string; tried: number | null; since: number | null },
): Promise<number> =>
  sql.run(
    'UPDATE intents SET next_try_at = :next, reason = :reason, tried_at = :tried, asks_since = :since WHERE id = :id',
    p,
  )

export const unconfirmedIntents = (
  sql: Sql,
  p: { ids: readonly string[]; workspaceId: string },
): Promise<IntentRow[]> =>
  sql.rows(
    `SELECT ${INTENT_COLUMNS}, attempts AS tries FROM intents
     WHERE id IN (:ids) AND workspace_id = :workspaceId AND state = 'open' AND asks_since IS NOT NULL`,
    p,
  )

export const unconfirmedOverview = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<(UnconfirmedView & Whose)[]> =>
  sql.rows(
    `SELECT i.id, i.title, k.item_kind AS kind, IF(r.id IS NULL, NULL, ${RULE_NAME}) AS rule, r.id AS ruleId,
       CONCAT(n.name, ' · ', k.name) AS place, IFNULL(i.reason, '') AS reason, i.asks_since AS since,
       i.collection_id AS collectionId, i.member_id AS memberId, t.a_mirror AS a, t.b_mirror AS b
     FROM intents i JOIN collections k ON k.id = i.collection_id JOIN connections n ON n.id = i.connection_id
       LEFT JOIN ties t ON t.id = i.tie_id LEFT JOIN rules r ON r.id = i.rule_id LEFT JOIN collections a ON a.id = r.a_collection
       LEFT JOIN collections b ON b.id = r.b_collection
     WHERE i.workspace_id = :workspaceId AND i.state = 'open' AND i.asks_since IS NOT NULL
     ORDER BY i.asks_since, i.id LIMIT 500`,
    p,
  )

export const tryNow = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run('UPDATE intents SET next_try_at = 0 WHERE id = :id', p)

/** As if it had never been tried. */
export const makeAgain = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run(
    `UPDATE intents SET next_try_at = 0, attempts = 0, tried_at = NULL, asks_since = NULL, reason = NULL
     WHERE id = :id`,
    p,
  )
