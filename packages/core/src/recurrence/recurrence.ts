/**
 * Recurrence rules (RFC 5545 §3.3.10), evaluated for a span of time and never beyond it. A rule that names no date
 * at all, or far too many, ends like any other.
 *
 * Everything here is local: seconds since 1970 on a wall clock, without a zone.
 */
import { TooOften, UnrollBudget } from './unroll-budget.ts'

export type Frequency = 'YEARLY' | 'MONTHLY' | 'WEEKLY' | 'DAILY' | 'HOURLY' | 'MINUTELY' | 'SECONDLY'

export interface Rule {
  freq: Frequency
  interval: number
  count: number | null
  /** Local seconds, included. */
  until: number | null
  /** 0 Monday … 6 Sunday. */
  weekStart: number
  bySecond: readonly number[]
  byMinute: readonly number[]
  byHour: readonly number[]
  /** `nth`: 0 for every such day, else which one of its month or year, counted from the end when negative. */
  byDay: readonly { nth: number; day: number }[]
  byMonthDay: readonly number[]
  byYearDay: readonly number[]
  byWeekNo: readonly number[]
  byMonth: readonly number[]
  bySetPos: readonly number[]
}

export const plainRule = (freq: Frequency): Rule => ({
  freq,
  interval: 1,
  count: null,
  until: null,
  weekStart: 0,
  bySecond: [],
  byMinute: [],
  byHour: [],
  byDay: [],
  byMonthDay: [],
  byYearDay: [],
  byWeekNo: [],
  byMonth: [],
  bySetPos: [],
})

const MINUTE = 60
const HOUR = 3600
const DAY = 86_400
/** As many dates of one period are looked at; more than these are given up at once. */
const MOST_IN_PERIOD = 150_000

const dayOf = (t: number): number => Math.floor(t / DAY)
const weekdayOf = (day: number): number => (((day + 3) % 7) + 7) % 7
const dayNumber = (year: number, month: number, date = 1): number =>
  Math.floor(new Date(0).setUTCFullYear(year, month, date) / 86_400_000)

interface Civil {
  year: number
  /** 0–11. */
  month: number
  /** 1–31. */
  date: number
  monthLength: number
  /** 1–366. */
  yearDay: number
  yearLength: number
}

function civilOf(day: number): Civil {
  const at = new Date(day * 86_400_000)
  const [year, month] = [at.getUTCFullYear(), at.getUTCMonth()]
  const first = dayNumber(year, 0)
  return {
    year,
    month,
    date: at.getUTCDate(),
    monthLength: dayNumber(year, month + 1) - dayNumber(year, month),
    yearDay: day - first + 1,
    yearLength: dayNumber(year + 1, 0) - first,
  }
}

/** The first day of week 1: the first week with at least four days in the year. */
function firstWeekOf(year: number, weekStart: number): number {
  const first = dayNumber(year, 0)
  const into = (weekdayOf(first) - weekStart + 7) % 7
  return into <= 3 ? first - into : first - into + 7
}

function weekOf(day: number, year: number, weekStart: number): { no: number; of: number } {
  const own = [year + 1, year, year - 1].find(y => firstWeekOf(y, weekStart) <= day) ?? year
  const first = firstWeekOf(own, weekStart)
  return { no: Math.floor((day - first) / 7) + 1, of: (firstWeekOf(own + 1, weekStart) - first) / 7 }
}

const counted = (list: readonly number[], at: number, length: number): boolean =>
  list.includes(at) || list.includes(at - length - 1)

/** What a rule leaves unsaid is taken from its start. */
function filled(rule: Rule, start: number): Rule {
  const { month, date } = civilOf(dayOf(start))
  const said = rule.byWeekNo.length + rule.byYearDay.length + rule.byMonthDay.length + rule.byDay.length > 0
  if (rule.freq === 'YEARLY' && !said)
    return { ...rule, byMonth: rule.byMonth.length > 0 ? rule.byMonth : [month + 1], byMonthDay: [date] }
  // "Week 20" alone means the weekday of the start in it.
  if (
    rule.freq === 'YEARLY' &&
    rule.byWeekNo.length > 0 &&
    rule.byDay.length + rule.byYearDay.length + rule.byMonthDay.length === 0
  )
    return { ...rule, byDay: [{ nth: 0, day: weekdayOf(dayOf(start)) }] }
  if (rule.freq === 'MONTHLY' && !said) return { ...rule, byMonthDay: [date] }
  if (rule.freq === 'WEEKLY' && !said) return { ...rule, byDay: [{ nth: 0, day: weekdayOf(dayOf(start)) }] }
  return rule
}

