import {
  addDays,
  dateNames,
  longDayWords,
  mondayOf,
  shortName,
  type ViewBody,
  weekdayOf,
  weeksOfMonth,
} from '@loom/core/view'

/** Which days a span shows, how one goes on from it, and what it is called. */

/** ISO weekday the week begins with. */
type WeekStart = 1 | 6 | 7

const weekFrom = (at: string, start: WeekStart): string => addDays(at, -((weekdayOf(at) - start + 7) % 7))
const run = (from: string, days: number): string[] => Array.from({ length: days }, (_, i) => addDays(from, i))

export const LIST_DAYS = 14

export function datesOf(view: Pick<ViewBody, 'span' | 'days'>, at: string, start: WeekStart): string[] {
  switch (view.span) {
    case 'day':
      return [at]
    case 'days':
      return run(at, view.days)
    case 'work-week':
      return run(mondayOf(at), 5)
    case 'week':
      return run(weekFrom(at, start), 7)
    case 'month':
      return weeksOfMonth(at.slice(0, 7), start).flat()
    case 'list':
      return run(at, LIST_DAYS)
  }
}

export function stepped(view: Pick<ViewBody, 'span' | 'days'>, at: string, by: 1 | -1): string {
  switch (view.span) {
    case 'day':
      return addDays(at, by)
    case 'days':
      return addDays(at, by * view.days)
    case 'work-week':
    case 'week':
      return addDays(at, by * 7)
    case 'list':
      return addDays(at, by * LIST_DAYS)
    case 'month': {
      const [year = 0, month = 1] = at.split('-').map(Number)
      return new Date(Date.UTC(year, month - 1 + by, 1)).toISOString().slice(0, 10)
    }
  }
}

export function headingOf(view: Pick<ViewBody, 'span'>, dates: readonly string[], at: string): string {
  const [first, last] = [dateNames(dates[0] ?? at), dateNames(dates.at(-1) ?? at)]
  if (view.span === 'month') return `${dateNames(at).month} ${dateNames(at).year}`
  if (dates.length <= 1) return longDayWords(dates[0] ?? at)
  if (first.month === last.month && first.year === last.year)
    return `${first.day} – ${last.day} ${last.month}`
  // Two months in full would take the head of the Cloth to a second line.
  return `${first.day} ${shortName(first.month)} – ${last.day} ${shortName(last.month)}`
}

export const STEP_WORDS: Record<ViewBody['span'], { before: string; after: string; now: string }> = {
  day: { before: 'The day before', after: 'The day after', now: 'Today' },
  days: { before: 'Earlier', after: 'Later', now: 'Today' },
  'work-week': { before: 'The week before', after: 'The week after', now: 'This week' },
  week: { before: 'The week before', after: 'The week after', now: 'This week' },
  month: { before: 'The month before', after: 'The month after', now: 'This month' },
  list: { before: 'Earlier', after: 'Later', now: 'Today' },
}
