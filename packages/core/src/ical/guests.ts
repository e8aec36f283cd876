import type { Guest, GuestsChange } from '../items/items.ts'
import { type ComponentRange, type ContentLine, fold, parseLines, propertiesOf } from './content-lines.ts'

/** Who is invited to an event (RFC 5545 §3.8.4.1), written in its calendar object. */

/** Without `mailto:`, in small letters; what is no mail address as it stands. */
export const addressOf = (value: unknown): string =>
  String(value)
    .replace(/^mailto:/i, '')
    .toLowerCase()

/** A parameter's value in quotes (RFC 5545 §3.2): what cannot stand there is left out. */
const quoted = (text: string): string => `"${text.replace(/["\p{Cc}]/gu, '')}"`
/** Quoted or not, an address holds no white space and ends no line. */
const mailto = (email: string): string => `mailto:${email.replace(/[\s\p{Cc}]/gu, '')}`
const named = ({ name }: Guest): string => (name.trim() ? `;CN=${quoted(name)}` : '')

export const organizerLine = (who: Guest): string => `ORGANIZER${named(who)}:${mailto(who.email)}`
export const guestLine = (who: Guest): string =>
  `ATTENDEE${named(who)};PARTSTAT=NEEDS-ACTION;RSVP=TRUE:${mailto(who.email)}`

/** Whoever is there already stays as they are, with what they answered. */
export function withGuests(
  lines: readonly ContentLine[],
  at: ComponentRange,
  { add, drop, organizer }: GuestsChange,
): ContentLine[] {
  const present = propertiesOf(lines, at, 'ATTENDEE')
  const emails = new Set(present.map(i => addressOf(lines[i]?.value)))
  const dropped = new Set(drop.map(g => g.email.toLowerCase()))
  const gone = new Set(present.filter(i => dropped.has(addressOf(lines[i]?.value))))
  const fresh = add.filter(g => !emails.has(g.email.toLowerCase()))
  const isFirst = fresh.length > 0 && propertiesOf(lines, at, 'ORGANIZER').length === 0
  const end = lines[at.begin]?.raw.endsWith('\r\n') === false ? '\n' : '\r\n'
  const made = [...(isFirst ? [organizerLine(organizer)] : []), ...fresh.map(guestLine)]
  const inner = lines.findIndex((l, i) => i > at.begin && i < at.end && l.name === 'BEGIN')
  const before = inner === -1 ? at.end : inner
  return lines.flatMap((line, i) => [
    ...(i === before ? made.flatMap(l => parseLines(fold(l, end))) : []),
    ...(gone.has(i) ? [] : [line]),
  ])
}
