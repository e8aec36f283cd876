import { type Making, MINUTE, zonedAt } from '@loom/core'
import { held, placeOfMeeting } from '@loom/core/offers'
import { LRUCache } from 'lru-cache'
import type { Context } from '../context/context.ts'
import { harmsOnlyItself } from '../data/harm.ts'
import { awaitLease } from '../data/leases.ts'
import { isDuplicate } from '../data/database-errors.ts'
import { json, parsed } from '../data/json.ts'
import {
  type BookingEvent,
  bookingById,
  bookingsAstray,
  changeBooking,
  dropBookingEvent,
  dropPastBookings,
  eventsOfBooking,
  expiredBookings,
  freeQuarters,
  holdQuarters,
  lockBooking,
  type BookingRow,
  putBookingEvent,
  standsAt,
  writtenAs,
} from '../data/repositories/bookings.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import { hostsOfOffers, offerOfBooking, type OpenOffer } from '../data/repositories/offers.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { backoff } from '../sync/log/health.ts'
import { editItem } from '../view/edit.ts'
import { makeItem } from '../view/make.ts'
import { endBooking, termsOf } from './booking.ts'
import { makeRoom } from './make-room.ts'

/**
 * Brings calendars and bookings together again, whoever changed something: what was booked is written, what the guest
 * moved or called off is moved or removed, and what a host moved or deleted is moved or called off for the guest. Where
 * an event was written last tells both apart.
 */

const LOOK_MS = 3_000
const MOST_REST_MS = 3_600_000
/** Bookings are kept so long after their time. */
const KEPT_MS = 90 * 86_400_000

const wroteOf = ({ start_ms, end_ms }: BookingRow): Pick<BookingEvent, 'wrote_ms' | 'wrote_end'> => ({
  wrote_ms: Number(start_ms),
  wrote_end: Number(end_ms),
})

export class FollowBookings {
  /** From then on only who asks for it looks. */
  stop: () => void = () => undefined
  private looks = 0
  /** What could not be followed is left alone for longer each time. */
  private readonly rests = new LRUCache<string, { failures: number; until: number }>({ max: 1_000 })

  constructor(
    private readonly ctx: Context,
    /** What was written is to be sent now. */
    private readonly written: (connection: string) => void,
  ) {}

  start(): void {
    this.stop = this.ctx.background.every('follow what guests have booked', LOOK_MS, () => this.look())
  }

  async look(): Promise<void> {
    const { ctx } = this
    for (const { id } of await expiredBookings(ctx.db, { now: ctx.now() }))
      await endBooking(ctx, id, 'unconfirmed')
    for (const { id, workspace } of await bookingsAstray(ctx.db, { now: ctx.now() }))
      await this.follow(id, workspace)
    if (this.looks++ % 1000 === 0) await dropPastBookings(ctx.db, { before: ctx.now() - KEPT_MS })
  }

  /** One that cannot be followed keeps no other; of several servers one does it. */
  async follow(id: string, workspaceId: string): Promise<void> {
    const { ctx } = this
    if (Date.now() < (this.rests.get(id)?.until ?? 0)) return
    const lease = await awaitLease(ctx, workspaceId, `bookings:${workspaceId}`)
    if (!lease) return
    try {
      const booking = await bookingById(ctx.db, { id })
      const offer = booking && (await offerOfBooking(ctx.db, { id: booking.offer_id }))
      if (!booking || !offer || booking.state === 'asked') return
      for (const event of await eventsOfBooking(ctx.db, { id }))
        if (!(await this.followEvent(offer, booking, event))) return
    } catch (error) {
      if (!harmsOnlyItself(error)) throw error
      const failures = (this.rests.get(id)?.failures ?? 0) + 1
      this.rests.set(id, { failures, until: Date.now() + backoff(failures, MOST_REST_MS) })
      ctx.log.error({ err: error, bookingId: id }, 'a booking could not be followed')
    } finally {
      await lease.release()
    }
  }

  /** False where the booking is another one now: what is left is looked at by that. */
  private async followEvent(offer: OpenOffer, booking: BookingRow, event: BookingEvent): Promise<boolean> {
    const { ctx } = this
    const team = await teamOfWorkspace(ctx.db, { workspaceId: booking.workspace_id })
    const found = team.find(m => m.id === event.member_id)
    const isOver = booking.state === 'ended'
    if (!found) {
      await dropBookingEvent(ctx.db, { bookingId: booking.id, memberId: event.member_id })
      if (!isOver) await endBooking(ctx, booking.id, 'host')
      return isOver
    }
    const host: Member = { ...found, workspaceId: booking.workspace_id, userId: '' }
    const { mirror_id: mirrorId } = event
    if (mirrorId !== null) return this.settle(offer, booking, event, host, mirrorId)
    const made = await writtenAs(ctx.db, { workspaceId: booking.workspace_id, uid: event.uid })
    if (made?.state === 'open' || made?.state === 'waiting') return true
    if (made?.state === 'confirmed' && made.mirror_id !== null) {
      const wrote = event.wrote_ms === null ? wroteOf(booking) : {}
      const bound = { ...event, ...wrote, mirror_id: made.mirror_id }
      await putBookingEvent(ctx.db, bound)
      return this.settle(offer, booking, bound, host, made.mirror_id)
    }
    if (isOver) return this.forget(event)
    if (!made && event.wrote_ms === null) return this.write(offer, booking, event, host)
    await this.forget(event)
    await endBooking(ctx, booking.id, made?.state === 'dropped' ? 'host' : 'refused')
    return false
  }

