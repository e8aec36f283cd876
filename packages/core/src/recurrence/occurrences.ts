import ICAL from 'ical.js'
import { isAsDescribed, NotUnderstood, parseCalendar, timesOf } from '../ical/ical-values.ts'
import { masterOf } from '../ical/vevent.ts'
import { readRule } from './read-rule.ts'
import { datesOf } from './recurrence.ts'
import { UnrollBudget } from './unroll-budget.ts'
import { epochOf, isKnownZone, zonedAt } from '../time/when.ts'

/** One occurrence of a series (RFC 5545 §3.8.5). */
export interface Occurrence {
  startMs: number
  endMs: number
  allDay: boolean
  summary: string
  /** Of the occurrence before any override, as in RECURRENCE-ID. */
  recurrenceId: string
}

const DAY = 86_400
/** No clock on a wall is farther from UTC than this. */
const ZONES_APART = 15 * 3600

/** Local seconds since 1970, as the clock on the wall shows them. */
const secondsOf = (t: ICAL.Time): number =>
  Math.floor(new Date(0).setUTCFullYear(t.year, t.month - 1, t.day) / 1000) +
  t.hour * 3600 +
  t.minute * 60 +
  t.second
const isoOf = (seconds: number): string => new Date(seconds * 1000).toISOString().slice(0, 19)

/** How the local times of one event become instants. */
interface Clock {
  allDay: boolean
  utc: boolean
  epochOf: (seconds: number) => number
  /** The local time of this event's clock at a time described by another. */
  localOf: (time: ICAL.Time) => number
}

function clockOf(start: ICAL.Time, tzid: string | undefined, viewer: string): Clock {
  const utc = start.zone === ICAL.Timezone.utcTimezone
  const zone = utc ? 'UTC' : tzid && isKnownZone(tzid) && isAsDescribed(start, tzid) ? tzid : null
  // A zone of the file's own making is asked itself.
  const own = !zone && start.zone && start.zone !== ICAL.Timezone.localTimezone ? start.zone : null
  const epoch = (seconds: number): number => {
    const local = isoOf(seconds)
    if (start.isDate) return epochOf({ kind: 'date', date: local.slice(0, 10) }, viewer)
    if (!own) return epochOf({ kind: 'zoned', local, zone: zone ?? viewer }, viewer)
    const time = ICAL.Time.fromDateTimeString(local)
    time.zone = own
    return time.toJSDate().getTime()
  }
  const localOf = (time: ICAL.Time): number => {
    if (time.isDate || start.isDate || time.zone !== ICAL.Timezone.utcTimezone || utc) return secondsOf(time)
    if (own) return secondsOf(time.convertToZone(own))
    const local = zonedAt(time.toJSDate().getTime(), zone ?? viewer)
    return local.kind === 'zoned' ? Date.parse(`${local.local}Z`) / 1000 : secondsOf(time)
  }
  return { allDay: start.isDate, utc, epochOf: epoch, localOf }
}

/** What one VEVENT says of its occurrence. */
interface Described {
  start: number
  seconds: number
  summary: string
}

function describedBy(component: ICAL.Component, viewer: string): { described: Described; clock: Clock } {
  const start = component.getFirstPropertyValue('dtstart')
  if (!(start instanceof ICAL.Time)) throw new NotUnderstood('Its start is not a date or a time.')
  const tzid = component.getFirstProperty('dtstart')?.getFirstParameter('tzid')
  const clock = clockOf(start, tzid, viewer)
  const event = new ICAL.Event(component)
  return {
    clock,
    described: {
      start: secondsOf(start),
      seconds: Math.max(0, event.duration.toSeconds()),
      summary: event.summary ?? '',
    },
  }
}

interface Override {
  id: number
  described: Described
  clock: Clock
  cancelled: boolean
  /** THISANDFUTURE (RFC 5545 §3.2.13). */
  onward: boolean
}

/**
 * The occurrences of the series in `text` that overlap [fromMs, toMs), overrides, EXDATE and cancelled ones
 * applied. `zone` is the one for dates and floating times. All its rules share one budget. With `first`, no more
 * than so many dates of a rule are looked for. Throws NotUnderstood, and TooOften where the budget does not suffice.
 */
export function occurrencesBetween(
  text: string,
  fromMs: number,
  toMs: number,
  zone: string,
  { budget = new UnrollBudget(), first = Infinity }: { budget?: UnrollBudget; first?: number } = {},
): Occurrence[] {
  const calendar = parseCalendar(text)
  const master = masterOf(calendar)
  const { described: described, clock } = describedBy(master, zone)
  const overrides = calendar
    .getAllSubcomponents('vevent')
    .filter(c => c !== master)
    .flatMap((c): Override[] => {
      const id = c.getFirstPropertyValue('recurrence-id')
      if (!(id instanceof ICAL.Time)) return []
      const cancelled = String(c.getFirstPropertyValue('status') ?? '').toUpperCase() === 'CANCELLED'
      const onward = c.getFirstProperty('recurrence-id')?.getFirstParameter('range') === 'THISANDFUTURE'
      return [{ id: clock.localOf(id), ...describedBy(c, zone), cancelled, onward }]
    })
    .sort((x, y) => x.id - y.id)
  const onward = overrides.filter(o => o.onward)
  const single = new Map(overrides.filter(o => !o.onward).map(o => [o.id, o]))

  const found: Occurrence[] = []
  const add = (
    start: number,
    { seconds, summary }: Omit<Described, 'start'>,
    by: Clock,
    id: number,
  ): void => {
    const [startMs, endMs] = [by.epochOf(start), by.epochOf(start + seconds)]
    if (startMs < toMs && (endMs > fromMs || startMs >= fromMs))
      found.push({ startMs, endMs, allDay: by.allDay, summary, recurrenceId: idOf(id) })
  }
  const idOf = (local: number): string =>
    clock.allDay ? isoOf(local).slice(0, 10) : `${isoOf(local)}${clock.utc ? 'Z' : ''}`

  for (const o of single.values()) if (!o.cancelled) add(o.described.start, o.described, o.clock, o.id)

  // What lasts long, or was put off by an override, may begin well before the span it reaches into.
  const longest = Math.max(described.seconds, ...onward.map(o => o.described.seconds))
  const moved = Math.max(0, ...onward.map(o => Math.abs(o.described.start - o.id)))
  const from = Math.floor(fromMs / 1000) - ZONES_APART - longest - moved
  const to = Math.ceil(toMs / 1000) + ZONES_APART + moved
  const left = timesOf(master, 'exdate')
  const leftDays = new Set(left.filter(t => t.isDate).map(secondsOf))
  const leftOut = new Set(left.map(clock.localOf))
  const rules = master
    .getAllProperties('rrule')
    .map(p => p.getFirstValue() as unknown)
    .filter((r): r is ICAL.Recur => r instanceof ICAL.Recur)
  const dates = new Set([
    ...(described.start >= from && described.start < to ? [described.start] : []),
    ...rules.flatMap(r => datesOf(readRule(r, clock), described.start, from, to, budget, first)),
    ...timesOf(master, 'rdate').map(clock.localOf),
  ])
  for (const date of dates) {
    if (single.has(date) || leftOut.has(date) || leftDays.has(date - (date % DAY))) continue
    const o = onward.findLast(r => r.id <= date)
    if (o?.cancelled) continue
    if (o) add(date + o.described.start - o.id, o.described, clock, date)
    else add(date, described, clock, date)
  }
  return found.sort((x, y) => x.startMs - y.startMs)
}
