import { z } from 'zod'

/** What a person sets for themselves. */

const Minute = z.number().int().min(0).max(1440)

export const PersonSettings = z.object({
  hours: z
    .object({
      from: Minute,
      to: Minute,
      /** Minutes of work, Monday first. */
      minutes: z.array(z.number().int().min(0).max(1440)).length(7),
      off: z.array(z.iso.date()).max(400),
    })
    .refine(h => h.from < h.to, 'The day ends before it begins.'),
  /** A calendar whose all-day events are days off. */
  holidays: z.string().max(36).nullable(),
  /** ISO weekday. */
  weekStart: z.union([z.literal(1), z.literal(6), z.literal(7)]),
  /** Hours told from 0 to 23, or from 1 to 12 twice. */
  clock: z.enum(['24', '12']),
  /** How this person sees sources: their own name and dye for each. */
  sources: z.record(
    z.string().max(36),
    z.object({
      name: z.string().trim().min(1).max(100).optional(),
      dye: z
        .string()
        .regex(/^#[0-9a-f]{6}$/i)
        .optional(),
    }),
  ),
  /** Where a block or batch goes: our own layer (null), or a calendar. */
  blocksInto: z.string().max(36).nullable(),
  /** What others see of a block in a calendar. */
  blocksBusy: z.boolean(),
  blocksNamed: z.boolean(),
  /** Keys for acts, by the act's name. */
  keys: z.record(z.string().max(40), z.string().min(1).max(20)),
  /** The saved view that opens first. */
  view: z.string().max(36).nullable(),
  dailySummary: z.boolean(),
})
export type PersonSettings = z.infer<typeof PersonSettings>

export const plainSettings: PersonSettings = {
  hours: { from: 480, to: 1080, minutes: [390, 390, 390, 390, 390, 0, 0], off: [] },
  holidays: null,
  weekStart: 1,
  clock: '24',
  sources: {},
  blocksInto: null,
  blocksBusy: true,
  blocksNamed: true,
  keys: {},
  view: null,
  dailySummary: false,
}

/** Settings as an earlier version stored them, made whole. */
export function settingsOfPerson(stored: unknown): PersonSettings {
  const given = (typeof stored === 'object' && stored !== null ? stored : {}) as Record<string, unknown>
  const whole = { ...plainSettings, ...given }
  const parsed = PersonSettings.safeParse(whole)
  return parsed.success ? parsed.data : plainSettings
}
