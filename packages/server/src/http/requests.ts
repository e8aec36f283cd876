import { zValidator } from '@hono/zod-validator'
import { type Edit, Level } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import { limitOf } from '../access/limits.ts'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { answerRequest, reopen, withdrawRequest } from '../team/answers.ts'
import { giveTime } from '../planning/give-time.ts'
import { makeRequest, requestsOf } from '../team/requests.ts'
import { notTooOften, type SignedIn } from './session.ts'

/** What members ask of one another. */

const Id = z.string().min(1).max(36)
const Seeing = Level.extract(['title', 'everything', 'change'])
const Asking = z.union([
  z.object({ ask: z.literal('give'), key: z.string().min(1).max(100), to: Id }),
  z.object({ ask: z.literal('see'), list: Id, level: Seeing }),
  z.object({ ask: z.literal('see'), person: Id, level: Seeing }),
])

const Answer = z.object({
  accept: z.boolean(),
  /** How much a rule may show, where that is what is asked. */
  upTo: Level.extract(['busy', 'title', 'everything']).nullable().default(null),
})

export function requestRoutes(ctx: Context, engine: Engine) {
  const often = limitOf(ctx.db, { name: 'requests', times: 60, seconds: 60 })
  return new Hono<SignedIn>()
    .use(notTooOften(often, c => (c.req.method === 'GET' ? null : c.get('member').id)))
    .get('/', async c => c.json(await requestsOf(ctx.db, c.get('member'), ctx.now())))
    .post('/', zValidator('json', Asking), async c => {
      const made = await makeRequest(ctx, c.get('member'), c.req.valid('json'))
      return made.ok ? c.json({ id: made.id }, 201) : c.json({ reason: made.reason }, made.status)
    })
    .post('/:id/answer', zValidator('json', Answer), async c => {
      const { accept: accepts, upTo } = c.req.valid('json')
      const answer = await answerRequest(ctx, c.get('member'), c.req.param('id'), { accepts, upTo })
      if (!answer.ok) return c.json({ reason: answer.reason }, answer.status)
      if (answer.did === 'gives time') {
        const { pieces, reason } = answer
        const request = c.req.param('id')
        const given = await giveTime(ctx, c.get('member'), { request, pieces, reason })
        for (const id of given.connections) engine.kick(id)
        engine.requestPlan(c.get('member').workspaceId)
        if (given.pieces.every(p => !p.ok))
          return c.json({ reason: given.reason ?? 'It could not be done.' }, 409)
        return c.json({
          ok: true as const,
          did: 'gives time' as const,
          pieces: given.pieces,
          reason: given.reason,
        })
      }
      if (answer.did === 'agreed') engine.requestPlan(c.get('member').workspaceId)
      if (answer.did !== 'given') return c.json(answer)
      if (answer.connectionId) engine.kick(answer.connectionId)
      else engine.requestPlan(c.get('member').workspaceId)
      return c.json({ ...answer, inverse: answer.inverse as Edit | null })
    })
    .delete('/:id/answer', async c => {
      const isOpen = await reopen(ctx, c.get('member'), c.req.param('id'))
      return isOpen
        ? c.json({ ok: true as const })
        : c.json({ reason: 'There is no such answer of yours.' }, 404)
    })
    .delete('/:id', async c => {
      const isGone = await withdrawRequest(ctx, c.get('member'), c.req.param('id'))
      return isGone ? c.json({ ok: true as const }) : c.json({ reason: 'There is no such request.' }, 404)
    })
}
