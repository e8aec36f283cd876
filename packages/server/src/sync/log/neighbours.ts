import type { Sql } from '../../data/database.ts'

/** These and what is tied to them by any rule: where a tie ends, what it held up is planned again. */
export async function withNeighbours(sql: Sql, ids: readonly string[]): Promise<string[]> {
  if (ids.length === 0) return []
  const tied = await sql.rows<{ id: string }>(
    `SELECT b_mirror AS id FROM ties WHERE released IS NULL AND a_mirror IN (:ids) AND b_mirror IS NOT NULL
     UNION SELECT a_mirror FROM ties WHERE released IS NULL AND b_mirror IN (:ids) AND a_mirror IS NOT NULL`,
    { ids },
  )
  return [...new Set([...ids, ...tied.map(t => t.id)])]
}
