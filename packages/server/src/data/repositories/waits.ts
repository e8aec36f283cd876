import type { Sql } from '../database.ts'

/** What waits for what: by uid, as services tell it and as we keep it. */

/** Open tasks of which a service says so, or we do. */
export const waitingTasks = (sql: Sql, p: { workspaceId: string }): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT m.id FROM mirrors m WHERE m.workspace_id = :workspaceId AND m.waits = 1 AND m.open_task = 1 AND m.presence = 'present'
     UNION
     SELECT m.id FROM waits w JOIN mirrors m ON m.id = w.mirror_id
     WHERE w.workspace_id = :workspaceId AND m.open_task = 1 AND m.presence = 'present'
     ORDER BY id LIMIT 2000`,
    p,
  )

export const keptWaits = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<{ id: string; uid: string; gap: number }[]> =>
  sql.rows('SELECT mirror_id AS id, uid, gap FROM waits WHERE mirror_id IN (:ids) ORDER BY mirror_id, uid', p)

/** Those that are there; one uid may be in several lists. */
export const tasksWithUid = (
  sql: Sql,
  p: { workspaceId: string; uids: readonly string[] },
): Promise<{ id: string; uid: string }[]> =>
  sql.rows(
    `SELECT m.id, m.uid FROM mirrors m JOIN connections n ON n.id = m.connection_id
     WHERE n.workspace_id = :workspaceId AND m.uid IN (:uids) AND m.kind = 'task' AND m.presence = 'present'
     ORDER BY m.id`,
    p,
  )

export async function putWaits(
  sql: Sql,
  p: { mirrorId: string; workspaceId: string; waits: readonly { uid: string; gap: number }[] },
): Promise<void> {
  const { mirrorId, workspaceId, waits } = p
  await sql.run('DELETE FROM waits WHERE mirror_id = :mirrorId', { mirrorId })
  for (const { uid, gap } of waits)
    await sql.insert(
      'INSERT INTO waits (mirror_id, workspace_id, uid, gap) VALUES (:mirrorId, :workspaceId, :uid, :gap)',
      { mirrorId, workspaceId, uid, gap },
    )
}

/** Tasks that a rule keeps with their parts listed inside. */
export const tasksWithListedParts = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ id: string | null }[]> =>
  sql.rows(
    `SELECT IF(a.kind = 'task', t.a_mirror, t.b_mirror) AS id FROM ties t JOIN rules r ON r.id = t.rule_id
       JOIN mirrors a ON a.id = t.a_mirror
     WHERE t.workspace_id = :workspaceId AND t.role = 'mirror' AND t.released IS NULL
       AND JSON_VALUE(r.settings, '$.subtasks') = 'listed' LIMIT 5000`,
    p,
  )
