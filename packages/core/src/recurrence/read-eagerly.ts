import ICAL from 'ical.js'
import { readRule } from './read-rule.ts'
import { isDate } from '../time/when.ts'
import { NotUnderstood } from '../ical/not-understood.ts'

/** ical.js reads values when they are asked for, and fails then: here they are all asked for, within bounds. */

/** No calendar of people is nearly so large; each of these is read for every date of a series. */
const MOST_COMPONENTS = 3_000
const MOST_LISTED_DATES = 10_000
const MOST_RULES = 10

const TIMES = new Set(['dtstart', 'dtend', 'due', 'recurrence-id', 'duration', 'exdate', 'rdate'])
const TEXTS = new Set([
  'summary',
  'description',
  'location',
  'categories',
  'attendee',
  'status',
  'url',
  'related-to',
])
/** Whether a rule can be read does not depend on the clock it is told by. */
const NO_CLOCK = { allDay: false, localOf: () => 0 }

/** Observances of a zone, and dates listed in them: one a year for centuries is far less. */
const MOST_OBSERVANCES = 500
const MOST_ZONES = 50
/**
 * The parts that zone rules need. The library evaluates these itself, and would search for ever for a date that
 * never comes.
 */
const ZONE_PARTS = new Set(['FREQ', 'BYMONTH', 'BYDAY', 'BYMONTHDAY', 'UNTIL', 'COUNT', 'INTERVAL', 'WKST'])

/** Descriptions found to be bounded: the objects of a calendar share them. */
const bounded = new WeakSet<object>()

/** Whether the file's own zones can be worked out by the library within any time. Throws NotUnderstood. */
function zonesMustBeBounded(calendar: ICAL.Component): void {
  const zones = calendar.getAllSubcomponents('vtimezone')
  if (zones.length <= 1 && zones.every(z => bounded.has(z.jCal))) return
  const observances = zones.flatMap(z => z.getAllSubcomponents())
  const listed = observances.flatMap(o => o.getAllProperties('rdate')).length
  if (zones.length > MOST_ZONES || observances.length + listed > MOST_OBSERVANCES)
    throw new NotUnderstood('Its time zone is described at greater length than any should be.')
  for (const observance of observances) {
    const [start] = observance.getAllProperties('dtstart')
    if (start && !isAsWritten(start)) throw new NotUnderstood('Its time zone begins on no date.')
    for (const property of observance.getAllProperties('rrule')) {
      const rule: unknown = property.getFirstValue()
      if (!(rule instanceof ICAL.Recur) || !isYearly(rule))
        throw new NotUnderstood('Its time zone is described by a rule that no time zone has.')
    }
  }
  for (const zone of zones) bounded.add(zone.jCal)
}

/** Of every year. */
const DAYS_IN = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31]

function isYearly(rule: ICAL.Recur): boolean {
  const { byMonth, byMonthDay, byDay, freq, interval } = readRule(rule, NO_CLOCK)
  const parts = Object.keys(rule.parts as object)
  if (freq !== 'YEARLY' || interval !== 1 || parts.some(name => !ZONE_PARTS.has(name))) return false
  const longest = Math.max(...(byMonth.length > 0 ? byMonth : [1]).map(m => DAYS_IN[m - 1] ?? 0))
  return (
    byDay.every(({ nth }) => Math.abs(nth) <= 5) &&
    byDay.length <= 7 &&
    (byMonthDay.length === 0 || byMonthDay.some(d => d !== 0 && Math.abs(d) <= longest))
  )
}

/** Throws NotUnderstood, or an error of the library. */
export function readEagerly(calendar: ICAL.Component): void {
  zonesMustBeBounded(calendar)
  const components = calendar.getAllSubcomponents()
  if (components.length > MOST_COMPONENTS)
    throw new NotUnderstood(`It holds ${components.length} single dates, which is more than can be kept.`)
  let listed = 0
  for (const component of components) {
    if (component.name !== 'vevent' && component.name !== 'vtodo') continue
    const rules = component.getAllProperties('rrule')
    if (rules.length > MOST_RULES) throw new NotUnderstood(`It repeats by ${rules.length} rules at once.`)
    for (const rule of rules) {
      const value: unknown = rule.getFirstValue()
      if (!(value instanceof ICAL.Recur)) throw new NotUnderstood('Its RRULE is none.')
      readRule(value, NO_CLOCK)
    }
    for (const property of component.getAllProperties()) {
      if (TIMES.has(property.name)) listed += readTimes(property)
      else if (TEXTS.has(property.name)) property.getValues()
    }
    if (listed > MOST_LISTED_DATES)
      throw new NotUnderstood(`It lists ${listed} dates one by one, which is more than can be kept.`)
  }
}

/** How many times a property lists. Throws NotUnderstood where one is none. */
function readTimes(property: ICAL.Property): number {
  // Asked before the library reads them, which rewrites what is no day of the calendar.
  const isWhole = isAsWritten(property)
  const values = property.getValues() as unknown[]
  if (!isWhole || !values.every(isTimeValue))
    throw new NotUnderstood(`Its ${property.name.toUpperCase()} is not a date, a time or a length.`)
  return values.length
}

/** Refuses dates that are not in the calendar, such as 30 February. The library would read a later day instead. */
function isAsWritten({ jCal }: ICAL.Property): boolean {
  const [, , type, ...values] = jCal as [string, object, string, ...unknown[]]
  return (
    (type !== 'date' && type !== 'date-time') ||
    values.every(
      v => typeof v === 'string' && isDate(v.slice(0, 10)) && !/T(2[4-9]|[3-9]|\d\d:[6-9])/.test(v),
    )
  )
}

function isTimeValue(value: unknown): boolean {
  if (value instanceof ICAL.Period) return isTimeValue(value.start)
  if (value instanceof ICAL.Duration) return Number.isFinite(value.toSeconds())
  return value instanceof ICAL.Time && value.year >= 1 && value.year <= 9999
}
