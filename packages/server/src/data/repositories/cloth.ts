import type { Raw } from '../raw.ts'
import type { TieMemory, Item } from '@loom/core'
import { type OwnRow, OWN_TEXT } from './own-layer.ts'
import type { Json } from '../json.ts'
import { chunks } from '../chunks.ts'
import type { Sql } from '../database.ts'

/** The hot reads of the Cloth: the items of some days, their versions, and all that is known of them. */

/** Which items there are, and which version of each. For a query of mirrors `m` with `HEAD_JOIN`. */
export interface Head {
  id: string
  version: string
}
/** Of a date, what is kept on its series counts. */
const OWN_JOIN = 'LEFT JOIN own_layer o ON o.mirror_id = IFNULL(m.series_id, m.id)'
const HEAD_COLUMNS = `m.id, CONCAT(m.touched, IFNULL(o.touched, '')) AS version`
const HEAD_JOIN = OWN_JOIN

/** All there is to know of an item, as `HEAD_JOIN` and `CONTENT_COLUMNS` give it. */
export interface Content extends Head {
  collection_id: string
  item: Json<Raw<Item>>
  series_id: string | null
  occurrence: string | null
  own: Json<OwnRow> | null
}

const CONTENT_COLUMNS = `m.collection_id, m.item, m.series_id, m.occurrence, ${OWN_TEXT} AS own`

export interface TieLine {
  id: string
  a: string | null
  b: string | null
  role: 'mirror' | 'block' | 'batch'
  memory: Json<TieMemory>
}

export async function tiesOf(sql: Sql, ids: readonly string[]): Promise<TieLine[]> {
  const of = (side: 'a_mirror' | 'b_mirror'): string =>
    `SELECT id, a_mirror AS a, b_mirror AS b, role, memory FROM ties WHERE released IS NULL AND ${side} IN (:part)`
  const found: TieLine[] = []
  for (const part of chunks(ids))
    found.push(...(await sql.rows<TieLine>(`${of('a_mirror')} UNION ${of('b_mirror')}`, { part })))
  return found
}

/**
 * For a query of mirrors `m` with `OWN_TIES_JOIN`: the ties in which each mirror is side a or side b. For hundreds
 * of items this takes less than half the time of asking for ties by id.
 */
export interface OwnTies {
  id: string
  as_a: string | null
  to_b: string | null
  a_role: TieLine['role']
  a_memory: Json<TieMemory>
  as_b: string | null
  to_a: string | null
  b_role: TieLine['role']
  b_memory: Json<TieMemory>
}
const OWN_TIES = `ta.id AS as_a, ta.b_mirror AS to_b, ta.role AS a_role, ta.memory AS a_memory,
  tb.id AS as_b, tb.a_mirror AS to_a, tb.role AS b_role, tb.memory AS b_memory`
const OWN_TIES_JOIN = `LEFT JOIN ties ta ON ta.a_mirror = m.id AND ta.released IS NULL
  LEFT JOIN ties tb ON tb.b_mirror = m.id AND tb.released IS NULL`

export function tiesIn(rows: Iterable<OwnTies>): TieLine[] {
  const found = new Map<string, TieLine>()
  for (const r of rows) {
    if (r.as_a) found.set(r.as_a, { id: r.as_a, a: r.id, b: r.to_b, role: r.a_role, memory: r.a_memory })
    if (r.as_b) found.set(r.as_b, { id: r.as_b, a: r.to_a, b: r.id, role: r.b_role, memory: r.b_memory })
  }
  return [...found.values()]
}

const ON_SHELF = 'm.open_task = 1 AND m.start_ms IS NULL'

/** The shelf is for people to look through; of more tasks, those that are due first, and searching for the others. */
export const MOST_ON_SHELF = 2000

/** The days that are looked at and the beginning of today, epoch ms. */
export interface Instants {
  fromMs: number
  toMs: number
  today: number
  /** Of these lists and calendars alone; null for all. */
  only?: readonly string[] | null
}

/** What was planned longer ago, and not done, is found by searching; the shelf is for what still presses. */
const LEFT_OVER_MS = 60 * 86_400_000
export const MOST_LEFT_OVER = 300

const DAY_MS = 86_400_000
/** Longer items have an index of their own (migration 0005). All others in a week begin shortly before it. */
const FAR_REACHING_MS = 8 * 86_400_000

const WITHIN = `m.presence = 'present' AND m.start_ms < :toMs AND m.start_ms >= :fromMs - ${FAR_REACHING_MS}
  AND m.end_ms >= :fromMs`
const REACHING = `m.presence = 'present' AND m.far_reaching = 1 AND m.start_ms < :toMs
  AND (m.end_ms >= :fromMs OR m.recurring = 1)`

/** Meant for a week, or put by: somebody has thought about it. */
const DECIDED = '(o.week_of IS NOT NULL OR o.put_by IS NOT NULL OR o.plan_ms IS NOT NULL)'
/** Planned by us: done ones are not on the shelf. */
const OWN_PLAN = `m.presence = 'present' AND m.open_task = 0 AND m.id IN (SELECT p.mirror_id FROM own_layer p
  WHERE p.workspace_id = :workspaceId AND p.plan_ms >= :fromMs - ${DAY_MS} AND p.plan_ms < :toMs + ${DAY_MS})`
const LEFT_OVER = `m.open_task = 1 AND m.presence = 'present' AND m.start_ms < :today
  AND m.start_ms > :today - ${LEFT_OVER_MS} AND m.end_ms < :fromMs`

/** One for each two of its ties. */
export type Row = Head & OwnTies

const COLUMNS = `${HEAD_COLUMNS}, ${OWN_TIES}`
const FROM = `FROM mirrors m JOIN collections k ON k.id = m.collection_id AND k.takes_part = 1 ${HEAD_JOIN} ${OWN_TIES_JOIN}
  WHERE m.workspace_id = :workspaceId`

