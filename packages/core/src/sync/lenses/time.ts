import type { Item, Span } from '../../items/items.ts'
import {
  addDays,
  DAY_MINUTES,
  dayOf,
  daysBetween,
  epochOf,
  inZone,
  MINUTE,
  onDate,
  sameWhen,
  toMinute,
  type When,
  zoned,
  zonedAt,
} from '../../time/when.ts'
import type { Rule, Side } from '../model/types.ts'
import { type Facet, type Lens, lens, plainLens, type Put, value } from './lens.ts'

/** The date of a task that a rule goes by, and how long the work takes. */
export interface TaskTime {
  start: When | null
  /** Minutes. */
  estimate: number | null
}

const taskTime = (date: 'start' | 'due'): Facet<TaskTime> => ({
  props: [date, 'estimatedDuration'],
  read: item => ({
    start: item.kind === 'task' ? item[date] : null,
    estimate: item.kind === 'task' ? item.estimatedDuration : null,
  }),
  patch: ({ start }, _, patch) => ({ ...patch, [date]: start }),
})

/** An event's time; of one that is all-day, how long it was and in which zone when it last had an hour. */
interface EventTime extends Span {
  timed?: { minutes: number; zone: string }
}

const timedOf = (time: EventTime | undefined): EventTime['timed'] =>
  time?.timed ??
  (time?.anchor.kind === 'zoned' ? { minutes: time.minutes, zone: time.anchor.zone } : undefined)

const rememberingTime: Facet<EventTime> = {
  props: ['time'],
  read: (item, base) => {
    const time = eventTime.read(item, undefined)
    const timed = time.anchor.kind === 'date' ? timedOf(base) : undefined
    return timed ? { ...time, timed } : time
  },
  same: (x, y) => sameWhen(x.anchor, y.anchor) && x.minutes === y.minutes,
  patch: ({ anchor, minutes }, present, patch) => eventTime.patch({ anchor, minutes }, present, patch),
}

const eventTime: Facet<Span> = {
  props: ['time'],
  read: item => (item.kind === 'event' ? item.time : { anchor: onDate('1970-01-01'), minutes: 0 }),
  patch: (time, _, patch) => ({ ...patch, time }),
}

type TaskDate = 'start' | 'due'
const precisionOf = ({ terms }: Rule, side: Side, date: TaskDate) =>
  date === 'due' ? terms[side].duePrecision : terms[side].precision

/** As many whole days later as there are from one day to another, at the same hour and in the same zone. */
const byDays = (when: When, from: string, to: string): When => {
  const days = daysBetween(from, to)
  return when.kind === 'date'
    ? onDate(addDays(when.date, days))
    : { ...when, local: addDays(when.local.slice(0, 10), days) + when.local.slice(10) }
}

/**
 * Moved by whole days to where `measure` sees it on `day`. The other zone's clocks may change on the way, which near
 * midnight is a day more or less.
 */
function movedTo(when: When, day: string, measure: (when: When) => string): When {
  const moved = byDays(when, measure(when), day)
  const seen = measure(moved)
  return seen === day ? moved : byDays(moved, seen, day)
}

/** A date as a service tells it: in its own zone, to its own precision. */
function inDirection(rule: Rule, side: Side, date: TaskDate): (when: When) => When {
  const { zone } = rule.terms[side]
  const precision = precisionOf(rule, side, date)
  return when => {
    if (precision === 'day') return onDate(dayOf(when, rule.zone))
    const there = zone === null && when.kind === 'zoned' ? when : inZone(when, zone ?? rule.zone, rule.zone)
    return precision === 'minute' ? toMinute(there) : there
  }
}

/**
 * One task's date as another task's date. If both mean the same, the more precise one stays. A side with days only
 * moves the other by whole days.
 */
function taskToTask(
  rule: Rule,
  to: Side,
  date: TaskDate,
): (from: When | null, other: When | null) => When | null {
  const own = to === 'a' ? 'b' : 'a'
  const [there, here] = [inDirection(rule, to, date), inDirection(rule, own, date)]
  const isCoarse = precisionOf(rule, own, date) === 'day'
  return (from, other) => {
    if (from === null) return null
    if (other === null) return there(from)
    if (sameWhen(here(other), from)) return other
    return isCoarse && from.kind === 'date' && other.kind !== 'date'
      ? movedTo(other, from.date, when => dayOf(when, rule.zone))
      : there(from)
  }
}

