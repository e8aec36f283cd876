import type { Sql } from '../database.ts'
import { OWN } from './connections.ts'

/** What has come since somebody looked last. */

/** Epoch ms; null before the first time. */
export const daySeen = async (sql: Sql, p: { memberId: string }): Promise<number | null> => {
  const row = await sql.one<{ at: number }>('SELECT at FROM day_seen WHERE member_id = :memberId', p)
  return row ? Number(row.at) : null
}

/** Never earlier than it was. */
export const sawDay = (sql: Sql, p: { memberId: string; workspaceId: string; at: number }): Promise<number> =>
  sql.run(
    `INSERT INTO day_seen (member_id, workspace_id, at) VALUES (:memberId, :workspaceId, :at)
     ON DUPLICATE KEY UPDATE at = GREATEST(at, VALUES(at))`,
    p,
  )

/**
 * Items first seen since then, the latest first. What a list held when it was first read is nothing new, nor is what
 * this person made themselves.
 */
export const firstSeenSince = (
  sql: Sql,
  p: { workspaceId: string; memberId: string; since: number; most: number },
): Promise<{ id: string; at: number }[]> =>
  sql.rows(
    `SELECT m.id, m.first_seen_at AS at FROM collections k
       JOIN connections c ON c.id = k.connection_id
       JOIN mirrors m ON m.collection_id = k.id AND m.first_seen_at > :since
     WHERE k.workspace_id = :workspaceId AND m.presence = 'present' AND m.series_id IS NULL
       AND (c.kind = '${OWN}' OR m.first_seen_at > k.baseline_at)
       AND NOT EXISTS (SELECT 1 FROM journal j WHERE j.mirror_id = m.id AND j.op = 'create' AND j.member_id = :memberId)
     ORDER BY m.first_seen_at DESC, m.id LIMIT :most`,
    p,
  )
