import { zValidator } from '@hono/zod-validator'
import { addDays, dayAt, isKnownZone, type Level, shownIn, type SlimItem, viewOf, whole } from '@loom/core'
import { Hono, type MiddlewareHandler } from 'hono'
import { z } from 'zod'
import { limitOf } from '../access/limits.ts'
import { hashOf } from '../access/secrets.ts'
import { type Sharing, sightOfLink } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import { listsOfLink, markLinkUsed, openLink } from '../data/repositories/links.ts'
import { DEFAULT_MINUTES } from '../view/cloth.ts'
import { sharedCloth, sourcesSeen } from '../view/shared-cloth.ts'
import { inWords, type SessionTerms } from './session.ts'

/**
 * For somebody without an account who was given a secret address: some lists, to look at. The secret comes as a header:
 * in no address that is logged or remembered.
 */

const Span = z.object({
  from: z.iso.date(),
  days: z.coerce.number().int().min(1).max(42),
  zone: z.string().max(64).refine(isKnownZone, 'There is no such time zone.'),
})
/** The same for an address that was guessed, ended, or has expired. */
const NO_LINK = {
  reason: 'This address is not valid, or not any more. Ask whoever gave it to you for a new one.',
}
const USED_GRAIN_MS = 60_000

export function guestRoutes(ctx: Context, terms: SessionTerms) {
  const { db } = ctx
  const guesses = limitOf(db, { name: 'guest-source', times: 120, seconds: 60 })
  const notTooOften: MiddlewareHandler = async (c, next) => {
    const wait = await guesses.count(terms.addressOf(c))
    if (wait === null) return next()
    c.header('Retry-After', String(wait))
    return c.json({ reason: `Too many tries. Try again in ${inWords(wait)}.` }, 429)
  }
  return new Hono().use(notTooOften).get('/', zValidator('query', Span), async c => {
    const token = c.req.header('Loom-Link') ?? ''
    const isToken = /^[0-9a-f]{64}$/.test(token)
    const link = isToken ? await openLink(db, { hash: hashOf(token), now: Date.now() }) : null
    if (!link) return c.json(NO_LINK, 404)
    const { zone, from: asked, days } = c.req.valid('query')
    const now = ctx.now()
    const today = dayAt(now, zone)
    const last = addDays(today, link.weeks * 7 - 1)
    // Beyond its days there is nothing, and nothing is said of them.
    const from = asked < today ? today : asked > last ? last : asked
    const left = Math.round((Date.parse(last) - Date.parse(from)) / 86_400_000) + 1
    const span = { from, days: Math.min(days, left) }
    const lists = await listsOfLink(db, { id: link.id })
    const viewer = { zone, defaultMinutes: DEFAULT_MINUTES, now }
    const lookAt = async (level: Level) => {
      const looking = {
        workspaceId: link.workspace_id,
        seq: link.seq,
        memberId: null,
        sightIn: (sharing: Sharing) =>
          sightOfLink(sharing.sightOf({ id: link.made_by, role: link.role }), lists, level),
      }
      const given = await sharedCloth(db, looking, span, viewer, { check: ctx.checks })
      const shown = JSON.parse(Buffer.from(given.items.lines).toString('utf8')) as SlimItem[]
      return { ...given, shown }
    }
    const { shown: all, around, sight } = await lookAt(link.level)
    // A view may choose by what the guest does not see: whether it shows an item is asked of the item as its maker sees it.
    const view = link.view && parsed(link.view)
    const chosen =
      view &&
      new Set(
        shownIn(viewOf(view.body), (await lookAt('everything')).shown.map(whole), { now, zone })
          .filter(i => !i.onlyBusy)
          .map(i => i.key),
      )
    const shown = chosen ? all.filter(i => chosen.has(i.key)) : all
    await markLinkUsed(db, { id: link.id, now: Date.now(), grain: USED_GRAIN_MS })
    // Tasks without a day are a matter of those who plan, and so is what is left over from before.
    const placed = shown.filter(i => i.place.kind !== 'none')
    const named = new Set(placed.flatMap(i => i.people ?? []))
    return c.json({
      name: link.name,
      workspace: link.workspace,
      maker: link.maker,
      today,
      last,
      ...span,
      items: placed,
      sources: sourcesSeen(around, sight).map(({ id, name, dye }) => ({ id, name, dye })),
      people: around.people.flatMap(p => (named.has(p.id) ? [{ id: p.id, name: p.name }] : [])),
    })
  })
}
