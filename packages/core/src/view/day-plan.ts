import { addDays, dayAt, DAY_MINUTES, epochOf, MINUTE, mondayOf, onDate, zonedAt } from '../time/when.ts'
import { freeSpans } from './clash.ts'
import { type ClothItem, unplacedMinutes } from './cloth-item.ts'
import type { Edit } from './edits/edit.ts'
import { covered } from './load.ts'
import { pressure } from './pressure.ts'
import { capacityOn, type WorkingHours } from './rows.ts'
import { heldByBatches, isPutBy, leftOverFrom } from './shelf.ts'

/** One person's day: what is left over, what is planned, and whether what is left of the day holds it. */

export interface DayTerms {
  /** Whose. */
  me: string
  /** Epoch ms. */
  now: number
  zone: string
  hours: WorkingHours
  defaultMinutes: number
}

/** Where something unfinished goes. Never onto tomorrow. */
export const DESTINATIONS = ['today', 'this week', 'next week', 'no date'] as const
export type Destination = (typeof DESTINATIONS)[number]

export interface Unfinished {
  item: ClothItem
  /** The past day it was planned for; null where it only is due. */
  from: string | null
  proposal: Destination
}

export interface DayPlan {
  /** Due today or overdue on top. */
  unfinished: Unfinished[]
  /** By the hour. */
  fixed: ClothItem[]
  placed: ClothItem[]
  /** For today, without an hour. */
  untimed: ClothItem[]
  /** By what is done of today: its items, and minutes of work planned and worked. */
  done: ClothItem[]
  planned: number
  worked: number
  /** Blocks whose time is over, and of which nobody has said that they were worked. */
  unsaid: ClothItem[]
  left: DayLeft
}

/** Minutes from now to the end of the day. */
export interface DayLeft {
  /** What can still be worked. */
  holds: number
  fixed: number
  placed: number
  untimed: number
  /** More than it holds; 0 where it fits. */
  over: number
  /** Of those without an hour, how many have no estimate. */
  withoutEstimate: number
}

const isTask = ({ kind }: ClothItem): boolean => kind === 'task' || kind === 'tied'
const isMine = ({ people }: ClothItem, { me }: DayTerms): boolean =>
  people.length === 0 || people.includes(me)
const startOf = ({ place }: ClothItem): number => (place.kind === 'timed' ? place.startMs : 0)

export function dayPlan(items: readonly ClothItem[], terms: DayTerms): DayPlan {
  const { now, zone, defaultMinutes } = terms
  const today = dayAt(now, zone)
  const [startMs, endMs] = [today, addDays(today, 1)].map(date => epochOf(onDate(date), zone)) as [
    number,
    number,
  ]
  const held = heldByBatches(items, now)
  const mine = items.filter(i => isMine(i, terms) && !i.leftOut && !i.cancelled)
  const timed = mine
    .filter(
      i => i.place.kind === 'timed' && i.place.startMs < endMs && i.place.endMs > startMs && !i.atDeadline,
    )
    .sort((x, y) => startOf(x) - startOf(y) || (x.key < y.key ? -1 : 1))
  const open = timed.filter(i => !i.done)
  const fixed = open.filter(i => i.kind === 'event')
  const placed = open.filter(i => i.kind !== 'event')
  const untimed = mine.filter(
    i => isTask(i) && !i.done && i.place.kind === 'day' && i.place.date === today && !held.has(i.key),
  )
  const work = timed.filter(i => i.kind !== 'event')
  const unsaid = placed.filter(i => i.kind === 'block' && i.place.kind === 'timed' && i.place.endMs <= now)
  const busy = timed.filter(i => i.busy)
  const holds = workLeft(terms, today, minutesFrom(busy, startMs, now))
  const parts = {
    fixed: minutesFrom(
      fixed.filter(i => i.busy),
      now,
      endMs,
    ),
    placed: minutesFrom([...fixed.filter(i => i.busy), ...placed], now, endMs),
    untimed: untimed.reduce((sum, i) => sum + unplacedMinutes(i, defaultMinutes), 0),
  }
  const left: DayLeft = {
    holds,
    fixed: parts.fixed,
    placed: parts.placed - parts.fixed,
    untimed: parts.untimed,
    over: Math.max(0, parts.placed + parts.untimed - holds),
    withoutEstimate: untimed.filter(i => i.estimate === null).length,
  }
  return {
    unfinished: unfinishedOf(mine, held, today, left, terms),
    fixed,
    placed,
    untimed,
    done: [
      ...timed.filter(i => i.done),
      ...mine.filter(i => i.done && i.place.kind === 'day' && i.place.date === today),
    ],
    planned: minutesFrom(work, startMs, endMs),
    worked: minutesFrom(
      work.filter(i => i.done),
      startMs,
      endMs,
    ),
    unsaid,
    left,
  }
}

/** What of a day's working time is still ahead, less what it was spent on already; on a day off none. */
function workLeft({ now, hours }: DayTerms, today: string, spent: number): number {
  const at = zonedAt(now, hours.zone)
  const local = at.kind === 'zoned' ? at.local : ''
  const minute = Number(local.slice(11, 13)) * 60 + Number(local.slice(14, 16))
  return Math.max(0, Math.min(capacityOn(hours, today) - spent, hours.to - minute))
}

