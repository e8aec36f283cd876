import { zValidator } from '@hono/zod-validator'
import { Level } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import { chatsFor, daysToTell, isTellable, MOST_TOLD_DAYS, sendToChat } from '../outward/chat.ts'
import type { SignedIn } from './session.ts'

/** A day or a row, as text for a chat, and sending it there. */

const Id = z.string().min(1).max(36)
const Told = z.object({
  from: z.iso.date(),
  days: z.coerce.number().int().min(1).max(MOST_TOLD_DAYS).default(1),
  level: Level.extract(['busy', 'title', 'everything']),
  /** One of both; without either, of whoever asks. */
  person: Id.optional(),
  list: Id.optional(),
})
const Message = z.object({
  chat: Id,
  channel: z.string().min(1).max(500),
  text: z.string().trim().min(1, 'Nothing is written.').max(100_000),
})

export function chatRoutes(ctx: Context) {
  return new Hono<SignedIn>()
    .get('/', async c => c.json({ chats: await chatsFor(ctx, c.get('member')) }))
    .get('/told', zValidator('query', Told), async c => {
      const member = c.get('member')
      const { person, list, ...told } = c.req.valid('query')
      if (!isTellable(told.from, ctx.now(), member.zone))
        return c.json({ reason: 'That day is too far away.' }, 422)
      const of = list === undefined ? { person: person ?? member.id } : { list }
      return c.json({ text: await daysToTell(ctx, member, { ...told, of }) })
    })
    .post('/messages', zValidator('json', Message), async c => {
      const sent = await sendToChat(ctx, c.get('member'), c.req.valid('json'))
      return sent.ok ? c.json({ ok: true }, 201) : c.json({ reason: sent.reason }, sent.status)
    })
}
