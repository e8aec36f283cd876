import { addDays, dayAt, daysBetween, epochOf, weekdayOf, zonedAt } from '../time/when.ts'
import type { ClothItem } from './cloth-item.ts'
import { type Block, type FlatBlock, intoLanes } from './lanes.ts'
import { type Load, loadOf } from './load.ts'

/**
 * Lays items out as the Cloth draws them. Time runs left to right: each row shows the hours of one day, or days as
 * cells. A row stands for a day, a person or a source.
 */

export interface WorkingHours {
  /** Minutes after midnight; what lies outside is drawn as not working time. */
  from: number
  to: number
  /** Minutes of work a day holds, by ISO weekday (index 0 is Monday): breaks are taken off. */
  minutes: readonly number[]
  /** Days without work, beside those that hold none. */
  off: readonly string[]
  /** In which the hours are told. */
  zone: string
}

/** What belongs in a row, and whose time it is. */
export interface RowOf {
  key: string
  title: string
  hours: WorkingHours
  contains: (item: ClothItem) => boolean
  /** What of it takes that person's time; everything where it is left out. */
  counts?: (item: ClothItem) => boolean
}

export interface LayoutOptions {
  /** The viewer's. */
  zone: string
  defaultMinutes: number
  now: number
}

export interface HourRow {
  key: string
  title: string
  date: string
  working: boolean
  today: boolean
  /** Wall-clock minutes of the viewer in which there is work; none on days off. */
  hours: { from: number; to: number } | null
  /** Tasks planned for the day without an hour, and all-day events. */
  head: ClothItem[]
  blocks: Block[]
  /** Open tasks that are due on the day, wherever they are planned. */
  dues: ClothItem[]
  /** Where on its axis those are due that have an hour for it. */
  dueMarks: { item: ClothItem; minute: number }[]
  load: Load
  /** Whether an item counts in that load: a row of a day shows everybody's and counts one person's. */
  counts: (item: ClothItem) => boolean
}

export interface DayCell {
  date: string
  working: boolean
  today: boolean
  /** All-day events, then what has an hour in the order of the day, then tasks without one. */
  entries: ClothItem[]
  load: Load
}

/** What lies on several days, over the cells of all of them. */
export interface Bar {
  item: ClothItem
  /** Columns: the first, and the one after the last. */
  from: number
  to: number
  /** Whether it began before the first cell, or goes on after the last. */
  clipped: { start: boolean; end: boolean }
  /** Counted from the top; bars that share a day have different ones. */
  lane: number
}

export interface CellRow {
  key: string
  title: string
  bars: Bar[]
  cells: DayCell[]
}

/** Which of its days a date is, of something that lies on several; null for all else. */
export function dayOfSeveral({ place }: ClothItem, date: string): { day: number; of: number } | null {
  if (place.kind !== 'all-day') return null
  const of = daysBetween(place.from, place.to)
  return of > 1 ? { day: daysBetween(place.from, date) + 1, of } : null
}

function barsOf(items: readonly ClothItem[], dates: readonly string[]): Bar[] {
  const [first, last] = [dates[0], dates.at(-1)]
  if (first === undefined || last === undefined) return []
  const flat = items.flatMap((item): FlatBlock[] => {
    const { place } = item
    if (place.kind !== 'all-day' || place.to <= first || place.from > last) return []
    if (daysBetween(place.from, place.to) < 2) return []
    // Days that are left out, such as weekends, leave no gap: a bar runs over what is shown of its days.
    const from = dates.findIndex(d => d >= place.from)
    const to = dates.findLastIndex(d => d < place.to) + 1
    const clipped = { start: place.from < first, end: place.to > addDays(last, 1) }
    return from < to ? [{ item, from, to, clipped }] : []
  })
  return intoLanes(flat).map(({ item, from, to, clipped, lane }) => ({ item, from, to, clipped, lane }))
}

const DAY = 1440

/** Wall-clock minutes after the midnight that begins `date`; beyond 1440 for a later day. */
export function wallMinutes(epochMs: number, date: string, zone: string): number {
  const at = zonedAt(epochMs, zone)
  const local = at.kind === 'zoned' ? at.local : ''
  const minutes = Number(local.slice(11, 13)) * 60 + Number(local.slice(14, 16))
  return daysBetween(date, local.slice(0, 10)) * DAY + minutes
}

interface OnDay {
  head: ClothItem[]
  flat: FlatBlock[]
}

function onDay(items: readonly ClothItem[], date: string, zone: string): OnDay {
  const head: ClothItem[] = []
  const flat: FlatBlock[] = []
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
  // What a batch of the day holds is listed in it.
  const listed = new Set(flat.flatMap(b => b.item.batch.map(t => t.key)))
  const shown = listed.size > 0 ? head.filter(i => i.place.kind !== 'day' || !listed.has(i.key)) : head
  shown.sort(
    (x, y) => Number(x.kind !== 'event') - Number(y.kind !== 'event') || Number(x.done) - Number(y.done),
  )
  return { head: shown, flat }
}

/** The working minutes of a day. */
export const capacityOn = (hours: WorkingHours, date: string): number =>
  hours.off.includes(date) ? 0 : (hours.minutes[weekdayOf(date) - 1] ?? 0)

/** Working hours of a day on the viewer's clock; they may begin before midnight there. */
function hoursOn(hours: WorkingHours, date: string, zone: string): { from: number; to: number } | null {
  if (capacityOn(hours, date) === 0) return null
  if (hours.zone === zone) return { from: hours.from, to: hours.to }
  const at = (minute: number): number => {
    const time = `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`
    const local = minute >= DAY ? `${addDays(date, 1)}T00:00:00` : `${date}T${time}:00`
    return wallMinutes(epochOf({ kind: 'zoned', local, zone: hours.zone }, hours.zone), date, zone)
  }
  return { from: at(hours.from), to: at(hours.to) }
}

