import type { ServiceError } from '@loom/connectors'
import { numberChange } from './changes.ts'
import type { ConnectionRow, Context } from './context.ts'

/** How a connection fares, kept truthful after every exchange with its service. */

const MAX_WAIT_MS = 60_000
const SIGNED_OUT_WAIT_MS = 600_000

/** Doubling from half a second, with jitter so that not everybody comes back at once. */
export const backoff = (failures: number): number =>
  Math.min(MAX_WAIT_MS, 500 * 2 ** Math.min(10, failures)) * (0.75 + Math.random() / 2)

export async function connectionWell(ctx: Context, row: ConnectionRow): Promise<void> {
  await ctx.db.run('UPDATE connections SET last_ok_at = :now WHERE id = :id', { id: row.id, now: ctx.now() })
  if (row.state === 'ok') return
  await ctx.db.transaction(async sql => {
    await sql.run(
      `UPDATE connections SET state = 'ok', trouble = NULL, failing_since = NULL, failures = 0 WHERE id = :id`,
      { id: row.id },
    )
    await numberChange(sql, row.workspace_id, { topics: ['connections'] })
  })
  ctx.feed.nudge()
}

export async function connectionTrouble(
  ctx: Context,
  row: ConnectionRow,
  error: ServiceError,
): Promise<void> {
  const state =
    error.trouble === 'signed-out' ? 'signed-out' : error.trouble === 'slowed' ? 'slowed' : 'failing'
  // Wrong credentials sent again and again would lock the account.
  const wait = state === 'signed-out' ? SIGNED_OUT_WAIT_MS : (error.retryAfterMs ?? backoff(row.failures))
  await ctx.db.transaction(async sql => {
    await sql.run(
      `UPDATE connections SET state = :state, trouble = :trouble, failures = failures + 1,
         failing_since = IFNULL(failing_since, :now), next_look_at = :next WHERE id = :id`,
      { id: row.id, state, trouble: error.message, now: ctx.now(), next: Date.now() + wait },
    )
    if (row.state !== state || row.trouble !== error.message)
      await numberChange(sql, row.workspace_id, { topics: ['connections'] })
  })
  ctx.feed.nudge()
}
