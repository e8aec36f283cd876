import ICAL from 'ical.js'
import { NotUnderstood, parseCalendar } from '../ical/ical-values.ts'
import { masterOf } from '../ical/vevent.ts'
import { type Clock, clockOf, nameIn, secondsOf } from './series-clock.ts'
import { readRule } from './read-rule.ts'
import { datesOf } from './recurrence.ts'
import { UnrollBudget } from './unroll-budget.ts'

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
/** A day by the calendar may be longer than another by this. */
const CLOCKS_CHANGE = 2 * 3600
/** No clock on a wall is farther from UTC than this. */
const ZONES_APART = 15 * 3600

/** How long something lasts (RFC 5545 §3.3.6, §3.8.5.3): so many days by the calendar, then seconds by the clock. */
interface Length {
  days: number
  seconds: number
}

/** What one VEVENT says of its occurrence. */
interface Described {
  start: number
  length: Length
  summary: string
}

const nominal = ({ weeks, days, hours, minutes, seconds, isNegative }: ICAL.Duration): Length =>
  isNegative
    ? { days: 0, seconds: 0 }
    : { days: weeks * 7 + days, seconds: hours * 3600 + minutes * 60 + seconds }

/** An end names an exact length for all dates of a series, a duration a nominal one. Never before the start. */
function lengthOf(component: ICAL.Component, start: ICAL.Time, clock: Clock): Length {
  const duration = component.getFirstPropertyValue('duration')
  if (duration instanceof ICAL.Duration) return nominal(duration)
  const end = component.getFirstPropertyValue('dtend')
  if (!(end instanceof ICAL.Time)) return { days: start.isDate ? 1 : 0, seconds: 0 }
  const endTzid = component.getFirstProperty('dtend')?.getFirstParameter('tzid')
  const [from, to] = [secondsOf(start), clock.localOf(end, endTzid)]
  if (start.isDate) return { days: Math.max(0, Math.round((to - from) / DAY)), seconds: 0 }
  const exact = (clock.epochOf(to) - clock.epochOf(from)) / 1000
  // Where the clocks skip the start, the end is as far from it as the wall says.
  return { days: 0, seconds: Math.max(0, exact < 0 ? to - from : exact) }
}

function describedBy(component: ICAL.Component, viewer: string): { described: Described; clock: Clock } {
  const start = component.getFirstPropertyValue('dtstart')
  if (!(start instanceof ICAL.Time)) throw new NotUnderstood('Its start is not a date or a time.')
  const tzid = component.getFirstProperty('dtstart')?.getFirstParameter('tzid')
  const clock = clockOf(start, tzid, viewer)
  const summary = component.getFirstPropertyValue('summary')
  return {
    clock,
    described: {
      start: secondsOf(start),
      length: lengthOf(component, start, clock),
      summary: typeof summary === 'string' ? summary : '',
    },
  }
}

/** What rules may say that is not worked out here: dates left out by a rule, other calendars, days put elsewhere. */
function mustBeGregorian(master: ICAL.Component): void {
  if (master.hasProperty('exrule')) throw new NotUnderstood('It leaves out dates by a rule (EXRULE).')
  for (const p of master.getAllProperties('rrule')) {
    const said = p.toICALString().replace(/\r?\n[ \t]/g, '')
    const scale = /[;:]RSCALE=([^;\s]+)/i.exec(said)?.[1] ?? 'GREGORIAN'
    if (scale.toUpperCase() !== 'GREGORIAN')
      throw new NotUnderstood(`It repeats by another calendar (RSCALE=${scale.slice(0, 30)}).`)
    const skip = /[;:]SKIP=([^;\s]+)/i.exec(said)?.[1] ?? 'OMIT'
    if (skip.toUpperCase() !== 'OMIT')
      throw new NotUnderstood(`It puts days that do not exist on others (SKIP=${skip.slice(0, 30)}).`)
  }
}

interface Listed {
  time: ICAL.Time
  tzid: string | undefined
  /** Of a date that comes with its length (RFC 5545 §3.3.9). */
  period: ICAL.Period | null
}

