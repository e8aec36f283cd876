import type { Planning } from '@loom/core/planning'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** How people plan their own time. */

export const planningRow = (
  sql: Sql,
  p: { memberId: string },
): Promise<{ version: number; body: Json<Planning> } | null> =>
  sql.one('SELECT version, body FROM planning WHERE member_id = :memberId', p)

/** Of those of a workspace who show their ways. */
export const planningsWithWays = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ memberId: string; body: Json<Planning> }[]> =>
  sql.rows(
    `SELECT p.member_id AS memberId, p.body FROM planning p JOIN members m ON m.id = p.member_id AND m.left_at IS NULL
     WHERE p.workspace_id = :workspaceId AND LOCATE('"showsWays":true', p.body) > 0
     ORDER BY p.member_id`,
    p,
  )

/** Only from the version that was seen, 0 where there was none yet; whether it was written. */
export async function putPlanning(
  sql: Sql,
  p: { memberId: string; workspaceId: string; version: number; body: Json<Planning> },
): Promise<boolean> {
  if (p.version === 0)
    return (
      (await sql.run(
        `INSERT IGNORE INTO planning (member_id, workspace_id, version, body)
         VALUES (:memberId, :workspaceId, 1, :body)`,
        p,
      )) === 1
    )
  const changed = await sql.run(
    `UPDATE planning SET body = :body, version = version + 1 WHERE member_id = :memberId AND version = :version`,
    p,
  )
  return changed === 1
}

/** With what was laid by it, moved, and reminded of. */
export async function forgetPlanning(sql: Sql, p: { memberId: string }): Promise<void> {
  const tables = [
    'planning',
    'laid_pieces',
    'kept_up',
    'day_seen',
    'reminders',
    'push_subscriptions',
    'item_reminders',
  ]
  for (const table of tables) await sql.run(`DELETE FROM ${table} WHERE member_id = :memberId`, p)
}
