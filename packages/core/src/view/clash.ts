import { addDays, epochOf } from '../time/when.ts'
import type { ClothItem } from './cloth-item.ts'
import { isWork } from './load.ts'
import { capacityOn, type WorkingHours } from './rows.ts'

/** Two things at one time that cannot both be, and where there would be room instead. */

export interface Clash {
  /** The item that has to move: planned work, if one of the two is. */
  moves: ClothItem
  /** What it is in the way of. */
  stays: ClothItem
  startMs: number
  endMs: number
}

/** Where only a deadline is shown, nothing takes place. */
const takesTime = (i: ClothItem): boolean =>
  i.place.kind === 'timed' &&
  i.busy &&
  !i.done &&
  !i.leftOut &&
  !i.atDeadline &&
  i.place.endMs > i.place.startMs

const sharesSomebody = (x: ClothItem, y: ClothItem): boolean =>
  x.people.length === 0 || y.people.length === 0 || x.people.some(p => y.people.includes(p))

/**
 * Two items of one person at the same time: an event on planned work, or two fixed events. Two pieces of planned
 * work do not clash; people plan that themselves.
 */
export function clashesIn(items: readonly ClothItem[]): Clash[] {
  const timed = items.filter(takesTime).sort((x, y) => startOf(x) - startOf(y) || (x.key < y.key ? -1 : 1))
  const found: Clash[] = []
  for (const [i, x] of timed.entries())
    for (let k = i + 1; k < timed.length; k++) {
      const y = timed[k]
      if (!y || startOf(y) >= endOf(x)) break
      if (!sharesSomebody(x, y) || (isWork(x) && isWork(y))) continue
      if (!isWork(x) && !isWork(y) && (x.movable || y.movable)) continue
      const [moves, stays] = isWork(x) ? [x, y] : [y, x]
      found.push({ moves, stays, startMs: startOf(y), endMs: Math.min(endOf(x), endOf(y)) })
    }
  return found
}

const startOf = (i: ClothItem): number => (i.place.kind === 'timed' ? i.place.startMs : 0)
const endOf = (i: ClothItem): number => (i.place.kind === 'timed' ? i.place.endMs : 0)

export interface Free {
  startMs: number
  endMs: number
}

/**
 * The next free spans of at least `minutes` within a person's working hours, from `fromMs` on, over `days` days.
 * `items` are those of that person.
 */
export function freeSpans(
  items: readonly ClothItem[],
  hours: WorkingHours,
  from: { ms: number; date: string },
  minutes: number,
  days: number,
  most = 3,
): Free[] {
  const taken = items
    .filter(takesTime)
    .map(i => ({ startMs: startOf(i), endMs: endOf(i) }))
    .sort((x, y) => x.startMs - y.startMs)
  const found: Free[] = []
  const local = (date: string, minute: number): number => {
    const clock = `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`
    const whole = minute >= 1440 ? `${addDays(date, 1)}T00:00:00` : `${date}T${clock}:00`
    return epochOf({ kind: 'zoned', local: whole, zone: hours.zone }, hours.zone)
  }
  for (let n = 0; n < days && found.length < most; n++) {
    const date = addDays(from.date, n)
    if (capacityOn(hours, date) === 0) continue
    const end = local(date, hours.to)
    let at = Math.max(local(date, hours.from), quarterUp(from.ms))
    for (const t of [...taken.filter(t => t.endMs > at && t.startMs < end), { startMs: end, endMs: end }]) {
      if (t.startMs - at >= minutes * 60_000 && found.length < most)
        found.push({ startMs: at, endMs: Math.min(t.startMs, end) })
      at = Math.max(at, quarterUp(t.endMs))
    }
  }
  return found
}

const quarterUp = (ms: number): number => Math.ceil(ms / 900_000) * 900_000

/** The free stretch under a point in time, between what surrounds it; null where something stands there. */
export function freeAround(
  items: readonly ClothItem[],
  ms: number,
  bounds: { startMs: number; endMs: number },
): Free | null {
  let { startMs, endMs } = bounds
  for (const i of items.filter(takesTime)) {
    if (startOf(i) <= ms && endOf(i) > ms) return null
    if (endOf(i) <= ms) startMs = Math.max(startMs, endOf(i))
    if (startOf(i) > ms) endMs = Math.min(endMs, startOf(i))
  }
  return endMs > startMs ? { startMs, endMs } : null
}
