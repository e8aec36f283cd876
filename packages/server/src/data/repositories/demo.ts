import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

export interface Pair {
  rule: string
  task: string
  list: string
  event: string
  etag: string
  original: string
  calendar: string
}

export const pairTitled = (sql: Sql, p: { title: string }): Promise<Pair | null> =>
  sql.one(
    `SELECT t.rule_id AS rule, a.remote_id AS task, a.connection_id AS list, b.remote_id AS event, b.revision AS etag,
         p.original, b.connection_id AS calendar
       FROM ties t JOIN mirrors a ON a.id = t.a_mirror JOIN mirrors b ON b.id = t.b_mirror
         JOIN payloads p ON p.mirror_id = b.id
       WHERE t.released IS NULL AND t.role = 'mirror' AND JSON_VALUE(a.item, '$.summary') = :title
         AND NOT EXISTS (SELECT 1 FROM intents i WHERE i.tie_id = t.id AND i.state = 'open') LIMIT 1`,
    p,
  )

export const bothRenamed = (
  sql: Sql,
  p: { renamed: string; other: string; task: string; list: string; event: string; calendar: string },
): Promise<unknown> =>
  sql.one(
    `SELECT a.id FROM mirrors a JOIN mirrors b ON b.connection_id = :calendar AND b.remote_id = :event
         WHERE a.connection_id = :list AND a.remote_id = :task AND JSON_VALUE(a.item, '$.summary') = :renamed
           AND JSON_VALUE(b.item, '$.summary') = :other`,
    p,
  )

export const makeFailing = (
  sql: Sql,
  p: { id: string; at: number; trouble: string; next: number },
): Promise<number> =>
  sql.run(
    `UPDATE connections SET state = 'failing', failures = 9, failing_since = :at, last_ok_at = :at,
       trouble = :trouble, next_look_at = :next WHERE id = :id`,
    p,
  )

export const syncedLongAgo = (sql: Sql, p: { id: string; at: number }): Promise<number> =>
  sql.run('UPDATE collections SET synced_at = :at WHERE connection_id = :id', p)

export const addRuleThatIsOn = (
  sql: Sql,
  p: { id: string; workspaceId: string; a: string; b: string; settings: Json<unknown>; now: number },
): Promise<void> =>
  sql.insert(
    `INSERT INTO rules (id, workspace_id, a_collection, b_collection, settings, state, version, enabled_at, notices)
     VALUES (:id, :workspaceId, :a, :b, :settings, 'on', 1, :now, '[]')`,
    p,
  )

export const addFirstVersions = (sql: Sql, p: { workspaceId: string }): Promise<number> =>
  sql.run(
    `INSERT INTO rule_versions (rule_id, version, workspace_id, settings, saved_at)
     SELECT id, version, workspace_id, settings, enabled_at FROM rules WHERE workspace_id = :workspaceId`,
    p,
  )
