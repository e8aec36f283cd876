import { addDays, dayAt, daysBetween, epochOf, MINUTE, weekdayOf, zonedAt } from '../time/when.ts'
import type { ClothItem } from './cloth-item.ts'
import { pressure } from './pressure.ts'

/** Lays out a span of days as the Cloth draws it: a row per day, hours from left to right. */

export interface WorkingHours {
  /** Minutes after midnight; what lies outside is drawn as not working time. */
  from: number
  to: number
  /** Minutes of work a day holds, by ISO weekday (index 0 is Monday): breaks are taken off. */
  minutes: readonly number[]
}

export interface WeekOptions {
  from: string
  days: number
  zone: string
  hours: WorkingHours
  defaultMinutes: number
  now: number
}

export interface Block {
  item: ClothItem
  /** Wall-clock minutes after midnight, clipped to the day. */
  from: number
  to: number
  /** Whether it began the day before, or goes on the day after. */
  clipped: { start: boolean; end: boolean }
  lane: number
  /** How many lanes its group of overlapping blocks needs. */
  lanes: number
  /** The minute up to which nothing else lies to its right, for the title of a short block. */
  freeTo: number
}

export interface Load {
  /** Minutes. */
  committed: number
  capacity: number
  /** Tasks of that day counted with the default length. */
  withoutEstimate: number
  /** Half-hours, as threads. */
  threads: { taken: number; free: number; over: number }
}

export interface Row {
  date: string
  working: boolean
  today: boolean
  /** Tasks planned for the day without an hour, and all-day events. */
  head: ClothItem[]
  blocks: Block[]
  load: Load
}

export interface ShelfGroup {
  key: 'overdue' | 'soon' | 'later' | 'none'
  title: string
  items: ShelfItem[]
  minutes: number
}

export interface ShelfItem {
  item: ClothItem
  pressure: number
}

export interface Week {
  rows: Row[]
  shelf: ShelfGroup[]
  /** Minutes after midnight shown by the axis, whole hours. */
  axis: { from: number; to: number }
  /** Where the present moment is, if in these days. */
  now: { date: string; minute: number } | null
}

const DAY = 1440

/** Wall-clock minutes after the midnight that begins `date`; beyond 1440 for a later day. */
function wallMinutes(epochMs: number, date: string, zone: string): number {
  const at = zonedAt(epochMs, zone)
  const local = at.kind === 'zoned' ? at.local : ''
  const minutes = Number(local.slice(11, 13)) * 60 + Number(local.slice(14, 16))
  return daysBetween(date, local.slice(0, 10)) * DAY + minutes
}

type Flat = Omit<Block, 'lane' | 'lanes' | 'freeTo'>

/** Blocks that overlap share the row's height; each goes into the first lane that is free. */
export function intoLanes(flat: readonly Flat[]): Block[] {
  const sorted = [...flat].sort(
    (x, y) => x.from - y.from || y.to - x.to || (x.item.key < y.item.key ? -1 : 1),
  )
  const blocks: Block[] = []
  let group: Block[] = []
  let laneEnds: number[] = []
  const close = (): void => {
    for (const b of group) b.lanes = laneEnds.length
    blocks.push(...group)
    group = []
    laneEnds = []
  }
  for (const b of sorted) {
    if (laneEnds.every(end => end <= b.from)) close()
    // Something without length still takes a moment's place.
    const end = Math.max(b.to, b.from + 1)
    const free = laneEnds.findIndex(e => e <= b.from)
    const lane = free === -1 ? laneEnds.length : free
    laneEnds[lane] = end
    group.push({ ...b, lane, lanes: 1, freeTo: DAY })
  }
  close()
  for (const b of blocks) {
    const share = (x: Block): [number, number] => [x.lane / x.lanes, (x.lane + 1) / x.lanes]
    const [top, bottom] = share(b)
    const right = blocks.filter(x => x !== b && x.from >= b.to && share(x)[0] < bottom && share(x)[1] > top)
    b.freeTo = Math.min(DAY, ...right.map(x => x.from))
  }
  return blocks
}

/** Minutes covered by at least one of the spans. */
export function covered(spans: readonly { from: number; to: number }[]): number {
  let total = 0
  let end = -Infinity
  for (const s of [...spans].sort((x, y) => x.from - y.from)) {
    total += Math.max(0, s.to - Math.max(s.from, end))
    end = Math.max(end, s.to)
  }
  return total
}

