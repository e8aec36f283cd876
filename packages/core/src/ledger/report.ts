import { addDays, daysBetween, mondayOf } from '../time/when.ts'
import { capacityOn, type WorkingHours } from '../view/rows.ts'

/** The time report: sums of a ledger, as charts and tables show them. */

export const GROUPINGS = ['category', 'list', 'kind'] as const
export type Grouping = (typeof GROUPINGS)[number]
export const PERIODS = ['day', 'week', 'month'] as const
export type Period = (typeof PERIODS)[number]

/** Minutes of one day under one name. */
export interface DaySum {
  day: string
  name: string
  minutes: number
}

export interface PeriodSum {
  /** Its first day. */
  from: string
  /** The day after its last, or after the last that was asked for. */
  to: string
  /** Minutes by name. */
  by: Record<string, number>
  minutes: number
  /** Minutes that the person's working hours hold; null where nobody can say. */
  capacity: number | null
}

const startOf = (day: string, period: Period): string =>
  period === 'day' ? day : period === 'week' ? mondayOf(day) : `${day.slice(0, 7)}-01`

/** Every period of the span, those without anything as well. `to` is the day after the last. */
export function periodSums(
  sums: readonly DaySum[],
  { from, to, period, hours }: { from: string; to: string; period: Period; hours: WorkingHours | null },
): PeriodSum[] {
  const found = new Map<string, PeriodSum>()
  for (let n = 0; n < daysBetween(from, to); n++) {
    const day = addDays(from, n)
    const key = startOf(day, period)
    const so = found.get(key) ?? { from: day, to: day, by: {}, minutes: 0, capacity: hours && 0 }
    so.to = addDays(day, 1)
    if (hours && so.capacity !== null) so.capacity += capacityOn(hours, day)
    found.set(key, so)
  }
  for (const { day, name, minutes } of sums) {
    const into = found.get(startOf(day, period))
    if (!into || day < from || day >= to) continue
    into.by[name] = (into.by[name] ?? 0) + minutes
    into.minutes += minutes
  }
  return [...found.values()]
}

/** So many have a colour of their own in a chart; all else is one. */
const MOST_NAMES = 7
export const OTHER = 'Other'

/** The names by how much they hold, the most first; what is beyond the first few is not among them. */
export function leadingNames(periods: readonly PeriodSum[]): string[] {
  const total = new Map<string, number>()
  for (const p of periods)
    for (const [name, minutes] of Object.entries(p.by)) total.set(name, (total.get(name) ?? 0) + minutes)
  return [...total]
    .filter(([name, minutes]) => minutes > 0 && name !== OTHER)
    .sort((x, y) => y[1] - x[1] || (x[0] < y[0] ? -1 : 1))
    .slice(0, MOST_NAMES)
    .map(([name]) => name)
}

/** A task that is done, with what it was thought to take when work began and what it took. Minutes. */
export interface TaskTaken {
  key: string | null
  title: string
  category: string
  estimate: number | null
  taken: number
}

export interface Lesson {
  category: string
  /** How many tasks it is drawn from. */
  of: number
  /** So many times as long as estimated (a median, within bounds). */
  factor: number
}

/** With fewer nothing is said. */
const LEAST = 8
const BOUNDS = { least: 0.5, most: 3 }

/** What estimates should be, by category: of those with enough tasks that were estimated and are done. */
export function lessonsOf(tasks: readonly TaskTaken[]): Lesson[] {
  const by = new Map<string, number[]>()
  for (const { category, estimate, taken } of tasks)
    if (estimate !== null && estimate > 0 && taken > 0)
      by.set(category, [...(by.get(category) ?? []), taken / estimate])
  return [...by]
    .filter(([, ratios]) => ratios.length >= LEAST)
    .map(([category, ratios]) => ({ category, of: ratios.length, factor: bounded(medianOf(ratios)) }))
    .sort((x, y) => Math.abs(y.factor - 1) - Math.abs(x.factor - 1) || (x.category < y.category ? -1 : 1))
}

/** What tasks without an estimate take, minutes; null where there are too few. */
export function usualWithoutEstimate(tasks: readonly TaskTaken[]): { minutes: number; of: number } | null {
  const taken = tasks.filter(t => t.estimate === null && t.taken > 0).map(t => t.taken)
  return taken.length < LEAST ? null : { minutes: Math.round(medianOf(taken) / 5) * 5, of: taken.length }
}

const bounded = (factor: number): number =>
  Math.round(Math.min(BOUNDS.most, Math.max(BOUNDS.least, factor)) * 10) / 10

export function medianOf(values: readonly number[]): number {
  const sorted = [...values].sort((x, y) => x - y)
  const middle = Math.floor(sorted.length / 2)
  const upper = sorted[middle] ?? 0
  return sorted.length % 2 === 1 ? upper : ((sorted[middle - 1] ?? upper) + upper) / 2
}
