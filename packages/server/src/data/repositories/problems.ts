import type { Sql } from '../database.ts'

/** Items that could not be understood, and why. */

export const dropProblems = (sql: Sql, p: { id: string; ids: readonly string[] }): Promise<number> =>
  sql.run('DELETE FROM problems WHERE collection_id = :id AND remote_id IN (:ids)', p)

export const putProblems = (
  sql: Sql,
  p: { rows: readonly (readonly (string | number)[])[] },
): Promise<void> =>
  sql.insert(
    `INSERT INTO problems (collection_id, remote_id, workspace_id, revision, reason, original, seen_at) VALUES :rows
     ON DUPLICATE KEY UPDATE revision = VALUES(revision), reason = VALUES(reason), original = VALUES(original)`,
    p,
  )

export const dropProblem = (sql: Sql, p: { id: string; remoteId: string }): Promise<number> =>
  sql.run('DELETE FROM problems WHERE collection_id = :id AND remote_id = :remoteId', p)

export const dropProblemsOf = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run(
    `DELETE p FROM problems p JOIN collections k ON k.id = p.collection_id WHERE k.connection_id = :id`,
    p,
  )

export const reasonsOf = (sql: Sql, p: { id: string }): Promise<{ name: string; reason: string }[]> =>
  sql.rows(
    `SELECT k.name, p.reason FROM problems p JOIN collections k ON k.id = p.collection_id WHERE k.connection_id = :id`,
    p,
  )

export const problemsOf = (
  sql: Sql,
  p: { id: string },
): Promise<
  {
    collection: string
    remoteId: string
    reason: string
    original: string
    seenAt: number
  }[]
> =>
  sql.rows(
    `SELECT k.name AS collection, p.remote_id AS remoteId, p.reason, LEFT(p.original, 2000) AS original, p.seen_at AS seenAt
         FROM problems p JOIN collections k ON k.id = p.collection_id
         WHERE k.connection_id = :id ORDER BY p.seen_at DESC LIMIT 200`,
    p,
  )
