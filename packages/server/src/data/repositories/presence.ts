import type { Sql } from '../database.ts'

/** Which days members have open now. */

export const putPresence = (
  sql: Sql,
  p: { pageId: string; workspaceId: string; memberId: string; from: string; to: string; now: number },
): Promise<void> =>
  sql.insert(
    `INSERT INTO presence (page_id, workspace_id, member_id, from_day, to_day, seen_at)
     VALUES (:pageId, :workspaceId, :memberId, :from, :to, :now)
     ON DUPLICATE KEY UPDATE from_day = IF(member_id = :memberId, :from, from_day),
       to_day = IF(member_id = :memberId, :to, to_day), seen_at = IF(member_id = :memberId, :now, seen_at)`,
    p,
  )

/** How many pages of a member were heard of since then, without this one. */
export const countPages = async (
  sql: Sql,
  p: { workspaceId: string; memberId: string; pageId: string; since: number },
): Promise<number> =>
  (
    await sql.one<{ n: number }>(
      `SELECT COUNT(*) AS n FROM presence WHERE workspace_id = :workspaceId AND seen_at >= :since
         AND member_id = :memberId AND page_id <> :pageId`,
      p,
    )
  )?.n ?? 0

/** Others of the workspace who have some of the same days open and were heard of since then. */
export const presentWith = (
  sql: Sql,
  p: { workspaceId: string; memberId: string; from: string; to: string; since: number },
): Promise<{ id: string; name: string }[]> =>
  sql.rows(
    `SELECT DISTINCT m.id, m.name FROM presence p JOIN members m ON m.id = p.member_id AND m.left_at IS NULL
     WHERE p.workspace_id = :workspaceId AND p.member_id <> :memberId AND p.seen_at >= :since
       AND p.from_day <= :to AND p.to_day >= :from ORDER BY m.name LIMIT 50`,
    p,
  )

export const dropPresence = (sql: Sql, p: { pageId: string; memberId: string }): Promise<number> =>
  sql.run('DELETE FROM presence WHERE page_id = :pageId AND member_id = :memberId', p)

export const tidyPresence = (sql: Sql, p: { before: number }): Promise<number> =>
  sql.run('DELETE FROM presence WHERE seen_at < :before LIMIT 50000', p)