  private async forget({ booking_id: bookingId, member_id: memberId }: BookingEvent): Promise<boolean> {
    await dropBookingEvent(this.ctx.db, { bookingId, memberId })
    return true
  }

  private async write(
    offer: OpenOffer,
    booking: BookingRow,
    event: BookingEvent,
    host: Member,
  ): Promise<boolean> {
    const { ctx } = this
    const terms = termsOf(offer)
    const guest = parsed(booking.guest)
    const [row] = (await hostsOfOffers(ctx.db, { ids: [offer.id] })).filter(h => h.member_id === host.id)
    const answers = terms.questions.map((q, n) => `${q.text} ${guest.answers[n] ?? ''}`)
    const making: Making = {
      what: 'event',
      title: `${terms.title}: ${guest.name}`,
      kind: 'other',
      guests: [],
      start: zonedAt(Number(booking.start_ms), host.zone),
      minutes: (Number(booking.end_ms) - Number(booking.start_ms)) / MINUTE,
      repeats: null,
      into: row?.into_list ?? null,
      said: {
        description: [`${guest.name} <${guest.address}>`, guest.message, ...answers]
          .filter(Boolean)
          .join('\n'),
        location: placeOfMeeting(terms, guest),
      },
    }
    const made = await makeItem(ctx, host, making, { uid: event.uid })
    if (!made.ok) {
      await endBooking(ctx, booking.id, 'refused')
      return false
    }
    const wrote = { ...event, ...wroteOf(booking) }
    await putBookingEvent(ctx.db, wrote)
    this.written(made.connectionId)
    await this.makeRoom(offer, booking, wrote, host)
    return true
  }

  /** What it stands on goes elsewhere, where the offer says so. */
  private async makeRoom(
    offer: OpenOffer,
    booking: BookingRow,
    event: BookingEvent,
    host: Member,
  ): Promise<void> {
    const { givesWay: below = null, before, after } = termsOf(offer)
    if (below === null) return
    const taken = {
      fromMs: Number(booking.start_ms) - before * MINUTE,
      toMs: Number(booking.end_ms) + after * MINUTE,
    }
    const { gave, connections } = await makeRoom(this.ctx, host, { taken, below })
    if (gave.length > 0) await putBookingEvent(this.ctx.db, { ...event, gave_way: json(gave) })
    for (const id of connections) this.written(id)
  }

  /** An event that is there: it follows the booking, or the booking follows it. */
  private async settle(
    offer: OpenOffer,
    booking: BookingRow,
    event: BookingEvent,
    host: Member,
    mirrorId: string,
  ): Promise<boolean> {
    const { ctx } = this
    const stands = await standsAt(ctx.db, { mirrorId })
    const isGone = !stands || stands.presence === 'gone'
    if (booking.state === 'ended') {
      if (!isGone) {
        const done = await editItem(ctx, host, mirrorId, { do: 'delete' }, null, {
          cause: 'booking-called-off',
        })
        if (done.ok && done.connectionId) this.written(done.connectionId)
        if (!done.ok)
          ctx.log.warn(
            { bookingId: booking.id, reason: done.reason },
            'what was called off stays in a calendar',
          )
      }
      return this.forget(event)
    }
    if (isGone) {
      await this.forget(event)
      await endBooking(ctx, booking.id, 'host')
      return false
    }
    if (stands.unsent > 0 || stands.start_ms === null) return true
    const [at, until] = [Number(stands.start_ms), Number(stands.end_ms ?? stands.start_ms)]
    if (at !== Number(event.wrote_ms) || until !== Number(event.wrote_end)) {
      await this.movedByHost(booking, event, at, until)
      return false
    }
    if (at === Number(booking.start_ms) && until === Number(booking.end_ms)) return true
    const start = zonedAt(Number(booking.start_ms), host.zone)
    const minutes = (Number(booking.end_ms) - Number(booking.start_ms)) / MINUTE
    const done = await editItem(ctx, host, mirrorId, { do: 'place', start, minutes }, null, {
      cause: 'booking-moved',
    })
    if (!done.ok) {
      await endBooking(ctx, booking.id, 'refused')
      return false
    }
    const moved = { ...event, ...wroteOf(booking), gave_way: null }
    await putBookingEvent(ctx.db, moved)
    if (done.connectionId) this.written(done.connectionId)
    await this.makeRoom(offer, booking, moved, host)
    return true
  }

  /** What they hold is held where it is now, as far as nobody else holds it. */
  private async movedByHost(
    booking: BookingRow,
    event: BookingEvent,
    start: number,
    end: number,
  ): Promise<void> {
    const { ctx } = this
    const offer = await offerOfBooking(ctx.db, { id: booking.offer_id })
    const hosts = (await eventsOfBooking(ctx.db, { id: booking.id })).map(e => e.member_id)
    const length = Math.max(MINUTE, end - start)
    await ctx.db.commit(async sql => {
      const row = await lockBooking(sql, { id: booking.id })
      if (row?.state !== 'booked') return
      await putBookingEvent(sql, { ...event, wrote_ms: start, wrote_end: end })
      await freeQuarters(sql, { bookingId: row.id })
      await changeBooking(sql, { id: row.id, state: 'booked', why: 'host', start, end: start + length })
      sql.tell(row.workspace_id, { topics: ['team'] })
    })
    if (!offer) return
    const quarters = held(termsOf(offer), { startMs: start, minutes: length / MINUTE })
    await ctx.db
      .commit(sql =>
        holdQuarters(sql, { bookingId: booking.id, workspaceId: booking.workspace_id, hosts, ...quarters }),
      )
      .catch((error: unknown) => {
        // Whoever moved it there has seen what is there.
        if (!isDuplicate(error)) throw error
      })
  }
}
