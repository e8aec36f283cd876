import { z } from 'zod'
import { Filter } from '../filter/filter.ts'

/** Everything a view of the Cloth says: what is seen, how it is drawn, grouped, sorted. */

export const SPANS = ['day', 'days', 'work-week', 'week', 'month', 'list'] as const
export const ROWS = ['days', 'people', 'sources'] as const
export const GROUPS = ['due', 'list', 'status', 'priority', 'person', 'category', 'none'] as const
export const SORTS = ['pressure', 'due', 'priority', 'estimate', 'title', 'own'] as const
export const PROPERTIES = ['due', 'estimate', 'priority', 'pressure', 'list', 'person', 'place'] as const
/** What the dye of an item tells. */
export const DYED_BY = ['source', 'category', 'person', 'kind'] as const
export type Property = (typeof PROPERTIES)[number]

export const ViewBody = z.object({
  span: z.enum(SPANS),
  /** For `days`. */
  days: z.number().int().min(2).max(14),
  rows: z.enum(ROWS),
  filter: Filter,
  /** Collections that are not shown. */
  hidden: z.array(z.string().max(36)).max(1000),
  group: z.enum(GROUPS),
  /** The order of groups as dragged by hand; groups not named come after. */
  groupOrder: z.array(z.string().max(200)).max(200),
  hiddenGroups: z.array(z.string().max(200)).max(200),
  sort: z.enum(SORTS),
  /** Keys in the order set by hand. */
  order: z.array(z.string().max(80)).max(2000),
  shows: z.array(z.enum(PROPERTIES)).max(PROPERTIES.length),
  done: z.enum(['faded', 'hidden', 'past']),
  /** Whether tasks that have a place stay in sight on the shelf. */
  keepPlaced: z.boolean(),
  /** How wide an hour is drawn: 1 fits the day. */
  zoom: z.union([z.literal(1), z.literal(2), z.literal(4)]),
  secondZone: z.string().max(64).nullable(),
  dyed: z.enum(DYED_BY).default('source'),
})
export type ViewBody = z.infer<typeof ViewBody>

export const plainView: ViewBody = {
  span: 'week',
  days: 3,
  rows: 'days',
  filter: [],
  hidden: [],
  group: 'due',
  groupOrder: [],
  hiddenGroups: [],
  sort: 'pressure',
  order: [],
  shows: ['due', 'estimate', 'priority', 'pressure', 'place'],
  done: 'faded',
  keepPlaced: false,
  zoom: 1,
  secondZone: null,
  dyed: 'source',
}

/** A view as an earlier version stored it, made whole; the plain one for what cannot be read. */
export function viewOf(stored: unknown): ViewBody {
  const given = typeof stored === 'object' && stored !== null ? stored : {}
  const parsed = ViewBody.safeParse({ ...plainView, ...given })
  return parsed.success ? parsed.data : plainView
}

/** The names of what two views say differently. */
export const changedIn = (a: ViewBody, b: ViewBody): (keyof ViewBody)[] =>
  (Object.keys(plainView) as (keyof ViewBody)[]).filter(k => JSON.stringify(a[k]) !== JSON.stringify(b[k]))
