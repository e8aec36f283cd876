import { isOverdue, statusFacts } from '../item-facts.ts'
import { roundOf } from '../../sync/model/rounds.ts'
import type { TaskStatus } from '../../items/items.ts'
import type { ClothItem } from '../cloth-item.ts'
import type { Edit } from './edit.ts'
import {
  type Deciders,
  does,
  type EditPlan,
  type EditViewer,
  refuse,
  type Shows,
  type Subject,
} from './edit-plan.ts'

/** Completing, reopening and cancelling. */

function setStatus({ item, task }: Subject, what: 'complete' | 'reopen' | 'cancel'): EditPlan {
  if (!task) return refuse('An event has nothing to complete.')
  if (!item.completable) return refuse('Its list can only be read.')
  const before = task.item.status
  const status = { complete: 'completed', reopen: 'needs-action', cancel: 'cancelled' } as const
  if (what === 'cancel' && task.unsupported?.has('status:cancelled'))
    return refuse('Its service cannot cancel tasks. Exclude it from your plan, put it by, or delete it.')
  const inverse: Edit =
    before === 'completed' ? { do: 'complete' } : before === 'cancelled' ? { do: 'cancel' } : { do: 'reopen' }
  // Its service is in the next round by then.
  const forGood = what === 'complete' && roundOf(task.item) !== null
  const changed = forGood ? null : before === status[what] ? ({ do: what } as Edit) : inverse
  return does(changed, { write: { mirrorId: task.id, patch: { status: status[what] } } })
}

export const decideStatus = {
  complete: s => setStatus(s, 'complete'),
  reopen: s => setStatus(s, 'reopen'),
  cancel: s => setStatus(s, 'cancel'),
} satisfies Partial<Deciders>

/** An event has no status of a task, and is not completed. */
export function withStatus(item: ClothItem, status: TaskStatus, viewer: EditViewer): ClothItem {
  const facts = statusFacts(status)
  return {
    ...item,
    ...(item.status === null ? { ...facts, status: null } : facts),
    overdue: isOverdue(item.due, facts.done, viewer),
    pending: true,
  }
}

export const showStatus = {
  complete: (item, _, viewer) => withStatus(item, 'completed', viewer),
  cancel: (item, _, viewer) => withStatus(item, 'cancelled', viewer),
  reopen: (item, _, viewer) => withStatus(item, 'needs-action', viewer),
} satisfies Partial<Shows>
