import { randomUUID } from 'node:crypto'
import type { Database, Sql } from '../data/database.ts'

/**
 * A lease on a connection or on a workspace's rules: whoever holds it is the only one to act there. It
 * runs out by itself when a process dies, and every commit checks that it is still held (fencing).
 */
export const LEASE_MS = 10_000
const RENEW_MS = 3_000

export class LeaseLost extends Error {}

export class Lease {
  private readonly timer: NodeJS.Timeout

  constructor(
    private readonly db: Database,
    private readonly resource: string,
    private readonly holder: string,
  ) {
    this.timer = setInterval(() => void this.renew().catch(() => undefined), RENEW_MS)
  }

  private async renew(): Promise<void> {
    await this.db.run(
      'UPDATE leases SET expires_at = :until WHERE resource = :resource AND holder = :holder',
      {
        until: Date.now() + LEASE_MS,
        resource: this.resource,
        holder: this.holder,
      },
    )
  }

  /** Throws LeaseLost, which undoes the transaction, when somebody else has taken over. */
  async check(sql: Sql): Promise<void> {
    const held = await sql.one(
      `SELECT fence FROM leases WHERE resource = :resource AND holder = :holder AND expires_at > :now
       LOCK IN SHARE MODE`,
      { resource: this.resource, holder: this.holder, now: Date.now() },
    )
    if (!held) throw new LeaseLost(this.resource)
  }

  async release(): Promise<void> {
    clearInterval(this.timer)
    await this.db.run('UPDATE leases SET expires_at = 0 WHERE resource = :resource AND holder = :holder', {
      resource: this.resource,
      holder: this.holder,
    })
  }
}

/** Null while somebody else holds it. */
export async function takeLease(db: Database, workspaceId: string, resource: string): Promise<Lease | null> {
  const holder = randomUUID()
  const now = Date.now()
  await db.insert(
    `INSERT IGNORE INTO leases (resource, workspace_id, holder, fence, expires_at)
     VALUES (:resource, :workspaceId, :holder, 0, 0)`,
    { resource, workspaceId, holder },
  )
  const taken = await db.run(
    `UPDATE leases SET holder = :holder, fence = fence + 1, expires_at = :until
     WHERE resource = :resource AND expires_at <= :now`,
    { resource, holder, until: now + LEASE_MS, now },
  )
  return taken > 0 ? new Lease(db, resource, holder) : null
}

/** Waits a while for it; null when it is still held then. */
export async function awaitLease(db: Database, workspaceId: string, resource: string): Promise<Lease | null> {
  for (let waited = 0; waited < 3000; waited += 50) {
    const lease = await takeLease(db, workspaceId, resource)
    if (lease) return lease
    await new Promise(resolve => setTimeout(resolve, 50))
  }
  return null
}
