import {
  addressesIn,
  daysBetween,
  type EventKind,
  type Making,
  onDate,
  type Repeats,
  type Said,
  wallTime,
  type When,
  zoned,
} from '@loom/core/view'
import { clockOf } from '../../../ui/typed-hours.ts'
import type { Kept } from './further-time.ts'

/** What can be said of time that was marked out, and what is made of it then. */

export interface Plan {
  kind: EventKind
  /** A calendar; null: our own layer. */
  into: string | null
  /** Further time for a task. */
  kept: Kept
  as: 'busy' | 'free'
  shown: 'public' | 'private'
  every: Every
  /** The last day of what repeats; empty: without end. */
  until: string
  /** Members of the team. */
  guests: string[]
  /** Others, by their addresses, as they were typed. */
  others: string
  location: string
  url: string
}
export const planFor = (kept: Kept): Plan => ({
  kind: 'other',
  into: null,
  kept,
  as: 'busy',
  shown: 'public',
  every: 'once',
  until: '',
  guests: [],
  others: '',
  location: '',
  url: '',
})

export const KINDS: { value: EventKind; label: string }[] = [
  { value: 'other', label: 'an event' },
  { value: 'meeting', label: 'a meeting' },
  { value: 'focus', label: 'time to focus' },
  { value: 'break', label: 'a break' },
  { value: 'travel', label: 'travel' },
]
export const AS = [
  { value: 'busy' as const, label: 'busy' },
  { value: 'free' as const, label: 'free' },
]
export const SHOWN = [
  { value: 'public' as const, label: 'everybody' },
  { value: 'private' as const, label: 'private' },
]
/** Interval 0: it does not repeat. */
const PACES = {
  once: { every: 'daily', interval: 0 },
  'every day': { every: 'daily', interval: 1 },
  'every workday': { every: 'workdays', interval: 1 },
  'every week': { every: 'weekly', interval: 1 },
  'every second week': { every: 'weekly', interval: 2 },
  'every month': { every: 'monthly', interval: 1 },
  'every third month': { every: 'monthly', interval: 3 },
  'every year': { every: 'yearly', interval: 1 },
} as const satisfies Record<string, Pick<Repeats, 'every' | 'interval'>>
export type Every = keyof typeof PACES
export const EVERY = (Object.keys(PACES) as Every[]).map(value => ({ value, label: value }))

export interface Marked {
  start: When
  minutes: number
}
const DAY_MINUTES = 1440

/** The time as typed: `from` and `to` of one day, or whole days up to and with `last`. */
export interface Written {
  allDay: boolean
  date: string
  last: string
  from: string
  to: string
}

const minuteOf = (text: string): number | null => {
  const clock = clockOf(text)
  return clock === null ? null : Number(clock.slice(0, 2)) * 60 + Number(clock.slice(3))
}

/** Minutes after midnight; midnight as an end is that of the day. */
export function hoursIn({ from, to }: Written): { from: number; to: number } | null {
  const [begin, end] = [minuteOf(from), minuteOf(to)]
  return begin === null || end === null ? null : { from: begin, to: end || DAY_MINUTES }
}

/** Null where it is no span. */
export function markedIn(written: Written, zone: string): Marked | null {
  const { allDay, date, last } = written
  if (!date) return null
  if (allDay) {
    const days = daysBetween(date, last || date) + 1
    return days > 0 ? { start: onDate(date), minutes: days * DAY_MINUTES } : null
  }
  const hours = hoursIn(written)
  if (!hours || hours.to - hours.from < 5) return null
  return { start: zoned(`${date}T${wallTime(hours.from)}:00`, zone), minutes: hours.to - hours.from }
}

const repeats = ({ every, until }: Plan): Repeats | null =>
  every === 'once' ? null : { ...PACES[every], until: until || null }

/** What keeps it from being made, in words. */
export function troubleIn(
  { url, every, until, others }: Plan,
  { date }: Written,
  marked: Marked | null,
): string | null {
  if (!marked) return 'It would end before it begins, or a time of it cannot be read.'
  if (url.trim() && !isLink(url)) return 'A call link begins with https:// and has no spaces.'
  const [unclear] = addressesIn(others).unclear
  if (unclear) return `“${unclear}” is no mail address.`
  if (every !== 'once' && until && until < date) return 'The last time would be before the first.'
  return null
}
const isLink = (url: string): boolean => /^https?:\/\/\S+$/.test(url.trim())

/** @param given what keeps it in sight in the view that is looked at */
const saidOf = (plan: Plan, given: Said): Said => ({
  ...given,
  transparency: plan.as === 'free' ? 'transparent' : 'opaque',
  class: plan.shown,
  ...(plan.location.trim() && { location: plan.location.trim() }),
  ...(isLink(plan.url) && { url: plan.url.trim() }),
})

export const eventMaking = (title: string, marked: Marked, plan: Plan, given: Said, own: string) =>
  ({
    what: 'event',
    title: title.trim(),
    ...marked,
    kind: plan.kind,
    guests: [...plan.guests, ...addressesIn(plan.others).guests.map(g => g.email)],
    repeats: repeats(plan),
    into: plan.into || own,
    said: saidOf(plan, given),
  }) satisfies Making

export const batchMaking = (title: string, { start, minutes }: Marked, plan: Plan, given: Said) =>
  ({
    what: 'batch',
    title: title.trim(),
    tasks: [],
    start,
    minutes: Math.min(minutes, DAY_MINUTES),
    repeats: repeats(plan),
    into: plan.into,
    said: saidOf(plan, given),
  }) satisfies Making
