import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { limitOf } from '../access/limits.ts'
import { hashOf, unseal } from '../access/secrets.ts'
import { connectorOf, type Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { connectionById } from '../data/repositories/connections.ts'

const MAX_BODY = 64_000
/** A notification tells when it was made, or else is not taken twice within twice this. */
const MOST_OLD_MS = 600_000

/** Notifications from services. One is only a hint: it makes us look, and nothing in it is believed. */
export function hookRoutes(ctx: Context, engine: Engine) {
  const seen = limitOf(ctx.db, { name: 'hook', times: 1, seconds: 2 * (MOST_OLD_MS / 1000) })
  return new Hono().use(bodyLimit({ maxSize: MAX_BODY })).post('/:connection', async c => {
    const id = c.req.param('connection')
    const row = await connectionById(ctx.db, { id })
    if (!row?.hook_secret) return c.text('nobody here', 410)
    const body = await c.req.text()
    const connector = await connectorOf(ctx, row)
    const secret = String(unseal(row.hook_secret, ctx.secret))
    const notification = connector.notified(body, name => c.req.header(name), secret)
    if (notification === null) return c.text('not signed by the service', 403)
    const { item, at } = notification
    if (at !== null && Math.abs(ctx.now() + connector.skew() - at) > MOST_OLD_MS)
      return c.text('too old', 409)
    // A replayed notification starts nothing. Without a time in them, two may be equal.
    if (at !== null && (await seen.count(hashOf(`${id} ${body}`))) !== null)
      return c.text('taken already', 409)
    await engine.look(row.id, item)
    return c.body(null, 204)
  })
}
