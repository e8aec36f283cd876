import type { Params, Sql } from '../database.ts'

/** Leases, taken and fenced by writes whose rows are counted: so they hold on one database and on a cluster. */

interface Held extends Params {
  resource: string
  holder: string
}

/** One that has run out or was given back. `until`, `now`: epoch ms. */
export const takeFreeLease = async (sql: Sql, p: Held & { until: number; now: number }): Promise<boolean> =>
  (await sql.run(
    `UPDATE leases SET holder = :holder, fence = fence + 1, expires_at = :until
     WHERE resource = :resource AND expires_at <= :now`,
    p,
  )) === 1

/** One that nobody has held yet. */
export const takeNewLease = async (
  sql: Sql,
  p: Held & { workspaceId: string; until: number },
): Promise<boolean> =>
  (await sql.run(
    `INSERT IGNORE INTO leases (resource, workspace_id, holder, fence, expires_at)
     VALUES (:resource, :workspaceId, :holder, 1, :until)`,
    p,
  )) === 1

/** False where somebody else holds it by now. */
export const renewLease = async (sql: Sql, p: Held & { until: number }): Promise<boolean> =>
  (await sql.run(
    'UPDATE leases SET expires_at = :until, writes = writes + 1 WHERE resource = :resource AND holder = :holder',
    p,
  )) === 1

/**
 * Checks the lease inside a transaction; false if it was lost. It is a write, so that it conflicts with another
 * node that took the lease.
 */
export const fenceLease = async (sql: Sql, p: Held & { now: number }): Promise<boolean> =>
  (await sql.run(
    `UPDATE leases SET writes = writes + 1 WHERE resource = :resource AND holder = :holder AND expires_at > :now`,
    p,
  )) === 1

export const giveBackLease = async (sql: Sql, p: Held): Promise<void> => {
  await sql.run('UPDATE leases SET expires_at = 0 WHERE resource = :resource AND holder = :holder', p)
}

export const lastHeldLease = (sql: Sql, p: { now: number }): Promise<{ resource: string } | null> =>
  sql.one('SELECT resource FROM leases WHERE expires_at > :now ORDER BY expires_at DESC LIMIT 1', p)
