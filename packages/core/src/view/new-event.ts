import { guestLine, organizerLine } from '../ical/guests.ts'
import type { Event, Guest } from '../items/items.ts'
import { epochOf, type When, zoned } from '../time/when.ts'
import type { Repeats } from './making.ts'
import { componentsNamed, fold, parseLines, textOf } from '../ical/content-lines.ts'
import { composeEvent } from '../ical/vevent.ts'

/** A calendar object for an event that repeats or has guests, which a canonical event cannot say. */

/** UNTIL for the end of a day, in the form of the series' start; in UTC for a zoned start (RFC 5545 §3.3.10). */
function untilOf(date: string, anchor: When): string {
  const day = date.replaceAll('-', '')
  if (anchor.kind === 'date') return day
  if (anchor.kind === 'floating') return `${day}T235959`
  const end = epochOf(zoned(`${date}T23:59:59`, anchor.zone), anchor.zone)
  return new Date(end).toISOString().replace(/[-:]|\.000/g, '')
}

/** RFC 5545 §3.3.10. */
export function rruleOf({ every, interval, until }: Repeats, anchor: When): string {
  const parts =
    every === 'workdays' ? ['FREQ=WEEKLY', 'BYDAY=MO,TU,WE,TH,FR'] : [`FREQ=${every.toUpperCase()}`]
  if (interval > 1) parts.push(`INTERVAL=${interval}`)
  if (until) parts.push(`UNTIL=${untilOf(until, anchor)}`)
  return parts.join(';')
}

export function composeNewEvent(
  event: Event,
  with_: { repeats: Repeats | null; organizer: Guest | null; guests: readonly Guest[] },
  now: number,
): string {
  const lines = parseLines(composeEvent(event, now))
  const at = componentsNamed(lines, 'VEVENT')[0]
  if (!at) return textOf(lines)
  const extra: string[] = []
  if (with_.repeats) extra.push(`RRULE:${rruleOf(with_.repeats, event.time.anchor)}`)
  if (with_.guests.length > 0 && with_.organizer) extra.push(organizerLine(with_.organizer))
  extra.push(...with_.guests.map(guestLine))
  const made = extra.flatMap(l => parseLines(fold(l)))
  return textOf([...lines.slice(0, at.end), ...made, ...lines.slice(at.end)])
}
