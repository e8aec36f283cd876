import type { Answer, Field, FieldValue, SeenSpan } from '@loom/core'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'
import { RULE_NAME } from './rules.ts'

/** Fields that both sides changed, until somebody says which counts. */

export interface ConflictView {
  tie: string
  field: string
  rule: string
  ruleId: string
  title: string
  reason: string
  base: { a: FieldValue; b: FieldValue } | null
  a: FieldValue
  b: FieldValue
  seen: { a: SeenSpan; b: SeenSpan }
  since: number
  aName: string
  bName: string
  kinds: { a: 'task' | 'event'; b: 'task' | 'event' }
  /** Mirror of side a, for the item's history. */
  item: string | null
}

export const conflictKeys = (sql: Sql, p: { rule: string }): Promise<{ k: string }[]> =>
  sql.rows(`SELECT CONCAT(tie_id, ' ', field) AS k FROM conflicts WHERE rule_id = :rule`, p)

export const putConflict = (
  sql: Sql,
  p: {
    vain: boolean
    tie: string
    field: string
    workspaceId: string
    rule: string
    title: string
    reason: string
    base: Json<ConflictView['base']> | null
    a: Json<FieldValue>
    b: Json<FieldValue>
    seen: Json<ConflictView['seen']>
    now: number
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO conflicts (tie_id, field, workspace_id, rule_id, title, reason, base, a, b, seen, since)
         VALUES (:tie, :field, :workspaceId, :rule, :title, :reason, :base, :a, :b, :seen, :now)
         ON DUPLICATE KEY UPDATE answer = IF(:vain OR a <> VALUES(a) OR b <> VALUES(b), NULL, answer), title = VALUES(title), reason = VALUES(reason), base = VALUES(base), a = VALUES(a),
           b = VALUES(b), seen = VALUES(seen)`,
    p,
  )

export const dropConflict = (
  sql: Sql,
  p: { tie: undefined | string; field: undefined | string },
): Promise<number> => sql.run('DELETE FROM conflicts WHERE tie_id = :tie AND field = :field', p)

export const answersToConflicts = (
  sql: Sql,
  p: { id: string },
): Promise<{ tie_id: string; field: Field; answer: Json<Answer> }[]> =>
  sql.rows('SELECT tie_id, field, answer FROM conflicts WHERE rule_id = :id AND answer IS NOT NULL', p)

export const sidesInConflict = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ a: string | null; b: string | null }[]> =>
  sql.rows(
    `SELECT DISTINCT t.a_mirror AS a, t.b_mirror AS b FROM conflicts k JOIN ties t ON t.id = k.tie_id
     WHERE k.workspace_id = :workspaceId AND k.answer IS NULL LIMIT 2000`,
    p,
  )

export const openConflicts = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<
  (Omit<ConflictView, 'base' | 'a' | 'b' | 'seen' | 'kinds'> & {
    base: Json<ConflictView['base']> | null
    a: Json<FieldValue>
    b: Json<FieldValue>
    seen: Json<ConflictView['seen']>
    aKind: 'task' | 'event'
    bKind: 'task' | 'event'
    other: string | null
  })[]
> =>
  sql.rows(
    `SELECT k.tie_id AS tie, k.field, ${RULE_NAME} AS rule, k.rule_id AS ruleId, k.title, k.reason, k.base, k.a, k.b,
           k.seen, k.since, CONCAT(an.name, ' · ', a.name) AS aName, CONCAT(bn.name, ' · ', b.name) AS bName,
           a.item_kind AS aKind, b.item_kind AS bKind, t.a_mirror AS item, t.b_mirror AS other
         FROM conflicts k JOIN rules r ON r.id = k.rule_id LEFT JOIN ties t ON t.id = k.tie_id
           JOIN collections a ON a.id = r.a_collection JOIN collections b ON b.id = r.b_collection
           JOIN connections an ON an.id = a.connection_id JOIN connections bn ON bn.id = b.connection_id
         WHERE k.workspace_id = :workspaceId AND k.answer IS NULL ORDER BY k.since, k.tie_id LIMIT 1000`,
    p,
  )

export const conflictAt = (
  sql: Sql,
  p: { tie: string; field: string; workspaceId: string },
): Promise<{
  rule_id: string
  a: Json<FieldValue>
  b: Json<FieldValue>
  a_mirror: string | null
  b_mirror: string | null
} | null> =>
  sql.one(
    `SELECT k.rule_id, k.a, k.b, t.a_mirror, t.b_mirror FROM conflicts k LEFT JOIN ties t ON t.id = k.tie_id
     WHERE k.tie_id = :tie AND k.field = :field AND k.workspace_id = :workspaceId`,
    p,
  )

export const answerConflict = (
  sql: Sql,
  p: { answer: Json<Answer>; memberId: string; tie: string; field: string },
): Promise<number> =>
  sql.run(
    `UPDATE conflicts SET answer = :answer, answered_by = :memberId WHERE tie_id = :tie AND field = :field`,
    p,
  )
