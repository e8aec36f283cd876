import { randomUUID } from 'node:crypto'
import { EventEmitter, once } from 'node:events'
import type { Logger } from 'pino'
import type { Database, Sql } from './database.ts'

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
    private readonly log: Logger,
  ) {
    this.timer = setInterval(() => {
      this.renew().catch((error: unknown) =>
        this.log.warn({ err: error, resource }, 'a lease was not renewed'),
      )
    }, RENEW_MS)
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
    timesGivenBack++
    givenBack.emit(this.resource)
  }
}

interface Leasing {
  db: Database
  log: Logger
}

/** Null while somebody else holds it. */
export async function takeLease(
  { db, log }: Leasing,
  workspaceId: string,
  resource: string,
): Promise<Lease | null> {
  const holder = randomUUID()
  const now = Date.now()
  const isFree = 'expires_at <= :now'
  // Assigned from left to right: whether it is free is asked before the last of them says that it is not.
  const taken = await db.one<{ holder: string }>(
    `INSERT INTO leases (resource, workspace_id, holder, fence, expires_at)
     VALUES (:resource, :workspaceId, :holder, 1, :until)
     ON DUPLICATE KEY UPDATE holder = IF(${isFree}, VALUES(holder), holder), fence = IF(${isFree}, fence + 1, fence),
       expires_at = IF(${isFree}, VALUES(expires_at), expires_at)
     RETURNING holder`,
    { resource, workspaceId, holder, until: now + LEASE_MS, now },
  )
  return taken?.holder === holder ? new Lease(db, resource, holder, log) : null
}

/** What was given back is told of within this process; what another server holds is asked for now and then. */
const givenBack = new EventEmitter().setMaxListeners(0)
let timesGivenBack = 0
const ASK_EVERY_MS = 50
const MOST_MS = 3000

/** Waits a while for it; null when it is still held then. */
export async function awaitLease(by: Leasing, workspaceId: string, resource: string): Promise<Lease | null> {
  for (const until = Date.now() + MOST_MS; Date.now() < until;) {
    const before = timesGivenBack
    const lease = await takeLease(by, workspaceId, resource)
    if (lease) return lease
    if (before !== timesGivenBack) continue
    const soon = AbortSignal.timeout(ASK_EVERY_MS)
    await once(givenBack, resource, { signal: soon }).catch((error: unknown) => {
      if (!soon.aborted) throw error
    })
  }
  return null
}

export const lastHeldLease = (sql: Sql, p: { now: number }): Promise<{ resource: string } | null> =>
  sql.one('SELECT resource FROM leases WHERE expires_at > :now ORDER BY expires_at DESC LIMIT 1', p)
