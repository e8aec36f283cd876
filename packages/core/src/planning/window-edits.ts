import { addDays } from '../time/when.ts'
import type { PlanWindow } from './settings.ts'

/** Changing a work window on one of its days: that day alone, that day and later ones, or all of them. */

export type WhichDays = 'this day' | 'this day and later' | 'all'

/**
 * The windows that stand in the place of one.
 * @param next as it is to be; of a single day, only its hours are
 * @param id of what goes on as a window of its own, where it is parted
 */
export function changedWindow(
  window: PlanWindow,
  next: PlanWindow,
  { date, which, id }: { date: string; which: WhichDays; id: string },
): PlanWindow[] {
  const { start, end } = next
  if (which === 'all') return [{ ...next, id: window.id }]
  if (which === 'this day')
    return [{ ...window, exceptions: { ...window.exceptions, [date]: { start, end } } }]
  return [
    ...endedBefore(window, date),
    { ...next, id, from: date, exceptions: onlyFrom(next.exceptions, date) },
  ]
}

/** The windows that stand in the place of one that is not to be on that day, nor later, or at all. */
export function withoutWindow(
  window: PlanWindow,
  { date, which }: { date: string; which: WhichDays },
): PlanWindow[] {
  if (which === 'all') return []
  if (which === 'this day') return [{ ...window, exceptions: { ...window.exceptions, [date]: null } }]
  return endedBefore(window, date)
}

function endedBefore(window: PlanWindow, date: string): PlanWindow[] {
  const until = addDays(date, -1)
  if (until < window.from) return []
  const exceptions = Object.fromEntries(Object.entries(window.exceptions).filter(([d]) => d < date))
  return [
    { ...window, until: window.until !== null && window.until < until ? window.until : until, exceptions },
  ]
}

const onlyFrom = (exceptions: PlanWindow['exceptions'], date: string): PlanWindow['exceptions'] =>
  Object.fromEntries(Object.entries(exceptions).filter(([d]) => d >= date))
