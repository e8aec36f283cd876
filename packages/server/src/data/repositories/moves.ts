import type { Item } from '@loom/core'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'
import { MIRRORS, type MirrorRow } from './mirrors.ts'

/** Items on their way from one collection to another. */

const MAY_GO = `m.recurring = 0 AND IFNULL(JSON_VALUE(m.item, '$.attendees'), 0) = 0
  AND EXISTS (SELECT 1 FROM ties t JOIN collections k ON k.id = m.collection_id AND k.writable = 1
    WHERE t.b_mirror = m.id AND t.rule_id = :rule AND t.role = 'mirror' AND t.released IS NULL)`
const GOES_ALONG = `m.presence = 'present' AND ${MAY_GO}`

export interface MoveRow {
  intent_id: string
  root: string
  from_mirror: string
  parent_from: string | null
  to_mirror: string | null
}

export const countGoingAlong = (sql: Sql, p: { rule: string; from: string }): Promise<{ n: number } | null> =>
  sql.one(`SELECT COUNT(*) AS n FROM mirrors m WHERE m.collection_id = :from AND ${GOES_ALONG}`, p)

export const addGoingAlong = (
  sql: Sql,
  p: { rule: string; from: string; memberId: string },
): Promise<number> =>
  sql.run(
    `REPLACE INTO going_along (mirror_id, rule_id, member_id)
     SELECT m.id, :rule, :memberId FROM mirrors m WHERE m.collection_id = :from AND ${GOES_ALONG}`,
    p,
  )

export const dropGoingAlong = (sql: Sql, p: { mirrors: readonly string[] }): Promise<number> =>
  sql.run('DELETE FROM going_along WHERE mirror_id IN (:mirrors)', p)

export const copyGoesAlong = (sql: Sql, p: { from: string; to: string }): Promise<number> =>
  sql.run('UPDATE IGNORE going_along SET mirror_id = :to WHERE mirror_id = :from', p)

export const anyMoveFrom = (sql: Sql, p: { mirrorId: string }): Promise<unknown> =>
  sql.one('SELECT from_mirror FROM moves WHERE from_mirror = :mirrorId LIMIT 1', p)

export const lockMoveOf = (sql: Sql, p: { uid: string | null }): Promise<MoveRow | null> =>
  sql.one('SELECT * FROM moves WHERE intent_id = :uid FOR UPDATE', p)

export const setMoveTarget = (sql: Sql, p: { to: string; uid: string | null }): Promise<number> =>
  sql.run('UPDATE moves SET to_mirror = :to WHERE intent_id = :uid', p)

export const putMoved = (sql: Sql, p: { to: string; from: string; arrived: Json<Item> }): Promise<number> =>
  sql.run('REPLACE INTO moved (mirror_id, from_mirror, arrived) VALUES (:to, :from, :arrived)', p)

export const movesOfRoot = (sql: Sql, p: { root: string }): Promise<MoveRow[]> =>
  sql.rows('SELECT * FROM moves WHERE root = :root', p)

export const dropMove = (sql: Sql, p: { mirrorId: string }): Promise<number> =>
  sql.run('DELETE FROM moves WHERE from_mirror = :mirrorId', p)

export const movesWith = (sql: Sql, p: { uid: string }): Promise<{ from_mirror: string }[]> =>
  sql.rows('SELECT from_mirror FROM moves WHERE root IN (SELECT root FROM moves WHERE intent_id = :uid)', p)

export const dropMoves = (sql: Sql, p: { mirrors: readonly string[] }): Promise<number> =>
  sql.run('DELETE FROM moves WHERE from_mirror IN (:mirrors)', p)

export const movedFromCollection = (
  sql: Sql,
  p: { mirrorId: string; collectionId: string },
): Promise<(MirrorRow & { arrived: Json<Item>; original: string | null }) | null> =>
  sql.one(
    `${MIRRORS.replace('SELECT', 'SELECT v.arrived, p.original,')} JOIN moved v ON v.from_mirror = m.id
       LEFT JOIN payloads p ON p.mirror_id = m.id
     WHERE v.mirror_id = :mirrorId AND m.collection_id = :collectionId`,
    p,
  )

