import { zValidator } from '@hono/zod-validator'
import { type FreeStart, GuestWords, placeOfMeeting } from '@loom/core/offers'
import { type Context as Call, Hono } from 'hono'
import { z } from 'zod'
import { limitOf } from '../access/limits.ts'
import { hashOf } from '../access/secrets.ts'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import { bookingByToken, type BookingRow, eventsOfBooking } from '../data/repositories/bookings.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import { hostsOfOffers, offerOfBooking, openOffer, type OpenOffer } from '../data/repositories/offers.ts'
import { askForTime, confirmTime, endBooking, moveBooking, OVER, timesOf } from '../offers/booking.ts'
import type { BookingLetters } from '../offers/booking-letters.ts'
import type { FollowBookings } from '../offers/follow-bookings.ts'
import { readHostsAgain } from '../offers/read-hosts-again.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { notTooOften, type SessionTerms, type SignedIn } from './session.ts'

/**
 * For guests without an account: what is offered to them, and what they have booked. The secret comes as a header: in no
 * address that is logged or remembered.
 */

const NOT_VALID = { reason: OVER }
const NO_BOOKING = { reason: 'This address is not valid, or not any more.' }
const Wanted = z.object({ startMs: z.number().int().min(0), minutes: z.number().int().min(15).max(480) })
const Ask = Wanted.extend({ guest: GuestWords, askedAs: z.string().regex(/^[\w-]{8,64}$/) })

const tokenOf = (c: Call): string | null => {
  const token = c.req.header('Loom-Link') ?? ''
  return /^[0-9a-f]{64}$/.test(token) ? hashOf(token) : null
}
/** Which colleague is free is for nobody else to know. */
const startsIn = (all: readonly FreeStart[]): number[] => all.map(s => s.startMs)

export interface Following {
  follow: FollowBookings
  letters: BookingLetters
}

