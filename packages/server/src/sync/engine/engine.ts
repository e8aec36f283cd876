import { tidyPresence } from '../../data/repositories/presence.ts'
import { type Connector, ServiceError } from '@loom/connectors'
import { removeDeletedWorkspaces } from '../../team/deletion.ts'
import { forgetLimits } from '../../access/limits.ts'
import { forgetPastEntryLinks } from '../../data/repositories/entry-links.ts'
import type { Background } from '../../work/background.ts'
import { nowDoing } from '../../work/doing.ts'
import { DISCOVER_EVERY_MS, discoverAnew } from '../../connecting/discover-anew.ts'
import { applyDue } from '../push/apply.ts'
import { compareInFull } from './compare.ts'
import { connectorOf, type Context, limitsOf } from '../../context/context.ts'
import { Glances, type Standing } from './glances.ts'
import { backoff, connectionTrouble, connectionWell, countLook, ownTrouble } from '../log/health.ts'
import { LeaseLost, takeLease } from '../../data/leases.ts'
import { collectionsOf, observeConnection } from '../pull/observe.ts'
import { planWorkspace } from '../plan/pass.ts'
import { readAgain } from '../pull/read-again.ts'
import {
  dropPastIntents,
  dropPastLooks,
  dropPastDrafts,
  dropPastOriginals,
  connectionsLeft,
  dropPastSessions,
  dropPastAnswers,
  dropPastChanges,
} from '../../data/repositories/tidy.ts'
import {
  lookSoon,
  lookAllSoon,
  connectionsAtRest,
  connectionsDue,
  connectionById,
  deleteConnection,
  isPaused,
  restUntil,
  type ConnectionRow,
} from '../../data/repositories/connections.ts'
import { workspacesToPlan } from '../../data/repositories/rules.ts'

/**
 * Syncs each connection: sends open writes, reads what is new, then plans. There is one worker for each
 * connection, so that a slow service delays no other.
 *
 *   look due ──► lease ──► apply ──► observe ──► plan ──► kick the connections that got intents
 */
const TICK_MS = 300
/** Where nobody looks on, and nothing was asked for in a while: what is asked for here begins at once all the same. */
const QUIET_TICK_MS = 1_000
const QUIET_AFTER_MS = 20_000
const TIDY_MS = 3_600_000
/** What somebody connected who has left is kept so long, hidden. */
const LEFT_MS = 30 * 86_400_000
/** Poll intervals, ms: with and without people watching; short after a change, longer without. */
const PACE = { watched: { least: 1_000, most: 1_500 }, idle: { least: 15_000, most: 120_000 } }
/** Between two looks at an account whose glances tell when to look. */
const GLANCED_REST_MS = 60_000
const MAX_REST_MS = 86_400_000
/** While the database does not answer. */
const MOST_TICK_REST_MS = 5_000
const UNWRITTEN_REST_MS = 2_000
/** Once in a day everything is compared, whatever notifications and tokens say. */
const COMPARE_EVERY_MS = 86_400_000

interface Worker {
  again: boolean
}

/** A workspace's planning: requests that come while it runs are answered by one more run after it. */
interface Planner {
  running: Promise<void>
  again: boolean
  full: boolean
}

/** Why nothing is kept in step just now, although the server runs. */
export interface Halted {
  since: number
  why: string
}

export class Engine {
  private readonly workers = new Map<string, Worker>()
  private readonly planners = new Map<string, Planner>()
  /** By workspace: how often planning has failed in a row, and until when it rests. */
  private readonly planRests = new Map<string, { failures: number; until: number }>()
  private tickRests = { failures: 0, until: 0 }
  private askedAt = 0
  /** Ends the looking for due work every moment. Null while it is quiet. */
  private hurry: (() => void) | null = null
  private readonly glances = new Glances()
  private readonly background: Background

  constructor(
    private readonly ctx: Context,
    private halted: Halted | null = null,
  ) {
    this.background = ctx.background
  }

