import type { Context } from '../context/context.ts'
import { connectionsOfHosts, lastReadOf } from '../data/repositories/offers.ts'
import type { OpenOffer } from '../data/repositories/offers.ts'
import type { Engine } from '../sync/engine/engine.ts'

/** Before a time is held, calendars are read again: something may have come into them since the last look. */

const WAIT_MS = 2_500
const ASK_EVERY_MS = 100

/** A service that does not answer in time keeps no guest waiting: what was read last counts. */
export async function readHostsAgain(ctx: Context, engine: Engine, offer: OpenOffer): Promise<void> {
  if (engine.isHalted) return
  const all = await connectionsOfHosts(ctx.db, { workspaceId: offer.workspace_id })
  const before = new Map(all.map(c => [c.id, c.last_ok_at]))
  for (const { id } of all) await engine.look(id)
  for (const until = Date.now() + WAIT_MS; before.size > 0 && Date.now() < until;) {
    await ctx.background.pause(ASK_EVERY_MS)
    for (const { id, last_ok_at: at } of await lastReadOf(ctx.db, { ids: [...before.keys()] }))
      if (at !== before.get(id)) before.delete(id)
  }
}
