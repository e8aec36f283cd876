import { RateLimiterMySQL, RateLimiterRes } from 'rate-limiter-flexible'
import type { Database } from '../data/database.ts'
import {
  countLimit,
  countedLimit,
  forgetLimit,
  forgetPastLimits,
  type Counted,
} from '../data/repositories/limits.ts'

/**
 * Limits how often something may be tried. Counts are in the database, so they hold for all processes and survive
 * them. `forgetLimits` deletes old counts.
 */

interface Options {
  name: string
  /** How often within `seconds`. */
  times: number
  seconds: number
}

/** The package's limiter, with its three statements told to our own door to MariaDB. */
class Limiter extends RateLimiterMySQL {
  constructor(
    private readonly db: Database,
    { name, times, seconds }: Options,
  ) {
    super({
      storeClient: {},
      storeType: 'connection',
      tableCreated: true,
      clearExpiredByTimeout: false,
      keyPrefix: name,
      points: times,
      duration: seconds,
    })
  }

  async _upsert(name: string, points: number, forMs: number, anew = false): Promise<Counted[]> {
    const now = Date.now()
    return countLimit(this.db, { name, points, expire: now + forMs, now }, anew)
  }

  async _get(name: string): Promise<Counted[] | null> {
    const rows = await countedLimit(this.db, { name, now: Date.now() })
    return rows.length > 0 ? rows : null
  }

  async _delete(name: string): Promise<boolean> {
    return (await forgetLimit(this.db, { name })) > 0
  }
}

export interface Limit {
  /** Counts one try. Returns how long to wait, seconds; null where it may go on. */
  count(who: string): Promise<number | null>
  /** How often it was tried lately. */
  counted(who: string): Promise<number>
  forget(who: string): Promise<void>
}

export function limitOf(db: Database, options: Options): Limit {
  const limiter = new Limiter(db, options)
  return {
    async count(who) {
      try {
        await limiter.consume(who)
        return null
      } catch (error) {
        if (error instanceof RateLimiterRes) return Math.max(1, Math.ceil(error.msBeforeNext / 1000))
        throw error
      }
    },
    counted: async who => (await limiter.get(who))?.consumedPoints ?? 0,
    forget: async who => {
      await limiter.delete(who)
    },
  }
}

export const forgetLimits = (db: Database): Promise<number> => forgetPastLimits(db, { now: Date.now() })