  start(): void {
    this.background.every('look for due work', QUIET_TICK_MS, async () => {
      if (!this.hurry) await this.tick()
    })
    this.stir()
    this.background.every('tidy', TIDY_MS, () => this.tidy())
  }

  /** Null while it works. */
  get isHalted(): Halted | null {
    return this.halted
  }

  /** Somebody wants it to try again. */
  resume(): void {
    this.halted = null
  }

  private get stopped(): boolean {
    return this.background.isStopped || this.halted !== null
  }

  /** Deletes what is past its time: ended intents, old changes, originals, sessions. */
  private async tidy(): Promise<void> {
    const { db, now } = this.ctx
    const week = Date.now() - 7 * 86_400_000
    await dropPastIntents(db, { week })
    await dropPastLooks(db, { day: now() - 2 * 86_400_000 })
    await dropPastDrafts(db, { now: Date.now() })
    await tidyPresence(db, { before: Date.now() - 3_600_000 })
    await dropPastOriginals(db, { now: now() })
    await dropPastSessions(db, { now: Date.now() })
    for (const { id, workspace_id } of await connectionsLeft(db, { before: now() - LEFT_MS }))
      await db.commit(async sql => {
        await deleteConnection(sql, { id })
        sql.tell(workspace_id, { topics: ['connections', 'cloth', 'rules'] })
      })
    await dropPastAnswers(db, { day: Date.now() - 86_400_000 })
    await forgetLimits(db)
    await forgetPastEntryLinks(db, { now: Date.now() })
    await dropPastChanges(db)
    await removeDeletedWorkspaces(this.ctx)
  }

  /** Something happened that concerns this connection. */
  kick(connectionId: string): void {
    if (this.stopped) return
    const worker = this.workers.get(connectionId)
    if (worker) {
      worker.again = true
      return
    }
    const started: Worker = { again: false }
    this.workers.set(connectionId, started)
    this.background.run('keep a connection in step', () => this.work(connectionId, started))
  }

  /** A notification, or a person who wants to know now. */
  async look(connectionId: string, item: string | null = null): Promise<void> {
    if (item) this.ctx.hints.set(connectionId, (this.ctx.hints.get(connectionId) ?? new Set()).add(item))
    this.stir()
    await lookSoon(this.ctx.db, { id: connectionId })
    this.kick(connectionId)
  }

  /** Somebody has come to look: what they see is to be of now, not of the last unhurried round. */
  async lookAround(workspaceId: string): Promise<void> {
    await lookAllSoon(this.ctx.db, { workspaceId })
    this.stir()
  }

  /** Somebody asked for something: what follows of it is not to wait. */
  private stir(): void {
    this.askedAt = Date.now()
    this.hurry ??= this.background.every('look for due work', TICK_MS, async () => {
      await this.tick()
      if (Date.now() - this.askedAt < QUIET_AFTER_MS || this.ctx.feed.isWatchedAtAll) return
      this.hurry?.()
      this.hurry = null
    })
  }

  private async tick(): Promise<void> {
    if (this.stopped || Date.now() < this.tickRests.until) return
    try {
      const due = await connectionsDue(this.ctx.db, { now: Date.now() })
      for (const { id } of due) this.kick(id)
      // Changes that no pass has planned yet, for example because a server died. Time passing counts, too.
      const unplanned = await workspacesToPlan(this.ctx.db, { now: this.ctx.now(), wall: Date.now() })
      for (const { id } of unplanned)
        if (Date.now() >= (this.planRests.get(id)?.until ?? 0)) this.requestPlan(id)
      await this.glanceAround()
      this.tickRests = { failures: 0, until: 0 }
    } catch (error) {
      const failures = this.tickRests.failures + 1
      this.tickRests = { failures, until: Date.now() + backoff(failures, MOST_TICK_REST_MS) }
      throw error
    }
  }

