import { clockWords, dayAt, isKnownZone, longDayWords, MINUTE } from '@loom/core'
import { invitationObject, placeOfMeeting } from '@loom/core/offers'
import { unseal } from '../access/secrets.ts'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import {
  type BookingRow,
  claimTelling,
  type GaveWay,
  eventsOfBooking,
  markTold,
  untoldBookings,
  bookingById,
} from '../data/repositories/bookings.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import { offerOfBooking, type OpenOffer } from '../data/repositories/offers.ts'
import { addressIn, type Letter, sendMail, type OutgoingMail } from '../mail/mailer.ts'
import { termsOf } from './booking.ts'

/**
 * What guests and hosts are told by mail of a booking: as it is when the letter goes, once for each change, whichever
 * server sends it. With it goes what the guest's calendar program reads.
 */

const LOOK_MS = 5_000
const AGAIN_MS = 60_000

export const bookingUrl = (
  ctx: Pick<Context, 'publicUrl' | 'secret'>,
  row: Pick<BookingRow, 'token_sealed'>,
): string => `${ctx.publicUrl}/booked#${String(unseal(row.token_sealed, ctx.secret))}`

interface Told {
  offer: OpenOffer
  booking: BookingRow
  hosts: readonly { name: string; address: string; zone: string; gave: readonly GaveWay[] }[]
}

export class BookingLetters {
  /** From then on only who asks for it looks. */
  stop: () => void = () => undefined

  constructor(private readonly ctx: Context) {}

  start(): void {
    if (this.ctx.outgoingMail)
      this.stop = this.ctx.background.every('letters about bookings', LOOK_MS, () => this.sendDue())
  }

  /** Returns how many bookings somebody was told of. */
  async sendDue(): Promise<number> {
    const { ctx } = this
    const mail = ctx.outgoingMail
    if (!mail) return 0
    let sent = 0
    for (const { id } of await untoldBookings(ctx.db, { wall: Date.now() })) {
      const wall = Date.now()
      if (!(await claimTelling(ctx.db, { id, wall, until: wall + AGAIN_MS }))) continue
      const booking = await bookingById(ctx.db, { id })
      if (!booking) continue
      try {
        const offer = await offerOfBooking(ctx.db, { id: booking.offer_id })
        if (!offer) {
          await markTold(ctx.db, { id, sequence: booking.sequence })
          continue
        }
        const events = await eventsOfBooking(ctx.db, { id })
        const team = await teamOfWorkspace(ctx.db, { workspaceId: booking.workspace_id })
        const hosts = team.flatMap(m => {
          const event = events.find(e => e.member_id === m.id)
          if (!event) return []
          const gave = event.gave_way === null ? [] : parsed(event.gave_way)
          return [{ name: m.name, address: m.email, zone: m.zone, gave }]
        })
        for (const letter of lettersOf(ctx, mail, { offer, booking, hosts })) await sendMail(mail, letter)
        await markTold(ctx.db, { id, sequence: booking.sequence })
        sent++
      } catch (error) {
        ctx.log.warn({ err: error, bookingId: id }, 'a letter about a booking could not be sent')
      }
    }
    return sent
  }
}

const namesOf = (hosts: Told['hosts']): string => hosts.map(h => h.name).join(', ')

/** What made room in a host's plan. */
function roomIn({ gave, zone }: Told['hosts'][number]): string {
  if (gave.length === 0) return ''
  const at = (ms: number): string => `${longDayWords(dayAt(ms, zone))}, ${clockWords(ms, zone)}`
  const whereTo = (g: GaveWay): string => {
    if (g.why !== null) return `stays where it is. ${g.why}`
    return g.to === null ? 'on the shelf' : `now ${at(g.to)}`
  }
  const lines = gave.map(g => `${g.title}: ${whereTo(g)}`)
  return `\nTo make room:\n${lines.join('\n')}\n`
}

