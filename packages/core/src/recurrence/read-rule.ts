import type ICAL from 'ical.js'
import { NotUnderstood } from '../ical/not-understood.ts'
import { type Frequency, plainRule, type Rule } from './recurrence.ts'

/** An RRULE as it is worked with, each number within the range that RFC 5545 §3.3.10 allows. */

const DAY = 86_400
const FREQUENCIES = ['YEARLY', 'MONTHLY', 'WEEKLY', 'DAILY', 'HOURLY', 'MINUTELY', 'SECONDLY'] as const
const DAYS = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU']

/** Negative ones count from the end. */
const RANGES = {
  BYSECOND: [0, 60],
  BYMINUTE: [0, 59],
  BYHOUR: [0, 23],
  BYMONTHDAY: [-31, 31],
  BYYEARDAY: [-366, 366],
  BYWEEKNO: [-53, 53],
  BYMONTH: [1, 12],
  BYSETPOS: [-366, 366],
} as const
/** With these, no date that a rule names lies beyond what a clock can tell. */
const MOST_INTERVAL = 10_000
const MOST_COUNT = 1_000_000_000

function whole(value: unknown, name: string, [least, most]: readonly [number, number]): number {
  const n = typeof value === 'number' ? value : Number(String(value))
  if (!Number.isInteger(n) || n < least || n > most)
    throw new NotUnderstood(`It repeats with ${name}=${String(value).slice(0, 40)}, which is not possible.`)
  return n
}

/** How the series tells its times: `localOf` gives local seconds since 1970. */
export interface RuleClock {
  allDay: boolean
  localOf: (time: ICAL.Time) => number
}

/** Throws NotUnderstood. */
export function readRule(recur: ICAL.Recur, clock: RuleClock): Rule {
  const freq = FREQUENCIES.find(f => f === String(recur.freq)) satisfies Frequency | undefined
  if (!freq) throw new NotUnderstood(`It repeats “${String(recur.freq).slice(0, 40)}”, which is not known.`)
  const parts = recur.parts as Record<string, unknown[] | undefined>
  const numbers = (name: keyof typeof RANGES): number[] => [
    ...new Set((parts[name] ?? []).map(n => whole(n, name, RANGES[name]))),
  ]
  const days = ((parts.BYDAY ?? []) as string[]).flatMap(text => {
    const [, nth = '', day = ''] = /^([+-]?\d+)?(\w\w)$/.exec(text) ?? []
    return DAYS.includes(day) ? [{ nth: whole(nth || 0, 'BYDAY', [-53, 53]), day: DAYS.indexOf(day) }] : []
  })
  const { until } = recur
  return {
    ...plainRule(freq),
    interval: whole(recur.interval || 1, 'INTERVAL', [1, MOST_INTERVAL]),
    count:
      recur.count === null || recur.count === undefined ? null : whole(recur.count, 'COUNT', [1, MOST_COUNT]),
    // A day, where the series has hours, is meant whole.
    until: until ? clock.localOf(until) + (until.isDate && !clock.allDay ? DAY - 1 : 0) : null,
    weekStart: (recur.wkst + 5) % 7,
    bySecond: numbers('BYSECOND'),
    byMinute: numbers('BYMINUTE'),
    byHour: numbers('BYHOUR'),
    byDay: [...new Map(days.map(d => [`${d.nth} ${d.day}`, d])).values()],
    byMonthDay: numbers('BYMONTHDAY'),
    byYearDay: numbers('BYYEARDAY'),
    byWeekNo: numbers('BYWEEKNO'),
    byMonth: numbers('BYMONTH'),
    bySetPos: numbers('BYSETPOS'),
  }
}