  /** Asks the accounts whose turn it is whether anything has moved. */
  private async glanceAround(): Promise<void> {
    // A look that is under way says itself how it goes on.
    const due = this.glances.due(Date.now()).filter(a => !this.workers.has(a.id))
    if (due.length === 0) return
    const ids = due.map(a => a.id)
    const rows = new Map((await connectionsAtRest(this.ctx.db, { ids })).map(r => [r.id, r]))
    for (const { id, asOf } of due) {
      const row = rows.get(id)
      // In trouble, paused or gone: a look decides when it goes on; one that did so meanwhile has decided.
      if (!row) this.glances.forget(id, asOf)
      else if (!this.workers.has(id)) {
        this.glances.begin(id)
        this.background.run('glance at an account', () => this.glanceAt(row))
      }
    }
  }

  private standingOf(row: ConnectionRow): Standing {
    return {
      isWatched: this.ctx.feed.isWatched(row.workspace_id),
      isNotified: row.subscribed_at !== null,
      limits: limitsOf(this.ctx, row.id),
    }
  }

  private async glanceAt(row: ConnectionRow): Promise<void> {
    try {
      if (!(await this.glances.hasMoved(row, await connectorOf(this.ctx, row), this.standingOf(row)))) return
    } catch (error) {
      // The look that follows says what is wrong, and when it is tried again.
      this.glances.forget(row.id)
      if (!(error instanceof ServiceError))
        this.ctx.log.error({ err: error, connectionId: row.id }, 'a glance broke off')
    }
    await this.look(row.id)
  }

  private async work(connectionId: string, worker: Worker): Promise<void> {
    try {
      do {
        worker.again = false
        let more = false
        try {
          more = await this.once(connectionId)
        } catch (error) {
          if (!(error instanceof LeaseLost)) {
            this.ctx.log.error({ err: error, connectionId }, 'a pass broke off')
            // Where its trouble could be written down, it rests by that; else here.
            await this.background.pause(UNWRITTEN_REST_MS)
          }
        }
        worker.again ||= more
      } while (worker.again && !this.stopped)
    } finally {
      this.workers.delete(connectionId)
    }
  }

  /** Returns whether something that waited behind a write may go now. */
  private async once(connectionId: string): Promise<boolean> {
    const { ctx } = this
    const row = await connectionById(ctx.db, { id: connectionId })
    if (!row || row.paused === 1) return false
    // A service in trouble is left alone until its time has come, however much there is to send.
    if (row.state !== 'ok' && row.next_look_at > Date.now()) return false
    const lease = await takeLease(ctx, row.workspace_id, `connection:${connectionId}`)
    if (!lease) return false
    nowDoing(`connection:${connectionId}`)
    const startedAt = Date.now()
    const tally = { writes: 0, items: 0, delayMs: 0, error: false }
    let changed = false
    let more = false
    let planning: Promise<void> | null = null
    const send = async (connector: Connector): Promise<void> => {
      const delays = await applyDue({ ctx, conn: row, connector, lease })
      tally.writes += delays.length
      tally.delayMs = Math.max(tally.delayMs, ...delays)
      changed ||= delays.length > 0
      if (delays.length > 0) this.glances.wrote(row.id, Date.now())
      more ||= delays.length > 0
    }
    try {
      const connector = await connectorOf(ctx, row)
      await readAgain(ctx, row, lease)
      await send(connector)
      if (row.next_look_at <= Date.now()) {
        // Edits made meanwhile are sent between two pages or lists. A pause or disconnection ends the reading.
        const between = async (): Promise<boolean> => {
          await send(connector)
          if (changed) await this.plan(row.workspace_id)
          const now = await isPaused(ctx.db, { id: row.id })
          return now?.paused === 0 && !this.stopped
        }
        await this.discoverNowAndThen(row, connector)
        if (Date.now() - row.compared_at > COMPARE_EVERY_MS) await compareInFull(ctx, row.id)
        const collections = await collectionsOf(ctx.db, row.id)
        const before = await this.glances.before(row, connector, collections, Date.now())
        const stored = (): void => void (planning = this.plan(row.workspace_id))
        const { still } = before
        const seen = await observeConnection(
          { ctx, row, connector, lease, collections, still, stored },
          between,
        )
        tally.items = seen.items
        changed ||= seen.changed
        if (!seen.stopped) {
          // First: what is glanced at and not well would be left to a look that has no reason to come soon.
          await connectionWell(ctx, row)
          const told = seen.complete ? await collectionsOf(ctx.db, row.id) : []
          const standing = this.standingOf(row)
          const isGlanced =
            seen.complete &&
            this.glances.keep(row, before, told, { hasChanged: seen.changed, standing, now: Date.now() })
          if (!isGlanced) this.glances.forget(row.id)
          await this.restAfter(row, connector, seen.changed, isGlanced)
        }
      }
    } catch (error) {
      if (error instanceof LeaseLost) throw error
      tally.error = true
      // Whatever it was, it is not tried again at once, and is told where a person looks.
      if (!(error instanceof ServiceError)) ctx.log.error({ err: error, connectionId }, 'a look broke off')
      await connectionTrouble(ctx, row, error instanceof ServiceError ? error : ownTrouble(error))
    } finally {
      await lease.release()
      await countLook(ctx, row, { ...tally, tookMs: Date.now() - startedAt })
    }
    await planning
    if ((changed && !planning) || row.last_ok_at === null) await this.plan(row.workspace_id)
    return more
  }

