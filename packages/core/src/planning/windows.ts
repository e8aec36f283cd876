import { addDays, DAY_MINUTES, daysBetween, epochOf, mondayOf, weekdayOf, zoned } from '../time/when.ts'
import type { WorkingHours } from '../view/rows.ts'
import type { WindowSpan } from './supply.ts'

/** Work windows: spans that repeat and are set aside for some kind of work. */

/** Minutes after midnight; what ends when it begins, or before, ends on the next day. */
export interface DaySpan {
  start: number
  end: number
}

export interface WorkWindow extends DaySpan {
  id: string
  /** ISO; and in every so many weeks, counted from that of `from`. */
  weekdays: readonly number[]
  everyWeeks: number
  /** The first day, and the last; null: for good. */
  from: string
  until: string | null
  /** Where its hours are told. */
  zone: string
  /** Dates on which it is otherwise: at other hours, or not at all. */
  exceptions: Readonly<Record<string, DaySpan | null>>
  /** Also on days off, on which it pauses otherwise. */
  onDaysOff: boolean
  /** It takes other work as well. */
  othersToo: boolean
  /** What passes its filter may stand in other time too, at a price. */
  spills: boolean
}

/** Whether it is on that day by itself, whatever is said of the day. */
function isOn({ weekdays, everyWeeks, from, until }: WorkWindow, date: string): boolean {
  if (date < from || (until !== null && date > until) || !weekdays.includes(weekdayOf(date))) return false
  const weeks = daysBetween(mondayOf(from), mondayOf(date)) / 7
  return weeks % Math.max(1, everyWeeks) === 0
}

/** Its spans that begin on these days or the one before, by the wall clock of its zone. */
export function spansOf(window: WorkWindow, dates: readonly string[], { off }: WorkingHours): WindowSpan[] {
  const [first] = dates
  if (first === undefined) return []
  return [addDays(first, -1), ...dates].flatMap(date => {
    if (!isOn(window, date) || (off.includes(date) && !window.onDaysOff)) return []
    const span = date in window.exceptions ? window.exceptions[date] : window
    if (!span) return []
    const end = span.end <= span.start ? span.end + DAY_MINUTES : span.end
    const { id, zone, othersToo } = window
    return [
      { window: id, fromMs: atMinute(date, span.start, zone), toMs: atMinute(date, end, zone), othersToo },
    ]
  })
}

/** Epoch ms; minutes beyond the day are of the next one. */
export function atMinute(date: string, minute: number, zone: string): number {
  const day = addDays(date, Math.floor(minute / DAY_MINUTES))
  const [h, m] = [Math.floor((minute % DAY_MINUTES) / 60), minute % 60].map(n => String(n).padStart(2, '0'))
  return epochOf(zoned(`${day}T${h}:${m}:00`, zone), zone)
}
