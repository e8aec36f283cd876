import type { EventKind, Making, Repeats, Said, When } from '@loom/core/view'
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
  every: 'never' | Repeats['every']
  guests: string[]
  location: string
  url: string
}
export const planFor = (kept: Kept): Plan => ({
  kind: 'other',
  into: null,
  kept,
  as: 'busy',
  shown: 'public',
  every: 'never',
  guests: [],
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
  { value: 'private' as const, label: 'nobody else' },
]
export const EVERY = [
  { value: 'never' as const, label: 'once' },
  { value: 'daily' as const, label: 'every day' },
  { value: 'weekly' as const, label: 'every week' },
  { value: 'monthly' as const, label: 'every month' },
]

export interface Marked {
  start: When
  minutes: number
}
const DAY_MINUTES = 1440

const repeats = ({ every }: Plan): Repeats | null =>
  every === 'never' ? null : { every, interval: 1, until: null }

/** @param given what keeps it in sight in the view that is looked at */
const saidOf = (plan: Plan, given: Said): Said => ({
  ...given,
  transparency: plan.as === 'free' ? 'transparent' : 'opaque',
  class: plan.shown,
  ...(plan.location.trim() && { location: plan.location.trim() }),
  ...(/^https?:\/\/\S+$/.test(plan.url.trim()) && { url: plan.url.trim() }),
})

export const eventMaking = (title: string, marked: Marked, plan: Plan, given: Said, own: string) =>
  ({
    what: 'event',
    title: title.trim(),
    ...marked,
    kind: plan.kind,
    guests: plan.guests,
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
