import { EventEmitter } from 'node:events'
import { type Change, TOPICS } from './change.ts'
import type { Database } from './database.ts'
import { latestSeq } from './number-changes.ts'
import type { Background } from '../work/background.ts'
import { type Json, parsed } from './json.ts'

export interface Numbered {
  seq: number
  change: Change
}

const POLL_MS = 250
const MOST_REST_MS = 5_000
/** So many listeners are told at once; of more, each adds this long to the time between two tellings. */
const FEW = 10
const EACH_MS = 1.5
const MOST_TOGETHER_MS = 300
/** So many are told one by one. */
const MOST = 500

/** Tells listeners of every numbered change of any process. */
export class ChangeFeed {
  private readonly emitter = new EventEmitter().setMaxListeners(0)
  private readonly seen = new Map<string, number>()
  private readonly sentAt = new Map<string, number>()
  private later: NodeJS.Timeout | null = null
  /** Ends the polling. Null while nobody listens. */
  private ending: (() => void) | null = null
  private nudged = false
  private rests = { failures: 0, until: 0 }

  constructor(
    private readonly db: Database,
    private readonly background: Background,
  ) {
    db.afterCommit(() => this.nudge())
  }

  /** Looks at once, for changes of this very process. Many that ask in one turn are answered together. */
  private nudge(): void {
    if (this.nudged) return
    this.nudged = true
    setImmediate(() => {
      this.nudged = false
      this.background.run('poll the change feed', () => this.pollUnlessResting())
    })
  }

  /** While the database does not answer, it is asked ever more seldom. */
  private async pollUnlessResting(): Promise<void> {
    if (Date.now() < this.rests.until) return
    try {
      await this.poll()
      this.rests = { failures: 0, until: 0 }
    } catch (error) {
      const failures = this.rests.failures + 1
      this.rests = { failures, until: Date.now() + Math.min(MOST_REST_MS, POLL_MS * 2 ** failures) }
      throw error
    }
  }

  private async poll(): Promise<void> {
    for (const [workspaceId, seen] of this.seen) {
      const early = this.tooEarly(workspaceId)
      if (early > 0) {
        this.pollIn(early)
        continue
      }
      const found = await this.since(workspaceId, seen)
      const fresh = found.filter(({ seq }) => seq > (this.seen.get(workspaceId) ?? Infinity))
      const last = fresh.at(-1)
      if (!last) continue
      this.seen.set(workspaceId, last.seq)
      this.sentAt.set(workspaceId, performance.now())
      this.emitter.emit(workspaceId, fresh)
    }
  }

  /**
   * The delay before clients are notified, in ms. Each notified client asks for changes, so with many clients
   * several changes are announced together.
   */
  private tooEarly(workspaceId: string): number {
    const listeners = this.emitter.listenerCount(workspaceId)
    if (listeners <= FEW) return 0
    const window = Math.min(MOST_TOGETHER_MS, listeners * EACH_MS)
    return (this.sentAt.get(workspaceId) ?? -Infinity) + window - performance.now()
  }

  private pollIn(ms: number): void {
    if (this.later) return
    this.later = setTimeout(() => {
      this.later = null
      this.nudge()
    }, ms)
  }

  /** What has happened since; where that is very much, or partly forgotten, one change that concerns everything. */
  async since(workspaceId: string, seq: number): Promise<Numbered[]> {
    const rows = await this.db.rows<{ seq: number; body: Json<Change> }>(
      `SELECT seq, body FROM changes WHERE workspace_id = :workspaceId AND seq > :seq ORDER BY seq LIMIT ${MOST + 1}`,
      { workspaceId, seq },
    )
    const [first] = rows
    if (rows.length > MOST || (first && first.seq > seq + 1))
      return [{ seq: await this.latest(workspaceId), change: { topics: [...TOPICS] } }]
    return rows.map(r => ({ seq: r.seq, change: parsed(r.body) }))
  }

  latest(workspaceId: string): Promise<number> {
    return latestSeq(this.db, workspaceId)
  }

  /** `hear` is told of numbered changes in their order, several at a time. */
  async listen(workspaceId: string, hear: (changes: readonly Numbered[]) => void): Promise<() => void> {
    if (!this.seen.has(workspaceId)) this.seen.set(workspaceId, await this.latest(workspaceId))
    this.emitter.on(workspaceId, hear)
    this.ending ??= this.background.every('poll the change feed', POLL_MS, () => this.pollUnlessResting())
    return () => {
      this.emitter.off(workspaceId, hear)
      if (this.emitter.listenerCount(workspaceId) > 0) return
      this.seen.delete(workspaceId)
      this.sentAt.delete(workspaceId)
      if (this.isWatchedAtAll) return
      this.ending?.()
      this.ending = null
    }
  }

  /** Whether anybody is signed in and watching: then services without notifications are polled more often. */
  isWatched(workspaceId: string): boolean {
    return this.emitter.listenerCount(workspaceId) > 0
  }

  get isWatchedAtAll(): boolean {
    return this.seen.size > 0
  }
}
