import { zValidator } from '@hono/zod-validator'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import { countPages, dropPresence, presentWith, putPresence } from '../data/repositories/presence.ts'
import type { SignedIn } from './session.ts'

/** Who else has the same days open. Each page says every so often which days it shows, and is told. */

const Page = z.object({ from: z.iso.date(), to: z.iso.date() })
/** A page that has not been heard of for so long is closed, or asleep. */
export const FORGOTTEN_MS = 50_000

/** Of one member, heard of at a time. */
const MOST_PAGES = 50

export function presenceRoutes(ctx: Context) {
  return new Hono<SignedIn>()
    .put('/:page', zValidator('json', Page), async c => {
      const { workspaceId, id: memberId } = c.get('member')
      const { from, to } = c.req.valid('json')
      const now = Date.now()
      const pageId = c.req.param('page')
      if (!/^[\w-]{8,36}$/.test(pageId)) return c.json({ reason: 'That is no name of a page.' }, 422)
      const since = now - FORGOTTEN_MS
      if ((await countPages(ctx.db, { workspaceId, memberId, pageId, since })) >= MOST_PAGES)
        return c.json({ reason: 'You have very many pages open.' }, 429)
      await putPresence(ctx.db, { pageId, workspaceId, memberId, from, to, now })
      return c.json({ others: await presentWith(ctx.db, { workspaceId, memberId, from, to, since }) })
    })
    .delete('/:page', async c => {
      await dropPresence(ctx.db, { pageId: c.req.param('page'), memberId: c.get('member').id })
      return c.json({ ok: true as const })
    })
}
