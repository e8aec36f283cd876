import { z } from 'zod'
import { When } from '../time/when.ts'

/**
 * What Amber Loom keeps on an item because its service cannot hold it. It survives every round trip, and no
 * service ever sees it.
 */
export const EventKind = z.enum(['meeting', 'task block', 'batch', 'focus', 'break', 'travel', 'other'])
export type EventKind = z.infer<typeof EventKind>

export const OwnLayer = z.object({
  /** Minutes. */
  estimate: z.number().int().min(5).max(100_000).nullable(),
  /** The planned time of a task whose service has no room for one, or takes none from us. */
  plan: When.nullable(),
  /** How long that takes, minutes; null: as long as the task is thought to take. */
  planMinutes: z.number().int().min(5).max(100_000).nullable(),
  /** Any day of the week that begins on this Monday. */
  week: z.iso.date().nullable(),
  /** Out of sight until this day; '' without a date. */
  putBy: z.union([z.iso.date(), z.literal('')]).nullable(),
  /** The time of a block is spent: it counts as done work, whatever its task says. */
  spent: z.boolean(),
  /** Whether a person marked the event movable or fixed; null without a mark. */
  movable: z.boolean().nullable(),
  eventKind: EventKind.nullable(),
  /** Others see only that the time is taken. */
  private: z.boolean(),
  /** How often the day or week that a task was planned for ended without it. */
  slips: z.number().int().min(0).max(1_000_000),
})
export type OwnLayer = z.infer<typeof OwnLayer>

export const noOwnLayer: OwnLayer = {
  estimate: null,
  plan: null,
  planMinutes: null,
  week: null,
  putBy: null,
  spent: false,
  movable: null,
  eventKind: null,
  private: false,
  slips: 0,
}
