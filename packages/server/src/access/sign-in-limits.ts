import { setTimeout as wait } from 'node:timers/promises'
import type { Database } from '../data/database.ts'
import { hashOf } from './secrets.ts'
import { limitOf } from './limits.ts'

/**
 * Makes guessing passwords slow without locking anybody out. One source may try one account a few times and all
 * accounts a little more. An account tried from very many sources is answered ever more slowly, but never refused.
 */
const MINUTES = 60
/** The longest wait after too many tries. */
const MOST_SLOWED_MS = 3_000
const SLOWED_AFTER = 20
/** So many passwords are verified at a time, and so many wait for it: each takes memory and a core. */
const AT_ONCE = 4
const MOST_WAITING = 100

export type Admission = { kind: 'try' } | { kind: 'wait'; seconds: number }

export class SignInLimits {
  private readonly pair
  private readonly source
  private readonly account
  private running = 0
  private readonly queue: (() => void)[] = []

  constructor(db: Database) {
    this.pair = limitOf(db, { name: 'sign-in-pair', times: 10, seconds: 5 * MINUTES })
    this.source = limitOf(db, { name: 'sign-in-source', times: 60, seconds: 5 * MINUTES })
    this.account = limitOf(db, { name: 'sign-in-account', times: 1_000_000, seconds: 60 * MINUTES })
  }

  /** Counts a try, before the password is looked at. */
  async admit(account: string, source: string): Promise<Admission> {
    const waits = [
      await this.source.count(source),
      await this.pair.count(pairOf(account, source)),
      await this.account.count(nameOf(account)),
    ]
    const seconds = Math.max(...waits.map(w => w ?? 0))
    if (seconds > 0) return { kind: 'wait', seconds }
    const tried = await this.account.counted(nameOf(account))
    if (tried > SLOWED_AFTER) await wait(Math.min(MOST_SLOWED_MS, 100 * (tried - SLOWED_AFTER)))
    return { kind: 'try' }
  }

  /** The password was right: the tries before it are forgotten. */
  async succeeded(account: string, source: string): Promise<void> {
    await Promise.all([this.pair.forget(pairOf(account, source)), this.account.forget(nameOf(account))])
  }

  /** Runs what is costly, a few at a time. Null where too many wait already. */
  async inTurn<T>(work: () => Promise<T>): Promise<T | null> {
    if (this.running >= AT_ONCE) {
      if (this.queue.length >= MOST_WAITING) return null
      await new Promise<void>(go => this.queue.push(go))
    }
    this.running++
    try {
      return await work()
    } finally {
      this.running--
      this.queue.shift()?.()
    }
  }
}

const nameOf = (account: string): string => hashOf(account.toLowerCase()).slice(0, 32)
const pairOf = (account: string, source: string): string => `${nameOf(account)} ${source}`
