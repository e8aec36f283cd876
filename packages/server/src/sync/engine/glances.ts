import type { Connector, Glance } from '@loom/connectors'
import type { ConnectionRow } from '../../data/repositories/connections.ts'
import type { CollectionRow } from '../../data/repositories/collections.ts'

/**
 * Glances: one cheap request whether anything has moved at an account. Only what moved is read. A glance takes no lease
 * and writes no row; what it compares with is kept in this process, and another process simply reads.
 */

/** Without a known limit: carefully at first, then as often as people would like. */
const FIRST_MS = 10_000
const LEAST_MS = { watched: 1_000, idle: 3_000, notified: 15_000 }
/** Where answers never read the same twice. */
const MOST_MS = { watched: 4_000, idle: 30_000 }
/** Polling leaves the rest of a limit to what people do. */
const SHARE_OF_LIMIT = 1 / 4
/** Of a service that names no limit, and of an origin with many accounts: a request each, at most. */
const SPACING_MS = 250
/** Marks may lie: everything is read so often all the same. */
const READ_ALL_MS = 600_000
/** A glance that led to a look is not asked again for it. */
const FRESH_MS = 3_000
const MOST_ALARMS = 5
/** A listing may be behind its own mark: what has moved is read once more so much later. */
const SETTLES_MS = 10_000

export interface Limits {
  requests: number
  perSeconds: number
}

/** What decides how often an account is glanced at. */
interface Pacing {
  isWatched: boolean
  isNotified: boolean
  limits: Limits | null
  /** What one glance costs. */
  requests: number
  /** How many accounts are glanced at on the same origin. */
  neighbours: number
}

/** The shortest time between two glances, ms. */
export function leastBetween({ isWatched, isNotified, limits, requests, neighbours }: Pacing): number {
  const wanted = isWatched ? LEAST_MS.watched : isNotified ? LEAST_MS.notified : LEAST_MS.idle
  const limited = limits ? (requests * limits.perSeconds * 1000) / (limits.requests * SHARE_OF_LIMIT) : 0
  return Math.max(wanted, limited, requests * neighbours * SPACING_MS)
}

/** How things stand with it now. */
export type Standing = Pick<Pacing, 'isWatched' | 'isNotified' | 'limits'>

interface Account {
  settings: number
  origin: string
  /** The token of each collection after its last reading, by remote id. */
  since: ReadonlyMap<string, string | null>
  /** As of before the last complete reading. */
  marks: ReadonlyMap<string, string>
  /** Of collections that moved lately: until when their listing may have been behind. */
  unsettled: ReadonlyMap<string, number>
  requests: number
  readAllAt: number
  /** The last glance, while it is fresh. */
  latest: { glance: Glance; at: number } | null
  /** How often it is asked while nobody watches, as far as is known to do no harm: ms. */
  paceMs: number
  nextAt: number
  /** How many glances in a row told of something where nothing was, though nothing was written either. */
  alarms: number
  /** When we last wrote to it: that moves its marks. */
  wroteAt: number
}

/** What is known before a reading begins. */
export interface BeforeReading {
  glance: Glance | null
  /** Remote ids of collections in which nothing has moved since they were last read. */
  still: ReadonlySet<string>
}

const originOf = (address: string): string => (URL.canParse(address) ? new URL(address).origin : address)

export class Glances {
  private readonly accounts = new Map<string, Account>()

  /** Asked before a reading, so that whatever comes during it shows at the next glance. */
  async before(
    row: ConnectionRow,
    connector: Connector,
    collections: readonly CollectionRow[],
    now: number,
  ): Promise<BeforeReading> {
    const isFirst = collections.some(c => c.synced_at === null || c.sync_token === null)
    if (!connector.glance || isFirst || collections.length === 0) return { glance: null, still: new Set() }
    const known = this.of(row)
    const fresh = known?.latest && now - known.latest.at < FRESH_MS ? known.latest.glance : null
    // Nothing waits for a glance that takes as long as the reading: the next glance is one look more.
    const savesNothing = known !== null && (known.requests > 1 || collections.length === 1)
    if (!fresh && savesNothing) return { glance: null, still: new Set() }
    const since = new Map(collections.map(c => [c.remote_id, c.sync_token]))
    const glance = fresh ?? (await connector.glance(since))
    const isTrusted = known !== null && now - known.readAllAt < READ_ALL_MS
    const still = collections.filter(
      c =>
        isTrusted &&
        c.trouble === null &&
        !known.unsettled.has(c.remote_id) &&
        isSame(known.marks, glance.marks, c.remote_id),
    )
    return { glance, still: new Set(still.map(c => c.remote_id)) }
  }