const minutesFrom = (items: readonly ClothItem[], fromMs: number, toMs: number): number =>
  covered(
    items.flatMap(({ place }) =>
      place.kind === 'timed'
        ? [{ from: Math.max(place.startMs, fromMs), to: Math.max(fromMs, Math.min(place.endMs, toMs)) }]
        : [],
    ),
  ) / MINUTE

function unfinishedOf(
  mine: readonly ClothItem[],
  held: ReadonlySet<string>,
  today: string,
  { holds, fixed, placed, untimed }: DayLeft,
  { zone, defaultMinutes, hours }: DayTerms,
): Unfinished[] {
  const found = mine.flatMap((item): Omit<Unfinished, 'proposal'>[] => {
    if (!isTask(item) || item.done || isPutBy(item, today) || held.has(item.key)) return []
    const from = leftOverFrom(item, today, zone)
    const isDue = item.due !== null && item.due <= today
    const isPlanned = item.place.kind !== 'none' && !item.atDeadline && from === null
    // Time that is held for it ahead is an answer as well.
    if (isPlanned || unplacedMinutes(item, defaultMinutes) === 0) return []
    return from !== null || isDue ? [{ item, from }] : []
  })
  const urgent = ({ item }: Omit<Unfinished, 'proposal'>): boolean => item.due !== null && item.due <= today
  found.sort(
    (x, y) =>
      Number(urgent(y)) - Number(urgent(x)) ||
      pressure(y.item, today) - pressure(x.item, today) ||
      (x.item.key < y.item.key ? -1 : 1),
  )
  const isWeekOver = !daysOfWeekAfter(today).some(date => capacityOn(hours, date) > 0)
  let room = holds - fixed - placed - untimed
  return found.map(one => {
    const minutes = unplacedMinutes(one.item, defaultMinutes)
    if (urgent(one) && minutes <= room) {
      room -= minutes
      return { ...one, proposal: 'today' }
    }
    return { ...one, proposal: isWeekOver ? 'next week' : 'this week' }
  })
}

function daysOfWeekAfter(today: string): string[] {
  const until = addDays(mondayOf(today), 6)
  return Array.from({ length: 6 }, (_, n) => addDays(today, n + 1)).filter(date => date <= until)
}

/** @param today in the zone of whoever decides */
export function decided(to: Destination, today: string): Edit {
  switch (to) {
    case 'today':
      return { do: 'place', start: onDate(today) }
    case 'this week':
      return { do: 'any-day', week: mondayOf(today) }
    case 'next week':
      return { do: 'any-day', week: addDays(mondayOf(today), 7) }
    case 'no date':
      return { do: 'unplace' }
  }
}

/** Something of today that goes to another time, so that the day fits. */
export interface Relief {
  item: ClothItem
  startMs: number
}
const SEARCHED_DAYS = 7

export interface WayToFit {
  moves: Relief[]
  /** Minutes that are too much even then. */
  over: number
}

/**
 * One way to make the day fit, or as near to it as what may be moved and finds room brings it: what presses least goes
 * to its next free time.
 * @param items of this day and those after it
 */
export function wayToFit(plan: DayPlan, items: readonly ClothItem[], terms: DayTerms): WayToFit {
  const { now, zone, hours, defaultMinutes } = terms
  const today = dayAt(now, zone)
  const tomorrow = addDays(today, 1)
  const minutesOf = (i: ClothItem): number =>
    i.place.kind === 'timed' ? (i.place.endMs - i.place.startMs) / MINUTE : unplacedMinutes(i, defaultMinutes)
  const candidates = [...plan.untimed, ...plan.placed.filter(i => startOf(i) >= now && i.kind !== 'batch')]
    .filter(i => i.movable && !i.recurring && (i.due === null || i.due > today))
    .sort((x, y) => pressure(x, today) - pressure(y, today) || (x.key < y.key ? -1 : 1))
  const busy = items.filter(i => isMine(i, terms) && i.place.kind === 'timed')
  const from = { ms: epochOf(onDate(tomorrow), zone), date: tomorrow }
  const moves: Relief[] = []
  let over = plan.left.over
  for (const item of candidates) {
    if (over <= 0) break
    const minutes = minutesOf(item)
    if (minutes === 0 || minutes > DAY_MINUTES) continue
    const [free] = freeSpans(busy, hours, from, minutes, SEARCHED_DAYS, 1)
    if (!free || (item.due !== null && dayAt(free.startMs, zone) > item.due)) continue
    const place = { kind: 'timed' as const, startMs: free.startMs, endMs: free.startMs + minutes * MINUTE }
    busy.push({ ...item, place, busy: true, atDeadline: false })
    moves.push({ item, startMs: free.startMs })
    over -= minutes
  }
  return { moves, over: Math.max(0, over) }
}

/** From when on a day is looked back upon: an hour and a half before its work ends. Minutes after midnight. */
export const eveningFrom = ({ to }: WorkingHours): number => Math.max(0, to - 90)
