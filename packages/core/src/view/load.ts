import type { EventKind } from '../items/own-layer.ts'
import { type ClothItem, unplacedMinutes } from './cloth-item.ts'
import type { Block } from './lanes.ts'

/** How full a row is: committed time against what that person's day holds. */

export interface Load {
  /** Minutes. */
  committed: number
  capacity: number
  /** What the committed minutes are: each minute counts once, for the first of these it belongs to. */
  parts: { meetings: number; travel: number; breaks: number; blocks: number; planned: number }
  /** Tasks of that day counted with the default length. */
  withoutEstimate: number
  /** There is more than this: of some taken time whoever looks knows nothing else. */
  atLeast: boolean
  /** Half-hours, as threads. */
  threads: { taken: number; free: number; over: number }
}

interface Stretch {
  from: number
  to: number
}

/** Minutes covered by at least one of the spans. */
export function covered(spans: readonly Stretch[]): number {
  let total = 0
  let end = -Infinity
  for (const s of [...spans].sort((x, y) => x.from - y.from)) {
    total += Math.max(0, s.to - Math.max(s.from, end))
    end = Math.max(end, s.to)
  }
  return total
}

/** Planned work, in contrast to meetings and appointments. */
export const isWork = (item: ClothItem): boolean => item.kind !== 'event'

export function loadOf(
  blocks: readonly Block[],
  head: readonly ClothItem[],
  capacity: number,
  fallback: number,
): Load {
  const mine = blocks.filter(b => b.item.busy && !b.item.leftOut)
  const all = covered(mine)
  const events = mine.filter(b => !isWork(b.item))
  const of = (...but: EventKind[]): number => covered(events.filter(b => !but.includes(b.item.eventKind)))
  const meetings = of('travel', 'break')
  const travel = of('break') - meetings
  const breaks = of() - meetings - travel
  const tasks = head.filter(i => (i.kind === 'task' || i.kind === 'tied') && !i.done && !i.leftOut)
  // What a batch or blocks hold of a task already is not counted again.
  const inBatches = new Set(mine.flatMap(b => b.item.batch.map(t => t.key)))
  const counted = tasks.filter(i => !inBatches.has(i.key))
  const planned = counted.reduce((sum, i) => sum + unplacedMinutes(i, fallback), 0)
  const committed = all + planned
  const holds = Math.round(capacity / 30)
  const needs = Math.round(committed / 30)
  return {
    committed,
    capacity,
    parts: { meetings, travel, breaks, blocks: all - meetings - travel - breaks, planned },
    withoutEstimate: counted.filter(i => i.estimate === null).length,
    atLeast: mine.some(b => b.item.onlyBusy),
    threads: {
      taken: Math.min(holds, needs),
      free: Math.max(0, holds - needs),
      over: Math.max(0, needs - holds),
    },
  }
}

export interface Movable {
  item: ClothItem
  /** Minutes by which the row is less full without it. */
  frees: number
}

/** Work that could move to another day and would free time, least urgent first: not fixed and not completed. */
export function couldMove(
  blocks: readonly Block[],
  head: readonly ClothItem[],
  pressureOf: (item: ClothItem) => number,
  fallback: number,
): Movable[] {
  const committed = (b: readonly Block[], h: readonly ClothItem[]): number =>
    loadOf(b, h, 0, fallback).committed
  const now = committed(blocks, head)
  const without = (key: string): number =>
    committed(
      blocks.filter(b => b.item.key !== key),
      head.filter(i => i.key !== key),
    )
  const all = new Map([...blocks.map(b => b.item), ...head].map(i => [i.key, i]))
  return [...all.values()]
    .filter(i => isWork(i) && i.movable && !i.done && !i.leftOut)
    .map(item => ({ item, frees: now - without(item.key) }))
    .filter(({ frees }) => frees > 0)
    .sort((x, y) => pressureOf(x.item) - pressureOf(y.item) || (x.item.title < y.item.title ? -1 : 1))
}
