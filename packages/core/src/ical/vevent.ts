import ICAL from 'ical.js'
import { type Event, type EventPatch, MOST_KNOWN_GUESTS, type Span } from '../items/items.ts'
import { safeLink } from '../items/link.ts'
import { exactDuration } from '../time/duration.ts'
import { addDays, DAY_MINUTES, epochOf, MINUTE, type When, zonedAt } from '../time/when.ts'
import {
  type ComponentRange,
  type ContentLine,
  componentsNamed,
  escapeText,
  fold,
  parseLines,
  propertiesOf,
  setCategories,
  setProperty,
  textOf,
} from './content-lines.ts'
import { addressOf, answerOf, withGuests } from './guests.ts'
import {
  basicUtc,
  dateProperty,
  instantOf,
  NotUnderstood,
  oneOf,
  parseCalendar,
  stringOf,
  whenOf,
  withZone,
} from './ical-values.ts'

/** Reads and edits a calendar object resource (RFC 4791 §4.1) that holds one event or one series. */

/** The series' master, or the only event: the VEVENT without a RECURRENCE-ID. */
export function masterOf(calendar: ICAL.Component): ICAL.Component {
  const events = calendar.getAllSubcomponents('vevent')
  const master = events.find(e => !e.hasProperty('recurrence-id')) ?? events[0]
  if (master) return master
  throw new NotUnderstood('It holds no event.')
}

function spanOf(master: ICAL.Component): Span {
  const dtstart = master.getFirstProperty('dtstart')
  if (!dtstart) throw new NotUnderstood('It has no start.')
  const anchor = whenOf(dtstart)
  const duration = master.getFirstPropertyValue('duration')
  const dtend = master.getFirstProperty('dtend')
  let minutes = anchor.kind === 'date' ? DAY_MINUTES : 0
  if (dtend) {
    const end = whenOf(dtend)
    // Floating ends are compared with floating starts, so the zone does not matter.
    minutes = (epochOf(end, 'UTC') - epochOf(anchor, 'UTC')) / MINUTE
    // A start that the clocks skip is read later than it says; the end is as far from it as it says.
    if (minutes < 0) minutes = wallMinutes(anchor, end) ?? minutes
  } else if (duration instanceof ICAL.Duration) minutes = minutesFrom(anchor, duration)
  if (minutes < 0) throw new NotUnderstood('It ends before it starts.')
  return { anchor, minutes }
}

/** As the clock on the wall tells it, where both are told by one clock. */
function wallMinutes(from: When, to: When): number | null {
  if (from.kind === 'date' || to.kind === 'date' || from.kind !== to.kind) return null
  if (from.kind === 'zoned' && to.kind === 'zoned' && from.zone !== to.zone) return null
  return (Date.parse(`${to.local}Z`) - Date.parse(`${from.local}Z`)) / MINUTE
}

/** Days and weeks go by the calendar, hours by the clock (RFC 5545 §3.3.6). */
function minutesFrom(anchor: When, duration: ICAL.Duration): number {
  const { weeks, days, hours, minutes, seconds, isNegative } = duration
  if (isNegative) return duration.toSeconds() / 60
  const nominal = weeks * 7 + days
  const exact = hours * 60 + minutes + seconds / 60
  // What is longer than a century is refused by its number, whatever the clocks do.
  if (anchor.kind === 'date' || nominal > 36_525) return nominal * DAY_MINUTES + exact
  const later = { ...anchor, local: addDays(anchor.local.slice(0, 10), nominal) + anchor.local.slice(10) }
  return (epochOf(later, 'UTC') - epochOf(anchor, 'UTC')) / MINUTE + exact
}

const priorityOf = (text: string): number => (/^[0-9]$/.test(text) ? Number(text) : 0)

/** Throws NotUnderstood with the reason. */
export function parseEvent(text: string, calendar = parseCalendar(text)): Event {
  const recurring = calendar.getAllSubcomponents('vevent').length > 1
  const event = eventIn(masterOf(calendar))
  return { ...event, recurring: event.recurring || recurring }
}

