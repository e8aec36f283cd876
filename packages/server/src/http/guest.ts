import { zValidator } from '@hono/zod-validator'
import { Hono } from 'hono'
import { limitOf } from '../access/limits.ts'
import { hashOf } from '../access/secrets.ts'
import type { Context } from '../context/context.ts'
import { markLinkUsed, openLink } from '../data/repositories/links.ts'
import { guestDays, GuestSpan } from '../view/guest-days.ts'
import { notTooOften, type SessionTerms, type SignedIn } from './session.ts'

/**
 * For somebody without an account who was given a secret address: some lists, to look at. The secret comes as a header:
 * in no address that is logged or remembered.
 */

/** The same for an address that was guessed, ended, or has expired. */
const NO_LINK = {
  reason: 'This address is not valid, or not any more. Ask whoever gave it to you for a new one.',
}
const USED_GRAIN_MS = 60_000

export function guestRoutes(ctx: Context, terms: SessionTerms) {
  const { db } = ctx
  const guesses = limitOf(db, { name: 'guest-source', times: 120, seconds: 60 })
  return new Hono<SignedIn>()
    .use(notTooOften(guesses, terms.addressOf))
    .get('/', zValidator('query', GuestSpan), async c => {
      const token = c.req.header('Loom-Link') ?? ''
      const isToken = /^[0-9a-f]{64}$/.test(token)
      const link = isToken ? await openLink(db, { hash: hashOf(token), now: Date.now() }) : null
      if (link?.opens !== 'page') return c.json(NO_LINK, 404)
      const told = await guestDays(ctx, link, c.req.valid('query'))
      await markLinkUsed(db, { id: link.id, now: Date.now(), grain: USED_GRAIN_MS })
      return c.json(told)
    })
}
