import { EventEmitter } from 'node:events'
import type { Database, Sql } from '../data/database.ts'
import type { Background } from '../work/background.ts'

/** What a change concerns; clients ask again for what they show of it. */
const TOPICS = ['cloth', 'journal', 'rules', 'connections', 'views'] as const
export type Topic = (typeof TOPICS)[number]

export interface Change {
  topics: Topic[]
  /** An edit of this member was not taken by its service. */
  refused?: { memberId: string; title: string; reason: string }
  /**
   * Of the Cloth, nothing is another than the items that are numbered with it, what is tied to them, and what people
   * have under way: the rest of what was read before is as good as new.
   */
  exact?: true
}

export interface Numbered {
  seq: number
  change: Change
}

/** The number of the last change. */
export async function latestSeq(sql: Sql, workspaceId: string): Promise<number> {
  const row = await sql.one<{ change_seq: number }>(
    'SELECT change_seq FROM workspaces WHERE id = :workspaceId',
    { workspaceId },
  )
  return row?.change_seq ?? 0
}

/** These and what is tied to them by any rule: where a tie ends, what it held up is planned again. */
export async function withNeighbours(sql: Sql, ids: readonly string[]): Promise<string[]> {
  if (ids.length === 0) return []
  const tied = await sql.rows<{ id: string }>(
    `SELECT b_mirror AS id FROM ties WHERE released IS NULL AND a_mirror IN (:ids) AND b_mirror IS NOT NULL
     UNION SELECT a_mirror FROM ties WHERE released IS NULL AND b_mirror IN (:ids) AND a_mirror IS NOT NULL`,
    { ids },
  )
  return [...new Set([...ids, ...tied.map(t => t.id)])]
}

/**
 * Numbers a change. Must be the last statement of its transaction: the counter's row lock makes numbers
 * become visible in order, which an auto-increment does not.
 */
export async function numberChange(
  sql: Sql,
  workspaceId: string,
  change: Change,
  mirrorIds: readonly string[] = [],
): Promise<number> {
  await sql.run('UPDATE workspaces SET change_seq = change_seq + 1 WHERE id = :workspaceId', { workspaceId })
  const row = await sql.one<{ change_seq: number }>(
    'SELECT change_seq FROM workspaces WHERE id = :workspaceId',
    {
      workspaceId,
    },
  )
  const seq = row?.change_seq ?? 0
  for (let i = 0; i < mirrorIds.length; i += 1000)
    await sql.run('UPDATE mirrors SET change_seq = :seq WHERE id IN (:ids)', {
      seq,
      ids: mirrorIds.slice(i, i + 1000),
    })
  await sql.insert('INSERT INTO changes (workspace_id, seq, body) VALUES (:workspaceId, :seq, :body)', {
    workspaceId,
    seq,
    body: JSON.stringify(change),
  })
  return seq
}

const POLL_MS = 250
const MOST_REST_MS = 5_000
/** So many listeners are told at once; of more, each adds this long to the time between two tellings. */
const FEW = 10
const EACH_MS = 1.5
const MOST_TOGETHER_MS = 300
/** So many are told one by one. */
const MOST = 500

/** Tells listeners of every numbered change, whichever process made it. */
export class ChangeFeed {
  private readonly emitter = new EventEmitter().setMaxListeners(0)
  private readonly seen = new Map<string, number>()
  private readonly toldAt = new Map<string, number>()
  private later: NodeJS.Timeout | null = null
  private nudged = false
  private rests = { failures: 0, until: 0 }

  constructor(
    private readonly db: Database,
    private readonly background: Background,
  ) {}

  start(): void {
    this.background.every('poll the change feed', POLL_MS, () => this.pollUnlessResting())
  }

  /** Looks at once, for changes of this very process. Many that ask in one turn are answered together. */
  nudge(): void {
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
      this.toldAt.set(workspaceId, performance.now())
      this.emitter.emit(workspaceId, fresh)
    }
  }

  /**
   * Everybody who is told asks for what has changed. Where many are, they are told of several changes together, so
   * that all of them are answered before the next; ms to wait.
   */
  private tooEarly(workspaceId: string): number {
    const listeners = this.emitter.listenerCount(workspaceId)
    if (listeners <= FEW) return 0
    const window = Math.min(MOST_TOGETHER_MS, listeners * EACH_MS)
    return (this.toldAt.get(workspaceId) ?? -Infinity) + window - performance.now()
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
    const rows = await this.db.rows<{ seq: number; body: string }>(
      `SELECT seq, body FROM changes WHERE workspace_id = :workspaceId AND seq > :seq ORDER BY seq LIMIT ${MOST + 1}`,
      { workspaceId, seq },
    )
    const [first] = rows
    if (rows.length > MOST || (first && first.seq > seq + 1))
      return [{ seq: await this.latest(workspaceId), change: { topics: [...TOPICS] } }]
    return rows.map(r => ({ seq: r.seq, change: JSON.parse(r.body) as Change }))
  }

  latest(workspaceId: string): Promise<number> {
    return latestSeq(this.db, workspaceId)
  }

  /** `hear` is told of numbered changes in their order, several at a time. */
  async listen(workspaceId: string, hear: (changes: readonly Numbered[]) => void): Promise<() => void> {
    if (!this.seen.has(workspaceId)) this.seen.set(workspaceId, await this.latest(workspaceId))
    this.emitter.on(workspaceId, hear)
    return () => {
      this.emitter.off(workspaceId, hear)
      if (this.emitter.listenerCount(workspaceId) > 0) return
      this.seen.delete(workspaceId)
      this.toldAt.delete(workspaceId)
    }
  }

  /** Whether somebody is looking, so that services without notifications are asked more often. */
  isWatched(workspaceId: string): boolean {
    return this.emitter.listenerCount(workspaceId) > 0
  }
}
