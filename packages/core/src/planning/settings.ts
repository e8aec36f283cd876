import { z } from 'zod'
import { Filter } from '../filter/filter.ts'
import { addDays, isKnownZone, mondayOf } from '../time/when.ts'
import { noReminders, Reminders } from '../view/reminders.ts'
import { noTravel, Travel } from '../view/travel.ts'
import { capacityOn, type WorkingHours } from '../view/rows.ts'

/** What a person sets for the planning of their own time: the sentence of a draft, work windows, regulars. */

const Minute = z.number().int().min(0).max(1440)
const Name = z.string().trim().min(1).max(100)
const Id = z.string().min(1).max(36)
const DaySpan = z.object({ start: Minute, end: Minute })

export const PlanWindow = z.object({
  id: Id,
  name: Name,
  start: Minute,
  end: Minute,
  weekdays: z.array(z.number().int().min(1).max(7)).min(1).max(7),
  everyWeeks: z.number().int().min(1).max(52),
  from: z.iso.date(),
  until: z.iso.date().nullable(),
  zone: z.string().max(64).refine(isKnownZone, 'There is no such time zone.'),
  exceptions: z
    .record(z.iso.date(), DaySpan.nullable())
    .refine(e => Object.keys(e).length <= 200, 'That is too many exceptions.'),
  onDaysOff: z.boolean(),
  othersToo: z.boolean(),
  spills: z.boolean(),
  /** What a draft laid there is moved by itself when a day turns out otherwise. */
  keepsUp: z.boolean().default(false),
  /** Which tasks it is for; without a clause, for all. With a saved view: what that passed when it was read last. */
  filter: Filter,
  /** The saved view whose filter it takes, as that is at any time. */
  view: z.string().max(36).nullable().default(null),
})
export type PlanWindow = z.infer<typeof PlanWindow>

export const PlanRegular = z
  .object({
    id: Id,
    name: Name,
    timesAWeek: z.number().int().min(1).max(7),
    shortest: z.number().int().min(5).max(600),
    longest: z.number().int().min(5).max(600),
    within: DaySpan,
    importance: z.number().int().min(0).max(100),
    /** It is rest: no work, once it is in the calendar. */
    isBreak: z.boolean().default(false),
  })
  .refine(r => r.shortest <= r.longest, 'Its shortest length is longer than its longest.')
  .refine(r => r.within.start < r.within.end, 'Its hours end before they begin.')
export type PlanRegular = z.infer<typeof PlanRegular>

export const PLAN_SPANS = ['today', 'week', 'seven', 'fortnight'] as const
export const PlanSentence = z.object({
  /** Whose work: one’s own, everybody’s, or that of a member by their id. */
  whose: z.string().min(1).max(36).default('me'),
  span: z.enum(PLAN_SPANS),
  /** Into all working time, or only into work windows. */
  into: z.enum(['hours', 'windows']),
  /** So many minutes of rest after so many in one go; null without. */
  breaks: z
    .object({ after: z.number().int().min(15).max(480), rest: z.number().int().min(5).max(120) })
    .nullable(),
  /** Minutes that a task without an estimate is given. */
  withoutEstimate: z.number().int().min(5).max(480),
  /** What needs twice as much may be split, into pieces of at least so many minutes; null: nothing is split. */
  parts: z.number().int().min(15).max(480).nullable(),
  /** Tasks that are not due at any time, too. */
  undated: z.boolean(),
  /** Whether time that is planned already may be moved. */
  anew: z.boolean(),
})
export type PlanSentence = z.infer<typeof PlanSentence>
export type PlanSpan = PlanSentence['span']

/** Up to three tasks of a day that matter most. */
const Matters = z.object({ date: z.string().max(10), keys: z.array(z.string().max(80)).max(3) })

/** Which appointments of a week were there when it was prepared last: others are new. */
const Prepared = z.object({ week: z.string().max(10), seen: z.array(z.string().max(80)).max(500) })

/** So many times as long as estimated, by category: what the time report says, where its person wants it counted. */
const Factors = z
  .record(z.string().min(1).max(200), z.number().min(0.5).max(3))
  .refine(f => Object.keys(f).length <= 200, 'That is too many categories.')

export const Planning = z.object({
  factors: Factors,
  prepared: Prepared,
  travel: Travel,
  /** Colleagues who see where an appointment is see the way there as well. */
  showsWays: z.boolean().default(false),
  reminders: Reminders,
  matters: Matters,
  /** Chats are told what this person is at: a meeting, a break, focus. */
  tellsStatus: z.boolean(),
  /** Until then they want to be left alone, epoch ms; null: they do not. */
  focusUntilMs: z.number().int().min(0).nullable(),
  sentence: PlanSentence,
  windows: z.array(PlanWindow).max(40),
  regulars: z.array(PlanRegular).max(40),
})
export type Planning = z.infer<typeof Planning>

export const plainPlanning: Planning = {
  factors: {},
  prepared: { week: '', seen: [] },
  travel: noTravel,
  showsWays: false,
  reminders: noReminders,
  matters: { date: '', keys: [] },
  tellsStatus: false,
  focusUntilMs: null,
  sentence: {
    whose: 'me',
    span: 'week',
    into: 'hours',
    breaks: { after: 90, rest: 10 },
    withoutEstimate: 30,
    parts: 45,
    undated: true,
    anew: false,
  },
  windows: [],
  regulars: [],
}

/** As an earlier version stored it, made whole; what cannot be read of it is as if nothing had been set. */
export function planningOf(stored: unknown): Planning {
  const given = (typeof stored === 'object' && stored !== null ? stored : {}) as Partial<Planning>
  const sentence = PlanSentence.safeParse({ ...plainPlanning.sentence, ...given.sentence })
  const each = <T>(schema: z.ZodType<T>, all: unknown): T[] =>
    (Array.isArray(all) ? all : []).flatMap(one => {
      const read = schema.safeParse(one)
      return read.success ? [read.data] : []
    })
  const matters = Matters.safeParse(given.matters)
  const factors = Factors.safeParse(given.factors)
  const prepared = Prepared.safeParse(given.prepared)
  const travel = Travel.safeParse(given.travel)
  const reminders = Reminders.safeParse(given.reminders)
  return {
    factors: factors.success ? factors.data : plainPlanning.factors,
    prepared: prepared.success ? prepared.data : plainPlanning.prepared,
    travel: travel.success ? travel.data : noTravel,
    showsWays: given.showsWays === true,
    reminders: reminders.success ? reminders.data : noReminders,
    matters: matters.success ? matters.data : plainPlanning.matters,
    tellsStatus: given.tellsStatus === true,
    focusUntilMs: Number.isSafeInteger(given.focusUntilMs) ? (given.focusUntilMs ?? null) : null,
    sentence: sentence.success ? sentence.data : plainPlanning.sentence,
    windows: each(PlanWindow, given.windows),
    regulars: each(PlanRegular, given.regulars),
  }
}

/**
 * How many days a draft is for, today among them. A week is the present one, and the next one as well where nothing is
 * left of the present one to work in.
 * @param today in the zone of whoever works
 */
export function daysOfSpan(span: PlanSpan, today: string, hours: WorkingHours): number {
  if (span !== 'week') return { today: 1, seven: 7, fortnight: 14 }[span]
  const until = addDays(mondayOf(today), 6)
  const left = Array.from({ length: 7 }, (_, n) => addDays(today, n)).filter(date => date <= until)
  return left.length + (left.some(date => capacityOn(hours, date) > 0) ? 0 : 7)
}