function timeIn(booking: BookingRow, zone: string): string {
  const known = isKnownZone(zone) ? zone : 'UTC'
  const [from, to] = [Number(booking.start_ms), Number(booking.end_ms)]
  const clocks = `${clockWords(from, known)}–${clockWords(to, known)}`
  return `${longDayWords(dayAt(from, known))}, ${clocks} (${known.replaceAll('_', ' ')})`
}

/** The guest's first, as they wait for it. */
function lettersOf(ctx: Context, mail: OutgoingMail, told: Told): Letter[] {
  const { offer, booking, hosts } = told
  const guest = parsed(booking.guest)
  const terms = termsOf(offer)
  const url = bookingUrl(ctx, booking)
  const by = namesOf(hosts) || offer.maker
  const at = timeIn(booking, guest.zone)
  const place = placeOfMeeting(terms, guest)
  const where = place === '' ? '' : `\n${place}`
  const to = { name: guest.name, address: guest.address }
  const event = (method: 'REQUEST' | 'CANCEL'): Letter['calendar'] => ({
    method,
    content: invitationObject({
      method,
      uid: `${booking.id}@${new URL(ctx.publicUrl).hostname}`,
      sequence: booking.sequence,
      startMs: Number(booking.start_ms),
      minutes: (Number(booking.end_ms) - Number(booking.start_ms)) / MINUTE,
      summary: `${terms.title}: ${by}`,
      location: place,
      description: guest.message,
      url,
      organizer: { name: by, email: addressIn(mail.from) },
      guest: { name: guest.name, email: guest.address },
      stampMs: ctx.now(),
    }),
  })
  const toHosts = (subject: string, text: string): Letter[] =>
    hosts.map(h => ({
      to: { name: h.name, address: h.address },
      subject,
      text: `${text}\n${timeIn(booking, h.zone)}${where}\n\n${guest.name} <${guest.address}>\n${guest.message}\n${roomIn(h)}`,
    }))
  if (booking.state === 'asked')
    return [
      {
        to,
        subject: `Confirm: ${terms.title}, ${at}`,
        text: `You have chosen a time with ${by}:\n\n${terms.title}\n${at}${where}\n\nIt is held for you for 15 minutes. Confirm it here:\n${url}\n\nIf this was not you, do nothing: without being confirmed it is let go.\n`,
      },
    ]
  if (booking.state === 'booked') {
    const isMoved = booking.why !== null
    const text = isMoved ? `${booking.why === 'host' ? by : 'You'} moved it. It is now at:` : 'It is settled:'
    return [
      {
        to,
        subject: `${isMoved ? 'Moved' : 'Booked'}: ${terms.title}, ${at}`,
        text: `${text}\n\n${terms.title}, with ${by}\n${at}${where}\n\nMove it or call it off here:\n${url}\n`,
        calendar: event('REQUEST'),
      },
      ...(booking.why === 'host'
        ? []
        : toHosts(
            `${guest.name} ${isMoved ? 'moved' : 'booked'}: ${terms.title}`,
            `${guest.name} ${isMoved ? 'has moved' : 'has booked'} “${terms.title}”:`,
          )),
    ]
  }
  // What nobody has confirmed, nobody waits for.
  if (booking.why === 'unconfirmed') return []
  const why =
    booking.why === 'guest'
      ? 'You have called it off.'
      : booking.why === 'refused'
        ? `It could not be written into the calendar of ${by}, so it does not take place. Please choose another time.`
        : `${by} had to call it off.`
  return [
    {
      to,
      subject: `Called off: ${terms.title}, ${at}`,
      text: `${why}\n\n${terms.title}, with ${by}\n${at}\n`,
      calendar: event('CANCEL'),
    },
    ...(booking.why === 'host'
      ? []
      : toHosts(
          `Called off: ${terms.title}, ${guest.name}`,
          booking.why === 'refused'
            ? `“${terms.title}” with ${guest.name} could not be written into the calendar, and was called off:`
            : `${guest.name} has called off “${terms.title}”:`,
        )),
  ]
}
