import type { PlanRegular, PlanWindow } from '@loom/core/planning'
import { durationWords } from '@loom/core/view'
import { minuteWords } from '../../../ui/telling.ts'

/** Work windows and regulars in words. */

export const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const

/** `Mon–Fri`, `Mon, Wed`. */
export function weekdayWords(days: readonly number[]): string {
  const sorted = [...new Set(days)].sort((x, y) => x - y)
  if (sorted.length === 7) return 'every day'
  const runs: number[][] = []
  for (const d of sorted) {
    const run = runs.at(-1)
    if (run && run.at(-1) === d - 1) run.push(d)
    else runs.push([d])
  }
  const name = (d: number | undefined): string => WEEKDAYS[(d ?? 1) - 1] ?? ''
  return runs
    .flatMap(run => (run.length > 2 ? [`${name(run[0])}–${name(run.at(-1))}`] : run.map(name)))
    .join(', ')
}

export function windowWords({ weekdays, everyWeeks, start, end }: PlanWindow): string {
  const pace = everyWeeks === 1 ? '' : `, every ${everyWeeks} weeks`
  return `${weekdayWords(weekdays)} ${minuteWords(start)}–${minuteWords(end % 1440)}${pace}`
}

export function regularWords({ timesAWeek, shortest, longest, within }: PlanRegular): string {
  const often =
    timesAWeek === 1 ? 'once a week' : timesAWeek === 7 ? 'every day' : `${timesAWeek} times a week`
  const long =
    shortest === longest ? durationWords(longest) : `${durationWords(shortest)} to ${durationWords(longest)}`
  return `${often}, ${long}, between ${minuteWords(within.start)} and ${minuteWords(within.end % 1440)}`
}

export const newWindow = (id: string, zone: string, today: string): PlanWindow => ({
  id,
  name: '',
  weekdays: [1, 2, 3, 4, 5],
  everyWeeks: 1,
  start: 540,
  end: 660,
  from: today,
  until: null,
  zone,
  exceptions: {},
  onDaysOff: false,
  othersToo: false,
  spills: false,
  keepsUp: false,
  view: null,
  filter: [],
})
export const newRegular = (id: string): PlanRegular => ({
  id,
  name: '',
  timesAWeek: 3,
  shortest: 20,
  longest: 30,
  within: { start: 720, end: 1020 },
  importance: 50,
  isBreak: false,
})
/** What many want, ready to be changed. */
export const lunch = (id: string): PlanRegular => ({
  ...newRegular(id),
  name: 'Lunch',
  timesAWeek: 5,
  shortest: 30,
  longest: 45,
  within: { start: 690, end: 840 },
  importance: 80,
  isBreak: true,
})