  /** After a complete reading. Returns whether glances can tell from now on whether anything moves. */
  keep(
    row: ConnectionRow,
    { glance, still }: BeforeReading,
    collections: readonly CollectionRow[],
    { hasChanged, standing, now }: { hasChanged: boolean; standing: Standing; now: number },
  ): boolean {
    const known = this.of(row)
    const marks = glance?.marks ?? known?.marks
    if (!marks || !collections.every(c => marks.has(c.remote_id))) {
      this.accounts.delete(row.id)
      return false
    }
    const isEcho = known !== null && now - known.wroteAt < SETTLES_MS
    const alarms = hasChanged || isEcho || !known?.latest ? 0 : known.alarms + 1
    const account: Account = {
      settings: row.settings_version,
      origin: originOf(row.address),
      since: new Map(collections.map(c => [c.remote_id, c.sync_token])),
      marks,
      unsettled: known ? unsettledAfter(known, marks, now) : new Map(),
      requests: glance?.requests ?? known?.requests ?? 1,
      readAllAt: still.size === 0 ? now : (known?.readAllAt ?? now),
      latest: null,
      paceMs: known?.paceMs ?? FIRST_MS,
      nextAt: 0,
      alarms,
      wroteAt: known?.wroteAt ?? 0,
    }
    this.accounts.set(row.id, account)
    // Accounts are spread over the time between two of their glances.
    account.nextAt = now + this.intervalOf(account, standing) * (known ? 1 : Math.random())
    return true
  }

  /** Connections whose next glance is due, as of their last complete reading. */
  due(now: number): { id: string; asOf: object }[] {
    return [...this.accounts].filter(([, a]) => a.nextAt <= now).map(([id, asOf]) => ({ id, asOf }))
  }

  /** @param asOf not, if it was read completely since then */
  forget(connectionId: string, asOf?: object): void {
    if (asOf === undefined || this.accounts.get(connectionId) === asOf) this.accounts.delete(connectionId)
  }

  /** Something was written to it. */
  wrote(connectionId: string, now: number): void {
    const account = this.accounts.get(connectionId)
    if (account) account.wroteAt = now
  }

  /** Its glance is under way. */
  begin(connectionId: string): void {
    const account = this.accounts.get(connectionId)
    if (account) account.nextAt = Infinity
  }

  /** Glances, and returns whether something moved, or it cannot be told. Throws ServiceError. */
  async hasMoved(row: ConnectionRow, connector: Connector, standing: Standing): Promise<boolean> {
    const account = this.of(row)
    if (!account || !connector.glance) return true
    const glance = await connector.glance(account.since)
    const now = Date.now()
    const isOverdue = [...account.unsettled.values()].some(until => until <= now)
    const moved = [...account.since.keys()].some(id => !isSame(account.marks, glance.marks, id))
    account.requests = glance.requests
    if (!moved) {
      account.alarms = 0
      account.paceMs = Math.max(LEAST_MS.idle, account.paceMs * 0.6)
    }
    account.nextAt = now + this.intervalOf(account, standing)
    account.latest = moved ? { glance, at: now } : null
    return moved || isOverdue
  }

  /** The time until the next glance, ms. */
  private intervalOf(account: Account, standing: Standing): number {
    const { origin, requests, alarms, paceMs } = account
    const neighbours = [...this.accounts.values()].filter(a => a.origin === origin).length
    const least = leastBetween({ ...standing, requests, neighbours })
    const usual = standing.isWatched ? least : Math.max(least, paceMs)
    // Some answers never read the same twice.
    const most = standing.isWatched ? MOST_MS.watched : MOST_MS.idle
    return Math.max(usual, Math.min(most, usual * 2 ** Math.max(0, alarms - MOST_ALARMS)))
  }

  private of(row: ConnectionRow): Account | null {
    const account = this.accounts.get(row.id)
    return account?.settings === row.settings_version ? account : null
  }
}

const isSame = (
  before: ReadonlyMap<string, string>,
  after: ReadonlyMap<string, string>,
  id: string,
): boolean => after.has(id) && before.get(id) === after.get(id)

function unsettledAfter(
  { marks, unsettled }: Account,
  after: ReadonlyMap<string, string>,
  now: number,
): ReadonlyMap<string, number> {
  const left = [...unsettled].filter(([, until]) => until > now)
  const moved = [...after.keys()].filter(id => !isSame(marks, after, id))
  return new Map([...left, ...moved.map(id => [id, now + SETTLES_MS] as const)])
}
