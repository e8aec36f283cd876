import type { Sql } from '../database.ts'

/** Browsers that are told something while no page is open. */

export interface Device {
  id: string
  session_id: string
  /** What sends to it, by our key. */
  sealed: string
  /** What the browser says of itself. */
  device: string
  made_at: number
  /** How often in succession it could not be reached. */
  failures: number
}

/** Only those of sessions that are open, and go on in this workspace. */
export const devicesOf = (sql: Sql, p: { memberId: string; now: number }): Promise<Device[]> =>
  sql.rows(
    `SELECT d.id, d.session_id, d.sealed, d.device, d.made_at, d.failures FROM push_subscriptions d
       JOIN sessions s ON s.id = d.session_id AND s.member_id = d.member_id AND s.expires_at > :now
       JOIN members m ON m.id = d.member_id AND m.left_at IS NULL
     WHERE d.member_id = :memberId ORDER BY d.made_at, d.id LIMIT 20`,
    p,
  )

export const sessionIdOf = (sql: Sql, p: { hash: string }): Promise<{ id: string } | null> =>
  sql.one('SELECT id FROM sessions WHERE token_hash = :hash', p)

/** The same browser asked anew is the same device. */
export const putDevice = (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    memberId: string
    sessionId: string
    hash: string
    sealed: string
    device: string
    now: number
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO push_subscriptions
       (id, workspace_id, member_id, session_id, endpoint_hash, sealed, device, made_at)
     VALUES (:id, :workspaceId, :memberId, :sessionId, :hash, :sealed, :device, :now)
     ON DUPLICATE KEY UPDATE workspace_id = VALUES(workspace_id), member_id = VALUES(member_id),
       session_id = VALUES(session_id), sealed = VALUES(sealed), device = VALUES(device), failures = 0`,
    p,
  )

export const dropDevice = (sql: Sql, p: { id: string; memberId: string }): Promise<number> =>
  sql.run('DELETE FROM push_subscriptions WHERE id = :id AND member_id = :memberId', p)

export const countFailure = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run('UPDATE push_subscriptions SET failures = failures + 1 WHERE id = :id', p)

export const reachedDevice = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run('UPDATE push_subscriptions SET failures = 0 WHERE id = :id AND failures > 0', p)

/** Of sessions that are over, and what could not be reached for long. */
export const dropDeadDevices = (sql: Sql, p: { mostFailures: number }): Promise<number> =>
  sql.run(
    `DELETE FROM push_subscriptions WHERE failures >= :mostFailures
       OR NOT EXISTS (SELECT 1 FROM sessions s WHERE s.id = push_subscriptions.session_id)`,
    p,
  )
