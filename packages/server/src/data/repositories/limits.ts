import type { Sql } from '../database.ts'

/** How often something was tried, counted in the database, so that it holds for all processes. */

export interface Counted {
  points: number
  expire: number
}

export const countedLimit = (sql: Sql, p: { name: string; now: number }): Promise<Counted[]> =>
  sql.rows('SELECT points, expire FROM limits WHERE name = :name AND expire > :now', p)

export const forgetLimit = (sql: Sql, p: { name: string }): Promise<number> =>
  sql.run('DELETE FROM limits WHERE name = :name', p)

export const forgetPastLimits = (sql: Sql, p: { now: number }): Promise<number> =>
  sql.run('DELETE FROM limits WHERE expire < :now', p)

/**
 * Increments in one statement, so that two processes never count as one, and returns the new count.
 * @param anew start from zero
 */
export const countLimit = (
  sql: Sql,
  p: { name: string; points: number; expire: number; now: number },
  anew: boolean,
): Promise<Counted[]> => {
  const isOver = anew ? '1 = 1' : 'expire <= :now'
  return sql.rows(
    `INSERT INTO limits (name, points, expire) VALUES (:name, :points, :expire)
     ON DUPLICATE KEY UPDATE points = IF(${isOver}, VALUES(points), points + VALUES(points)),
       expire = IF(${isOver}, VALUES(expire), expire)
     RETURNING points, expire`,
    p,
  )
}
