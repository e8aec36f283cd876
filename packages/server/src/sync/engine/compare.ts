import type { Context } from '../../context/context.ts'
import { forgetSyncTokens } from '../../data/repositories/collections.ts'
import { markCompared } from '../../data/repositories/connections.ts'

/**
 * Starts a full comparison: the next reading lists everything, by revisions if the service has them. This finds
 * what notifications and tokens missed. Unchanged items are not fetched again.
 */
export async function compareInFull(ctx: Context, connectionId: string): Promise<void> {
  await ctx.db.commit(async sql => {
    await forgetSyncTokens(sql, { connectionId })
    await markCompared(sql, {
      connectionId,
      now: Date.now(),
    })
  })
}
