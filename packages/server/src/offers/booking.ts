import { randomUUID } from 'node:crypto'
import {
  type FreeStart,
  freeStarts,
  type GuestWords,
  held,
  type HostTime,
  type OfferTerms,
  unanswered,
} from '@loom/core/offers'
import { dayAt, MINUTE } from '@loom/core'
import { hashOf, newToken, seal } from '../access/secrets.ts'
import type { Context } from '../context/context.ts'
import { isDuplicate } from '../data/database-errors.ts'
import { json, parsed } from '../data/json.ts'
import {
  addBooking,
  addBookingEvents,
  bookedStarts,
  bookingAskedAs,
  type BookingRow,
  changeBooking,
  eventsOfBooking,
  freeQuarters,
  holdQuarters,
  lockBooking,
  type Why,
} from '../data/repositories/bookings.ts'
import { hostsOfOffers, lockOffer, type OpenOffer } from '../data/repositories/offers.ts'
import { hostTimes } from './host-times.ts'

/**
 * A guest takes an offered time: it is held as rows of which each can be there once, and so by one guest alone, until
 * they confirm by mail. What becomes of the events in the calendars follows from the booking (`follow-bookings.ts`).
 */

export const CONFIRM_WITHIN_MS = 15 * MINUTE
export const NOT_FREE =
  'This time has just been taken, or is not free any more. What you wrote is still here: choose another.'
export const OVER = 'This offer has ended. Ask whoever sent it to you for a new one.'

export type Asked = { ok: true; booking: BookingRow } | { ok: false; status: 409 | 422; reason: string }

export interface Wanted {
  startMs: number
  minutes: number
}

export const termsOf = (offer: Pick<OpenOffer, 'terms'>): OfferTerms => parsed(offer.terms)

/** Everything that is free, by length. */
export async function timesOf(
  ctx: Context,
  offer: OpenOffer,
  but?: { booking: string; mirrors: readonly string[] },
): Promise<{ terms: OfferTerms; hosts: HostTime[]; freeFor: (minutes: number) => FreeStart[] }> {
  const terms = termsOf(offer)
  const rows = await hostsOfOffers(ctx.db, { ids: [offer.id] })
  // All together is all, also those who have not agreed yet, or have left.
  const isWhole = terms.how === 'any' || rows.every(h => h.agreed_at !== null)
  const hosts = isWhole ? await hostTimes(ctx, offer, terms, rows, but) : []
  return { terms, hosts, freeFor: minutes => freeStarts(terms, minutes, hosts, ctx.now()) }
}

/** Whom a free beginning is for; null where it is none. With several of whom one is enough, each in turn. */
function choicesAt(terms: OfferTerms, starts: readonly FreeStart[], startMs: number): string[][] {
  const start = starts.find(s => s.startMs === startMs)
  if (!start) return []
  return terms.how === 'all' ? [start.hosts] : start.hosts.map(h => [h])
}

/**
 * @param askedAs chosen by the guest's page for this one booking: who sends it twice books once
 */
export async function askForTime(
  ctx: Context,
  offer: OpenOffer,
  { startMs, minutes }: Wanted,
  guest: GuestWords,
  askedAs: string,
): Promise<Asked> {
  const known = await bookingAskedAs(ctx.db, { offerId: offer.id, askedAs })
  if (known) return { ok: true, booking: known }
  const { terms, freeFor } = await timesOf(ctx, offer)
  const question = unanswered(terms, guest)
  if (question !== null) return { ok: false, status: 422, reason: `Please answer: ${question}` }
  if (!terms.lengths.includes(minutes))
    return { ok: false, status: 422, reason: 'That length is not offered.' }
  const [id, token] = [randomUUID(), newToken()]
  const now = ctx.now()
  for (const hosts of choicesAt(terms, freeFor(minutes), startMs)) {
    const row = {
      id,
      workspace_id: offer.workspace_id,
      offer_id: offer.id,
      token_sealed: seal(token, ctx.secret),
      state: 'asked' as const,
      start_ms: startMs,
      end_ms: startMs + minutes * MINUTE,
      guest: json(guest),
      made_at: now,
      expires_at: now + CONFIRM_WITHIN_MS,
    }
    try {
      const done = await ctx.db.commit(async sql => {
        const open = await lockOffer(sql, { id: offer.id, workspaceId: offer.workspace_id })
        if (!open || open.ended_at !== null) return 'over'
        if (await isDayFull(sql, terms, offer.id, hosts, startMs)) return 'full'
        await addBooking(sql, { ...row, hash: hashOf(token), askedAs })
        const theirs = hosts.map(h => ({ id: h, uid: randomUUID() }))
        await addBookingEvents(sql, { bookingId: id, workspaceId: offer.workspace_id, hosts: theirs })
        const quarters = held(terms, { startMs, minutes })
        await holdQuarters(sql, { bookingId: id, workspaceId: offer.workspace_id, hosts, ...quarters })
        sql.tell(offer.workspace_id, { topics: ['team'] })
        return 'held'
      })
      if (done === 'over') return { ok: false, status: 409, reason: OVER }
      if (done === 'held') return { ok: true, booking: { ...row, why: null, sequence: 0, told: -1 } }
    } catch (error) {
      if (!isDuplicate(error)) throw error
      // Either somebody else has it, or the same request came twice in the same moment.
      const twin = await bookingAskedAs(ctx.db, { offerId: offer.id, askedAs })
      if (twin) return { ok: true, booking: twin }
    }
  }
  return { ok: false, status: 409, reason: NOT_FREE }
}

