import { escapeText, fold } from '../ical/content-lines.ts'
import { organizerLine } from '../ical/guests.ts'
import { basicUtc } from '../ical/ical-values.ts'
import type { Guest } from '../items/items.ts'
import { MINUTE } from '../time/when.ts'

/** What a guest's calendar program is told of a meeting by mail (RFC 5546 §3.2.2 and §3.2.5, RFC 6047). */

export interface Invitation {
  method: 'REQUEST' | 'CANCEL'
  /** The same for one meeting, whatever becomes of it. */
  uid: string
  /** Greater with each change. */
  sequence: number
  startMs: number
  minutes: number
  summary: string
  location: string
  description: string
  /** Where it can be moved or called off. */
  url: string
  organizer: Guest
  guest: Guest
  stampMs: number
}

/** Hours in UTC: nobody's program has to know a zone for it. */
export function invitationObject(i: Invitation): string {
  const text = (name: string, value: string): string[] =>
    value === '' ? [] : [`${name}:${escapeText(value)}`]
  // Who has booked has said yes.
  const guest = organizerLine(i.guest).replace(
    /^ORGANIZER/,
    'ATTENDEE;PARTSTAT=ACCEPTED;ROLE=REQ-PARTICIPANT',
  )
  const lines = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Amber Loom//EN',
    'CALSCALE:GREGORIAN',
    `METHOD:${i.method}`,
    'BEGIN:VEVENT',
    `UID:${i.uid}`,
    `SEQUENCE:${i.sequence}`,
    `DTSTAMP:${basicUtc(i.stampMs)}`,
    `DTSTART:${basicUtc(i.startMs)}`,
    `DTEND:${basicUtc(i.startMs + i.minutes * MINUTE)}`,
    ...text('SUMMARY', i.summary),
    ...text('LOCATION', i.location),
    ...text('DESCRIPTION', i.description),
    `URL:${i.url}`,
    `STATUS:${i.method === 'CANCEL' ? 'CANCELLED' : 'CONFIRMED'}`,
    organizerLine(i.organizer),
    guest,
    'END:VEVENT',
    'END:VCALENDAR',
  ]
  return lines.map(l => fold(l)).join('')
}
