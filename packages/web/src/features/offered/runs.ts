import { dayAt, MINUTE } from '@loom/core/view'

/** Free beginnings as spans of a day, as a guest reads them. */

export interface Run {
  fromMs: number
  /** When the last of it would end. */
  toMs: number
  /** Every beginning within, in order. */
  starts: number[]
}

const STEP_MS = 15 * MINUTE

/** @param starts in order, epoch ms */
export function runsOf(starts: readonly number[], minutes: number, zone: string): Map<string, Run[]> {
  const days = new Map<string, Run[]>()
  let last: Run | null = null
  for (const startMs of starts) {
    const date = dayAt(startMs, zone)
    const runs = days.get(date) ?? []
    if (last && runs.at(-1) === last && startMs === (last.starts.at(-1) ?? 0) + STEP_MS) {
      last.starts.push(startMs)
      last.toMs = startMs + minutes * MINUTE
      continue
    }
    last = { fromMs: startMs, toMs: startMs + minutes * MINUTE, starts: [startMs] }
    runs.push(last)
    days.set(date, runs)
  }
  return days
}