/** The dates that a series lists, in whatever zone each line tells them. */
function listedIn(master: ICAL.Component, name: 'exdate' | 'rdate'): Listed[] {
  return master.getAllProperties(name).flatMap(p => {
    const tzid = p.getFirstParameter('tzid')
    return p.getValues().flatMap((value: unknown): Listed[] => {
      const period = value instanceof ICAL.Period ? value : null
      const time = period ? period.start : value
      return time instanceof ICAL.Time ? [{ time, tzid, period }] : []
    })
  })
}

function periodLength(period: ICAL.Period, clock: Clock): Length {
  if (period.duration) return nominal(period.duration)
  const seconds =
    (clock.epochOf(clock.localOf(period.getEnd())) - clock.epochOf(clock.localOf(period.start))) / 1000
  return { days: 0, seconds: Math.max(0, seconds) }
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
      const tzid = c.getFirstProperty('recurrence-id')?.getFirstParameter('tzid')
      return [{ id: clock.localOf(id, tzid), ...describedBy(c, zone), cancelled, onward }]
    })
    .sort((x, y) => x.id - y.id)
  const onward = overrides.filter(o => o.onward)
  const single = new Map(overrides.filter(o => !o.onward).map(o => [o.id, o]))

  const found: Occurrence[] = []
  const add = (start: number, { length, summary }: Omit<Described, 'start'>, by: Clock, id: number): void => {
    const startMs = by.epochOf(start)
    const endMs = Math.max(startMs, by.epochOf(start + length.days * DAY) + length.seconds * 1000)
    if (startMs < toMs && (endMs > fromMs || startMs >= fromMs))
      found.push({ startMs, endMs, allDay: by.allDay, summary, recurrenceId: nameIn(clock, id) })
  }
  for (const o of single.values()) if (!o.cancelled) add(o.described.start, o.described, o.clock, o.id)

  // What lasts long, or was put off by an override, may begin well before the span it reaches into.
  const secondsIn = ({ days, seconds }: Length): number =>
    days * DAY + seconds + (days > 0 ? CLOCKS_CHANGE : 0)
  const longest = Math.max(...[described, ...onward.map(o => o.described)].map(d => secondsIn(d.length)))
  const moved = Math.max(0, ...onward.map(o => Math.abs(o.described.start - o.id)))
  const from = Math.floor(fromMs / 1000) - ZONES_APART - longest - moved
  const to = Math.ceil(toMs / 1000) + ZONES_APART + moved
  const left = listedIn(master, 'exdate')
  const leftDays = new Set(left.filter(t => t.time.isDate).map(t => secondsOf(t.time)))
  const leftOut = new Set(left.map(t => clock.localOf(t.time, t.tzid)))
  const added = listedIn(master, 'rdate').map(t => ({ at: clock.localOf(t.time, t.tzid), ...t }))
  /** Added dates with a length of their own. */
  const lengths = new Map(added.flatMap(t => (t.period ? [[t.at, periodLength(t.period, clock)]] : [])))
  mustBeGregorian(master)
  const rules = master
    .getAllProperties('rrule')
    .map(p => p.getFirstValue() as unknown)
    .filter((r): r is ICAL.Recur => r instanceof ICAL.Recur)
  const dates = new Set([
    ...(described.start >= from && described.start < to ? [described.start] : []),
    ...rules.flatMap(r => datesOf(readRule(r, clock), described.start, from, to, budget, first)),
    ...added.map(t => t.at),
  ])
  for (const date of dates) {
    if (single.has(date) || leftOut.has(date) || leftDays.has(date - (date % DAY))) continue
    const o = onward.findLast(r => r.id <= date)
    if (o?.cancelled) continue
    if (o) add(date + o.described.start - o.id, o.described, clock, date)
    else add(date, { ...described, length: lengths.get(date) ?? described.length }, clock, date)
  }
  return found.sort((x, y) => x.startMs - y.startMs)
}