export function timeLens(rule: Rule): Lens {
  const { kinds, settings } = rule
  if (kinds.a === 'event') return plainLens('time', eventTime)
  const facet = taskTime(settings.date)
  if (kinds.b === 'event') return taskToEvent(rule, facet)
  const [toA, toB] = [taskToTask(rule, 'a', settings.date), taskToTask(rule, 'b', settings.date)]
  const move =
    (to: typeof toA) =>
    (from: TaskTime, other: TaskTime | null): Put<TaskTime> =>
      value({ start: to(from.start, other?.start ?? null), estimate: other?.estimate ?? null })
  return lens<TaskTime, TaskTime>({ field: 'time', a: facet, b: facet, forth: move(toB), back: move(toA) })
}

/** The deadline beside the plan, where both sides are tasks. */
export function dueLens(rule: Rule): Lens {
  const facet: Facet<When | null> = {
    props: ['due'],
    read: (item: Item) => (item.kind === 'task' ? item.due : null),
    patch: (due, _, patch) => ({ ...patch, due }),
  }
  const [toA, toB] = [taskToTask(rule, 'a', 'due'), taskToTask(rule, 'b', 'due')]
  return lens<When | null, When | null>({
    field: 'due',
    a: facet,
    b: facet,
    forth: (a, b) => value(toB(a, b)),
    back: (b, a) => value(toA(b, a)),
  })
}

function taskToEvent(rule: Rule, facet: Facet<TaskTime>): Lens {
  const { zone, settings, terms } = rule
  const atEnd = settings.date === 'due' && settings.dueIs === 'end'
  const later = (when: When, minutes: number): When =>
    when.kind === 'date' || minutes === 0
      ? when
      : zonedAt(epochOf(when, zone) + minutes * MINUTE, when.kind === 'zoned' ? when.zone : zone)
  const isCoarse = precisionOf(rule, 'a', settings.date) === 'day'
  const precise = isCoarse ? ('day' as const) : ('minute' as const)
  const tell = inDirection(
    {
      ...rule,
      terms: {
        ...terms,
        a: { ...terms.a, precision: precise, duePrecision: precise, zone: terms.a.zone ?? zone },
      },
    },
    'a',
    settings.date,
  )
  /** The task's date for an event that stands like this. What is due on a day ends with that day (RFC 5545 §3.8.2.2). */
  const dateOf = (b: Span): When => {
    if (b.anchor.kind === 'date' && settings.date === 'due')
      return onDate(addDays(b.anchor.date, Math.max(0, Math.ceil(b.minutes / DAY_MINUTES) - 1)))
    return tell(atEnd ? later(b.anchor, b.minutes) : b.anchor)
  }
  const hourOn = (date: string): When => zoned(`${date}T${settings.hour}:00`, zone)
  /** An event whose hour is only the rule's own. */
  const atSetHour = (b: Span, date: When): boolean =>
    settings.noHour === 'hour' && date.kind === 'date' && sameWhen(b.anchor, hourOn(date.date))

  return lens<TaskTime, EventTime>({
    field: 'time',
    a: facet,
    b: rememberingTime,
    forth: (a, b, base) => {
      const allDay = b?.anchor.kind === 'date'
      if (a.start === null) return { kind: 'absent', reason: 'no-date' }
      const planned = a.estimate ?? settings.defaultMinutes
      if (a.start.kind === 'date') {
        const stands = b === null ? null : dateOf(b)
        if (b && stands && sameWhen(stands, a.start)) return value(b)
        // A service that only knows days says nothing against the hour, and moves by whole days.
        if (b && stands?.kind === 'date' && (allDay || isCoarse))
          return value({
            ...b,
            anchor: movedTo(b.anchor, a.start.date, anchor => dayOf(dateOf({ ...b, anchor }), zone)),
          })
        if (settings.noHour === 'none') return { kind: 'absent', reason: 'no-hour' }
        if (settings.noHour === 'all-day') {
          const timed = timedOf(b ?? undefined)
          return value({ anchor: a.start, minutes: DAY_MINUTES, ...(timed && { timed }) })
        }
        return value({ anchor: hourOn(a.start.date), minutes: b?.minutes ?? planned })
      }
      const reestimated = base?.a !== undefined && a.estimate !== null && a.estimate !== base.a.estimate
      const kept = allDay ? b.timed?.minutes : b?.minutes
      const minutes = reestimated ? planned : (kept ?? planned)
      if (b && !allDay && sameWhen(dateOf({ ...b, minutes }), a.start))
        return value({ anchor: b.anchor, minutes })
      const home = timedOf(b ?? undefined)?.zone ?? zone
      const start = atEnd ? later(a.start, -minutes) : a.start
      return value({ anchor: b && (!allDay || b.timed) ? inZone(start, home, zone) : start, minutes })
    },
    back: (b, a) => {
      const start = a?.start && atSetHour(b, a.start) ? a.start : dateOf(b)
      return value({ start, estimate: a?.estimate ?? null })
    },
  })
}
