import { zValidator } from '@hono/zod-validator'
import { Edit } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../sync/context.ts'
import type { Engine } from '../sync/engine.ts'
import { clothItems, DEFAULT_MINUTES } from '../view/cloth.ts'
import { editItem } from '../view/edit.ts'
import type { SignedIn } from './session.ts'

const Span = z.object({ from: z.iso.date(), days: z.coerce.number().int().min(1).max(14) })

/** What a day of work holds; people's own hours come with their settings. */
const HOURS = { from: 8 * 60, to: 18 * 60, minutes: [390, 390, 390, 390, 390, 0, 0] }

export function clothRoutes(ctx: Context, engine: Engine) {
  return new Hono<SignedIn>()
    .get('/', zValidator('query', Span), async c => {
      const { workspaceId, zone } = c.get('member')
      const { from, days } = c.req.valid('query')
      const now = ctx.now()
      const [items, sources, seq] = await ctx.db.snapshot(async sql => [
        await clothItems(sql, workspaceId, from, days, { zone, defaultMinutes: DEFAULT_MINUTES, now }),
        await sql.rows<{ id: string; name: string; dye: string; holds: 'task' | 'event'; service: string }>(
          `SELECT k.id, k.name, k.dye, k.holds, n.name AS service FROM collections k
           JOIN connections n ON n.id = k.connection_id
           WHERE k.workspace_id = :workspaceId AND k.takes_part = 1 ORDER BY k.holds DESC, k.name`,
          { workspaceId },
        ),
        await ctx.feed.latest(workspaceId),
      ])
      return c.json({ items, sources, seq, now, zone, hours: HOURS, defaultMinutes: DEFAULT_MINUTES })
    })
    .post('/:key/edit', zValidator('json', Edit), async c => {
      const answer = await editItem(ctx, c.get('member'), c.req.param('key'), c.req.valid('json'))
      if (!answer.ok) return c.json({ reason: answer.reason }, answer.status)
      if (answer.connectionId) engine.kick(answer.connectionId)
      else void engine.plan(c.get('member').workspaceId)
      return c.json({ inverse: answer.inverse })
    })
}
