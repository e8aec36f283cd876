import type { Sql } from '../database.ts'
import { type MirrorRow, MIRRORS } from './mirrors.ts'

/** Tasks under a task. */

export const childrenOf = (
  sql: Sql,
  p: { collection: string; uid: string; remote: string },
): Promise<MirrorRow[]> =>
  sql.rows(
    `${MIRRORS} WHERE m.collection_id = :collection AND m.presence = 'present' AND m.kind = 'task'
       AND JSON_VALUE(m.item, '$.parent') IN (:uid, :remote) ORDER BY m.first_seen_at, m.id LIMIT 500`,
    p,
  )

export const taskNamed = (sql: Sql, p: { collectionId: string; parent: string | null }): Promise<unknown> =>
  sql.one(
    `SELECT id FROM mirrors WHERE collection_id = :collectionId AND presence = 'present' AND kind = 'task'
       AND (remote_id = :parent OR JSON_VALUE(item, '$.uid') = :parent) LIMIT 1`,
    p,
  )

export const parentsOf = (sql: Sql, p: { part: readonly string[] }): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT p.id FROM mirrors c JOIN mirrors p ON p.collection_id = c.collection_id
           AND JSON_VALUE(c.item, '$.parent') IN (p.uid, p.remote_id)
         WHERE c.id IN (:part) AND c.kind = 'task' AND JSON_VALUE(c.item, '$.parent') IS NOT NULL`,
    p,
  )

export const subtasksIn = (sql: Sql, p: { collections: readonly string[] }): Promise<MirrorRow[]> =>
  sql.rows(
    `${MIRRORS} WHERE m.collection_id IN (:collections) AND m.presence = 'present' AND m.kind = 'task'
       AND JSON_VALUE(m.item, '$.parent') IS NOT NULL ORDER BY m.first_seen_at, m.id`,
    p,
  )

export const subtasksOf = (
  sql: Sql,
  p: { workspaceId: string; connection: string; uid: string; remote: string },
): Promise<{ key: string; title: string; status: string; writable: number }[]> =>
  sql.rows(
    `SELECT m.id AS \`key\`, JSON_VALUE(m.item, '$.summary') AS title, JSON_VALUE(m.item, '$.status') AS status, k.writable
     FROM mirrors m JOIN collections k ON k.id = m.collection_id
     WHERE m.workspace_id = :workspaceId AND m.connection_id = :connection AND m.presence = 'present' AND m.kind = 'task'
       AND JSON_VALUE(m.item, '$.parent') IN (:uid, :remote) ORDER BY m.first_seen_at, m.id LIMIT 200`,
    p,
  )

export const parentNamed = (
  sql: Sql,
  p: { connection: string; parent: string },
): Promise<{ key: string; title: string } | null> =>
  sql.one(
    `SELECT id AS \`key\`, JSON_VALUE(item, '$.summary') AS title FROM mirrors
         WHERE connection_id = :connection AND presence = 'present' AND (uid = :parent OR remote_id = :parent) LIMIT 1`,
    p,
  )
