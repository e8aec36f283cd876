import { zValidator } from '@hono/zod-validator'
import { Hono } from 'hono'
import { z } from 'zod'
import { limitOf } from '../access/limits.ts'
import type { Context } from '../context/context.ts'
import { commentsOf, saidLately, sayAbout, sayOtherwise, takeCommentBack } from '../team/comments.ts'
import { notTooOften, type SignedIn } from './session.ts'

/** What is said about items. */

const Text = z.object({ text: z.string().trim().min(1, 'Say something.').max(4000) })
const Older = z.object({
  q: z.string().max(200).default(''),
  before: z.coerce.number().int().optional(),
})

export function commentRoutes(ctx: Context) {
  const often = limitOf(ctx.db, { name: 'comments', times: 60, seconds: 60 })
  return new Hono<SignedIn>()
    .use(notTooOften(often, c => (c.req.method === 'GET' ? null : c.get('member').id)))
    .get('/', zValidator('query', Older), async c => {
      const { q, before } = c.req.valid('query')
      return c.json(await saidLately(ctx.db, c.get('member'), q, before ?? null))
    })
    .get('/on/:key', async c => {
      const told = await commentsOf(ctx, c.get('member'), c.req.param('key'))
      return told ? c.json(told) : c.json({ reason: 'It is no longer there.' }, 404)
    })
    .post('/on/:key', zValidator('json', Text), async c => {
      const said = await sayAbout(ctx, c.get('member'), c.req.param('key'), c.req.valid('json').text)
      return said.ok ? c.json({ id: said.id }, 201) : c.json({ reason: said.reason }, said.status)
    })
    .put('/:id', zValidator('json', Text), async c => {
      const said = await sayOtherwise(ctx, c.get('member'), c.req.param('id'), c.req.valid('json').text)
      return said.ok ? c.json({ id: said.id }) : c.json({ reason: said.reason }, said.status)
    })
    .delete('/:id', async c => {
      const isGone = await takeCommentBack(ctx, c.get('member'), c.req.param('id'))
      return isGone ? c.json({ ok: true as const }) : c.json({ reason: 'There is no such comment.' }, 404)
    })
}
