import ICAL from 'ical.js'
import type { Event, EventPatch, Span } from '../items/items.ts'
import { DAY_MINUTES, MINUTE, addDays, epochOf, isKnownZone, type When, zonedAt } from '../time/when.ts'
import {
  type ComponentRange,
  type ContentLine,
  componentsNamed,
  escapeText,
  fold,
  parseLines,
  propertiesOf,
  setProperty,
  textOf,
} from './content-lines.ts'
import { vtimezone } from './vtimezone.ts'

/** Reads and edits a calendar object resource (RFC 4791 §4.1) that holds one event or one series. */

/** Text that is not an event we can read; the message is a sentence for people. */
export class NotUnderstood extends Error {}

const MAX_TEXT = 1_000_000

export function parseCalendar(text: string): ICAL.Component {
  if (text.length > MAX_TEXT) throw new NotUnderstood('It is larger than 1 MB.')
  try {
    const parsed = new ICAL.Component(ICAL.parse(text))
    if (parsed.name !== 'vcalendar') throw new NotUnderstood('It is not an iCalendar object.')
    return parsed
  } catch (error) {
    if (error instanceof NotUnderstood) throw error
    throw new NotUnderstood(`It is not readable as iCalendar: ${error instanceof Error ? error.message : ''}`)
  }
}

/** The series' master, or the only event: the VEVENT without a RECURRENCE-ID. */
export function masterOf(calendar: ICAL.Component): ICAL.Component {
  const events = calendar.getAllSubcomponents('vevent')
  const master = events.find(e => !e.hasProperty('recurrence-id')) ?? events[0]
  if (master) return master
  const other = calendar.getAllSubcomponents().find(c => c.name !== 'vtimezone')
  throw new NotUnderstood(
    other?.name === 'vtodo' ? 'It is a task inside a calendar, which is not read yet.' : 'It holds no event.',
  )
}

function whenOf(prop: ICAL.Property): When {
  const time = prop.getFirstValue()
  if (!(time instanceof ICAL.Time)) throw new NotUnderstood('Its start is not a date or a time.')
  const iso = time.toString().replace(/Z$/, '')
  if (!/^\d{4}-\d\d-\d\d/.test(iso)) throw new NotUnderstood('Its start is not a date or a time.')
  if (time.isDate) return { kind: 'date', date: iso.slice(0, 10) }
  if (time.zone === ICAL.Timezone.utcTimezone) return { kind: 'zoned', local: iso, zone: 'UTC' }
  const tzid = prop.getFirstParameter('tzid')
  if (!tzid) return { kind: 'floating', local: iso }
  if (isKnownZone(tzid)) return { kind: 'zoned', local: iso, zone: tzid }
  if (time.zone === ICAL.Timezone.localTimezone)
    throw new NotUnderstood(`Its time zone, ${tzid}, is not known and not described in the event.`)
  // A zone of the file's own making: only its instants can be told to others.
  const utc = new Date(time.toJSDate()).toISOString().slice(0, 19)
  return { kind: 'zoned', local: utc, zone: 'UTC' }
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
  } else if (duration instanceof ICAL.Duration) minutes = duration.toSeconds() / 60
  if (minutes < 0) throw new NotUnderstood('It ends before it starts.')
  return { anchor, minutes }
}

const stringOf = (c: ICAL.Component, name: string): string => String(c.getFirstPropertyValue(name) ?? '')

function instantOf(c: ICAL.Component, name: string): string | null {
  const time = c.getFirstPropertyValue(name)
  return time instanceof ICAL.Time ? time.toJSDate().toISOString() : null
}

function oneOf<T extends string>(value: string, known: readonly T[], otherwise: T): T {
  return known.find(k => k === value.toLowerCase()) ?? otherwise
}

/** Throws NotUnderstood with the reason. */
export function parseEvent(text: string): Event {
  const calendar = parseCalendar(text)
  const master = masterOf(calendar)
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
    class: oneOf(stringOf(master, 'class'), ['public', 'private', 'confidential'], 'public'),
    time: spanOf(master),
    categories: master.getAllProperties('categories').flatMap(p => p.getValues().map(String)),
    attendees: master.getAllProperties('attendee').length,
    recurring:
      ['rrule', 'rdate', 'recurrence-id'].some(name => master.hasProperty(name)) ||
      calendar.getAllSubcomponents('vevent').length > 1,
    url: stringOf(master, 'url') || null,
    created: instantOf(master, 'created'),
    lastModified: instantOf(master, 'last-modified') ?? instantOf(master, 'dtstamp'),
  }
}

