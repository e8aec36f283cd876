import {
  type ComponentRange,
  componentsNamed,
  type ContentLine,
  fold,
  parseLines,
  propertiesOf,
  setProperty,
  textOf,
} from '../ical/content-lines.ts'
import { addressOf, organizerLine, withAnswer } from '../ical/guests.ts'
import { basicUtc } from '../ical/ical-values.ts'
import { invitedTo } from '../ical/invited.ts'
import { Guest } from '../items/items.ts'

/** Which guests are to be told what of a meeting, from how they were told it last and how it stands. */

/** What of a meeting its guests are told of, each as one text that is compared. */
export interface Facts {
  /** When it is, and with what exceptions: a change asks them anew. */
  times: string
  /** What it is called, and where: a change is told, and asks nobody anew. */
  words: string
  isCalledOff: boolean
  guests: readonly Guest[]
}
export type Told = Facts & { sequence: number }

export type Why = 'invited' | 'moved' | 'changed' | 'called off' | 'no longer invited'
export interface ToTell {
  method: 'REQUEST' | 'CANCEL'
  why: Why
  to: readonly Guest[]
}

const TIMES = ['DTSTART', 'DTEND', 'DURATION', 'RRULE', 'RDATE', 'EXDATE', 'RECURRENCE-ID']
const WORDS = ['SUMMARY', 'LOCATION', 'URL', 'CONFERENCE']

/** Of a calendar object. Guests that have no mail address, and whoever invites, are told nothing. Throws NotUnderstood. */
export function factsOf(text: string): Facts {
  const lines = parseLines(text)
  const events = componentsNamed(lines, 'VEVENT')
  const told = (names: readonly string[]): string =>
    events
      .map(at => names.flatMap(n => propertiesOf(lines, at, n).map(i => said(lines[i]))).join('\n'))
      .sort()
      .join('\n\n')
  const { organizer, guests } = invitedTo(text)
  const seen = new Set(organizer === null ? [] : [organizer])
  return {
    times: told(TIMES),
    words: told(WORDS),
    isCalledOff: events.some(
      at =>
        propertiesOf(lines, at, 'RECURRENCE-ID').length === 0 &&
        propertiesOf(lines, at, 'STATUS').some(i => /^CANCELLED$/i.test(lines[i]?.value.trim() ?? '')),
    ),
    guests: guests.flatMap(({ name, email }) => {
      if (seen.has(email)) return []
      seen.add(email)
      const guest = Guest.safeParse({ name: name.slice(0, 200), email })
      return guest.success ? [guest.data] : []
    }),
  }
}

const said = (line: ContentLine | undefined): string =>
  line ? `${line.name}${line.params.toUpperCase()}:${line.value.trim()}` : ''

/**
 * @param was how they were told last; null where nobody was
 * @param is how it stands; null where it is gone
 */
export function toTell(was: Told | null, is: Facts | null): { sequence: number; letters: ToTell[] } {
  const before = was === null || was.isCalledOff ? [] : was.guests
  const now = is === null || is.isCalledOff ? [] : is.guests
  const isIn = (all: readonly Guest[], { email }: Guest): boolean => all.some(g => g.email === email)
  const fresh = now.filter(g => !isIn(before, g))
  const gone = before.filter(g => !isIn(now, g))
  const kept = now.filter(g => isIn(before, g))
  const isOff = is === null || is.isCalledOff
  const isMoved =
    was !== null && is !== null && (was.times !== is.times || was.isCalledOff !== is.isCalledOff)
  const isChanged = was !== null && is !== null && was.words !== is.words
  const why = isMoved ? 'moved' : isChanged ? 'changed' : null
  const letters: ToTell[] = [
    { method: 'REQUEST', why: 'invited', to: fresh },
    ...(why === null ? [] : [{ method: 'REQUEST' as const, why, to: kept } as const]),
    { method: 'CANCEL', why: isOff ? 'called off' : 'no longer invited', to: gone },
  ]
  const isNew = was !== null && (isMoved || (isOff && !was.isCalledOff))
  return { sequence: (was?.sequence ?? 0) + (isNew ? 1 : 0), letters: letters.filter(l => l.to.length > 0) }
}

export interface Sent {
  method: 'REQUEST' | 'CANCEL'
  /** Nobody has answered yet for the time that it has now. */
  asksAnew: boolean
  sequence: number
  stampMs: number
  /** Where answers arrive, with the name of whoever invites. */
  organizer: Guest
  /** To whom it goes: who is no longer invited hears of nobody else. */
  to: Guest
}

/**
 * The object as a guest gets it: with METHOD, where to answer, and without what is nobody else's: alarms, and what our
 * own lists keep in it.
 */
export function objectToSend(
  text: string,
  { method, asksAnew, sequence, stampMs, organizer, to }: Sent,
): string {
  let lines = parseLines(text).filter(l => l.name !== 'METHOD')
  if (asksAnew) lines = lines.flatMap(l => (l.name === 'ATTENDEE' ? withAnswer(l, 'none') : [l]))
  // From the last to the first, so that what is cut out of one moves no other.
  for (const alarm of componentsNamed(lines, 'VALARM').reverse())
    lines = [...lines.slice(0, alarm.begin), ...lines.slice(alarm.end + 1)]
  const count = componentsNamed(lines, 'VEVENT').length
  for (let n = count - 1; n >= 0; n--) {
    const at = (): ComponentRange => componentsNamed(lines, 'VEVENT')[n] ?? { begin: 0, end: 0 }
    const set = (name: string, value: string, params?: string): void => {
      lines = setProperty(lines, at(), name, value, params)
    }
    if (method === 'CANCEL') {
      const others = new Set(
        propertiesOf(lines, at(), 'ATTENDEE').filter(
          i => addressOf(lines[i]?.value) !== to.email.toLowerCase(),
        ),
      )
      lines = lines.filter((_, i) => !others.has(i))
      set('STATUS', 'CANCELLED')
    }
    const organizers = new Set(propertiesOf(lines, at(), 'ORGANIZER'))
    lines = lines.filter((_, i) => !organizers.has(i))
    const [line] = parseLines(fold(organizerLine(organizer)))
    if (line) set('ORGANIZER', line.value, line.params)
    set('SEQUENCE', String(sequence), '')
    set('DTSTAMP', basicUtc(stampMs), '')
  }
  const begin = lines.findIndex(l => l.name === 'BEGIN')
  return textOf([
    ...lines.slice(0, begin + 1),
    ...parseLines(fold(`METHOD:${method}`)),
    ...lines.slice(begin + 1),
  ])
}
