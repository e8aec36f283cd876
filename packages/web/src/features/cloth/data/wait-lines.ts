import { type ClothItem, MINUTE } from '@loom/core/view'

/** What waits for what among the items that are drawn, as lines from one to the other. */

/** Of tasks; `gap` in minutes. */
export interface WaitPair {
  before: string
  after: string
  gap: number
}
/** Between two items; `wrong` where the second begins before it may. */
export interface WaitLine {
  from: string
  to: string
  wrong: boolean
}

const taskOf = ({ of, key }: ClothItem): string => of ?? key

/** From what is over last of a task to what begins first of the other; what is not drawn has no line. */
export function waitLines(items: readonly ClothItem[], pairs: readonly WaitPair[]): WaitLine[] {
  if (pairs.length === 0) return []
  const last = new Map<string, { key: string; ms: number }>()
  const first = new Map<string, { key: string; ms: number }>()
  for (const item of items) {
    const { place, key, atDeadline, kind } = item
    if (place.kind !== 'timed' || atDeadline || kind === 'event') continue
    const task = taskOf(item)
    const end = last.get(task)
    if (!end || place.endMs > end.ms) last.set(task, { key, ms: place.endMs })
    const start = first.get(task)
    if (!start || place.startMs < start.ms) first.set(task, { key, ms: place.startMs })
  }
  return pairs.flatMap(({ before, after, gap }) => {
    const [end, start] = [last.get(before), first.get(after)]
    if (!end || !start || end.key === start.key) return []
    return [{ from: end.key, to: start.key, wrong: start.ms < end.ms + gap * MINUTE }]
  })
}