const basicUtc = (epochMs: number): string =>
  new Date(epochMs)
    .toISOString()
    .replace(/[-:]/g, '')
    .replace(/\.\d+Z$/, 'Z')

/** Parameters and value of DTSTART or DTEND. */
function dateProperty(when: When): { params: string; value: string } {
  if (when.kind === 'date') return { params: ';VALUE=DATE', value: when.date.replace(/-/g, '') }
  const value = when.local.replace(/[-:]/g, '')
  if (when.kind === 'floating') return { params: '', value }
  return when.zone === 'UTC' ? { params: '', value: `${value}Z` } : { params: `;TZID=${when.zone}`, value }
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

function hasZone(lines: readonly ContentLine[], tzid: string): boolean {
  return componentsNamed(lines, 'VTIMEZONE').some(range =>
    propertiesOf(lines, range, 'TZID').some(i => lines[i]?.value === tzid),
  )
}

function masterRange(lines: readonly ContentLine[]): ComponentRange {
  const events = componentsNamed(lines, 'VEVENT')
  const master = events.find(e => propertiesOf(lines, e, 'RECURRENCE-ID').length === 0) ?? events[0]
  if (!master) throw new NotUnderstood('It holds no event.')
  return master
}

/** RFC 5545 §3.8.6.3: an alarm with an absolute time does not follow its event by itself. */
function moveAbsoluteAlarms(lines: ContentLine[], byMs: number): ContentLine[] {
  return lines.map(line => {
    const m = /^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)Z$/.exec(line.value)
    if (line.name !== 'TRIGGER' || !m) return line
    const [, y, mo, d, h, mi, s] = m
    const value = basicUtc(Date.parse(`${y}-${mo}-${d}T${h}:${mi}:${s}Z`) + byMs)
    const end = line.raw.endsWith('\r\n') ? '\r\n' : '\n'
    return { ...line, value, raw: fold(`TRIGGER${line.params}:${value}`, end) }
  })
}

/** `text` with `patch` written into its event and every other byte kept. `now` in epoch milliseconds. */
export function patchEvent(text: string, patch: EventPatch, now: number): string {
  let lines = parseLines(text)
  const set = (name: string, value: string | null, params?: string): void => {
    lines = setProperty(lines, masterRange(lines), name, value, params)
  }
  const has = (name: string): boolean => propertiesOf(lines, masterRange(lines), name).length > 0
  if (patch.summary !== undefined) set('SUMMARY', escapeText(patch.summary))
  if (patch.description !== undefined) set('DESCRIPTION', escapeText(patch.description))
  if (patch.transparency !== undefined) set('TRANSP', patch.transparency.toUpperCase())
  if (patch.time) {
    const before = spanOf(masterOf(parseCalendar(text))).anchor
    const { anchor, minutes } = patch.time
    const start = dateProperty(anchor)
    set('DTSTART', start.value, start.params)
    const end = endOf(patch.time)
    // An end inside the hour that the clocks repeat cannot be told by the wall; its length can.
    const told = epochOf(end, 'UTC') - epochOf(anchor, 'UTC') === minutes * MINUTE
    if (anchor.kind !== 'date' && (has('DURATION') || !told)) {
      set('DTEND', null)
      set('DURATION', `PT${minutes}M`)
    } else {
      set('DURATION', null)
      const { value, params } = dateProperty(end)
      set('DTEND', value, params)
    }
    const sequence = propertiesOf(lines, masterRange(lines), 'SEQUENCE')[0]
    if (sequence !== undefined) set('SEQUENCE', String((Number(lines[sequence]?.value) || 0) + 1))
    const moved = epochOf(anchor, 'UTC') - epochOf(before, 'UTC')
    lines = moveAbsoluteAlarms(lines, moved)
    if (anchor.kind === 'zoned' && anchor.zone !== 'UTC' && !hasZone(lines, anchor.zone)) {
      const at = componentsNamed(lines, 'VEVENT')[0]?.begin ?? lines.length
      lines.splice(at, 0, ...parseLines(vtimezone(anchor.zone, epochOf(anchor, 'UTC'))))
    }
  }
  set('DTSTAMP', basicUtc(now), '')
  if (has('LAST-MODIFIED')) set('LAST-MODIFIED', basicUtc(now), '')
  return textOf(lines)
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
  const { summary, description, transparency, time } = event
  return patchEvent(
    shell.map(l => fold(l)).join(''),
    { summary, ...(description ? { description } : {}), transparency, time },
    now,
  )
}
