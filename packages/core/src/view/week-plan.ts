import { addDays, dayAt, epochOf, MINUTE, mondayOf, onDate } from '../time/when.ts'
import { freeSpans } from './clash.ts'
import { type ClothItem, unplacedMinutes } from './cloth-item.ts'
import type { DayTerms } from './day-plan.ts'
import { couldMove, type Load } from './load.ts'
import { pressure } from './pressure.ts'
import { capacityOn, hourRows } from './rows.ts'
import { isWay } from './travel.ts'
import { heldByBatches, isPutBy, leftOverFrom, weekOf } from './shelf.ts'

/** One person's week before it begins, or from today on: what is fixed, what is free, what waits, what is too much. */

export interface WeekTerms extends DayTerms {
  /** The Monday. */
  week: string
  /** Lists in which what came in lies until somebody decides. */
  intakes: ReadonlySet<string>
}

export interface WeekDay {
  date: string
  load: Load
  /** Free spans within working hours, minutes each. */
  free: number[]
}

export const WAITING = ['left over', 'put by', 'any day', 'due', 'intake', 'no date'] as const
/** Why it waits for this week to be prepared. */
export type Waiting = (typeof WAITING)[number]

export interface WaitingTask {
  item: ClothItem
  why: Waiting
  minutes: number
  /** The day that has room for it before it is due; null where none has, or where it first is to be decided. */
  proposal: string | null
}

export interface Lighten {
  item: ClothItem
  /** Where it would go. */
  date: string
  /** Epoch ms; null: on that day, without an hour, as it is now. */
  startMs: number | null
}

export interface Overfull {
  date: string
  /** Minutes more than the day holds. */
  over: number
  /** What could go elsewhere, least pressing first. */
  moves: Lighten[]
  /** Minutes that are too much even then. */
  rest: number
}

/** Small tasks of one kind, and the next free span that holds all of them. */
export interface Alike {
  category: string
  tasks: ClothItem[]
  minutes: number
  startMs: number | null
}

export interface WeekPlan {
  /** From today on where the week has begun. */
  days: WeekDay[]
  appointments: ClothItem[]
  waiting: WaitingTask[]
  overfull: Overfull[]
  alike: Alike[]
}

const DUE_WITHIN_DAYS = 13
const SMALL_MINUTES = 30
const LEAST_ALIKE = 3
const MOST_ALIKE_MINUTES = 120
const LEAST_FREE = 15
const MOST_SPANS = 12
const MOST_UNDATED = 20

const isTask = ({ kind }: ClothItem): boolean => kind === 'task' || kind === 'tied'

/** @param items of the week, and open tasks without a time */
export function weekPlan(items: readonly ClothItem[], terms: WeekTerms): WeekPlan {
  const { me, now, zone, hours, defaultMinutes, week } = terms
  const today = dayAt(now, zone)
  const mine = items.filter(
    i => (i.people.length === 0 || i.people.includes(me)) && !i.leftOut && !i.cancelled,
  )
  const dates = Array.from({ length: 7 }, (_, n) => addDays(week, n)).filter(date => date >= today)
  const rows = hourRows(mine, [{ key: me, title: '', hours, contains: () => true }], dates, {
    zone,
    defaultMinutes,
    now,
  })
  const freeOn = (date: string, least: number, busy: readonly ClothItem[] = mine) => {
    const ms = date === today ? now : epochOf(onDate(date), zone)
    return freeSpans(busy, hours, { ms, date }, least, 1, MOST_SPANS)
  }
  const days = rows.map(({ date, load }) => ({
    date,
    load,
    free: freeOn(date, LEAST_FREE).map(f => (f.endMs - f.startMs) / MINUTE),
  }))
  const until = addDays(week, 6)
  const waiting = waitingOf(mine, terms, today, until)
  const alike = alikeOf(waiting, dates, freeOn, defaultMinutes)
  return {
    days,
    appointments: mine
      .filter(
        i =>
          i.kind === 'event' &&
          i.place.kind === 'timed' &&
          i.busy &&
          !i.done &&
          !i.atDeadline &&
          !isWay(i.key),
      )
      .filter(({ place }) => {
        const date = place.kind === 'timed' ? dayAt(place.startMs, zone) : ''
        return date >= (dates[0] ?? '') && date <= until
      })
      .sort((x, y) => startOf(x) - startOf(y) || (x.key < y.key ? -1 : 1)),
    waiting: proposed(waiting, days),
    overfull: overfullOf(rows, days, mine, terms, freeOn),
    alike,
  }
}

const startOf = ({ place }: ClothItem): number => (place.kind === 'timed' ? place.startMs : 0)

function waitingOf(
  mine: readonly ClothItem[],
  { now, zone, defaultMinutes, week, intakes }: WeekTerms,
  today: string,
  until: string,
): WaitingTask[] {
  const held = heldByBatches(mine, now)
  const found = mine.flatMap((item): WaitingTask[] => {
    if (!isTask(item) || item.done || held.has(item.key)) return []
    const leftOver = leftOverFrom(item, today, zone)
    const isPlanned = item.place.kind !== 'none' && !item.atDeadline && leftOver === null
    const minutes = unplacedMinutes(item, defaultMinutes)
    if (isPlanned || minutes === 0) return []
    const why = whyOf(item, { leftOver, today, week, until, intakes })
    return why === null ? [] : [{ item, why, minutes, proposal: null }]
  })
  const rank = (w: WaitingTask): number => WAITING.indexOf(w.why)
  found.sort(
    (x, y) =>
      rank(x) - rank(y) ||
      pressure(y.item, today) - pressure(x.item, today) ||
      (x.item.key < y.item.key ? -1 : 1),
  )
  const undated = new Set(found.filter(w => w.why === 'no date').slice(MOST_UNDATED))
  return found.filter(w => !undated.has(w))
}

