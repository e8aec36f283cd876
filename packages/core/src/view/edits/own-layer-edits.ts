import { kindMarkOf, withMarks } from '../../items/kind-marks.ts'
import type { EventKind } from '../../items/own-layer.ts'
import { canBeFreed, type ClothItem, MARKED_FIXED } from '../cloth-item.ts'
import type { Edit } from './edit.ts'
import { type Deciders, does, type EditPlan, refuse, type Shows, type Subject } from './edit-plan.ts'

/** Edits of our own layer: left out by whom, block worked or not, movable or not, and kind. */

type Fix = Extract<Edit, { do: 'fix' }>
type Kind = Extract<Edit, { do: 'kind' }>

/** Kept by us, and said in its categories, so that colleagues who look in the calendar itself see it too. */
function fix({ item, event }: Subject, { movable, categories }: Fix): EditPlan {
  if (!event || !canBeFreed(event)) return refuse(item.fixedBecause ?? 'It cannot be changed.')
  const present = event.item.categories
  return does(
    { do: 'fix', movable: event.own?.movable ?? null, categories: present },
    {
      own: { mirrorId: event.id, layer: { movable } },
      write: { mirrorId: event.id, patch: { categories: categories ?? withMarks(present, { movable }) } },
    },
  )
}

function setKind({ item, event }: Subject, { kind, categories }: Kind): EditPlan {
  if (!event || item.kind !== 'event') return refuse('Only an event has a kind.')
  const own = { mirrorId: event.id, layer: { eventKind: kind } }
  const before: Edit = { do: 'kind', kind: event.own?.eventKind ?? null }
  if (!canBeFreed(event)) return does(before, { own })
  const present = event.item.categories
  return does(
    { ...before, categories: present },
    {
      own,
      write: {
        mirrorId: event.id,
        patch: { categories: categories ?? withMarks(present, { kind: markOf(kind) }) },
      },
    },
  )
}

const markOf = (kind: EventKind | null): EventKind | null => (kind === 'other' ? null : kind)

export const decideOwnLayer = {
  'leave-out': (_, { out }) => does({ do: 'leave-out', out: !out }, { leftOut: out }),
  spend({ item, event }, { spent }) {
    if (!event || item.kind !== 'block') return refuse('Only a block of a task can be marked as worked.')
    return does({ do: 'spend', spent: !spent }, { own: { mirrorId: event.id, layer: { spent } } })
  },
  fix,
  kind: setKind,
  'keep-private'({ task, event }, { private: isPrivate }) {
    const side = task ?? event
    if (!side) return refuse('It is no longer there.')
    const layer = { private: isPrivate }
    return does({ do: 'keep-private', private: !isPrivate }, { own: { mirrorId: side.id, layer } })
  },
} satisfies Partial<Deciders>

export const showOwnLayer = {
  'leave-out': (item, { out }) => ({ ...item, leftOut: out }),
  spend: (item, { spent }) => ({ ...item, done: spent }),
  'keep-private': item => item,
  fix(item, { movable, categories }) {
    // What takes it back says how it was, and not which of the two it is then.
    const moves = movable ?? !item.movable
    return {
      ...item,
      movable: moves,
      fixedBecause: moves ? null : MARKED_FIXED,
      ...(!hasTask(item) && { categories: categories ?? withMarks(item.categories, { movable }) }),
    }
  },
  kind: (item, { kind, categories = withMarks(item.categories, { kind: markOf(kind) }) }) => ({
    ...item,
    eventKind: kind ?? kindMarkOf(categories) ?? 'other',
    categories,
  }),
} satisfies Partial<Shows>

/** The categories of tied work are the task's; the marks stand in the event's. */
const hasTask = (item: ClothItem): boolean => item.kind === 'task' || item.kind === 'tied'
