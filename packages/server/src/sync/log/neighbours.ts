import type { Sql } from '../../data/database.ts'
import { neighboursOf } from '../../data/repositories/ties.ts'

/** These and what is tied to them by any rule: where a tie ends, what it held up is planned again. */
export async function withNeighbours(sql: Sql, ids: readonly string[]): Promise<string[]> {
  if (ids.length === 0) return []
  const tied = await neighboursOf(sql, { ids })
  return [...new Set([...ids, ...tied.map(t => t.id)])]
}