function whyOf(
  item: ClothItem,
  terms: {
    leftOver: string | null
    today: string
    week: string
    until: string
    intakes: ReadonlySet<string>
  },
): Waiting | null {
  const { leftOver, today, week, until, intakes } = terms
  if (item.putBy !== null) {
    // It comes back in this week, or has come back already.
    if (item.putBy === '' || item.putBy > until) return null
    return item.putBy >= week || isPutBy(item, today) ? 'put by' : 'any day'
  }
  if (leftOver !== null) return 'left over'
  const meant = weekOf(item, today)
  if (meant !== null && meant > week) return null
  if (meant !== null) return 'any day'
  if (item.due !== null) return item.due <= addDays(week, DUE_WITHIN_DAYS) ? 'due' : null
  return item.sources.some(s => intakes.has(s)) ? 'intake' : 'no date'
}

/** What presses most is given the first day with room for it, before it is due. */
function proposed(waiting: readonly WaitingTask[], days: readonly WeekDay[]): WaitingTask[] {
  const room = days.map(d => ({ date: d.date, minutes: d.load.capacity - d.load.committed }))
  return waiting.map(w => {
    if (w.why === 'intake' || w.why === 'no date') return w
    const { due, putBy } = w.item
    const day = room.find(
      r => r.minutes >= w.minutes && (putBy === null || r.date >= putBy) && (due === null || r.date <= due),
    )
    // What is overdue already is proposed as soon as there is room.
    const late =
      due !== null && !day ? room.find(r => r.minutes >= w.minutes && due < (days[0]?.date ?? '')) : null
    const found = day ?? late
    if (!found) return w
    found.minutes -= w.minutes
    return { ...w, proposal: found.date }
  })
}

type FreeOn = (
  date: string,
  least: number,
  busy?: readonly ClothItem[],
) => { startMs: number; endMs: number }[]

function alikeOf(
  waiting: readonly WaitingTask[],
  dates: readonly string[],
  freeOn: FreeOn,
  defaultMinutes: number,
): Alike[] {
  const by = new Map<string, ClothItem[]>()
  for (const { item, why, minutes } of waiting) {
    const category = item.categories[0] ?? ''
    if (category === '' || minutes > SMALL_MINUTES || why === 'intake' || item.recurring) continue
    by.set(category, [...(by.get(category) ?? []), item])
  }
  return [...by].flatMap(([category, all]): Alike[] => {
    const tasks: ClothItem[] = []
    let minutes = 0
    for (const item of all) {
      const more = unplacedMinutes(item, defaultMinutes)
      if (minutes + more > MOST_ALIKE_MINUTES) continue
      tasks.push(item)
      minutes += more
    }
    if (tasks.length < LEAST_ALIKE) return []
    const due = tasks.map(t => t.due).filter(d => d !== null)
    const last = due.sort()[0] ?? '9999'
    const free = dates.filter(date => date <= last).flatMap(date => freeOn(date, minutes))[0]
    return [{ category, tasks, minutes, startMs: free?.startMs ?? null }]
  })
}

function overfullOf(
  rows: readonly ReturnType<typeof hourRows>[number][],
  days: readonly WeekDay[],
  mine: readonly ClothItem[],
  { now, zone, defaultMinutes }: WeekTerms,
  freeOn: FreeOn,
): Overfull[] {
  const today = dayAt(now, zone)
  const room = new Map(days.map(d => [d.date, d.load.capacity - d.load.committed]))
  const busy = [...mine]
  return rows.flatMap(({ date, blocks, head, load }): Overfull[] => {
    const over = load.committed - load.capacity
    if (over <= 0) return []
    let rest = over
    const moves: Lighten[] = []
    for (const { item, frees } of couldMove(blocks, head, i => pressure(i, today), defaultMinutes)) {
      if (rest <= 0) break
      // What has begun stays.
      if (item.recurring || (item.place.kind === 'timed' && startOf(item) < now)) continue
      const last = item.due ?? '9999'
      // Only another day that has room for it, so that none becomes too full by it.
      const target = days.find(
        d => d.date !== date && d.date >= today && d.date <= last && (room.get(d.date) ?? 0) >= frees,
      )
      if (!target) continue
      const minutes = item.place.kind === 'timed' ? (item.place.endMs - item.place.startMs) / MINUTE : null
      const free = minutes === null ? null : freeOn(target.date, minutes, busy)[0]
      if (free === undefined) continue
      if (free && minutes !== null) {
        const place = {
          kind: 'timed' as const,
          startMs: free.startMs,
          endMs: free.startMs + minutes * MINUTE,
        }
        busy.push({ ...item, place, busy: true, atDeadline: false })
      }
      room.set(target.date, (room.get(target.date) ?? 0) - frees)
      moves.push({ item, date: target.date, startMs: free?.startMs ?? null })
      rest -= frees
    }
    // What is fixed on a day off is no matter of how much the day holds.
    return load.capacity === 0 && moves.length === 0 ? [] : [{ date, over, moves, rest: Math.max(0, rest) }]
  })
}

/** The week that is to be prepared: the present one, or the next where nothing is left of it to work in. */
export function weekToPrepare(now: number, { zone, hours }: Pick<DayTerms, 'zone' | 'hours'>): string {
  const today = dayAt(now, zone)
  const week = mondayOf(today)
  const isLeft = Array.from({ length: 6 }, (_, n) => addDays(today, n + 1)).some(
    date => date <= addDays(week, 6) && capacityOn(hours, date) > 0,
  )
  return isLeft ? week : addDays(week, 7)
}
