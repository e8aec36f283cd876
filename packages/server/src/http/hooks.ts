import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { type ConnectionRow, CONNECTIONS, connectorOf, type Context } from '../sync/context.ts'
import type { Engine } from '../sync/engine.ts'

const MAX_BODY = 64_000

/** Notifications from services. One is only a hint: it makes us look, and nothing in it is believed. */
export function hookRoutes(ctx: Context, engine: Engine) {
  return new Hono().use(bodyLimit({ maxSize: MAX_BODY })).post('/:connection', async c => {
    const id = c.req.param('connection')
    const row = await ctx.db.one<ConnectionRow>(`${CONNECTIONS} WHERE c.id = :id`, { id })
    if (!row?.hook_secret) return c.text('nobody here', 410)
    const body = await c.req.text()
    const connector = await connectorOf(ctx, row)
    const item = connector.notified(body, name => c.req.header(name), row.hook_secret)
    if (item === null) return c.text('not signed by the service', 403)
    await engine.look(row.id, item)
    return c.body(null, 204)
  })
}
