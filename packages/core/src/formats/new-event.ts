import type { Event } from '../items/items.ts'
import type { Repeats } from '../view/making.ts'
import { componentsNamed, fold, parseLines, textOf } from './content-lines.ts'
import { composeEvent } from './vevent.ts'

/** A calendar object for an event that repeats or has guests, which a canonical event cannot say. */

export interface Guest {
  name: string
  email: string
}

const basicUntil = (date: string, allDay: boolean): string =>
  allDay ? date.replaceAll('-', '') : `${date.replaceAll('-', '')}T235959Z`

/** RFC 5545 §3.3.10. */
export function rruleOf(repeats: Repeats, allDay: boolean): string {
  const parts = [`FREQ=${repeats.every.toUpperCase()}`]
  if (repeats.interval > 1) parts.push(`INTERVAL=${repeats.interval}`)
  if (repeats.until) parts.push(`UNTIL=${basicUntil(repeats.until, allDay)}`)
  return parts.join(';')
}

/** A parameter's value in quotes (RFC 5545 §3.2): what cannot stand there is left out. */
const quoted = (text: string): string => `"${text.replace(/["\p{Cc}]/gu, '')}"`
/** Quoted or not, an address holds no white space and ends no line. */
const address = (email: string): string => `mailto:${email.replace(/[\s\p{Cc}]/gu, '')}`

export function composeNewEvent(
  event: Event,
  with_: { repeats: Repeats | null; organizer: Guest | null; guests: readonly Guest[] },
  now: number,
): string {
  const lines = parseLines(composeEvent(event, now))
  const at = componentsNamed(lines, 'VEVENT')[0]
  if (!at) return textOf(lines)
  const extra: string[] = []
  if (with_.repeats) extra.push(`RRULE:${rruleOf(with_.repeats, event.time.anchor.kind === 'date')}`)
  if (with_.guests.length > 0 && with_.organizer)
    extra.push(`ORGANIZER;CN=${quoted(with_.organizer.name)}:${address(with_.organizer.email)}`)
  for (const g of with_.guests)
    extra.push(`ATTENDEE;CN=${quoted(g.name)};PARTSTAT=NEEDS-ACTION;RSVP=TRUE:${address(g.email)}`)
  const made = extra.flatMap(l => parseLines(fold(l)))
  return textOf([...lines.slice(0, at.end), ...made, ...lines.slice(at.end)])
}