/** What one VEVENT says. Throws NotUnderstood with the reason. */
export function eventIn(master: ICAL.Component): Event {
  const uid = stringOf(master, 'uid')
  if (!uid) throw new NotUnderstood('It has no UID.')
  return {
    kind: 'event',
    uid,
    summary: stringOf(master, 'summary'),
    description: stringOf(master, 'description'),
    location: stringOf(master, 'location'),
    status: oneOf(stringOf(master, 'status'), ['tentative', 'confirmed', 'cancelled'], 'confirmed'),
    transparency: oneOf(stringOf(master, 'transp'), ['opaque', 'transparent'], 'opaque'),
    // A word that is not known counts as PRIVATE (RFC 5545 §3.8.1.3).
    class: oneOf(stringOf(master, 'class') || 'public', ['public', 'private', 'confidential'], 'private'),
    time: spanOf(master),
    priority: priorityOf(stringOf(master, 'priority')),
    categories: master.getAllProperties('categories').flatMap(p => p.getValues().map(String)),
    attendees: master.getAllProperties('attendee').length,
    ...inviteesOf(master),
    recurring: ['rrule', 'rdate', 'recurrence-id'].some(name => master.hasProperty(name)),
    url: safeLink(stringOf(master, 'url')),
    created: instantOf(master, 'created'),
    lastModified: instantOf(master, 'last-modified') ?? instantOf(master, 'dtstamp'),
  }
}

function inviteesOf(master: ICAL.Component): Pick<Event, 'invited'> {
  const guests = master.getAllProperties('attendee').slice(0, MOST_KNOWN_GUESTS)
  if (guests.length === 0) return {}
  const by = master.getFirstPropertyValue('organizer')
  return {
    invited: {
      by: by === null ? null : addressOf(by).slice(0, 320),
      guests: guests.map(p => ({
        email: addressOf(p.getFirstValue()).slice(0, 320),
        answer: answerOf(p.getParameter('partstat')),
      })),
    },
  }
}

/** The end of a span, told in its anchor's terms. All-day ends are exclusive (RFC 5545 §3.6.1). */
export function endOf({ anchor, minutes }: Span): When {
  if (anchor.kind === 'date') {
    return { kind: 'date', date: addDays(anchor.date, Math.max(1, Math.round(minutes / DAY_MINUTES))) }
  }
  const zone = anchor.kind === 'zoned' ? anchor.zone : 'UTC'
  const end = zonedAt(epochOf(anchor, zone) + minutes * MINUTE, zone)
  return anchor.kind === 'floating' && end.kind === 'zoned' ? { kind: 'floating', local: end.local } : end
}

function masterRange(lines: readonly ContentLine[]): ComponentRange {
  const events = componentsNamed(lines, 'VEVENT')
  const master = events.find(e => propertiesOf(lines, e, 'RECURRENCE-ID').length === 0) ?? events[0]
  if (!master) throw new NotUnderstood('It holds no event.')
  return master
}

/** RFC 5545 §3.8.6.3: an alarm with an absolute time does not follow its event by itself. */
function moveAbsoluteAlarms(lines: ContentLine[], of: ComponentRange, byMs: number): ContentLine[] {
  return lines.map((line, at) => {
    if (at < of.begin || at > of.end) return line
    const m = /^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)Z$/.exec(line.value)
    if (line.name !== 'TRIGGER' || !m) return line
    const [, y, mo, d, h, mi, s] = m
    const value = basicUtc(Date.parse(`${y}-${mo}-${d}T${h}:${mi}:${s}Z`) + byMs)
    const end = line.raw.endsWith('\r\n') ? '\r\n' : '\n'
    return { ...line, value, raw: fold(`TRIGGER${line.params}:${value}`, end) }
  })
}

/** `text` with `patch` written into its event and every other byte kept. `now` in epoch milliseconds. */
export const patchEvent = (text: string, patch: EventPatch, now: number): string =>
  textOf(patchComponent(parseLines(text), masterRange, patch, now))

