import type { Task } from '../../items/items.ts'
import { MINUTE } from '../../time/when.ts'
import type { ItemSource } from '../cloth-item.ts'
import { durationWords } from '../words.ts'
import { type Deciders, does, type EditPlan, refuse, type Shows } from './edit-plan.ts'

/** How long a task is thought to take. */

/** Where its service says how long it takes, there; else in our own layer. */
export function estimated(
  task: ItemSource<Task>,
  minutes: number | null,
): Partial<Extract<EditPlan, { ok: true }>> {
  return task.holdsEstimate
    ? { write: { mirrorId: task.id, patch: { estimatedDuration: minutes } } }
    : { own: { mirrorId: task.id, layer: { estimate: minutes } } }
}

export const decideEstimate = {
  estimate({ item, task }, { minutes }) {
    if (!task) return refuse('Only a task has an estimate.')
    if (task.holdsEstimate && task.estimateStep && (minutes ?? 0) % task.estimateStep !== 0)
      return refuse(`Its service counts work in steps of ${durationWords(task.estimateStep)}.`)
    return does({ do: 'estimate', minutes: item.estimate }, estimated(task, minutes))
  },
} satisfies Partial<Deciders>

export const showEstimate = {
  estimate(item, { minutes }, viewer) {
    const known = { ...item, estimate: minutes }
    const hasOwnLength = item.planHere !== null && item.planHere.minutes !== null
    if (item.kind !== 'task' || item.place.kind !== 'timed' || hasOwnLength) return known
    const length = (minutes ?? viewer.defaultMinutes) * MINUTE
    return { ...known, place: { ...item.place, endMs: item.place.startMs + length } }
  },
} satisfies Partial<Shows>