function loadOfRow(
  { counts }: RowOf,
  blocks: readonly Block[],
  head: readonly ClothItem[],
  capacity: number,
  options: LayoutOptions,
): Load {
  if (!counts) return loadOf(blocks, head, capacity, options.defaultMinutes)
  const mine = blocks.filter(b => counts(b.item))
  return loadOf(mine, head.filter(counts), capacity, options.defaultMinutes)
}

/** One row for each of `rows` on each of `dates`, hours from left to right. */
const everything = (): boolean => true

export function hourRows(
  items: readonly ClothItem[],
  rows: readonly RowOf[],
  dates: readonly string[],
  options: LayoutOptions,
): HourRow[] {
  const today = dayAt(options.now, options.zone)
  return dates.flatMap(date =>
    rows.map((row): HourRow => {
      const { head, flat } = onDay(items.filter(row.contains), date, options.zone)
      const blocks = intoLanes(flat)
      const capacity = capacityOn(row.hours, date)
      const dues = items.filter(i => i.due === date && !i.done && i.kind !== 'block' && row.contains(i))
      return {
        key: `${row.key} ${date}`,
        title: row.title,
        date,
        working: capacity > 0,
        today: date === today,
        hours: hoursOn(row.hours, date, options.zone),
        head,
        blocks,
        dues,
        dueMarks: dues.flatMap(item =>
          item.dueAt === null ? [] : [{ item, minute: wallMinutes(item.dueAt, date, options.zone) }],
        ),
        load: loadOfRow(row, blocks, head, capacity, options),
        counts: row.counts ?? everything,
      }
    }),
  )
}

/** Beyond these, minutes before and after usual hours, an item is listed at the head of its row instead. */
const EARLIEST = 180
const LATEST = 240
const GOES_ON = 120

/**
 * The hours that an axis shows, in minutes, as whole hours: the usual ones and those near them. A single entry at
 * midnight does not shrink all others.
 */
export function axisOf(
  rows: readonly HourRow[],
  usual: { from: number; to: number },
): { from: number; to: number } {
  const blocks = rows.flatMap(r => r.blocks)
  const [first, last] = [usual.from - EARLIEST, usual.to + LATEST]
  const starts = blocks.filter(b => !b.clipped.start && b.from >= first).map(b => b.from)
  // What begins within it is shown to its end, if that is not far.
  const ends = blocks.filter(b => !b.clipped.end && b.from < last && b.to <= last + GOES_ON).map(b => b.to)
  const from = Math.floor(Math.min(usual.from - 60, ...starts) / 60) * 60
  const to = Math.ceil(Math.max(usual.to + 60, ...ends) / 60) * 60
  return { from: Math.max(0, from), to: Math.min(DAY, to) }
}

/** Whether a block can be seen on the axis at all. */
export const isOnAxis = (b: Block, axis: { from: number; to: number }): boolean =>
  Math.max(b.to, b.from + 1) > axis.from && b.from < axis.to

/** Where the present moment is on the axis of a date, if it is in it. */
export function nowOn(date: string, options: LayoutOptions): number | null {
  return dayAt(options.now, options.zone) === date ? wallMinutes(options.now, date, options.zone) : null
}

/**
 * When somebody is free next on a day, within their hours, in minutes of the viewer's day; null if not any more.
 * @param now minute of that day
 * @param least so long it is free at a stretch
 */
export function freeNext(
  { hours, blocks }: Pick<HourRow, 'hours' | 'blocks'>,
  now: number,
  least = 15,
): { from: number; to: number } | null {
  if (!hours) return null
  let from = Math.max(now, hours.from)
  const taken = blocks.filter(b => b.item.busy && !b.item.done).sort((x, y) => x.from - y.from)
  for (const block of taken) {
    if (block.to <= from) continue
    if (block.from - from >= least) break
    from = block.to
  }
  const next = taken.find(b => b.from >= from)
  const to = Math.min(hours.to, next?.from ?? hours.to)
  return to - from >= least ? { from, to } : null
}

/** Days from left to right: a row for each of `rows`, or for each week. */
export function cellRows(
  items: readonly ClothItem[],
  rows: readonly RowOf[],
  dates: readonly string[],
  options: LayoutOptions,
): CellRow[] {
  const today = dayAt(options.now, options.zone)
  return rows.map(row => {
    const own = items.filter(row.contains)
    return {
      key: row.key,
      title: row.title,
      bars: barsOf(own, dates),
      cells: dates.map((date): DayCell => {
        const { head, flat } = onDay(own, date, options.zone)
        const blocks = intoLanes(flat)
        const capacity = capacityOn(row.hours, date)
        const events = head.filter(i => i.kind === 'event')
        return {
          date,
          working: capacity > 0,
          today: date === today,
          entries: [...events, ...blocks.map(b => b.item), ...head.filter(i => i.kind !== 'event')],
          load: loadOfRow(row, blocks, head, capacity, options),
        }
      }),
    }
  })
}

/** The weeks of a month as rows of seven days, from the week of its first day to that of its last. */
export function weeksOfMonth(month: string, firstWeekday: number): string[][] {
  const first = `${month}-01`
  const start = addDays(first, -((weekdayOf(first) - firstWeekday + 7) % 7))
  const weeks: string[][] = []
  for (let from = start; from.slice(0, 7) <= month; from = addDays(from, 7))
    weeks.push(Array.from({ length: 7 }, (_, i) => addDays(from, i)))
  return weeks
}
