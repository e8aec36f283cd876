import { zValidator } from '@hono/zod-validator'
import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { z } from 'zod'
import { doorsOf, openDoor, passDoor, shutDoor } from '../intake/doors.ts'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import type { SignedIn } from './session.ts'
import { messagesOf, messageOf, type DoorKind } from '../data/repositories/doors.ts'
import { parsed } from '../data/json.ts'

const Kind = z.object({ kind: z.enum(['mail', 'capture']) })

/** A member's own doors. */
export function doorRoutes(ctx: Context) {
  const addressOf = (kind: DoorKind, token: string): string =>
    kind === 'mail' ? `${token}@${ctx.mailHost}` : `${ctx.publicUrl}/capture/${token}`
  return (
    new Hono<SignedIn>()
      .get('/', async c => {
        const doors = await doorsOf(ctx, c.get('member'))
        return c.json({
          doors: doors.map(({ kind, token, usedAt, uses }) => ({
            kind,
            address: addressOf(kind, token),
            usedAt,
            uses,
          })),
        })
      })
      .post('/', zValidator('json', Kind), async c => {
        await openDoor(ctx, c.get('member'), c.req.valid('json').kind)
        return c.json({ ok: true as const }, 201)
      })
      .delete('/:kind', zValidator('param', Kind), async c => {
        await shutDoor(ctx, c.get('member'), c.req.valid('param').kind)
        return c.json({ ok: true as const })
      })
      /** What came through lately, newest first. */
      .get('/messages', async c => {
        const { id, workspaceId } = c.get('member')
        const rows = await messagesOf(ctx.db, { workspaceId, intake: `intake-${id}` })
        return c.json({
          messages: rows.map(r => {
            const { summary, created } = parsed(r.item)
            return { id: r.id, title: summary, sender: r.sender, at: created }
          }),
        })
      })
      /** The original message of a task in the intake. */
      .get('/messages/:item', async c => {
        const { id, workspaceId } = c.get('member')
        const row = await messageOf(ctx.db, {
          item: c.req.param('item'),
          workspaceId,
          intake: `intake-${id}`,
        })
        return row ? c.json(row) : c.json({ reason: 'There is no such message in your intake.' }, 404)
      })
  )
}

const Capture = z.object({
  title: z.string().trim().min(1).max(2000),
  text: z.string().max(100_000).default(''),
  url: z
    .url({ protocol: /^https?$/ })
    .max(2000)
    .nullish(),
})

/** For chat tools and scripts: the address lets its holder add to one intake, and nothing else. */
export function captureRoutes(ctx: Context, engine: Engine) {
  return new Hono()
    .use(bodyLimit({ maxSize: 128_000 }))
    .post('/:token', zValidator('json', Capture), async c => {
      const { title, text, url } = c.req.valid('json')
      const captured = { key: null, title, text, url: url ?? null, message: null }
      const result = await passDoor(ctx, engine, 'capture', c.req.param('token'), captured)
      if (result === 'no-door') return c.json({ reason: 'This address is not in use.' }, 404)
      if (result === 'too-many')
        return c.json({ reason: 'Too many at once; try again in a minute.' }, 429, { 'Retry-After': '60' })
      return c.json({ ok: true as const }, 201)
    })
}
