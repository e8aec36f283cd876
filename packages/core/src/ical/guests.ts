import type { Guest, GuestAnswer, GuestsChange } from '../items/items.ts'
import { type ComponentRange, type ContentLine, fold, parseLines, propertiesOf } from './content-lines.ts'

/** Who is invited to an event (RFC 5545 §3.8.4.1), written in its calendar object. */

/** Without `mailto:`, in small letters; what is no mail address as it stands. */
export const addressOf = (value: unknown): string =>
  String(value)
    .replace(/^mailto:/i, '')
    .toLowerCase()

const ANSWERS = new Map<string, GuestAnswer>([
  ['ACCEPTED', 'accepted'],
  ['DECLINED', 'declined'],
  ['TENTATIVE', 'tentative'],
])

/** Of PARTSTAT, as a library gives it: absent, one, or several. */
export const answerOf = (partstat: string | readonly string[] | undefined): GuestAnswer =>
  ANSWERS.get(String([partstat].flat()[0] ?? '').toUpperCase()) ?? 'none'

/** A parameter's value in quotes (RFC 5545 §3.2): what cannot stand there is left out. */
const quoted = (text: string): string => `"${text.replace(/["\p{Cc}]/gu, '')}"`
/** Quoted or not, an address holds no white space and ends no line. */
const mailto = (email: string): string => `mailto:${email.replace(/[\s\p{Cc}]/gu, '')}`
const named = ({ name }: Guest): string => (name.trim() ? `;CN=${quoted(name)}` : '')

export const organizerLine = (who: Guest): string => `ORGANIZER${named(who)}:${mailto(who.email)}`
export const guestLine = (who: Guest): string =>
  `ATTENDEE${named(who)};PARTSTAT=NEEDS-ACTION;RSVP=TRUE:${mailto(who.email)}`

const PARTSTAT = { accepted: 'ACCEPTED', declined: 'DECLINED', tentative: 'TENTATIVE', none: 'NEEDS-ACTION' }

/** The line with another PARTSTAT; an answer is wanted again where there is none. */
export function withAnswer(line: ContentLine, answer: GuestAnswer): ContentLine[] {
  const kept = paramsOf(line.params).filter(p => !/^(PARTSTAT|RSVP)=/i.test(p))
  const said = [...kept, `PARTSTAT=${PARTSTAT[answer]}`, ...(answer === 'none' ? ['RSVP=TRUE'] : [])]
  const end = line.raw.endsWith('\r\n') ? '\r\n' : '\n'
  return parseLines(fold(`${line.name};${said.join(';')}:${line.value}`, end))
}

function asAnswered(line: ContentLine, answered: ReadonlyMap<string, GuestAnswer>): ContentLine[] {
  const answer = answered.get(addressOf(line.value))
  return answer === undefined ? [line] : withAnswer(line, answer)
}

/** Parameters one by one: a semicolon in quotes parts none. */
const paramsOf = (params: string): string[] => params.match(/[^;"]+(?:"[^"]*"[^;"]*)*/g) ?? []

/** Whoever is there already stays as they are, with what they answered. */
export function withGuests(
  lines: readonly ContentLine[],
  at: ComponentRange,
  { add, drop, organizer, answers = [] }: GuestsChange,
): ContentLine[] {
  const present = propertiesOf(lines, at, 'ATTENDEE')
  const emails = new Set(present.map(i => addressOf(lines[i]?.value)))
  const dropped = new Set(drop.map(g => g.email.toLowerCase()))
  const gone = new Set(present.filter(i => dropped.has(addressOf(lines[i]?.value))))
  const fresh = add.filter(g => !emails.has(g.email.toLowerCase()))
  const isFirst = fresh.length > 0 && propertiesOf(lines, at, 'ORGANIZER').length === 0
  const answered = new Map(answers.map(a => [a.email.toLowerCase(), a.answer]))
  const end = lines[at.begin]?.raw.endsWith('\r\n') === false ? '\n' : '\r\n'
  const made = [...(isFirst && organizer ? [organizerLine(organizer)] : []), ...fresh.map(guestLine)]
  const inner = lines.findIndex((l, i) => i > at.begin && i < at.end && l.name === 'BEGIN')
  const before = inner === -1 ? at.end : inner
  return lines.flatMap((line, i) => [
    ...(i === before ? made.flatMap(l => parseLines(fold(l, end))) : []),
    ...(gone.has(i) ? [] : present.includes(i) ? asAnswered(line, answered) : [line]),
  ])
}
