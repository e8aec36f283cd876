import { ServiceError } from '@loom/connectors'
import { isOfDatabase } from '../../data/database-errors.ts'
import type { Context } from '../../context/context.ts'
import { markOkAt, markWell, markTrouble, type ConnectionRow } from '../../data/repositories/connections.ts'
import { addLook } from '../../data/repositories/looks.ts'

/** How a connection fares, kept truthful after every exchange with its service. */

const MAX_WAIT_MS = 60_000
/** While people watch, recovery of a service is noticed sooner. */
const WATCHED_WAIT_MS = 8_000
/** Wrong credentials sent again and again would lock the account: a few times, then seldom. */
const SIGNED_OUT_WAITS_MS = [5_000, 15_000, 60_000, 600_000]

/** Doubling from half a second, with jitter so that not everybody comes back at once. */
export const backoff = (failures: number, most = MAX_WAIT_MS): number =>
  Math.min(most, 500 * 2 ** Math.min(10, failures)) * (0.75 + Math.random() / 2)

/** What went wrong here, and not at the service, told like any other trouble of the connection. */
export const ownTrouble = (error: unknown): ServiceError =>
  new ServiceError(
    'service-error',
    isOfDatabase(error)
      ? 'Our database did not take what was read. It is tried again; what came in before stays.'
      : `Something went wrong here while it was read (${error instanceof Error ? error.name : 'unknown'}). It is tried again; what came in before stays.`,
  )

function waitAfter(ctx: Context, row: ConnectionRow, error: ServiceError): number {
  if (error.trouble === 'signed-out')
    return SIGNED_OUT_WAITS_MS[Math.min(row.failures, SIGNED_OUT_WAITS_MS.length - 1)] ?? MAX_WAIT_MS
  const most = ctx.feed.isWatched(row.workspace_id) ? WATCHED_WAIT_MS : MAX_WAIT_MS
  return error.retryAfterMs ?? backoff(row.failures, most)
}

export async function connectionWell(ctx: Context, row: ConnectionRow): Promise<void> {
  await markOkAt(ctx.db, { id: row.id, now: ctx.now() })
  if (row.state === 'ok') return
  await ctx.db.commit(async sql => {
    await markWell(sql, { id: row.id })
    sql.tell(row.workspace_id, { topics: ['connections', 'rules'], connection: row.id })
  })
}

export async function connectionTrouble(
  ctx: Context,
  row: ConnectionRow,
  error: ServiceError,
): Promise<void> {
  const state =
    error.trouble === 'signed-out' ? 'signed-out' : error.trouble === 'slowed' ? 'slowed' : 'failing'
  const wait = waitAfter(ctx, row, error)
  await ctx.db.commit(async sql => {
    await markTrouble(sql, {
      id: row.id,
      state,
      trouble: error.message,
      now: ctx.now(),
      next: Date.now() + wait,
    })
    if (row.state !== state || row.trouble !== error.message)
      sql.tell(row.workspace_id, { topics: ['connections', 'rules'], connection: row.id })
  })
}

/** Health is drawn in slots of this length. */
export const SLOT_MS = 600_000

export interface Tally {
  items: number
  writes: number
  /** The longest that a write had waited, ms. */
  delayMs: number
  tookMs: number
  error: boolean
}

/** Counts one pass. A connection that is gone meanwhile is not counted. */
export async function countLook(ctx: Context, row: ConnectionRow, tally: Tally): Promise<void> {
  await addLook(ctx.db, {
    id: row.id,
    slot: Math.floor(ctx.now() / SLOT_MS) * SLOT_MS,
    items: tally.items,
    writes: tally.writes,
    error: tally.error ? 1 : 0,
    took: tally.tookMs,
    delay: Math.min(tally.delayMs, 2_000_000_000),
  })
}