async function isDayFull(
  sql: Parameters<typeof bookedStarts>[0],
  { mostPerDay, zone }: OfferTerms,
  offerId: string,
  hosts: readonly string[],
  startMs: number,
  but = '',
): Promise<boolean> {
  if (mostPerDay === null) return false
  const date = dayAt(startMs, zone)
  const all = await bookedStarts(sql, { offerId, from: startMs - 2 * 86_400_000, but })
  const on = all.filter(b => dayAt(Number(b.start_ms), zone) === date)
  return hosts.some(h => on.filter(b => b.member_id === h).length >= mostPerDay)
}

/** The guest has followed the address in their mail. Its events are written by what follows bookings. */
export async function confirmTime(ctx: Context, booking: BookingRow): Promise<Asked> {
  return ctx.db.commit(async (sql): Promise<Asked> => {
    const row = await lockBooking(sql, { id: booking.id })
    if (!row || row.state === 'ended' || (row.state === 'asked' && Number(row.expires_at) <= ctx.now()))
      return { ok: false, status: 409, reason: 'This time was not confirmed in time, and is no longer held.' }
    if (row.state === 'asked') {
      await changeBooking(sql, {
        id: row.id,
        state: 'booked',
        why: null,
        start: row.start_ms,
        end: row.end_ms,
      })
      sql.tell(row.workspace_id, { topics: ['team'] })
    }
    return { ok: true, booking: { ...row, state: 'booked' } }
  })
}

/** To another free time of the same offer, with the same hosts. */
export async function moveBooking(
  ctx: Context,
  offer: OpenOffer,
  booking: BookingRow,
  startMs: number,
): Promise<Asked> {
  const minutes = (Number(booking.end_ms) - Number(booking.start_ms)) / MINUTE
  const events = await eventsOfBooking(ctx.db, { id: booking.id })
  const theirs = events.flatMap(e => [e.mirror_id ?? '', e.uid])
  const { terms, freeFor } = await timesOf(ctx, offer, {
    booking: booking.id,
    mirrors: theirs.filter(Boolean),
  })
  const hosts = events.map(e => e.member_id)
  const free = freeFor(minutes).find(s => s.startMs === startMs)
  const refused = { ok: false as const, status: 409 as const, reason: NOT_FREE }
  if (!free || !hosts.every(h => free.hosts.includes(h))) return refused
  try {
    return await ctx.db.commit(async (sql): Promise<Asked> => {
      await lockOffer(sql, { id: offer.id, workspaceId: offer.workspace_id })
      const row = await lockBooking(sql, { id: booking.id })
      if (row?.state !== 'booked') return { ...refused, reason: 'This meeting does not take place any more.' }
      if (await isDayFull(sql, terms, offer.id, hosts, startMs, row.id)) return refused
      await freeQuarters(sql, { bookingId: row.id })
      const quarters = held(terms, { startMs, minutes })
      await holdQuarters(sql, { bookingId: row.id, workspaceId: row.workspace_id, hosts, ...quarters })
      const end = startMs + minutes * MINUTE
      await changeBooking(sql, { id: row.id, state: 'booked', why: 'guest', start: startMs, end })
      sql.tell(row.workspace_id, { topics: ['team'] })
      return { ok: true, booking: { ...row, start_ms: startMs, end_ms: end } }
    })
  } catch (error) {
    if (isDuplicate(error)) return refused
    throw error
  }
}

/** By the guest, by a host, or because no calendar took it. What is held is free at once. */
export async function endBooking(ctx: Context, id: string, why: Why): Promise<boolean> {
  return ctx.db.commit(async sql => {
    const row = await lockBooking(sql, { id })
    if (!row || row.state === 'ended') return false
    // Somebody confirmed while we decided that nobody had.
    if (why === 'unconfirmed' && row.state !== 'asked') return false
    await freeQuarters(sql, { bookingId: id })
    await changeBooking(sql, { id, state: 'ended', why, start: row.start_ms, end: row.end_ms })
    sql.tell(row.workspace_id, { topics: ['team'] })
    return true
  })
}
