import { z } from 'zod'

/**
 * What a person wants to be reminded of, and how. Leads are minutes before; null: never. Minutes of a day are those
 * after midnight in their zone.
 */

const Minute = z.number().int().min(0).max(1439).nullable()
const MOST_LEAD = 14 * 1440
export const Lead = z.number().int().min(0).max(MOST_LEAD).nullable()
export const Reminders = z.object({
  /** Of the Day page: to plan the day, and to look back on it. */
  plan: Minute,
  review: Minute,
  /** Before what others are in as well, and what has a fixed time. */
  event: Lead.default(null),
  /** Before one's own planned work. */
  block: Lead.default(null),
  /** Before a deadline; one without an hour counts from where the working day begins. */
  due: Lead.default(null),
  /** Before a work window begins. */
  window: Lead.default(null),
  /** The alarms that one's own events have in their calendars, in place of the usual time before. */
  alarms: z.boolean().default(false),
  /** By mail as well. */
  mail: z.boolean().default(false),
  /** Hours in which nothing comes; what is still ahead when they end comes then. They may go over midnight. */
  quiet: z
    .object({ from: z.number().int().min(0).max(1439), to: z.number().int().min(0).max(1439) })
    .nullable()
    .default({ from: 21 * 60, to: 7 * 60 }),
})
export type Reminders = z.infer<typeof Reminders>
export const noReminders: Reminders = Reminders.parse({ plan: null, review: null })

/** Whether anything at all may come of them. */
export const isReminded = (r: Reminders): boolean =>
  r.alarms || [r.plan, r.review, r.event, r.block, r.due, r.window].some(m => m !== null)
