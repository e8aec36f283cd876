import { addDays } from '@loom/core/view'

/** Days off as people think of them: a day here, a fortnight there. Dates are `YYYY-MM-DD`. */

export interface DaysAway {
  from: string
  to: string
}

/** At once; more are two entries. */
export const MOST_DAYS = 100

/** Days that follow each other are one span. */
export function spansOf(days: readonly string[]): DaysAway[] {
  const spans: DaysAway[] = []
  for (const day of [...new Set(days)].sort()) {
    const last = spans.at(-1)
    if (last && addDays(last.to, 1) === day) last.to = day
    else spans.push({ from: day, to: day })
  }
  return spans
}

/** What stands in the way of taking these days off, in words; empty where nothing does. */
export function whyNot({ from, to }: DaysAway): string {
  if (!from) return 'Say on which day it begins.'
  if (to < from) return 'The last day is before the first.'
  if (to > addDays(from, MOST_DAYS - 1)) return `That is more than ${MOST_DAYS} days.`
  return ''
}

export function daysOf({ from, to }: DaysAway): string[] {
  const days: string[] = []
  for (let day = from; day <= to; day = addDays(day, 1)) days.push(day)
  return days
}

export const withSpan = (days: readonly string[], span: DaysAway): string[] =>
  [...new Set([...days, ...daysOf(span)])].sort()

export const withoutSpan = (days: readonly string[], { from, to }: DaysAway): string[] =>
  days.filter(day => day < from || day > to)
