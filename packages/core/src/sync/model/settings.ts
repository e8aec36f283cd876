import { z } from 'zod'
import { Filter } from '../../filter/filter.ts'

/** What a rule says: every choice of a rule, as it is stored, exported and read aloud. */

export const FIELDS = [
  'title',
  'time',
  'completion',
  'notes',
  'due',
  'priority',
  'categories',
  'location',
  'people',
  'link',
] as const
export type Field = (typeof FIELDS)[number]

/** `once`: carried when the counterpart is made, and never again. */
export const Direction = z.enum(['both', 'a-to-b', 'b-to-a', 'once', 'off'])
export type Direction = z.infer<typeof Direction>

const eachSide = <T extends z.ZodType>(of: T) => z.object({ a: of, b: of })

/** What becomes of the counterpart when an item is deleted. */
export const Deleted = z.enum(['again', 'left', 'cancelled', 'completed', 'status', 'undated', 'deleted'])
export type Deleted = z.infer<typeof Deleted>

/** Which items of a side are given a counterpart: those that were there before too, or only later ones. */
export const Made = z.enum(['all', 'new', 'marked', 'nothing'])
export type Made = z.infer<typeof Made>

export const RuleSettings = z.object({
  fields: z.record(z.enum(FIELDS), Direction),
  filter: eachSide(Filter),
  /** Further lists of a side beside the one that new items go to; `all`: every list of its service. */
  also: eachSide(z.array(z.string().max(36)).max(200)),
  all: eachSide(z.boolean()),
  made: eachSide(Made),
  /** For `marked`: only what bears this before its title. */
  madeMark: z.string().trim().min(1).max(8),
  /** What happens to the other side when an item of this side is deleted. */
  deleted: eachSide(Deleted),
  /** For `status`: the other service's own status. */
  deletedStatus: eachSide(z.string().max(200).nullable()),
  /** Nothing on this side is deleted by this rule, whatever happens on the other. */
  neverLoses: eachSide(z.boolean()),
  /** What happens to the other side when an item of this side no longer passes the filter. */
  left: eachSide(z.enum(['release', 'mark', 'remove'])),
  /** What becomes of the event when its task is completed. */
  completed: z.enum(['mark', 'keep', 'end', 'remove']),
  /** Put before an event's title when its task is completed. */
  mark: z.string().trim().min(1).max(8),
  /** Side b's title, made of side a's; `{title}` stands for it. */
  title: z.string().min(1).max(200),
  /** Which date of the task the event stands for. */
  date: z.enum(['start', 'due']),
  /** Whether a deadline with an hour is the event's start or its end. */
  dueIs: z.enum(['start', 'end']),
  /** What a date without an hour becomes: nothing, an all-day event, or an event at `hour`. */
  noHour: z.enum(['none', 'all-day', 'hour']),
  hour: z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/),
  /** Minutes, where the task has no estimate. */
  defaultMinutes: z.number().int().min(15).max(480),
  backDays: z.number().int().min(0).max(365),
  aheadDays: z.number().int().min(1).max(730),
  /** Value by value, 0–9 as in RFC 5545; what is not named stays as it is. */
  priorities: z
    .array(z.object({ a: z.number().int().min(0).max(9), b: z.number().int().min(0).max(9) }))
    .max(20),
  /** What becomes of an event that repeats: it is left where it stands, or paired date by date within the rule's reach. */
  series: z.enum(['left', 'dates']),
  subtasks: z.enum(['own', 'listed', 'out']),
  /** What happens to open sub-tasks when their parent is completed. */
  openSubtasks: z.enum(['left', 'completed']),
  /** What happens to further blocks still ahead when their task is completed. */
  blocksAhead: z.enum(['remove', 'free', 'keep']),
  conflict: z.enum(['newest', 'a', 'b', 'ask']),
  /** Two edits whose times cannot be told apart: this side is kept. */
  fallback: z.enum(['a', 'b']),
  /** Items matched at the first pairing whose fields differ: this side is kept. */
  firstWinner: z.enum(['a', 'b']),
  /** How what this rule makes looks to others. */
  show: z.object({ as: z.enum(['busy', 'free']), class: z.enum(['public', 'private', 'confidential']) }),
  /** Whether the events it makes say in their categories that they are task blocks and may be moved. */
  tellKind: z.boolean(),
  /** What the other side is told of a private event: when it is, and no more; or all that the rule carries. */
  privateItems: z.enum(['busy', 'copied']),
  /** Matches that a person declined, as `mirrorIdOfA mirrorIdOfB`. */
  declined: z.array(z.string()).max(1000),
  /** What a person said is the same work, in the same words. */
  paired: z.array(z.string()).max(1000),
})
export type RuleSettings = z.infer<typeof RuleSettings>

/** Which items a rule reaches: where this changes, what it reaches from now on stood there before. */
export const sameReach = (was: RuleSettings, is: RuleSettings): boolean => {
  const reach = ({ filter, also, all, made, madeMark, backDays, aheadDays, series }: RuleSettings): string =>
    JSON.stringify([filter, also, all, made, madeMark, backDays, aheadDays, series])
  return reach(was) === reach(is)
}

export const defaultSettings: RuleSettings = {
  fields: {
    title: 'both',
    time: 'both',
    completion: 'both',
    notes: 'both',
    due: 'off',
    priority: 'off',
    categories: 'off',
    location: 'off',
    people: 'off',
    link: 'off',
  },
  filter: { a: [], b: [] },
  also: { a: [], b: [] },
  all: { a: false, b: false },
  made: { a: 'all', b: 'new' },
  madeMark: '+',
  deleted: { a: 'deleted', b: 'undated' },
  deletedStatus: { a: null, b: null },
  neverLoses: { a: false, b: false },
  left: { a: 'remove', b: 'release' },
  completed: 'mark',
  mark: '✓',
  title: '{title}',
  date: 'start',
  dueIs: 'end',
  noHour: 'none',
  hour: '09:00',
  defaultMinutes: 30,
  backDays: 30,
  aheadDays: 120,
  priorities: [],
  series: 'left',
  subtasks: 'own',
  openSubtasks: 'left',
  blocksAhead: 'remove',
  conflict: 'newest',
  fallback: 'a',
  firstWinner: 'a',
  show: { as: 'busy', class: 'public' },
  tellKind: false,
  privateItems: 'busy',
  declined: [],
  paired: [],
}

/** Completes settings of an earlier version, or written by hand. Throws a ZodError. */
export function settingsOf(stored: unknown): RuleSettings {
  const given = (typeof stored === 'object' && stored !== null ? stored : {}) as Record<string, unknown>
  const fields: Record<string, unknown> = {
    ...defaultSettings.fields,
    ...(given.fields as object | undefined),
  }
  if (given.notes === false) fields.notes = 'off'
  // A rule of before goes on as it did until somebody looks at what that shows.
  return RuleSettings.parse({ ...defaultSettings, privateItems: 'copied', ...given, fields })
}
