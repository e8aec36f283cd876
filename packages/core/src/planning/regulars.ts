import { mondayOf } from '../time/when.ts'
import { type Admitted, type Demand, type Span, weightOf } from './instance.ts'
import { inward, type Supply } from './supply.ts'
import { atMinute, type DaySpan } from './windows.ts'

/** What somebody wants to do several times a week, at most once a day: a walk, reading, lunch. */
export interface Regular {
  id: string
  timesAWeek: number
  /** Minutes; it is shortened before it falls out. */
  shortest: number
  longest: number
  within: DaySpan
  /** 0 to 100. */
  importance: number
  category: string
}

/**
 * What of it is still wanted in the weeks that are planned. Nothing piles up: each week wants its own.
 * @param stands the dates on which it was done or is planned already
 */
export function demandsOfRegular(
  regular: Regular,
  supply: Supply,
  zone: string,
  stands: ReadonlySet<string>,
): Demand[] {
  const { axis } = supply
  const units = (minutes: number): number => Math.max(1, Math.ceil(minutes / axis.grid))
  return [...new Set(axis.dates.map(mondayOf))].flatMap(monday => {
    const dates = axis.dates.filter(date => mondayOf(date) === monday)
    const works = (date: string): boolean => {
      const day = supply.days[axis.dates.indexOf(date)]
      return day !== undefined && day.hours.to > day.hours.from
    }
    const free = dates.filter(date => works(date) && !stands.has(date))
    const admitted = free.flatMap(date => {
      const { start, end } = regular.within
      const span = inward(atMinute(date, start, zone), atMinute(date, end, zone), axis)
      return supply.plain.flatMap(open => common(open, span))
    })
    const had = [...stands].filter(date => mondayOf(date) === monday).length
    const wanted = Math.min(free.length, regular.timesAWeek - had)
    return Array.from({ length: Math.max(0, wanted) }, (_, n): Demand => ({
      id: `${regular.id} ${monday} ${n}`,
      need: units(regular.longest),
      weight: weightOf(regular.importance),
      division: { kind: 'shrink', least: units(Math.min(regular.shortest, regular.longest)) },
      earliest: axis.now,
      deadline: null,
      admitted,
      category: regular.category,
      after: [],
      group: regular.id,
      planned: [],
    }))
  })
}

const common = (one: Span, other: Span): Admitted[] => {
  const [from, to] = [Math.max(one.from, other.from), Math.min(one.to, other.to)]
  return from < to ? [{ from, to, extra: 0 }] : []
}