export function offeredTimesRoutes(
  ctx: Context,
  engine: Engine,
  terms: SessionTerms,
  { follow, letters }: Following,
) {
  const { db } = ctx
  const looks = limitOf(db, { name: 'offer-source', times: 240, seconds: 60 })
  const asks = limitOf(db, { name: 'offer-ask', times: 20, seconds: 3600 })
  const ofLink = limitOf(db, { name: 'offer-link', times: 120, seconds: 3600 })
  // Whoever is named gets a letter, whether they asked for it or not.
  const ofAddress = limitOf(db, { name: 'offer-mail', times: 5, seconds: 3600 })
  const soon = (booking: BookingRow): void => {
    ctx.background.run('what a guest has booked', async () => {
      await follow.follow(booking.id, booking.workspace_id)
      await letters.sendDue()
    })
  }
  const offerAt = async (c: Call): Promise<OpenOffer | null> => {
    const hash = tokenOf(c)
    return hash === null ? null : openOffer(db, { hash })
  }
  const bookingAt = async (c: Call): Promise<{ booking: BookingRow; offer: OpenOffer } | null> => {
    const hash = tokenOf(c)
    const booking = hash === null ? null : await bookingByToken(db, { hash })
    const offer = booking && (await offerOfBooking(db, { id: booking.offer_id }))
    return booking && offer ? { booking, offer } : null
  }
  const told = (offer: OpenOffer, hosts: readonly { name: string; agreed_at: number | null }[]) => {
    const { title, lengths, how, location, callLink, questions, zone } = parsed(offer.terms)
    const names = hosts.flatMap(h => (h.agreed_at === null ? [] : [h.name]))
    // The call's address is for those who have booked.
    return { title, lengths, how, location, hasCall: callLink !== '', questions, zone, hosts: names }
  }
  const bookingTold = async (booking: BookingRow, offer: OpenOffer) => {
    const guest = parsed(booking.guest)
    const ids = (await eventsOfBooking(db, { id: booking.id })).map(e => e.member_id)
    const team = await teamOfWorkspace(db, { workspaceId: booking.workspace_id })
    const names = team.flatMap(m => (ids.includes(m.id) ? [m.name] : []))
    const isLate = booking.state === 'asked' && Number(booking.expires_at) <= ctx.now()
    return {
      workspace: offer.workspace,
      maker: offer.maker,
      ...told(
        offer,
        names.map(name => ({ name, agreed_at: 0 })),
      ),
      state: isLate ? ('ended' as const) : booking.state,
      why: isLate ? ('unconfirmed' as const) : booking.why,
      startMs: Number(booking.start_ms),
      endMs: Number(booking.end_ms),
      name: guest.name,
      message: guest.message,
      place: booking.state === 'booked' ? placeOfMeeting(parsed(offer.terms), guest) : '',
      isOpen: offer.ended_at === null,
    }
  }
  return new Hono<SignedIn>()
    .use(notTooOften(looks, terms.addressOf))
    .get('/', async c => {
      const offer = await offerAt(c)
      if (!offer) return c.json(NOT_VALID, 404)
      const { terms: t, freeFor } = await timesOf(ctx, offer)
      const rows = await hostsOfOffers(db, { ids: [offer.id] })
      const free = t.lengths.map(minutes => ({ minutes, starts: startsIn(freeFor(minutes)) }))
      return c.json({ workspace: offer.workspace, maker: offer.maker, ...told(offer, rows), free })
    })
    .post('/ask', notTooOften(asks, terms.addressOf), zValidator('json', Ask), async c => {
      const offer = await offerAt(c)
      if (!offer) return c.json(NOT_VALID, 404)
      const { guest, askedAs, ...wanted } = c.req.valid('json')
      const waits = [await ofLink.count(offer.id), await ofAddress.count(guest.address.toLowerCase())]
      if (waits.some(w => w !== null))
        return c.json({ reason: 'This was asked for too often. Try again in an hour.' }, 429)
      await readHostsAgain(ctx, engine, offer)
      const fresh = (await offerAt(c)) ?? offer
      const asked = await askForTime(ctx, fresh, wanted, guest, askedAs)
      if (!asked.ok) return c.json({ reason: asked.reason }, asked.status)
      soon(asked.booking)
      return c.json({ state: asked.booking.state, until: Number(asked.booking.expires_at) }, 201)
    })
    .get('/booking', async c => {
      const found = await bookingAt(c)
      if (!found) return c.json(NO_BOOKING, 404)
      const { booking, offer } = found
      return c.json(await bookingTold(booking, offer))
    })
    .get('/booking/times', async c => {
      const found = await bookingAt(c)
      if (found?.booking.state !== 'booked' || found.offer.ended_at !== null) return c.json({ starts: [] })
      const { booking, offer } = found
      const events = await eventsOfBooking(db, { id: booking.id })
      const mirrors = events.flatMap(e => [e.mirror_id ?? '', e.uid]).filter(Boolean)
      const { freeFor } = await timesOf(ctx, offer, { booking: booking.id, mirrors })
      const free = freeFor((Number(booking.end_ms) - Number(booking.start_ms)) / 60_000)
      const hosts = events.map(e => e.member_id)
      return c.json({ starts: startsIn(free.filter(s => hosts.every(h => s.hosts.includes(h)))) })
    })
    .post('/booking/confirm', async c => {
      const found = await bookingAt(c)
      if (!found) return c.json(NO_BOOKING, 404)
      const done = await confirmTime(ctx, found.booking)
      if (!done.ok) return c.json({ reason: done.reason }, done.status)
      soon(found.booking)
      return c.json({ ok: true as const })
    })
    .post('/booking/move', zValidator('json', Wanted.pick({ startMs: true })), async c => {
      const found = await bookingAt(c)
      if (!found || found.offer.ended_at !== null) return c.json(NOT_VALID, 404)
      await readHostsAgain(ctx, engine, found.offer)
      const fresh = (await offerOfBooking(db, { id: found.offer.id })) ?? found.offer
      const done = await moveBooking(ctx, fresh, found.booking, c.req.valid('json').startMs)
      if (!done.ok) return c.json({ reason: done.reason }, done.status)
      soon(found.booking)
      return c.json({ ok: true as const })
    })
    .post('/booking/call-off', async c => {
      const found = await bookingAt(c)
      if (!found) return c.json(NO_BOOKING, 404)
      await endBooking(ctx, found.booking.id, 'guest')
      soon(found.booking)
      return c.json({ ok: true as const })
    })
}