interface In extends Instants {
  workspaceId: string
}

const inOnly = ({ only }: Pick<In, 'only'>): string => (only ? 'AND m.collection_id IN (:lists)' : '')
const params = ({ only, ...p }: In) => ({ ...p, lists: only?.length ? only : [''] })

const rowsWhere = (sql: Sql, where: string, p: In): Promise<Row[]> =>
  sql.rows(`SELECT ${COLUMNS} ${FROM} ${inOnly(p)} AND ${where}`, params(p))

export const rowsWithin = (sql: Sql, p: In): Promise<Row[]> => rowsWhere(sql, WITHIN, p)
export const rowsReachingIn = (sql: Sql, p: In): Promise<Row[]> => rowsWhere(sql, REACHING, p)
export const rowsOnShelf = (sql: Sql, p: In): Promise<Row[]> =>
  rowsWhere(sql, `${ON_SHELF} ORDER BY m.due_on, m.id LIMIT ${MOST_ON_SHELF}`, p)
export const rowsLeftOver = (sql: Sql, p: In): Promise<Row[]> =>
  rowsWhere(sql, `${LEFT_OVER} ORDER BY m.start_ms DESC LIMIT ${MOST_LEFT_OVER}`, p)
export const rowsPlannedByUs = (sql: Sql, p: In): Promise<Row[]> => rowsWhere(sql, OWN_PLAN, p)
export const rowsDecided = (sql: Sql, p: In): Promise<Row[]> =>
  rowsWhere(sql, `${ON_SHELF} AND ${DECIDED} LIMIT ${MOST_ON_SHELF}`, p)

/** These items with all there is to know of them, and whether the days show them. */
export const rowsShown = (
  sql: Sql,
  p: In & { ids: readonly string[] },
): Promise<(Row & Content & { shown: number })[]> =>
  sql.rows(
    `SELECT ${COLUMNS}, ${CONTENT_COLUMNS},
       ((${WITHIN}) OR (${REACHING}) OR (${ON_SHELF}) OR (${LEFT_OVER}) OR (${OWN_PLAN})) AS shown
     ${FROM} ${inOnly(p)} AND m.id IN (:ids)`,
    { ...params(p), ids: p.ids },
  )

export const headsOf = (sql: Sql, p: { part: readonly string[]; workspaceId: string }): Promise<Head[]> =>
  sql.rows(
    `SELECT ${HEAD_COLUMNS} FROM mirrors m ${HEAD_JOIN}
     WHERE m.id IN (:part) AND m.workspace_id = :workspaceId AND m.presence IN ('present', 'date')`,
    p,
  )

export const contentsOf = (sql: Sql, p: { part: readonly string[] }): Promise<Content[]> =>
  sql.rows(`SELECT ${HEAD_COLUMNS}, ${CONTENT_COLUMNS} FROM mirrors m ${HEAD_JOIN} WHERE m.id IN (:part)`, p)

export const BLOCKS = `SELECT m.id AS \`key\`, t.batch_date AS date, JSON_VALUE(m.item, '$.summary') AS title, m.start_ms AS startMs,
    (m.end_ms - m.start_ms) / 60000 AS minutes, IFNULL(o.spent, 0) AS spent, CONCAT(n.name, ' · ', k.name) AS place
  FROM ties t JOIN mirrors m ON m.id = t.b_mirror AND m.presence = 'present'
    JOIN collections k ON k.id = m.collection_id JOIN connections n ON n.id = k.connection_id
    LEFT JOIN own_layer o ON o.mirror_id = m.id
  WHERE t.a_mirror = :id AND t.role = :role AND t.released IS NULL ORDER BY m.start_ms`

export interface BlockRow {
  key: string
  title: string
  startMs: number
  minutes: number
  spent: number
  place: string
  /** Of a batch that repeats: which of its dates. */
  date: string | null
}

export const countOnShelf = (
  sql: Sql,
  p: { workspaceId: string; only?: readonly string[] | null },
): Promise<{ n: number } | null> =>
  sql.one(
    `SELECT COUNT(*) AS n FROM mirrors m JOIN collections k ON k.id = m.collection_id AND k.takes_part = 1
     WHERE m.workspace_id = :workspaceId AND ${ON_SHELF} ${inOnly(p)}`,
    { workspaceId: p.workspaceId, lists: p.only?.length ? p.only : [''] },
  )

export const blocksOf = (sql: Sql, p: { id: string; role: string }): Promise<BlockRow[]> =>
  sql.rows(BLOCKS, p)

/** Time ahead of a task that has begun, in blocks that nobody has marked as worked and in batches that do not repeat. */
export const pastBlocksOf = (
  sql: Sql,
  p: { id: string; now: number },
): Promise<{ id: string; role: 'block' | 'batch'; startMs: number; endMs: number; held: string }[]> =>
  sql.rows(
    `SELECT m.id, t.role, m.start_ms AS startMs, m.end_ms AS endMs,
       (SELECT GROUP_CONCAT(h.a_mirror SEPARATOR ' ') FROM ties h
         WHERE h.b_mirror = m.id AND h.role = 'batch' AND h.released IS NULL) AS held
     FROM ties t JOIN mirrors m ON m.id = t.b_mirror LEFT JOIN own_layer o ON o.mirror_id = m.id
     WHERE t.a_mirror = :id AND t.role IN ('block', 'batch') AND t.released IS NULL AND m.presence = 'present'
       AND m.recurring = 0 AND m.start_ms < :now AND IFNULL(o.spent, 0) = 0
     ORDER BY m.start_ms LIMIT 100`,
    p,
  )
