import type { Sql } from '../data/database.ts'
import { chunks } from '../data/chunks.ts'

/** The ties that stand, as the Cloth reads them. */

export interface TieLine {
  id: string
  a: string | null
  b: string | null
  role: 'mirror' | 'block' | 'batch'
  memory: string
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
 * For a query of mirrors `m` with `OWN_TIES_JOIN`: the ties in which each is side a and side b. Of hundreds of items
 * that is less than half the time of asking for their ties by their ids.
 */
export interface OwnTies {
  id: string
  as_a: string | null
  to_b: string | null
  a_role: TieLine['role']
  a_memory: string
  as_b: string | null
  to_a: string | null
  b_role: TieLine['role']
  b_memory: string
}
export const OWN_TIES = `ta.id AS as_a, ta.b_mirror AS to_b, ta.role AS a_role, ta.memory AS a_memory,
  tb.id AS as_b, tb.a_mirror AS to_a, tb.role AS b_role, tb.memory AS b_memory`
export const OWN_TIES_JOIN = `LEFT JOIN ties ta ON ta.a_mirror = m.id AND ta.released IS NULL
  LEFT JOIN ties tb ON tb.b_mirror = m.id AND tb.released IS NULL`

export function tiesIn(rows: Iterable<OwnTies>): TieLine[] {
  const found = new Map<string, TieLine>()
  for (const r of rows) {
    if (r.as_a) found.set(r.as_a, { id: r.as_a, a: r.id, b: r.to_b, role: r.a_role, memory: r.a_memory })
    if (r.as_b) found.set(r.as_b, { id: r.as_b, a: r.to_a, b: r.id, role: r.b_role, memory: r.b_memory })
  }
  return [...found.values()]
}
