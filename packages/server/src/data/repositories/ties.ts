import type { Json } from '../json.ts'
import { type Side, SIDES, type Tie } from '@loom/core'
import type { Sql } from '../database.ts'

/** Which items stand for each other, and what the two last agreed on. */

export const TIE_COLUMNS =
  't.id, t.role, t.a_mirror, t.b_mirror, t.base, t.memory, t.released, t.rule_version'

export interface TieRow {
  id: string
  role: Tie['role']
  a_mirror: string | null
  b_mirror: string | null
  base: Json<Tie['base']>
  memory: Json<Tie['memory']>
  released: Tie['released']
  rule_version: number
}

export const lockTiesOf = (sql: Sql, p: { from: string }): Promise<(TieRow & { rule_id: string })[]> =>
  sql.rows(
    `SELECT ${TIE_COLUMNS}, t.rule_id FROM ties t WHERE (t.a_mirror = :from OR t.b_mirror = :from)
       AND t.released IS NULL FOR UPDATE`,
    p,
  )

export const lockTie = (sql: Sql, p: { id: string }): Promise<TieRow | null> =>
  sql.one(`SELECT ${TIE_COLUMNS} FROM ties t WHERE t.id = :id FOR UPDATE`, p)

/** A pair that ends does so now; one that is resumed has not ended. */
const ENDS = 'released_at = IF(:released IS NULL, NULL, IFNULL(released_at, :now)), released = :released'

export const putTieState = (
  sql: Sql,
  p: { id: string; released: string | null; base: Json<Tie['base']>; memory: Json<Tie['memory']> },
): Promise<number> =>
  sql.run('UPDATE ties SET released = :released, base = :base, memory = :memory WHERE id = :id', p)

export const refuseTies = (sql: Sql, p: { binds: readonly string[] }): Promise<number> =>
  sql.run(`UPDATE ties SET released = 'refused' WHERE id IN (:binds)`, p)

export const neighboursOf = (sql: Sql, p: { ids: readonly string[] }): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT b_mirror AS id FROM ties WHERE released IS NULL AND a_mirror IN (:ids) AND b_mirror IS NOT NULL
     UNION SELECT a_mirror FROM ties WHERE released IS NULL AND b_mirror IN (:ids) AND a_mirror IS NOT NULL`,
    p,
  )

export const bindTies = (sql: Sql, p: { id: string; binds: readonly string[] }): Promise<number> =>
  sql.run('UPDATE ties SET b_mirror = :id, released = NULL WHERE id IN (:binds)', p)

export const firstSidesOf = (sql: Sql, p: { binds: readonly string[] }): Promise<{ a_mirror: string }[]> =>
  sql.rows('SELECT a_mirror FROM ties WHERE id IN (:binds)', p)

export const undoTie = (sql: Sql, p: { tieId: string }): Promise<number> =>
  sql.run(`UPDATE ties SET released = 'undone' WHERE id = :tieId AND released IS NULL`, p)

export const tieInWorkspace = (
  sql: Sql,
  p: { id: string; workspaceId: string },
): Promise<{ a_mirror: string | null; b_mirror: string | null } | null> =>
  sql.one(
    `SELECT a_mirror, b_mirror FROM ties WHERE id = :id AND workspace_id = :workspaceId AND role = 'mirror' FOR UPDATE`,
    p,
  )

/** Somebody says that the two are not the same work. */
export const partTie = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run(`UPDATE ties SET released = 'by-hand' WHERE id = :id AND released IS NULL`, p)

/** IGNORE: nothing happens where one of the two is in another pair of the rule by now. */
export const tieAgain = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run(`UPDATE IGNORE ties SET released = NULL WHERE id = :id AND released = 'by-hand'`, p)

export const confirmTieRow = (
  sql: Sql,
  p: {
    id: string
    a: string | null
    b: string | null
    base: Json<Tie['base']>
    memory: Json<Tie['memory']>
    released: string | null
    now: number
  },
): Promise<number> =>
  sql.run(
    `UPDATE ties SET a_mirror = :a, b_mirror = :b, base = :base, memory = :memory, ${ENDS} WHERE id = :id`,
    p,
  )

export const pairsOfOtherRules = (
  sql: Sql,
  p: { rule: string; part: readonly string[] },
): Promise<{ a: string; b: string; a_home: string; b_home: string }[]> =>
  sql.rows(
    `SELECT t.a_mirror AS a, t.b_mirror AS b, r.a_collection AS a_home, r.b_collection AS b_home FROM (
           SELECT * FROM ties WHERE a_mirror IN (:part) AND b_mirror IS NOT NULL
           UNION SELECT * FROM ties WHERE b_mirror IN (:part) AND a_mirror IS NOT NULL) t JOIN rules r ON r.id = t.rule_id
         WHERE t.role = 'mirror' AND IF(t.released IS NULL, t.rule_id <> :rule, t.released IN ('a-again', 'b-again') AND NOT EXISTS
           (SELECT 1 FROM mirrors m WHERE m.id IN (t.a_mirror, t.b_mirror)
              AND JSON_VALUE(t.memory, '$.occurrence') <> JSON_VALUE(m.item, '$.occurrence')))`,
    p,
  )

export const pairsOfRule = (
  sql: Sql,
  p: { rule: string; part: readonly string[] },
): Promise<{ a: string | null; b: string | null }[]> =>
  sql.rows(
    `SELECT a_mirror AS a, b_mirror AS b FROM ties WHERE rule_id = :rule AND released IS NULL
         AND (a_mirror IN (:part) OR b_mirror IN (:part))`,
    p,
  )

export const pairsEnding = (sql: Sql, p: { part: readonly string[] }): Promise<{ a: string; b: string }[]> =>
  sql.rows(
    `SELECT t.a_mirror AS a, t.b_mirror AS b FROM ties t JOIN mirrors m ON m.id = t.a_mirror JOIN mirrors n ON n.id = t.b_mirror
       WHERE t.released IS NULL AND (t.a_mirror IN (:part) OR t.b_mirror IN (:part))
         AND (m.presence = 'gone' OR n.presence = 'gone'
           OR JSON_VALUE(t.memory, '$.occurrence') <> JSON_VALUE(m.item, '$.occurrence')
           OR JSON_VALUE(t.memory, '$.occurrence') <> JSON_VALUE(n.item, '$.occurrence'))`,
    p,
  )

export const tiesOfRule = (sql: Sql, p: { rule: string }): Promise<TieRow[]> =>
  sql.rows(`SELECT ${TIE_COLUMNS} FROM ties t WHERE t.rule_id = :rule AND t.released IS NULL`, p)

export const putTieRow = (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    rule: string
    version: number
    role: string
    a: string | null
    b: string | null
    base: Json<Tie['base']>
    memory: Json<Tie['memory']>
    released: string | null
    asBefore: boolean
    now: number
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO ties (id, workspace_id, rule_id, rule_version, role, a_mirror, b_mirror, base, memory, released,
       released_at, made_at)
     VALUES (:id, :workspaceId, :rule, :version, :role, :a, :b, :base, :memory, :released,
       IF(:released IS NULL, NULL, :now), :now)
     ON DUPLICATE KEY UPDATE base = VALUES(base), memory = VALUES(memory), ${ENDS},
       rule_version = IF(:asBefore, rule_version, VALUES(rule_version))`,
    p,
  )

