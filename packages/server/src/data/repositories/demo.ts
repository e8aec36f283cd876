import type { Sql } from '../database.ts'

/** What only the demo writes. */

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

/** A task that is here, wherever it comes from. */
export const taskTitled = (
  sql: Sql,
  p: { title: string },
): Promise<{ id: string; workspace: string } | null> =>
  sql.one(
    `SELECT id, workspace_id AS workspace FROM mirrors
     WHERE kind = 'task' AND presence = 'present' AND JSON_VALUE(item, '$.summary') = :title LIMIT 1`,
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
    `UPDATE connections c JOIN look_times l ON l.connection_id = c.id SET c.state = 'failing', c.failures = 9,
       c.failing_since = :at, c.trouble = :trouble, l.last_ok_at = :at, l.next_look_at = :next WHERE c.id = :id`,
    p,
  )

export const syncedLongAgo = (sql: Sql, p: { id: string; at: number }): Promise<number> =>
  sql.run('UPDATE collections SET synced_at = :at WHERE connection_id = :id', p)

/** How many of these tasks have been seen to be gone. */
export const countGone = (sql: Sql, p: { ids: readonly string[] }): Promise<{ n: number } | null> =>
  sql.one(`SELECT COUNT(*) AS n FROM mirrors WHERE remote_id IN (:ids) AND presence = 'gone'`, p)

export const addFirstVersions = (sql: Sql, p: { workspaceId: string }): Promise<number> =>
  sql.run(
    `INSERT INTO rule_versions (rule_id, version, workspace_id, settings, saved_at)
     SELECT id, version, workspace_id, settings, enabled_at FROM rules WHERE workspace_id = :workspaceId`,
    p,
  )

export interface DemoTask {
  rule: string
  remoteId: string
  connection: string
  /** Epoch ms of its time; null where it has a deadline alone. */
  startMs: number | null
  /** `YYYY-MM-DD`. */
  due: string | null
}

/** Tasks of a list that a rule has tied, once nothing is under way any more. */
export const tiedTasks = (sql: Sql, p: { list: string }): Promise<DemoTask[]> =>
  sql.rows(
    `SELECT t.rule_id AS rule, m.remote_id AS remoteId, m.connection_id AS connection, m.start_ms AS startMs,
       JSON_VALUE(m.item, '$.due.date') AS due
     FROM ties t JOIN mirrors m ON m.id = t.a_mirror JOIN mirrors b ON b.id = t.b_mirror
       JOIN collections c ON c.id = m.collection_id
     WHERE t.released IS NULL AND c.name = :list AND m.presence = 'present' AND m.open_task = 1
       AND NOT EXISTS (SELECT 1 FROM intents i WHERE i.workspace_id = m.workspace_id AND i.state IN ('open', 'waiting'))
     ORDER BY m.first_seen_at, m.id`,
    p,
  )

/** What rules wrote, and when that is, epoch ms. */
export const writesOfEveryRule = (
  sql: Sql,
): Promise<
  { id: number; op: 'create' | 'patch' | 'delete' | 'override'; at: number; when: number | null }[]
> =>
  sql.rows(
    `SELECT j.id, j.op, j.at, m.start_ms AS \`when\` FROM journal j LEFT JOIN mirrors m ON m.id = j.mirror_id
     WHERE j.rule_id IS NOT NULL ORDER BY j.id`,
  )

/** Moves an entry to another time, and to the number that belongs to it there. Negative until `numbersStand`. */
export async function moveEntry(sql: Sql, p: { id: number; to: number; at: number }): Promise<void> {
  await sql.run('UPDATE journal SET id = 0 - :to, at = :at WHERE id = :id', p)
  await sql.run('UPDATE kept_originals SET journal_id = 0 - :to WHERE journal_id = :id', p)
}

export async function numbersStand(sql: Sql): Promise<void> {
  await sql.run('UPDATE journal SET id = -id WHERE id < 0')
  await sql.run('UPDATE kept_originals SET journal_id = -journal_id WHERE journal_id < 0')
}

/** Of tasks that are not here any more: they are done. */
export const finishEntries = (sql: Sql, p: { memberId: string }): Promise<number> =>
  sql.run('UPDATE time_tasks SET finished = 1 WHERE member_id = :memberId AND item_key IS NULL', p)