  /** What lists a service has changes seldom, and that it cannot say so holds up nothing else. */
  private async discoverNowAndThen(row: ConnectionRow, connector: Connector): Promise<void> {
    const listsItself = row.kind === 'caldav' || row.kind === 'http-json'
    if (!listsItself || Date.now() - row.discovered_at < DISCOVER_EVERY_MS) return
    try {
      await discoverAnew(this.ctx, row, connector)
    } catch (error) {
      if (!(error instanceof ServiceError)) throw error
      this.ctx.log.warn({ connectionId: row.id, trouble: error.trouble }, 'could not ask for new lists')
    }
  }

  /** When to look next: sooner where something changes, later where nothing does or the service asks for rest. */
  private async restAfter(
    row: ConnectionRow,
    connector: Connector,
    changed: boolean,
    isGlanced: boolean,
  ): Promise<void> {
    const { least, most } = this.ctx.feed.isWatched(row.workspace_id) ? PACE.watched : PACE.idle
    const isFirst = row.last_ok_at === null && connector.glance !== null
    const every = isGlanced
      ? GLANCED_REST_MS
      : isFirst
        ? least / 5
        : Math.min(most, Math.max(least, changed ? least : row.look_every_ms * 1.5))
    const asked = Math.min(MAX_REST_MS, connector.restMs() ?? 0)
    await restUntil(this.ctx.db, {
      id: row.id,
      next: Date.now() + Math.max(every, asked),
      every: Math.round(every),
      was: row.next_look_at,
    })
  }

  /** Plans soon, and starts the connections that got something to send. */
  requestPlan(workspaceId: string, full = false): void {
    this.stir()
    this.background.run('plan', () => this.plan(workspaceId, full))
  }

  /** Resolves when it was planned, or could not be; that is logged and tried again later. */
  private plan(workspaceId: string, full = false): Promise<void> {
    if (this.stopped) return Promise.resolve()
    const known = this.planners.get(workspaceId)
    if (known) {
      known.again = true
      known.full ||= full
      return known.running
    }
    const planner: Planner = { running: Promise.resolve(), again: true, full }
    this.planners.set(workspaceId, planner)
    planner.running = this.planWhileAsked(workspaceId, planner)
    return planner.running
  }

  private async planWhileAsked(workspaceId: string, planner: Planner): Promise<void> {
    try {
      while (planner.again && !this.stopped) {
        const { full } = planner
        Object.assign(planner, { again: false, full: false })
        await planWorkspace(this.ctx, workspaceId, full, id => this.kick(id))
        this.planRests.delete(workspaceId)
      }
    } catch (error) {
      const failures = (this.planRests.get(workspaceId)?.failures ?? 0) + 1
      this.planRests.set(workspaceId, { failures, until: Date.now() + backoff(failures) })
      this.ctx.log.error({ err: error, workspaceId, failures }, 'could not plan')
    } finally {
      this.planners.delete(workspaceId)
    }
  }
}