export const putTieMemory = (sql: Sql, p: { id: string; memory: Json<Tie['memory']> }): Promise<number> =>
  sql.run('UPDATE ties SET memory = :memory WHERE id = :id', p)

export const addTieToCome = (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    rule: string
    version: number
    role: string
    a: string
    base: Json<Tie['base']>
    memory: Json<Tie['memory']>
    now: number
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO ties (id, workspace_id, rule_id, rule_version, role, a_mirror, b_mirror, base, memory, released, made_at)
     VALUES (:id, :workspaceId, :rule, :version, :role, :a, NULL, :base, :memory, NULL, :now)`,
    p,
  )

export const countTiesOf = (sql: Sql, p: { ids: readonly string[] }): Promise<{ n: number } | null> =>
  sql.one(
    'SELECT COUNT(*) AS n FROM ties WHERE released IS NULL AND (a_mirror IN (:ids) OR b_mirror IN (:ids))',
    p,
  )

export const lockTieMemory = (
  sql: Sql,
  p: { tieId: string },
): Promise<{ memory: Json<Tie['memory']> } | null> =>
  sql.one('SELECT memory FROM ties WHERE id = :tieId FOR UPDATE', p)

export const pairsWith = (
  sql: Sql,
  p: { workspaceId: string; items: readonly string[] },
): Promise<{ a: string; b: string }[]> =>
  sql.rows(
    `SELECT a_mirror AS a, b_mirror AS b FROM ties
     WHERE workspace_id = :workspaceId AND (a_mirror IN (:items) OR b_mirror IN (:items))`,
    p,
  )

export const dropUnsentTies = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run(
    `DELETE FROM ties WHERE (a_mirror IS NULL OR b_mirror IS NULL) AND id IN
       (SELECT tie_id FROM intents WHERE rule_id = :id AND state = 'open' AND attempts = 0)`,
    p,
  )

export type EndedRow = TieRow & { made_at: number }

const ENDED = `SELECT ${TIE_COLUMNS}, t.made_at FROM ties t
  WHERE t.rule_id = :rule AND t.role = 'mirror' AND t.released`

export const endedTiesOf = (sql: Sql, p: { rule: string }): Promise<EndedRow[]> =>
  sql.rows(`${ENDED} IS NOT NULL`, p)

export const endedTiesOn = (
  sql: Sql,
  side: Side,
  p: { rule: string; part: readonly string[] },
): Promise<EndedRow[]> => sql.rows(`${ENDED} IS NOT NULL AND t.${side}_mirror IN (:part)`, p)

/** Given up, and what was to be made may have been made all the same. */
export const soughtTiesOf = (sql: Sql, p: { rule: string }): Promise<EndedRow[]> =>
  sql.rows(`${ENDED} = 'refused' AND JSON_VALUE(t.memory, '$.sought') IS NOT NULL`, p)

/** The tie goes over to another mirror on that side. */
export const moveTie = (
  sql: Sql,
  side: Side,
  p: { id: string; to: string; base: Json<Tie['base']> },
): Promise<number> => sql.run(`UPDATE ties SET ${side}_mirror = :to, base = :base WHERE id = :id`, p)

/** What another mirror was tied by is tied by this one. IGNORE: a tie that would be there twice stays where it is. */
export async function takeOverTies(sql: Sql, p: { id: string; twin: string }): Promise<void> {
  for (const side of SIDES)
    await sql.run(`UPDATE IGNORE ties SET ${side}_mirror = :id WHERE ${side}_mirror = :twin`, p)
}

/** A standing tie is passed on from a series to one of its dates, or back; how many were. */
export const passOnTie = (sql: Sql, side: Side, p: { from: string; to: string }): Promise<number> =>
  sql.run(
    `UPDATE IGNORE ties SET ${side}_mirror = :to
     WHERE ${side}_mirror = :from AND released IS NULL AND role = 'mirror'`,
    p,
  )

/** @param lock against other writes until the transaction ends */
export const tieById = (sql: Sql, p: { id: string | null }, lock = false): Promise<TieRow | null> =>
  sql.one(`SELECT ${TIE_COLUMNS} FROM ties t WHERE t.id = :id${lock ? ' FOR UPDATE' : ''}`, p)

/** The tie itself, or, where the pair was tied anew since, that one. */
export const tieNow = (
  sql: Sql,
  side: Side,
  p: { tie: string | null; rule: string | null; mirror: string | null },
): Promise<TieRow | null> =>
  sql.one(
    `SELECT ${TIE_COLUMNS} FROM ties t WHERE t.id = :tie
       OR (t.rule_id = :rule AND t.${side}_mirror = :mirror AND t.released IS NULL)
     ORDER BY t.released IS NULL DESC LIMIT 1`,
    p,
  )

/** The standing ties of a rule with these items on a side: two short reads by an index, where OR would take none. */
export const tiesOn = (
  sql: Sql,
  side: Side,
  p: { rule: string; part: readonly string[] },
): Promise<TieRow[]> =>
  sql.rows(
    `SELECT ${TIE_COLUMNS} FROM ties t
     WHERE t.rule_id = :rule AND t.released IS NULL AND t.${side}_mirror IN (:part)`,
    p,
  )

export interface Untied {
  id: string
  title: string
  place: string
  startMs: number | null
}

/** Items of these collections that the rule has tied to nothing, those with the very title first. */
export const untiedOf = (
  sql: Sql,
  p: { rule: string; collections: readonly string[]; except: string; like: string; title: string },
): Promise<Untied[]> =>
  sql.rows(
    `SELECT m.id, JSON_VALUE(m.item, '$.summary') AS title, k.name AS place, m.start_ms AS startMs
     FROM mirrors m JOIN collections k ON k.id = m.collection_id
     WHERE m.collection_id IN (:collections) AND m.presence = 'present' AND m.recurring = 0 AND m.id <> :except
       AND LOWER(JSON_VALUE(m.item, '$.summary')) LIKE :like
       AND NOT EXISTS (SELECT 1 FROM ties t WHERE t.rule_id = :rule AND t.released IS NULL AND t.role = 'mirror'
         AND (t.a_mirror = m.id OR t.b_mirror = m.id))
     ORDER BY LOWER(JSON_VALUE(m.item, '$.summary')) = LOWER(:title) DESC, m.start_ms IS NULL, m.start_ms DESC, m.id
     LIMIT 20`,
    p,
  )

/** The pair of a rule, parted or not. */
export const pairOfRule = (
  sql: Sql,
  p: { rule: string; a: string; b: string },
): Promise<{ id: string; released: Tie['released'] } | null> =>
  sql.one(
    `SELECT id, released FROM ties WHERE rule_id = :rule AND a_mirror = :a AND b_mirror = :b AND role = 'mirror'
     ORDER BY released IS NULL DESC, released_at DESC LIMIT 1 FOR UPDATE`,
    p,
  )
