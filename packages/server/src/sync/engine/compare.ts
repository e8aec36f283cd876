import type { Context } from '../../context/context.ts'
import { forgetSyncTokens } from '../../data/repositories/collections.ts'
import { markCompared } from '../../data/repositories/connections.ts'

/**
 * A full comparison: the next look lists everything, by revisions where the service gives them, and so heals
 * what notifications and tokens have missed. Unchanged items are not fetched again.
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
