import { escapeText, fold } from '../ical/content-lines.ts'
import { basicUtc, dateProperty } from '../ical/ical-values.ts'
import { vtimezone } from '../ical/vtimezone.ts'
import { exactDuration } from '../time/duration.ts'
import { addDays, epochOf, MINUTE, onDate, type When, zonedAt } from '../time/when.ts'
import { merged } from './busy-time.ts'
import type { ClothItem } from './cloth-item.ts'

/**
 * Items as somebody sees them, told to calendar programs: one iCalendar object (RFC 5545, RFC 7986) that is read
 * again and again. Each date of a series stands by itself, as it does on the Cloth.
 */

export const TASKS_AS = ['events', 'to-dos'] as const
export type TasksAs = (typeof TASKS_AS)[number]

export interface Publication {
  name: string
  /** In which hours are told. */
  zone: string
  /** When what is told was so, epoch ms: the same as long as the same is told. */
  stampMs: number
  /** How often it is worth asking again, minutes. */
  refresh: number
  /** Each has its own, always the same, that says nothing about where it comes from. */
  uidOf: (key: string) => string
  nameOf: (member: string) => string
}

/** Before the title of what is done, where a task is told as an event. */
export const DONE_MARK = '✓'

type Lines = string[]
const text = (name: string, value: string): Lines => (value === '' ? [] : [`${name}:${escapeText(value)}`])

const YEAR = 366 * 1440 * MINUTE
/** The zone is described from a year before what is told: for something very old it would not reach to today. */
const zoneFrom = ({ stampMs }: Publication): number => stampMs - YEAR
const YEARS_DESCRIBED = 30

function calendar(p: Publication, inner: Lines, hasHours: boolean): string {
  const { name, refresh, zone } = p
  const zoneLines = hasHours && zone !== 'UTC' ? [vtimezone(zone, zoneFrom(p)).trimEnd()] : []
  const head = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Amber Loom//EN',
    'CALSCALE:GREGORIAN',
    ...text('NAME', name),
    // Read by programs that know no NAME (RFC 7986 §5.1) yet.
    ...text('X-WR-CALNAME', name),
    `REFRESH-INTERVAL;VALUE=DURATION:${exactDuration(refresh)}`,
  ]
  const folded = (lines: Lines): string => lines.map(l => fold(l)).join('')
  const zones = zoneLines.map(z => `${z}\r\n`).join('')
  return `${folded(head)}${zones}${folded([...inner, 'END:VCALENDAR'])}`
}

const DAY = 1440 * MINUTE
/** `10:00:00`; all that is compared is told in one zone. */
const clockOf = (ms: number, zone: string): string => {
  const when = zonedAt(ms, zone)
  return when.kind === 'date' ? '' : when.local.slice(11)
}
/**
 * By UTC whatever is within a day of a change of the clocks, as the wall says some of it twice, and some programs take
 * the whole day for one; and what is so far from now that the zone is not described for it.
 */
function hourIn(p: Publication, ms: number): When {
  const { zone } = p
  const isNear = ms >= zoneFrom(p) && ms <= zoneFrom(p) + YEARS_DESCRIBED * YEAR
  const isSteady = [ms - DAY, ms + DAY].every(other => clockOf(other, zone) === clockOf(ms, zone))
  return zonedAt(ms, isNear && isSteady ? zone : 'UTC')
}
const dated = (name: string, when: When): string => {
  const { params, value } = dateProperty(when)
  return `${name}${params}:${value}`
}

function timeLines({ place }: ClothItem, p: Publication): Lines {
  switch (place.kind) {
    case 'timed': {
      const start = dated('DTSTART', hourIn(p, place.startMs))
      // What has no length ends as it starts (RFC 5545 §3.6.1).
      return place.endMs > place.startMs ? [start, dated('DTEND', hourIn(p, place.endMs))] : [start]
    }
    case 'all-day': {
      const to = place.to > place.from ? place.to : addDays(place.from, 1)
      return [dated('DTSTART', onDate(place.from)), dated('DTEND', onDate(to))]
    }
    case 'day':
      return [dated('DTSTART', onDate(place.date)), dated('DTEND', onDate(addDays(place.date, 1)))]
    case 'none':
      return []
  }
}

const PLANNED_LINE = (t: { title: string; done: boolean }): string => `${t.done ? DONE_MARK : '–'} ${t.title}`

function words(item: ClothItem, { nameOf }: Publication): Lines {
  const people = item.onlyBusy ? '' : item.people.map(nameOf).filter(Boolean).join(', ')
  const about = [people, ...item.batch.map(PLANNED_LINE), item.notes].filter(Boolean).join('\n')
  return [
    ...text('LOCATION', item.location),
    ...text('DESCRIPTION', about),
    ...(item.categories.length > 0 ? [`CATEGORIES:${item.categories.map(escapeText).join(',')}`] : []),
    ...(item.priority > 0 ? [`PRIORITY:${item.priority}`] : []),
  ]
}