function loadOf(
  blocks: readonly Block[],
  head: readonly ClothItem[],
  capacity: number,
  fallback: number,
): Load {
  const planned = head.filter(i => i.kind !== 'event' && !i.done)
  const committed =
    covered(blocks.filter(b => b.item.busy)) + planned.reduce((sum, i) => sum + (i.estimate ?? fallback), 0)
  const holds = Math.round(capacity / 30)
  const needs = Math.round(committed / 30)
  return {
    committed,
    capacity,
    withoutEstimate: planned.filter(i => i.estimate === null).length,
    threads: {
      taken: Math.min(holds, needs),
      free: Math.max(0, holds - needs),
      over: Math.max(0, needs - holds),
    },
  }
}

function onDay(items: readonly ClothItem[], date: string, zone: string): { head: ClothItem[]; flat: Flat[] } {
  const head: ClothItem[] = []
  const flat: Flat[] = []
  const dayStart = epochOf({ kind: 'date', date }, zone)
  const dayEnd = epochOf({ kind: 'date', date: addDays(date, 1) }, zone)
  for (const item of items) {
    const { place } = item
    if (place.kind === 'day' && place.date === date) head.push(item)
    else if (place.kind === 'all-day' && place.from <= date && date < place.to) head.push(item)
    else if (place.kind === 'timed' && place.startMs < dayEnd) {
      if (place.endMs <= dayStart && !(place.startMs === place.endMs && place.startMs === dayStart)) continue
      const clipped = { start: place.startMs < dayStart, end: place.endMs > dayEnd }
      const from = clipped.start ? 0 : wallMinutes(place.startMs, date, zone)
      const to = place.endMs >= dayEnd ? DAY : wallMinutes(place.endMs, date, zone)
      // Clocks going back can put an end before its start on the wall.
      flat.push({ item, from, to: Math.max(to, from), clipped })
    }
  }
  head.sort(
    (x, y) => Number(x.kind !== 'event') - Number(y.kind !== 'event') || Number(x.done) - Number(y.done),
  )
  return { head, flat }
}

function shelve(items: readonly ClothItem[], options: WeekOptions): ShelfGroup[] {
  const today = dayAt(options.now, options.zone)
  const soonEnd = addDays(today, 7)
  const groups: ShelfGroup[] = [
    { key: 'overdue', title: 'Overdue', items: [], minutes: 0 },
    { key: 'soon', title: 'Due within 7 days', items: [], minutes: 0 },
    { key: 'later', title: 'Due later', items: [], minutes: 0 },
    { key: 'none', title: 'No date', items: [], minutes: 0 },
  ]
  for (const item of items) {
    if (item.kind === 'event' || item.done || item.place.kind !== 'none') continue
    const key =
      item.due === null ? 'none' : item.due < today ? 'overdue' : item.due <= soonEnd ? 'soon' : 'later'
    const group = groups.find(g => g.key === key)
    if (!group) continue
    group.items.push({ item, pressure: pressure(item, today) })
    group.minutes += item.estimate ?? options.defaultMinutes
  }
  for (const g of groups)
    g.items.sort((x, y) => y.pressure - x.pressure || x.item.title.localeCompare(y.item.title))
  return groups
}

export function layoutWeek(items: readonly ClothItem[], options: WeekOptions): Week {
  const { from, days, zone, hours, now } = options
  const today = dayAt(now, zone)
  const rows = Array.from({ length: days }, (_, i): Row => {
    const date = addDays(from, i)
    const { head, flat } = onDay(items, date, zone)
    const blocks = intoLanes(flat)
    const capacity = hours.minutes[weekdayOf(date) - 1] ?? 0
    const load = loadOf(blocks, head, capacity, options.defaultMinutes)
    return { date, working: capacity > 0, today: date === today, head, blocks, load }
  })
  const starts = rows.flatMap(r => r.blocks.filter(b => !b.clipped.start).map(b => b.from))
  const ends = rows.flatMap(r => r.blocks.filter(b => !b.clipped.end).map(b => b.to))
  const axis = {
    from: Math.floor(Math.min(hours.from - 60, ...starts) / 60) * 60,
    to: Math.ceil(Math.max(hours.to + 60, ...ends) / 60) * 60,
  }
  const inView = rows.some(r => r.today)
  return {
    rows,
    shelf: shelve(items, options),
    axis: { from: Math.max(0, axis.from), to: Math.min(DAY, axis.to) },
    now: inView ? { date: today, minute: wallMinutes(now, today, zone) } : null,
  }
}

/** The item's length in minutes where it has a place with hours; else what it is thought to take. */
export function lengthOf(item: ClothItem, defaultMinutes: number): number {
  if (item.place.kind === 'timed') return (item.place.endMs - item.place.startMs) / MINUTE
  return item.estimate ?? defaultMinutes
}