/** Whether a day is one of those that the rule names. */
function namesDay(rule: Rule, day: number): boolean {
  const { byMonth, byMonthDay, byYearDay, byWeekNo, byDay, freq } = rule
  const c = civilOf(day)
  if (byMonth.length > 0 && !byMonth.includes(c.month + 1)) return false
  if (byMonthDay.length > 0 && !counted(byMonthDay, c.date, c.monthLength)) return false
  if (byYearDay.length > 0 && !counted(byYearDay, c.yearDay, c.yearLength)) return false
  if (byWeekNo.length > 0) {
    const { no, of } = weekOf(day, c.year, rule.weekStart)
    if (!counted(byWeekNo, no, of)) return false
  }
  if (byDay.length === 0) return true
  const inMonth = freq === 'MONTHLY' || byMonth.length > 0
  const [at, length] = inMonth ? [c.date, c.monthLength] : [c.yearDay, c.yearLength]
  const nths = [Math.floor((at - 1) / 7) + 1, -Math.floor((length - at) / 7) - 1]
  const counts = freq === 'MONTHLY' || freq === 'YEARLY'
  return byDay.some(b => b.day === weekdayOf(day) && (b.nth === 0 || !counts || nths.includes(b.nth)))
}

/** Seconds from midnight, in order, of the hours, minutes and seconds named; `of` fills what is not. */
function timesOf(hours: readonly number[], minutes: readonly number[], seconds: readonly number[]): number[] {
  const all = hours.flatMap(h => minutes.flatMap(m => seconds.map(s => h * HOUR + m * MINUTE + s)))
  return [...new Set(all)].sort((x, y) => x - y)
}
const or = (list: readonly number[], value: number): readonly number[] => (list.length > 0 ? list : [value])

function atPositions(list: number[], positions: readonly number[]): number[] {
  if (positions.length === 0) return list
  const picked = positions.flatMap(p => list[p > 0 ? p - 1 : list.length + p] ?? [])
  return [...new Set(picked)].sort((x, y) => x - y)
}

/** A stretch of the calendar in which a rule names its dates together: a year, a month, an hour. */
interface Period {
  /** How many periods lie before this one. */
  index: number
  from: number
  /** Days to look at. */
  cost: number
  candidates: () => number[]
}

/** Periods from the one numbered `index`, each a rule's interval after the last. */
function* periodsOfDays(rule: Rule, start: number, index: number): Generator<Period> {
  const { freq, interval, weekStart } = rule
  const clock = start - dayOf(start) * DAY
  const times = timesOf(
    or(rule.byHour, Math.floor(clock / HOUR)),
    or(rule.byMinute, Math.floor(clock / MINUTE) % 60),
    or(rule.bySecond, clock % 60),
  )
  const first = dayOf(start)
  const { year, month } = civilOf(first)
  const week = first - ((weekdayOf(first) - weekStart + 7) % 7)
  const spanOf = (i: number): [number, number] => {
    const n = i * interval
    if (freq === 'YEARLY') return [dayNumber(year + n, 0), dayNumber(year + n + 1, 0)]
    if (freq === 'MONTHLY') return [dayNumber(year, month + n), dayNumber(year, month + n + 1)]
    if (freq === 'WEEKLY') return [week + n * 7, week + n * 7 + 7]
    return [first + n, first + n + 1]
  }
  for (let i = index; ; i++) {
    const [from, to] = spanOf(i)
    const candidates = (): number[] => {
      const found: number[] = []
      for (let day = from; day < to && found.length < MOST_IN_PERIOD; day++)
        if (namesDay(rule, day)) for (const t of times) found.push(day * DAY + t)
      return found
    }
    yield { index: i, from: from * DAY, cost: to - from, candidates }
  }
}

const UNIT = { HOURLY: HOUR, MINUTELY: MINUTE, SECONDLY: 1 }