function eventOf(item: ClothItem, p: Publication): Lines {
  const isDone = item.done && item.kind !== 'event'
  const status = item.cancelled ? 'CANCELLED' : 'CONFIRMED'
  // What is planned for a day without an hour takes no time of it.
  const isFree = !item.busy || item.done || item.cancelled || item.place.kind === 'day' || item.atDeadline
  return [
    'BEGIN:VEVENT',
    `UID:${p.uidOf(item.key)}`,
    `DTSTAMP:${basicUtc(p.stampMs)}`,
    ...timeLines(item, p),
    ...text('SUMMARY', isDone ? `${DONE_MARK} ${item.title}` : item.title),
    `STATUS:${status}`,
    `TRANSP:${isFree ? 'TRANSPARENT' : 'OPAQUE'}`,
    ...words(item, p),
    'END:VEVENT',
  ]
}

/** Its plan and its deadline: both of one kind, and in their order, as RFC 5545 §3.8.2.3 has it. */
function todoTimes({ place, due, dueAt, atDeadline }: ClothItem, p: Publication): Lines {
  const end = dueAt !== null ? hourIn(p, dueAt) : due !== null ? onDate(due) : null
  const at =
    atDeadline || place.kind === 'none'
      ? null
      : place.kind === 'timed'
        ? hourIn(p, place.startMs)
        : onDate(place.kind === 'day' ? place.date : place.from)
  const minutes = place.kind === 'timed' ? (place.endMs - place.startMs) / MINUTE : 0
  if (!at) return end ? [dated('DUE', end)] : []
  if (!end)
    return minutes > 0 ? [dated('DTSTART', at), `DURATION:${exactDuration(minutes)}`] : [dated('DTSTART', at)]
  const start = end.kind === 'date' && place.kind === 'timed' ? onDate(dayOf(at)) : at
  const until = start.kind !== 'date' && end.kind === 'date' ? at : end
  const isInOrder = start.kind === until.kind && epochOf(start, p.zone) < epochOf(until, p.zone)
  return isInOrder ? [dated('DTSTART', start), dated('DUE', until)] : [dated('DUE', end)]
}
const dayOf = (when: When): string => (when.kind === 'date' ? when.date : when.local.slice(0, 10))

function todoOf(item: ClothItem, p: Publication): Lines {
  const status = item.cancelled ? 'CANCELLED' : item.done ? 'COMPLETED' : 'NEEDS-ACTION'
  return [
    'BEGIN:VTODO',
    `UID:${p.uidOf(item.key)}`,
    `DTSTAMP:${basicUtc(p.stampMs)}`,
    ...todoTimes(item, p),
    ...text('SUMMARY', item.title),
    `STATUS:${status}`,
    ...(status === 'COMPLETED' ? ['PERCENT-COMPLETE:100'] : []),
    ...words(item, p),
    'END:VTODO',
  ]
}

const isTask = ({ kind }: ClothItem): boolean => kind === 'task' || kind === 'tied'

/** What has neither a time nor a deadline is told only as a to-do. */
export function publishedCalendar(items: readonly ClothItem[], tasks: TasksAs, p: Publication): string {
  const asTodo = (i: ClothItem): boolean => isTask(i) && tasks === 'to-dos' && !i.onlyBusy
  const told = items.filter(i => asTodo(i) || i.place.kind !== 'none')
  const hasHours = told.some(i => i.place.kind === 'timed' || i.dueAt !== null)
  const inner = told.flatMap(i => (asTodo(i) ? todoOf(i, p) : eventOf(i, p)))
  return calendar(p, inner, hasHours)
}

const QUARTER = 15 * MINUTE

/**
 * Only when time is taken, in quarters of an hour: VFREEBUSY (RFC 5545 §3.6.4).
 * @param within epoch ms
 */
export function publishedBusy(
  items: readonly ClothItem[],
  within: { startMs: number; endMs: number },
  p: Publication,
): string {
  const midnight = (date: string): number => epochOf(onDate(date), p.zone)
  const spans = items.flatMap(({ place, busy, done, cancelled, atDeadline }) => {
    if (!busy || done || cancelled || atDeadline) return []
    if (place.kind === 'timed') return [place]
    if (place.kind !== 'all-day') return []
    const to = place.to > place.from ? place.to : addDays(place.from, 1)
    return [{ startMs: midnight(place.from), endMs: midnight(to) }]
  })
  const quarters = spans.map(s => ({
    startMs: Math.floor(s.startMs / QUARTER) * QUARTER,
    endMs: Math.ceil(s.endMs / QUARTER) * QUARTER,
  }))
  const inner = [
    'BEGIN:VFREEBUSY',
    `UID:${p.uidOf('free-busy')}`,
    `DTSTAMP:${basicUtc(p.stampMs)}`,
    `DTSTART:${basicUtc(within.startMs)}`,
    `DTEND:${basicUtc(within.endMs)}`,
    ...merged(quarters, within).map(s => `FREEBUSY;FBTYPE=BUSY:${basicUtc(s.startMs)}/${basicUtc(s.endMs)}`),
    'END:VFREEBUSY',
  ]
  return calendar(p, inner, false)
}
