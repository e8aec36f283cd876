import { addressOf, answerOf } from '../ical/guests.ts'
import { instantOf, NotUnderstood, parseCalendar, stringOf } from '../ical/ical-values.ts'
import { understoodOr } from '../ical/not-understood.ts'
import { eventIn, parseEvent } from '../ical/vevent.ts'
import { type Event, type GuestAnswer, MOST_KNOWN_GUESTS } from '../items/items.ts'

/** What calendar programs tell one another of a meeting (iTIP, RFC 5546). */

const METHODS = [
  'REQUEST',
  'CANCEL',
  'REPLY',
  'COUNTER',
  'ADD',
  'REFRESH',
  'DECLINECOUNTER',
  'PUBLISH',
] as const
export type Method = (typeof METHODS)[number]

export interface Itip {
  method: Method
  uid: string
  /** Which date of a series it is about, as RECURRENCE-ID has it; null for all of it. */
  recurrenceId: string | null
  sequence: number
  /** DTSTAMP, epoch ms; null where none is said. */
  stampMs: number | null
  /** By mail address in small letters; null where nobody is named. */
  organizer: string | null
  guests: { email: string; name: string; answer: GuestAnswer }[]
  /** What somebody wrote beside their answer. */
  comment: string
  /** The event as it is told; null in what names none, as an answer may. */
  event: Event | null
}

/** Characters. A series with many exceptions stays far below. */
const LONGEST = 300_000

/** Throws NotUnderstood: what is too long, names no event or no known METHOD. */
export function readItip(text: string): Itip {
  if (text.length > LONGEST) throw new NotUnderstood('It is too long for an invitation.')
  const calendar = parseCalendar(text)
  const said = stringOf(calendar, 'method').trim().toUpperCase()
  const method = METHODS.find(m => m === said)
  if (!method) throw new NotUnderstood('It is no invitation, and no answer to one.')
  const events = calendar.getAllSubcomponents('vevent')
  const whole = events.find(e => !e.hasProperty('recurrence-id'))
  const main = whole ?? events[0]
  const uid = main && stringOf(main, 'uid').trim()
  if (!main || !uid) throw new NotUnderstood('It names no event.')
  const stamp = instantOf(main, 'dtstamp')
  const organizer = main.getFirstPropertyValue('organizer')
  const comment = stringOf(main, 'comment').slice(0, 2_000)
  return {
    method,
    uid: uid.slice(0, 500),
    recurrenceId: whole ? null : String(main.getFirstPropertyValue('recurrence-id')).slice(0, 100),
    sequence: Math.max(0, Math.trunc(Number(stringOf(main, 'sequence')) || 0)),
    stampMs: stamp === null ? null : Date.parse(stamp),
    organizer: organizer === null ? null : addressOf(organizer).slice(0, 320),
    guests: main
      .getAllProperties('attendee')
      .slice(0, MOST_KNOWN_GUESTS)
      .map(p => ({
        email: addressOf(p.getFirstValue()).slice(0, 320),
        name: String([p.getParameter('cn')].flat()[0] ?? '').slice(0, 200),
        answer: answerOf(p.getParameter('partstat')),
      })),
    comment,
    event: main.hasProperty('dtstart')
      ? understoodOr(() => (whole ? parseEvent(text, calendar) : eventIn(main)), null)
      : null,
  }
}

/** Of a guest, what was counted last. */
export interface Counted {
  sequence: number
  stampMs: number
}

/**
 * Whether an answer says something new: of the meeting as it was told last, and not before what is counted already
 * (RFC 5546 §3.2.3).
 *
 * @param sequence as the guests were told last
 */
export function isNewer(
  { sequence: of, stampMs }: { sequence: number; stampMs: number },
  sequence: number,
  known: Counted | null,
): boolean {
  if (of < sequence) return false
  return known === null || of > known.sequence || stampMs > known.stampMs
}
