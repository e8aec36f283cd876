import type { Sql } from '../data/database.ts'
import { type Content, CONTENT_COLUMNS, type Head, HEAD_COLUMNS, HEAD_JOIN, keep } from './sources.ts'
import { OWN_TIES, OWN_TIES_JOIN, type OwnTies } from './ties.ts'

/** Which items some days show, with the version and the ties of each: all of them, or those that may have changed. */

/** The shelf is for people to look through; of more tasks, those that are due first, and searching for the others. */
export const MOST_ON_SHELF = 2000

/** What was planned longer ago, and not done, is found by searching; the shelf is for what still presses. */
const LEFT_OVER_MS = 60 * 86_400_000
const MOST_LEFT_OVER = 300

const DAY_MS = 86_400_000
/** What lasts longer has an index of its own (migration 0005): all else in a week begins not long before it. */
const FAR_REACHING_MS = 8 * 86_400_000

/** The days that are looked at and the beginning of today, epoch ms. */
export interface Instants {
  fromMs: number
  toMs: number
  today: number
}

const WITHIN = `m.presence = 'present' AND m.start_ms < :toMs AND m.start_ms >= :fromMs - ${FAR_REACHING_MS}
  AND m.end_ms >= :fromMs`
const REACHING = `m.presence = 'present' AND m.far_reaching = 1 AND m.start_ms < :toMs
  AND (m.end_ms >= :fromMs OR m.recurring = 1)`
const ON_SHELF = 'm.open_task = 1 AND m.start_ms IS NULL'
/** Meant for a week, or put by: somebody has thought about it. */
const DECIDED = '(o.week_of IS NOT NULL OR o.put_by IS NOT NULL OR o.plan_ms IS NOT NULL)'
/** Planned by us: done ones are not on the shelf. */
const OWN_PLAN = `m.presence = 'present' AND m.open_task = 0 AND m.id IN (SELECT p.mirror_id FROM own_layer p
  WHERE p.workspace_id = :workspaceId AND p.plan_ms >= :fromMs - ${DAY_MS} AND p.plan_ms < :toMs + ${DAY_MS})`
const LEFT_OVER = `m.open_task = 1 AND m.presence = 'present' AND m.start_ms < :today
  AND m.start_ms > :today - ${LEFT_OVER_MS} AND m.end_ms < :fromMs`

/** One for each two of its ties. */
export type Row = Head & OwnTies
/** By the mirror's id. */
export type Rows = ReadonlyMap<string, readonly Row[]>

const COLUMNS = `${HEAD_COLUMNS}, ${OWN_TIES}`
const FROM = `FROM mirrors m JOIN collections k ON k.id = m.collection_id AND k.takes_part = 1 ${HEAD_JOIN} ${OWN_TIES_JOIN}
  WHERE m.workspace_id = :workspaceId`

const rowsWhere = (sql: Sql, where: string, params: Instants & { workspaceId: string }): Promise<Row[]> =>
  sql.rows(`SELECT ${COLUMNS} ${FROM} AND ${where}`, { ...params })

function add(to: Map<string, readonly Row[]>, rows: readonly Row[]): void {
  const fresh = new Map<string, Row[]>()
  for (const row of rows) {
    const held = fresh.get(row.id)
    if (held) held.push(row)
    else fresh.set(row.id, [row])
  }
  for (const [id, held] of fresh) to.set(id, held)
}

export interface Whole {
  rows: Rows
  /** There is more than is looked at: what is read on from it holds what has changed, and not what moves up. */
  bounded: boolean
  /** How many tasks of the shelf are not among them. */
  beyond: number
}

export async function wholeRows(sql: Sql, workspaceId: string, at: Instants): Promise<Whole> {
  const params = { ...at, workspaceId }
  // Sent all at once, and answered one after the other. As one UNION they take twice as long.
  const [within, reaching, shelf, leftOver, planned] = await Promise.all([
    rowsWhere(sql, WITHIN, params),
    rowsWhere(sql, REACHING, params),
    rowsWhere(sql, `${ON_SHELF} ORDER BY m.due_on, m.id LIMIT ${MOST_ON_SHELF}`, params),
    rowsWhere(sql, `${LEFT_OVER} ORDER BY m.start_ms DESC LIMIT ${MOST_LEFT_OVER}`, params),
    rowsWhere(sql, OWN_PLAN, params),
  ])
  const rows = new Map<string, readonly Row[]>()
  for (const part of [within, reaching, shelf, leftOver, planned]) add(rows, part)
  if (shelf.length < MOST_ON_SHELF) return { rows, bounded: leftOver.length >= MOST_LEFT_OVER, beyond: 0 }
  const decided = await rowsWhere(sql, `${ON_SHELF} AND ${DECIDED} LIMIT ${MOST_ON_SHELF}`, params)
  add(rows, decided)
  const held = new Set([...shelf, ...decided].map(r => r.id))
  return { rows, bounded: true, beyond: (await countShelf(sql, workspaceId)) - held.size }
}

async function countShelf(sql: Sql, workspaceId: string): Promise<number> {
  const found = await sql.one<{ n: number }>(
    `SELECT COUNT(*) AS n FROM mirrors m JOIN collections k ON k.id = m.collection_id AND k.takes_part = 1
     WHERE m.workspace_id = :workspaceId AND ${ON_SHELF}`,
    { workspaceId },
  )
  return Number(found?.n ?? 0)
}

/**
 * What these items were, and what was tied to them, is read again: with all that is known of them, as it is they
 * who have changed.
 * @param changed with what is tied to them now
 */
export async function patchedRows(
  sql: Sql,
  workspaceId: string,
  at: Instants,
  before: Rows,
  changed: readonly string[],
): Promise<Rows> {
  if (changed.length === 0) return before
  const ids = new Set(changed)
  const touches = (id: string | null): boolean => id !== null && ids.has(id)
  const were: string[] = []
  for (const [id, held] of before) if (held.some(r => touches(r.to_a) || touches(r.to_b))) were.push(id)
  for (const id of were) ids.add(id)
  const rows = new Map(before)
  for (const id of ids) rows.delete(id)
  const shows = `(${WITHIN}) OR (${REACHING}) OR (${ON_SHELF}) OR (${LEFT_OVER}) OR (${OWN_PLAN})`
  const read = await sql.rows<Row & Content & { shown: number }>(
    `SELECT ${COLUMNS}, ${CONTENT_COLUMNS}, (${shows}) AS shown ${FROM} AND m.id IN (:ids)`,
    { ...at, workspaceId, ids: [...ids] },
  )
  for (const row of read) keep(row)
  add(
    rows,
    read.filter(r => r.shown === 1),
  )
  return rows
}
