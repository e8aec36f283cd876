import { addDays, dayAt, epochOf, onDate, weekdayOf } from '../time/when.ts'
import { capacityOn, type WorkingHours } from '../view/rows.ts'
import { medianOf } from './report.ts'

/** The longest time without a meeting on each working day. Minutes. */

export interface Unbroken {
  /** Typically (the median over all working days). */
  usual: number
  best: { weekday: number; minutes: number }
  worst: { weekday: number; minutes: number }
  days: number
}

const MINUTE = 60_000

/**
 * Null where there is no working day. `to` is the day after the last.
 * @param meetings epoch ms
 */
export function unbrokenOf(
  meetings: readonly { fromMs: number; toMs: number }[],
  { from, to, hours }: { from: string; to: string; hours: WorkingHours },
): Unbroken | null {
  const byDay = new Map<string, { fromMs: number; toMs: number }[]>()
  for (const m of meetings) {
    const day = dayAt(m.fromMs, hours.zone)
    byDay.set(day, [...(byDay.get(day) ?? []), m])
  }
  const all: number[] = []
  const weekdays = new Map<number, number[]>()
  for (let day = from; day < to; day = addDays(day, 1)) {
    if (capacityOn(hours, day) === 0) continue
    const longest = longestGap(byDay.get(day) ?? [], day, hours)
    all.push(longest)
    weekdays.set(weekdayOf(day), [...(weekdays.get(weekdayOf(day)) ?? []), longest])
  }
  const usual = [...weekdays]
    .map(([weekday, minutes]) => ({ weekday, minutes: medianOf(minutes) }))
    .sort((x, y) => y.minutes - x.minutes || x.weekday - y.weekday)
  const [best, worst] = [usual[0], usual.at(-1)]
  return best && worst ? { usual: medianOf(all), best, worst, days: all.length } : null
}

function longestGap(
  meetings: readonly { fromMs: number; toMs: number }[],
  day: string,
  { from, to, zone }: WorkingHours,
): number {
  const at = (minute: number): number => {
    const date = minute >= 1440 ? addDays(day, 1) : day
    const time = [Math.floor((minute % 1440) / 60), minute % 60]
      .map(n => String(n).padStart(2, '0'))
      .join(':')
    return epochOf(
      minute % 1440 === 0 ? onDate(date) : { kind: 'zoned', local: `${date}T${time}:00`, zone },
      zone,
    )
  }
  const end = at(to)
  let free = at(from)
  let longest = 0
  for (const m of [...meetings].sort((x, y) => x.fromMs - y.fromMs)) {
    longest = Math.max(longest, Math.min(m.fromMs, end) - free)
    free = Math.max(free, m.toMs)
  }
  return Math.max(longest, end - free, 0) / MINUTE
}
