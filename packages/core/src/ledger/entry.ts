import { z } from 'zod'

/** Time that a person has spent, as it was when it was written down: what happens to its task later changes nothing. */

/** Of two that tell of the same minute the first in this order counts. */
export const ENTRY_SOURCES = ['hand', 'clock', 'worked', 'attended'] as const
export const EntrySource = z.enum(ENTRY_SOURCES)
export type EntrySource = z.infer<typeof EntrySource>

/** The longest single entry, minutes: a day. */
export const LONGEST_ENTRY = 1440

/** What the time went into. */
export const EntryAbout = z.object({
  /** The item on the Cloth; null for what is none, or none any more. */
  key: z.string().max(80).nullable(),
  uid: z.string().max(500),
  title: z.string().max(500),
  /** The list or calendar it was kept in. */
  list: z.string().max(200),
  category: z.string().max(200),
  kind: z.enum(['task', 'meeting', 'focus', 'travel', 'other']),
  /** Minutes. */
  estimate: z.number().int().min(0).max(5_260_000).nullable(),
  private: z.boolean(),
})
export type EntryAbout = z.infer<typeof EntryAbout>

/** When: from one instant to another, or so many minutes of a day. Epoch ms, whole minutes. */
export type EntryTime = { fromMs: number; toMs: number } | { minutes: number }

export interface TimeEntry {
  id: string
  /** In the person's zone: the day on which it began. */
  day: string
  time: EntryTime
  source: EntrySource
  /** Nobody has said so: it was taken to be as planned. */
  assumed: boolean
  about: EntryAbout
}

const MINUTE = 60_000

/** Minutes as written down; which of them count is another matter. */
export const minutesOf = (time: EntryTime): number =>
  'minutes' in time ? time.minutes : Math.round((time.toMs - time.fromMs) / MINUTE)

/** Whole minutes, at least one, within what an entry may hold; null for less than half a minute, wherever it lies. */
export function wholeMinutes(fromMs: number, toMs: number): { fromMs: number; toMs: number } | null {
  if (toMs - fromMs < MINUTE / 2) return null
  const from = Math.round(fromMs / MINUTE) * MINUTE
  const to = Math.max(Math.round(toMs / MINUTE) * MINUTE, from + MINUTE)
  return { fromMs: from, toMs: Math.min(to, from + LONGEST_ENTRY * MINUTE) }
}