/** The same for the VEVENT that `rangeOf` finds; it is asked again after each change. */
export function patchComponent(
  given: ContentLine[],
  rangeOf: (lines: readonly ContentLine[]) => ComponentRange,
  patch: EventPatch,
  now: number,
): ContentLine[] {
  let lines = given
  const set = (name: string, value: string | null, params?: string): void => {
    lines = setProperty(lines, rangeOf(lines), name, value, params)
  }
  const has = (name: string): boolean => propertiesOf(lines, rangeOf(lines), name).length > 0
  if (patch.summary !== undefined) set('SUMMARY', escapeText(patch.summary))
  if (patch.description !== undefined) set('DESCRIPTION', escapeText(patch.description))
  if (patch.transparency !== undefined) set('TRANSP', patch.transparency.toUpperCase())
  if (patch.location !== undefined) set('LOCATION', patch.location ? escapeText(patch.location) : null)
  if (patch.priority !== undefined) set('PRIORITY', patch.priority ? String(patch.priority) : null)
  if (patch.eventStatus !== undefined) set('STATUS', patch.eventStatus.toUpperCase())
  if (patch.class !== undefined) set('CLASS', patch.class.toUpperCase())
  if (patch.url !== undefined) set('URL', patch.url)
  if (patch.guests) lines = withGuests(lines, rangeOf(lines), patch.guests)
  if (patch.categories !== undefined) lines = setCategories(lines, rangeOf(lines), patch.categories)
  if (patch.time) {
    const before = anchorIn(lines, rangeOf(lines))
    const { anchor, minutes } = patch.time
    const start = dateProperty(anchor)
    set('DTSTART', start.value, start.params)
    const end = endOf(patch.time)
    // An end inside the hour that the clocks repeat cannot be told by the wall; its length can.
    const endFits = epochOf(end, 'UTC') - epochOf(anchor, 'UTC') === minutes * MINUTE
    if (anchor.kind !== 'date' && (has('DURATION') || !endFits)) {
      set('DTEND', null)
      set('DURATION', exactDuration(minutes))
    } else {
      set('DURATION', null)
      const { value, params } = dateProperty(end)
      set('DTEND', value, params)
    }
    const sequence = propertiesOf(lines, rangeOf(lines), 'SEQUENCE')[0]
    if (sequence !== undefined) set('SEQUENCE', String((Number(lines[sequence]?.value) || 0) + 1))
    const moved = before === null ? 0 : epochOf(anchor, 'UTC') - epochOf(before, 'UTC')
    lines = moveAbsoluteAlarms(lines, rangeOf(lines), moved)
    // A zone that the object already names is described in it, or known to its server.
    if (anchor.kind !== 'zoned' || !given.some(l => l.params.includes(`TZID=${anchor.zone}`)))
      lines = withZone(lines, anchor)
  }
  set('DTSTAMP', basicUtc(now), '')
  if (has('LAST-MODIFIED')) set('LAST-MODIFIED', basicUtc(now), '')
  return lines
}

/** When the event in these lines starts; null where it does not say. */
function anchorIn(lines: readonly ContentLine[], range: ComponentRange): When | null {
  const calendar = parseCalendar(textOf(lines))
  const at = componentsNamed(lines, 'VEVENT').findIndex(r => r.begin === range.begin)
  const dtstart = calendar.getAllSubcomponents('vevent')[at]?.getFirstProperty('dtstart')
  return dtstart ? whenOf(dtstart) : null
}

/** A new calendar object resource for `event`. */
export function composeEvent(event: Event, now: number): string {
  const stamp = basicUtc(now)
  const shell = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Amber Loom//EN',
    'BEGIN:VEVENT',
    `UID:${event.uid}`,
    `DTSTAMP:${stamp}`,
    `CREATED:${stamp}`,
    `LAST-MODIFIED:${stamp}`,
    'DTSTART:19700101T000000Z',
    'END:VEVENT',
    'END:VCALENDAR',
  ]
  const { summary, description, transparency, time, location, priority, categories, url } = event
  const text = patchEvent(
    shell.map(l => fold(l)).join(''),
    {
      summary,
      ...(description && { description }),
      ...(location && { location }),
      ...(event.class !== 'public' && { class: event.class }),
      ...(priority && { priority }),
      ...(categories.length > 0 && { categories }),
      ...(url && { url }),
      transparency,
      time,
    },
    now,
  )
  return event.status === 'confirmed' ? text : patchEvent(text, { eventStatus: event.status }, now)
}