export const addMove = (
  sql: Sql,
  p: { uid: string; workspaceId: string; root: string; from: string; parentFrom: string | null },
): Promise<void> =>
  sql.insert(
    `INSERT INTO moves (intent_id, workspace_id, root, from_mirror, parent_from)
     VALUES (:uid, :workspaceId, :root, :from, :parentFrom)`,
    p,
  )

/** The rules of which something is still to go along to their new target. */
export const rulesWithGoers = async (sql: Sql, p: { workspaceId: string }): Promise<ReadonlySet<string>> => {
  const rows = await sql.rows<{ id: string }>(
    'SELECT DISTINCT r.id FROM going_along g JOIN rules r ON r.id = g.rule_id WHERE r.workspace_id = :workspaceId',
    p,
  )
  return new Set(rows.map(r => r.id))
}

export const newTargetOf = (
  sql: Sql,
  p: { id: string },
): Promise<{ collectionId: string; connectionId: string } | null> =>
  sql.one(
    `SELECT k.id AS collectionId, k.connection_id AS connectionId FROM going_along g
       JOIN rules r ON r.id = g.rule_id JOIN collections k ON k.id = r.b_collection
     WHERE g.rule_id = :id LIMIT 1`,
    p,
  )

export const movingIn = (sql: Sql, p: { a: string }): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT from_mirror AS id FROM moves WHERE workspace_id = (SELECT workspace_id FROM collections WHERE id = :a)`,
    p,
  )

export const stateOfMove = (
  sql: Sql,
  p: { workspaceId: string; memberId: string; uid: string },
): Promise<{ state: string; id: string | null; home: string | null; stayed: number } | null> =>
  sql.one(
    `SELECT i.state, i.mirror_id AS id, f.collection_id AS home, f.presence = 'present' AS stayed FROM intents i
       LEFT JOIN moved v ON v.mirror_id = i.mirror_id LEFT JOIN mirrors f ON f.id = v.from_mirror
     WHERE i.workspace_id = :workspaceId AND i.member_id = :memberId AND i.uid = :uid`,
    p,
  )

export const anyMoveInRoot = (sql: Sql, p: { uid: string }): Promise<unknown> =>
  sql.one(
    'SELECT r.intent_id FROM moves c JOIN moves r ON r.root = c.root WHERE c.intent_id = :uid LIMIT 1',
    p,
  )

/** Excludes items already moving or being written, and parts of a larger move. */
const HAS_ITS_TURN = `${MIRRORS.replace('SELECT', 'SELECT g.member_id AS goer,')}
  JOIN going_along g ON g.mirror_id = m.id
  WHERE g.rule_id = :rule AND m.presence = 'present'
    AND NOT EXISTS (SELECT 1 FROM moves v WHERE v.from_mirror = m.id)
    AND NOT EXISTS (SELECT 1 FROM intents i WHERE i.mirror_id = m.id AND i.state IN ('open', 'waiting'))
    AND NOT (JSON_VALUE(m.item, '$.parent') IS NOT NULL AND EXISTS (
      SELECT 1 FROM going_along w JOIN mirrors whole ON whole.id = w.mirror_id WHERE w.rule_id = g.rule_id
        AND whole.collection_id = m.collection_id AND JSON_VALUE(m.item, '$.parent') IN (whole.uid, whole.remote_id)))
  ORDER BY m.id`

export const nextToGo = (
  sql: Sql,
  p: { rule: string; most: number },
): Promise<(MirrorRow & { goer: string | null })[]> => sql.rows(`${HAS_ITS_TURN} LIMIT :most`, p)

/** What has arrived, and what may not go any more: it was removed, has guests now, is no longer tied. */
export const dropArrived = (sql: Sql, p: { rule: string; to: string }): Promise<number> =>
  sql.run(
    `DELETE g FROM going_along g JOIN mirrors m ON m.id = g.mirror_id
     WHERE g.rule_id = :rule AND (m.collection_id = :to OR m.presence = 'gone' OR NOT (${MAY_GO}))`,
    p,
  )
