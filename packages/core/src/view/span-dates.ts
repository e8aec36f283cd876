import { addDays, mondayOf, weekdayOf } from '../time/when.ts'
import { weeksOfMonth } from './rows.ts'
import type { ViewBody } from './saved-view.ts'

/** Which days the span of a view shows, as ISO dates, and how one goes on from it. */

/** ISO weekday the week begins with. */
type WeekStart = 1 | 6 | 7

const weekFrom = (at: string, start: WeekStart): string => addDays(at, -((weekdayOf(at) - start + 7) % 7))
const run = (from: string, days: number): string[] => Array.from({ length: days }, (_, i) => addDays(from, i))

const LIST_DAYS = 14

export function datesShown(view: Pick<ViewBody, 'span' | 'days'>, at: string, start: WeekStart): string[] {
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
