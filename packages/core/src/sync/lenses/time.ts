import type { Item, Span } from '../../items/items.ts'
import {
  DAY_MINUTES,
  dayOf,
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

const eventTime: Facet<Span> = {
  props: ['time'],
  read: item => (item.kind === 'event' ? item.time : { anchor: onDate('1970-01-01'), minutes: 0 }),
  patch: (time, _, patch) => ({ ...patch, time }),
}

/** A date as a service tells it: in its own zone, to its own precision. */
function inDirection(rule: Rule, side: Side): (when: When) => When {
  const { zone, precision } = rule.terms[side]
  return when => {
    if (precision === 'day') return onDate(dayOf(when, rule.zone))
    const there = zone === null && when.kind === 'zoned' ? when : inZone(when, zone ?? rule.zone, rule.zone)
    return precision === 'minute' ? toMinute(there) : there
  }
}

/** A task's date as another task's date: the more exact one of two that say the same stays as it is. */
function taskToTask(rule: Rule, to: Side): (a: When | null, b: When | null) => When | null {
  const [there, here] = [inDirection(rule, to), inDirection(rule, to === 'a' ? 'b' : 'a')]
  return (from, other) => {
    if (from === null) return null
    return other !== null && sameWhen(here(other), from) ? other : there(from)
  }
}

export function timeLens(rule: Rule): Lens {
  const { kinds, settings } = rule
  if (kinds.a === 'event') return plainLens('time', eventTime)
  const facet = taskTime(settings.date)
  if (kinds.b === 'event') return taskToEvent(rule, facet)
  const [toA, toB] = [taskToTask(rule, 'a'), taskToTask(rule, 'b')]
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
  const [toA, toB] = [taskToTask(rule, 'a'), taskToTask(rule, 'b')]
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
  const precise = terms.a.precision === 'second' ? 'minute' : terms.a.precision
  const tell = inDirection(
    { ...rule, terms: { ...terms, a: { ...terms.a, precision: precise, zone: terms.a.zone ?? zone } } },
    'a',
  )
  /** The task's date for an event that stands like this. */
  const dateOf = (b: Span): When => tell(atEnd ? later(b.anchor, b.minutes) : b.anchor)
  const hourOn = (date: string): When => zoned(`${date}T${settings.hour}:00`, zone)
  /** An event whose hour is only the rule's own. */
  const atSetHour = (b: Span, date: When): boolean =>
    settings.noHour === 'hour' && date.kind === 'date' && sameWhen(b.anchor, hourOn(date.date))

  return lens<TaskTime, Span>({
    field: 'time',
    a: facet,
    b: eventTime,
    forth: (a, b, base) => {
      const allDay = b?.anchor.kind === 'date'
      if (a.start === null) return { kind: 'absent', reason: 'no-date' }
      const planned = a.estimate ?? settings.defaultMinutes
      if (a.start.kind === 'date') {
        // A service that only knows days says nothing against the hour on that day.
        const sameDay = b !== null && sameWhen(dateOf(b), a.start)
        if (b && (allDay || sameDay)) return value(allDay ? { anchor: a.start, minutes: b.minutes } : b)
        if (settings.noHour === 'none') {
          if (terms.a.precision !== 'day' || !b) return { kind: 'absent', reason: 'no-hour' }
          return value({ ...b, anchor: b.anchor.kind === 'date' ? a.start : onDayOf(b.anchor, a.start.date) })
        }
        if (settings.noHour === 'all-day') return value({ anchor: a.start, minutes: DAY_MINUTES })
        return value({ anchor: hourOn(a.start.date), minutes: b?.minutes ?? planned })
      }
      const reestimated = base?.a !== undefined && a.estimate !== null && a.estimate !== base.a.estimate
      const minutes = !b || allDay || reestimated ? planned : b.minutes
      if (b && !allDay && sameWhen(dateOf({ ...b, minutes }), a.start))
        return value({ anchor: b.anchor, minutes })
      const home = b && b.anchor.kind === 'zoned' ? b.anchor.zone : zone
      const start = atEnd ? later(a.start, -minutes) : a.start
      return value({ anchor: b && !allDay ? inZone(start, home, zone) : start, minutes })
    },
    back: (b, a) => {
      const start = a?.start && atSetHour(b, a.start) ? a.start : dateOf(b)
      return value({ start, estimate: a?.estimate ?? null })
    },
  })
}

const onDayOf = (when: Exclude<When, { kind: 'date' }>, date: string): When => ({
  ...when,
  local: `${date}${when.local.slice(10)}`,
})