/** Hours, minutes or seconds; whole days and hours that are not named are stepped over. */
function* periodsOfTime(
  rule: Rule & { freq: keyof typeof UNIT },
  start: number,
  index: number,
): Generator<Period> {
  const { freq, interval, byHour, byMinute, bySecond } = rule
  const unit = UNIT[freq]
  const first = Math.floor(start / unit)
  const offsets =
    freq === 'HOURLY'
      ? timesOf([0], or(byMinute, Math.floor(start / MINUTE) % 60), or(bySecond, start % 60))
      : freq === 'MINUTELY'
        ? timesOf([0], [0], or(bySecond, start % 60))
        : [0]
  const after = (t: number): number => Math.ceil((t / unit - first) / interval)
  let [judged, named] = [NaN, false]
  for (let i = index; ;) {
    const from = (first + i * interval) * unit
    const day = dayOf(from)
    if (judged !== day) [judged, named] = [day, namesDay(rule, day)]
    const second = from - day * DAY
    const skipTo = !named
      ? (day + 1) * DAY
      : byHour.length > 0 && !byHour.includes(Math.floor(second / HOUR))
        ? from - (second % HOUR) + HOUR
        : freq !== 'HOURLY' && byMinute.length > 0 && !byMinute.includes(Math.floor(second / MINUTE) % 60)
          ? from - (second % MINUTE) + MINUTE
          : null
    const isNamed =
      skipTo === null && (freq !== 'SECONDLY' || bySecond.length === 0 || bySecond.includes(second % 60))
    yield { index: i, from, cost: 1, candidates: () => (isNamed ? offsets.map(o => from + o) : []) }
    i = skipTo === null ? i + 1 : Math.max(i + 1, after(skipTo))
  }
}

const isOfTime = (rule: Rule): rule is Rule & { freq: keyof typeof UNIT } => rule.freq in UNIT

/** About how many periods begin before `t`; never more than do. */
function periodsBefore(rule: Rule, start: number, t: number): number {
  const { freq, interval } = rule
  if (t <= start) return 0
  const [a, b] = [civilOf(dayOf(start)), civilOf(dayOf(t))]
  const passed =
    freq === 'YEARLY'
      ? b.year - a.year
      : freq === 'MONTHLY'
        ? (b.year - a.year) * 12 + b.month - a.month
        : (t - start) / (freq === 'WEEKLY' ? 7 * DAY : freq === 'DAILY' ? DAY : UNIT[freq])
  return Math.max(0, Math.floor(passed / interval) - 1)
}

/** One date in each period, whatever period it is: a date's number is its period's. */
const isEven = (rule: Rule): boolean =>
  rule.freq !== 'YEARLY' &&
  rule.freq !== 'MONTHLY' &&
  [
    rule.bySecond,
    rule.byMinute,
    rule.byHour,
    rule.byDay,
    rule.byMonthDay,
    rule.byYearDay,
    rule.byWeekNo,
    rule.byMonth,
    rule.bySetPos,
  ].every(part => part.length === 0)

const EVERY = {
  YEARLY: 'year',
  MONTHLY: 'month',
  WEEKLY: 'week',
  DAILY: 'day',
  HOURLY: 'hour',
  MINUTELY: 'minute',
  SECONDLY: 'second',
} as const

/** In words: "every second", "every 15 minutes". */
export const rhythmOf = ({ freq, interval }: Pick<Rule, 'freq' | 'interval'>): string =>
  interval === 1 ? `every ${EVERY[freq]}` : `every ${interval} ${EVERY[freq]}s`

/**
 * The dates of a rule within [from, to), in order, local seconds. The start is always the first of them (RFC 5545
 * §3.8.5.3). `first` limits how many are looked for. Throws TooOften if the budget is too small.
 */
export function datesOf(
  given: Rule,
  start: number,
  from: number,
  to: number,
  budget = new UnrollBudget(),
  first = Infinity,
): number[] {
  const found = start >= from && start < to ? [start] : []
  const rule = filled(given, start)
  // Dates that count have to be counted from the first, unless their number can be told from the calendar.
  const canJump = rule.count === null || isEven(given)
  const index = canJump ? periodsBefore(rule, start, from) : 0
  let n = index > 0 ? index : 1
  const periods = isOfTime(rule) ? periodsOfTime(rule, start, index) : periodsOfDays(rule, start, index)
  for (const period of periods) {
    // Said so that a time beyond all calendars, which is no number, ends it too.
    if (!(period.from < to) || (rule.until !== null && period.from > rule.until)) break
    const dates = atPositions(period.candidates(), rule.bySetPos)
    budget.take(period.cost + dates.length, 0)
    for (const t of dates) {
      if (t <= start) continue
      n++
      if (t >= to || (rule.until !== null && t > rule.until) || (rule.count !== null && n > rule.count))
        return found
      if (t >= from) {
        found.push(t)
        budget.take(0, 1)
      }
      if (found.length >= first) return found
      if (budget.isSpent) break
    }
    if (budget.isSpent)
      throw new TooOften(`It repeats ${rhythmOf(given)}, which is too often to be shown date by date.`)
  }
  return found
}
