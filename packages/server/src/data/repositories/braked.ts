import type { Loss } from '@loom/core'
import type { Sql } from '../database.ts'
import { RULE_NAME } from './rules.ts'

/** Removals that the brake holds until somebody decides. */

export const countRemovals = (sql: Sql, p: { id: string; since: number }): Promise<{ n: number } | null> =>
  sql.one(
    `SELECT (SELECT COUNT(*) FROM journal WHERE collection_id = :id AND removal = 1 AND at > :since AND outcome = 'done')
        + (SELECT COUNT(*) FROM intents WHERE collection_id = :id AND removal = 1 AND state IN ('open', 'waiting')) AS n`,
    p,
  )

/** Pairs that ended within the window because an item of this collection was deleted. */
export const countGonePairs = (
  sql: Sql,
  p: { id: string; workspaceId: string; since: number },
): Promise<{ n: number } | null> =>
  sql.one(
    `SELECT COUNT(*) AS n FROM ties t
       JOIN mirrors m ON m.id = IF(t.released = 'a-deleted', t.a_mirror, t.b_mirror)
     WHERE t.workspace_id = :workspaceId AND t.released_at > :since AND t.released IN ('a-deleted', 'b-deleted')
       AND m.collection_id = :id`,
    p,
  )

/** `go`: a person said yes; `none`: a counterpart that a person does not want. */
export const answeredTies = (
  sql: Sql,
  p: { rule: string },
): Promise<{ tie_id: string; answer: 'go' | 'none' }[]> =>
  sql.rows(`SELECT tie_id, answer FROM braked WHERE rule_id = :rule AND answer IN ('go', 'none')`, p)

/** How many of a collection's items that arrived at one look a rule has tied. */
export const countTiedOfLook = (
  sql: Sql,
  p: { rule: string; collection: string; arrived: number },
): Promise<{ n: number } | null> =>
  sql.one(
    `SELECT COUNT(DISTINCT IFNULL(m.series_id, m.id)) AS n FROM mirrors m
       JOIN ties t ON t.rule_id = :rule AND t.released IS NULL AND (t.a_mirror = m.id OR t.b_mirror = m.id)
     WHERE m.collection_id = :collection AND m.arrived_at = :arrived`,
    p,
  )

/** Of the ties and items that were looked at, what no longer waits. */
export const dropBraked = (
  sql: Sql,
  p: { rule: string; ties: readonly string[]; mirrors: readonly string[]; still: readonly string[] },
): Promise<number> =>
  sql.run(
    `DELETE FROM braked WHERE rule_id = :rule AND (tie_id IN (:ties) OR mirror_id IN (:mirrors))
       AND tie_id NOT IN (:still)`,
    { ...p, ties: ['', ...p.ties], mirrors: ['', ...p.mirrors], still: ['', ...p.still] },
  )

export const putBraked = (
  sql: Sql,
  p: {
    tie: string
    workspaceId: string
    rule: string
    collection: string
    title: string
    reason: string
    effect: string
    side: string
    /** What it is a counterpart of, where one is to be made. */
    mirror: string | null
    now: number
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO braked (tie_id, workspace_id, rule_id, collection_id, title, reason, effect, side, mirror_id, since)
       VALUES (:tie, :workspaceId, :rule, :collection, :title, :reason, :effect, :side, :mirror, :now)
       ON DUPLICATE KEY UPDATE reason = VALUES(reason), effect = VALUES(effect)`,
    p,
  )

export const tiesToRestore = (sql: Sql, p: { id: string }): Promise<{ tie_id: string }[]> =>
  sql.rows(`SELECT tie_id FROM braked WHERE rule_id = :id AND answer = 'restore'`, p)

export const brakedOverview = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<
  {
    tie: string
    title: string
    reason: string
    effect: Loss | 'made'
    /** Of what a counterpart is to be made for: when it begins or is planned, epoch ms. */
    startMs: number | null
    /** What is to be made, and where. */
    madeKind: 'task' | 'event'
    madeIn: string
    itemKind: 'task' | 'event'
    side: 'a' | 'b'
    since: number
    ruleId: string
    rule: string
    place: string
    collection: string
    mirror: string | null
  }[]
> =>
  sql.rows(
    `SELECT k.tie_id AS tie, k.title, k.reason, k.effect, k.side, k.since, k.rule_id AS ruleId, ${RULE_NAME} AS rule,
           CONCAT(n.name, ' · ', h.name) AS place, h.id AS collection, h.item_kind AS itemKind,
           m.start_ms AS startMs, k.mirror_id AS mirror, IF(k.side = 'a', a.item_kind, b.item_kind) AS madeKind,
           IF(k.side = 'a', a.name, b.name) AS madeIn
         FROM braked k JOIN rules r ON r.id = k.rule_id JOIN collections a ON a.id = r.a_collection
           JOIN collections b ON b.id = r.b_collection JOIN collections h ON h.id = k.collection_id
           JOIN connections n ON n.id = h.connection_id LEFT JOIN mirrors m ON m.id = k.mirror_id
         WHERE k.workspace_id = :workspaceId AND k.answer IS NULL ORDER BY k.rule_id, k.collection_id, m.start_ms, k.since, k.title
         LIMIT 2000`,
    p,
  )

export const rulesOfBraked = (
  sql: Sql,
  p: { ties: readonly string[]; workspaceId: string },
): Promise<{ tie: string; id: string; mirror: string | null }[]> =>
  sql.rows(
    'SELECT tie_id AS tie, rule_id AS id, mirror_id AS mirror FROM braked WHERE tie_id IN (:ties) AND workspace_id = :workspaceId',
    p,
  )

export const answerBraked = (
  sql: Sql,
  p: { answer: string; memberId: string; ties: readonly string[]; workspaceId: string },
): Promise<number> =>
  sql.run(
    `UPDATE braked SET answer = :answer, answered_by = :memberId WHERE tie_id IN (:ties) AND workspace_id = :workspaceId`,
    p,
  )

/** All that the rule holds, but these, is over. */
export const keepBraked = (sql: Sql, p: { rule: string; still: readonly string[] }): Promise<number> =>
  sql.run(
    `DELETE FROM braked WHERE rule_id = :rule ${p.still.length > 0 ? 'AND tie_id NOT IN (:still)' : ''}`,
    p,
  )
