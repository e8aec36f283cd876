import type { Item, Transparency } from '../../items/items.ts'
import type { Rule } from '../model/types.ts'
import { type Facet, type Lens, lens, plainLens, value } from './lens.ts'
import { splitMark, withMark } from './mark.ts'

export type WorkState = 'open' | 'done' | 'cancelled'

export interface TaskCompletion {
  state: WorkState
  /** The service's status while it was last open, for when it is reopened. */
  open: string
}

export interface EventCompletion {
  marked: boolean
  /** Only there when it is. */
  cancelled?: true
  transparency: Transparency
  /** What it was, or is, while the work is open. */
  open: Transparency
}

const stateOf = (item: Item): WorkState =>
  item.status === 'completed' ? 'done' : item.status === 'cancelled' ? 'cancelled' : 'open'

const taskFacet: Facet<TaskCompletion> = {
  props: ['status'],
  read: (item, base) => {
    const state = stateOf(item)
    const known = (typeof base === 'object' && base.open) || ''
    return { state, open: item.kind === 'task' && state === 'open' ? item.serviceStatus : known }
  },
  // Ties of earlier versions remember only whether it was done.
  same: (x, y) => stateIn(x) === stateIn(y),
  patch: ({ state, open }, present, patch) => {
    const status = state === 'done' ? 'completed' : state === 'cancelled' ? 'cancelled' : 'needs-action'
    if (present && stateOf(present) === state) return patch
    return { ...patch, status, ...(state === 'open' && open && { serviceStatus: open }) }
  },
}

const stateIn = (raw: unknown): WorkState =>
  typeof raw === 'boolean' ? (raw ? 'done' : 'open') : (raw as TaskCompletion).state

const eventState = (b: EventCompletion): WorkState => (b.marked ? 'done' : b.cancelled ? 'cancelled' : 'open')

const eventFacet = (mark: string): Facet<EventCompletion> => ({
  props: ['summary', 'status'],
  read: (item, base) => {
    const { marked } = splitMark(item.summary, mark)
    const transparency = item.kind === 'event' ? item.transparency : 'opaque'
    const cancelled = item.status === 'cancelled'
    const open = marked || cancelled ? (base?.open ?? 'opaque') : transparency
    return { marked, ...(cancelled && { cancelled }), transparency, open }
  },
  same: (x, y) => eventState(x) === eventState(y),
  patch: (b, present, patch) => {
    const { title, marked } = splitMark(patch.summary ?? present?.summary ?? '', mark)
    const was = present?.kind === 'event' && present.status === 'cancelled'
    return {
      ...patch,
      ...(marked !== b.marked || 'summary' in patch ? { summary: withMark(title, b.marked, mark) } : {}),
      transparency: b.transparency,
      ...(was !== (b.cancelled === true) && { eventStatus: b.cancelled ? 'cancelled' : 'confirmed' }),
    }
  },
  tidy: (b, base) =>
    eventState(b) === eventState(base)
      ? b
      : { ...b, open: base.open, transparency: eventState(b) === 'open' ? base.open : 'transparent' },
})

const eventOnly: Facet<Item['status']> = {
  props: ['status'],
  read: item => item.status,
  patch: (status, _, patch) => ({
    ...patch,
    eventStatus: status === 'cancelled' ? 'cancelled' : 'confirmed',
  }),
}

/** Completion, and being called off; how an event shows it is for the rule to say. */
export function completionLens(rule: Rule): Lens {
  const { kinds, settings } = rule
  if (kinds.a === 'event') return plainLens('completion', eventOnly)
  if (kinds.b === 'task')
    return lens<TaskCompletion, TaskCompletion>({
      field: 'completion',
      a: taskFacet,
      b: taskFacet,
      forth: (a, b) => value({ state: stateIn(a), open: b?.open ?? '' }),
      back: (b, a) => value({ state: stateIn(b), open: a?.open ?? '' }),
    })
  return lens<TaskCompletion, EventCompletion>({
    field: 'completion',
    a: taskFacet,
    b: eventFacet(settings.mark),
    forth: (a, b) => {
      const state = stateIn(a)
      const open = b?.open ?? (settings.show.as === 'free' ? 'transparent' : 'opaque')
      if (b && eventState(b) === state) return value(b)
      // Where the event is to stay as it is, nothing of the task's being done shows in it.
      if (state === 'done' && settings.completed !== 'mark')
        return value(b ?? { marked: false, transparency: open, open })
      const shown = state === 'open' ? open : 'transparent'
      return value({
        marked: state === 'done',
        ...(state === 'cancelled' && { cancelled: true as const }),
        transparency: shown,
        open,
      })
    },
    back: (b, a) => value({ state: eventState(b), open: a && typeof a === 'object' ? a.open : '' }),
  })
}
