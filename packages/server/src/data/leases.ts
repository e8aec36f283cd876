import { randomUUID } from 'node:crypto'
import { EventEmitter, once } from 'node:events'
import type { Logger } from 'pino'
import type { Database, Sql } from './database.ts'
import { fenceLease, giveBackLease, renewLease, takeFreeLease, takeNewLease } from './repositories/leases.ts'

/**
 * A lease on a connection or on a workspace's rules: only its holder acts there. It expires when a process dies,
 * and every commit checks that it is still held (fencing).
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
    const { resource, holder } = this
    if (await renewLease(this.db, { resource, holder, until: Date.now() + LEASE_MS })) return
    clearInterval(this.timer)
    this.log.warn({ resource }, 'a lease was taken over')
  }

  /** Belongs to a commit. Throws LeaseLost, which undoes the transaction, when somebody else has taken over. */
  async check(sql: Sql): Promise<void> {
    const { resource, holder } = this
    if (!(await fenceLease(sql, { resource, holder, now: Date.now() }))) throw new LeaseLost(resource)
  }

  async release(): Promise<void> {
    clearInterval(this.timer)
    await giveBackLease(this.db, { resource: this.resource, holder: this.holder })
    timesGivenBack++
    givenBack.emit(this.resource)
  }
}

interface Leasing {
  db: Database
  log: Logger
}

/** Null while another holder has it. */
export async function takeLease(
  { db, log }: Leasing,
  workspaceId: string,
  resource: string,
): Promise<Lease | null> {
  const held = { resource, holder: randomUUID() }
  const now = Date.now()
  const until = now + LEASE_MS
  const isTaken =
    (await takeFreeLease(db, { ...held, until, now })) ||
    (await takeNewLease(db, { ...held, workspaceId, until }))
  return isTaken ? new Lease(db, resource, held.holder, log) : null
}

/** A release is announced within this process. A lease of another server is polled. */
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
