import { z } from 'zod'
import { dayAt } from '../time/when.ts'
import type { ClothItem } from './cloth-item.ts'
import { capacityOn, wallMinutes, type WorkingHours } from './rows.ts'

/** When a person wants to be reminded to plan the day, and to look back upon it. Minutes after midnight; null: never. */

const Minute = z.number().int().min(0).max(1439).nullable()
export const Reminders = z.object({ plan: Minute, review: Minute })
export type Reminders = z.infer<typeof Reminders>
export type Reminder = keyof Reminders
export const noReminders: Reminders = { plan: null, review: null }

/** So long after its hour it still is of use, minutes. */
const LASTS = 180

export interface ReminderTerms {
  me: string
  /** Epoch ms. */
  now: number
  hours: WorkingHours
  /** On which day each was given last, in the person's zone. */
  given: Readonly<Partial<Record<Reminder, string>>>
}

/** Whether its hour has come, on a day with work, and it was not given yet today. */
export function isDue(kind: Reminder, reminders: Reminders, { now, hours, given }: ReminderTerms): boolean {
  const minute = reminders[kind]
  const today = dayAt(now, hours.zone)
  if (minute === null || given[kind] === today || capacityOn(hours, today) === 0) return false
  const at = wallMinutes(now, today, hours.zone)
  return at >= minute && at < minute + LASTS
}

/** Whoever is in a meeting is reminded after it. */
export const isInMeeting = (
  items: readonly ClothItem[],
  { me, now }: Pick<ReminderTerms, 'me' | 'now'>,
): boolean =>
  items.some(
    ({ kind, place, busy, people, done, cancelled, eventKind }) =>
      kind === 'event' &&
      place.kind === 'timed' &&
      place.startMs <= now &&
      now < place.endMs &&
      busy &&
      !done &&
      !cancelled &&
      eventKind !== 'break' &&
      people.includes(me),
  )
