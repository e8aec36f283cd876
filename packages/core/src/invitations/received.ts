import {
  type ComponentRange,
  componentsNamed,
  type ContentLine,
  escapeText,
  fold,
  parseLines,
  propertiesOf,
  setProperty,
  textOf,
} from '../ical/content-lines.ts'
import { addressOf, withAnswer } from '../ical/guests.ts'
import { basicUtc } from '../ical/ical-values.ts'
import type { GuestAnswer } from '../items/items.ts'

/** What a guest keeps of an invitation that came to them, and what they answer (RFC 5546 §3.2.3). */

/** The object as it is kept: without METHOD, with what each of these has answered. By mail address in small letters. */
export function keptObject(text: string, answers: ReadonlyMap<string, GuestAnswer>): string {
  const lines = parseLines(text).filter(l => l.name !== 'METHOD')
  return textOf(
    lines.flatMap(l => {
      const answer = l.name === 'ATTENDEE' ? answers.get(addressOf(l.value)) : undefined
      return answer === undefined ? [l] : withAnswer(l, answer)
    }),
  )
}

/** What of the event goes back with an answer, so that it is known which it is of. */
const ECHOED = new Set([
  'UID',
  'RECURRENCE-ID',
  'SEQUENCE',
  'ORGANIZER',
  'DTSTART',
  'DTEND',
  'DURATION',
  'SUMMARY',
])

/** @param email of whoever answers, in small letters, as the invitation names them */
export function replyObject(
  text: string,
  {
    email,
    answer,
    comment,
    stampMs,
  }: { email: string; answer: GuestAnswer; comment: string; stampMs: number },
): string {
  let lines: ContentLine[] = parseLines(text).filter(l => l.name !== 'METHOD')
  const first = (): ComponentRange => componentsNamed(lines, 'VEVENT')[0] ?? { begin: 0, end: 0 }
  const [, ...others] = componentsNamed(lines, 'VEVENT')
  for (const at of others.reverse()) lines = [...lines.slice(0, at.begin), ...lines.slice(at.end + 1)]
  for (const at of componentsNamed(lines, 'VALARM').reverse())
    lines = [...lines.slice(0, at.begin), ...lines.slice(at.end + 1)]
  const { begin, end } = first()
  const mine = propertiesOf(lines, first(), 'ATTENDEE').find(i => addressOf(lines[i]?.value) === email)
  lines = lines.flatMap((l, i) => {
    if (i <= begin || i >= end || ECHOED.has(l.name)) return [l]
    return i === mine ? withAnswer(l, answer) : []
  })
  lines = setProperty(lines, first(), 'DTSTAMP', basicUtc(stampMs), '')
  if (comment !== '') lines = setProperty(lines, first(), 'COMMENT', escapeText(comment), '')
  const top = lines.findIndex(l => l.name === 'BEGIN')
  return textOf([...lines.slice(0, top + 1), ...parseLines(fold('METHOD:REPLY')), ...lines.slice(top + 1)])
}
