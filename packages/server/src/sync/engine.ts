import { ServiceError } from '@loom/connectors'
import { applyDue } from './apply.ts'
import { type ConnectionRow, CONNECTIONS, connectorOf, type Context } from './context.ts'
import { connectionTrouble, connectionWell } from './health.ts'
import { LeaseLost, takeLease } from './leases.ts'
import { observeConnection } from './observe.ts'
import { planWorkspace } from './pass.ts'

/**
 * Keeps everything in step: for each connection, send what is open, read what is new, then plan. One
 * worker a connection, so that a slow service delays nobody else.
 *
 *   look due ──► lease ──► apply ──► observe ──► plan ──► kick the connections that got intents
 */
const TICK_MS = 300
const TIDY_MS = 3_600_000
const WATCHED_LOOK_MS = 1_000
const IDLE_LOOK_MS = 15_000

interface Worker {
  running: Promise<void>
  again: boolean
}

export class Engine {
  private readonly workers = new Map<string, Worker>()
  private timer: NodeJS.Timeout | null = null
  private tidying: NodeJS.Timeout | null = null
  private ticking = false
  private stopped = false

  constructor(private readonly ctx: Context) {}

  start(): void {
    this.timer = setInterval(() => void this.tick(), TICK_MS)
    this.tidying = setInterval(
      () => void this.tidy().catch((error: unknown) => this.ctx.log.error({ err: error }, 'could not tidy')),
      TIDY_MS,
    )
  }

  /** What nobody asks for any more: ended intents, old changes, originals past their time, dead sessions. */
  private async tidy(): Promise<void> {
    const { db, now } = this.ctx
    const week = Date.now() - 7 * 86_400_000
    await db.run(`DELETE FROM intents WHERE state NOT IN ('open', 'waiting') AND made_at < :week`, { week })
    await db.run('DELETE FROM kept_originals WHERE until < :now', { now: now() })
    await db.run('DELETE FROM sessions WHERE expires_at < :now', { now: Date.now() })
    await db.run(
      `DELETE c FROM changes c JOIN workspaces w ON w.id = c.workspace_id WHERE c.seq < w.change_seq - 20000`,
    )
  }

  async stop(): Promise<void> {
    this.stopped = true
    if (this.tidying) clearInterval(this.tidying)
    if (this.timer) clearInterval(this.timer)
    await Promise.all([...this.workers.values()].map(w => w.running))
  }

  /** Something happened that concerns this connection. */
  kick(connectionId: string): void {
    if (this.stopped) return
    const worker = this.workers.get(connectionId)
    if (worker) {
      worker.again = true
      return
    }
    const started: Worker = { running: Promise.resolve(), again: false }
    this.workers.set(connectionId, started)
    started.running = this.work(connectionId, started)
  }

  /** A notification, or a person who wants to know now. */
  async look(connectionId: string): Promise<void> {
    await this.ctx.db.run('UPDATE connections SET next_look_at = 0 WHERE id = :id', { id: connectionId })
    this.kick(connectionId)
  }

  /** Somebody has come to look: what they see is to be of now, not of the last unhurried round. */
  async lookAround(workspaceId: string): Promise<void> {
    await this.ctx.db.run(
      `UPDATE connections SET next_look_at = 0 WHERE workspace_id = :workspaceId AND state = 'ok'`,
      { workspaceId },
    )
  }

  private async tick(): Promise<void> {
    if (this.ticking || this.stopped) return
    this.ticking = true
    try {
      const due = await this.ctx.db.rows<{ id: string }>(
        `SELECT c.id FROM connections c WHERE c.next_look_at <= :now
         UNION SELECT i.connection_id FROM intents i JOIN connections c ON c.id = i.connection_id
           WHERE i.state = 'open' AND i.next_try_at <= :now AND (c.state = 'ok' OR c.next_look_at <= :now)`,
        { now: Date.now() },
      )
      for (const { id } of due) this.kick(id)
      // Changes that no pass has looked at, whoever should have: a server that died, say.
      const unplanned = await this.ctx.db.rows<{ id: string }>(
        `SELECT DISTINCT w.id FROM workspaces w JOIN rules r ON r.workspace_id = w.id
         WHERE r.state = 'on' AND r.planned_seq < w.change_seq`,
      )
      for (const { id } of unplanned) await this.plan(id)
    } catch (error) {
      this.ctx.log.error({ err: error }, 'could not look for due work')
    } finally {
      this.ticking = false
    }
  }

  private async work(connectionId: string, worker: Worker): Promise<void> {
    do {
      worker.again = false
      let more = false
      try {
        more = await this.once(connectionId)
      } catch (error) {
        if (!(error instanceof LeaseLost))
          this.ctx.log.error({ err: error, connectionId }, 'a pass broke off')
      }
      worker.again ||= more
    } while (worker.again && !this.stopped)
    this.workers.delete(connectionId)
  }

  /** Returns whether something that waited behind a write may go now. */
  private async once(connectionId: string): Promise<boolean> {
    const { ctx } = this
    const row = await ctx.db.one<ConnectionRow>(`${CONNECTIONS} WHERE c.id = :id`, { id: connectionId })
    if (!row) return false
    // A service in trouble is left alone until its time has come, however much there is to send.
    if (row.state !== 'ok' && row.next_look_at > Date.now()) return false
    const lease = await takeLease(ctx.db, row.workspace_id, `connection:${connectionId}`)
    if (!lease) return false
    let applied = 0
    let changed = false
    try {
      const connector = connectorOf(ctx, row)
      applied = await applyDue(ctx, row, connector, lease)
      changed = applied > 0
      if (row.next_look_at <= Date.now()) {
        changed = (await observeConnection(ctx, row, connector, lease)) || changed
        const pace = ctx.feed.isWatched(row.workspace_id) ? WATCHED_LOOK_MS : IDLE_LOOK_MS
        await ctx.db.run(
          'UPDATE connections SET next_look_at = :next WHERE id = :id AND next_look_at = :was',
          {
            id: row.id,
            next: Date.now() + pace,
            was: row.next_look_at,
          },
        )
        await connectionWell(ctx, row)
      }
    } catch (error) {
      if (!(error instanceof ServiceError)) throw error
      await connectionTrouble(ctx, row, error)
    } finally {
      await lease.release()
    }
    if (changed || row.last_ok_at === null) await this.plan(row.workspace_id)
    return applied > 0
  }

  /** Plans and sets to work whoever got something to do. */
  async plan(workspaceId: string, full = false): Promise<void> {
    for (const id of await planWorkspace(this.ctx, workspaceId, full)) this.kick(id)
  }
}
