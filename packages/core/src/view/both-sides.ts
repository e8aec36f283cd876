import type { Event, Item, Task } from '../items/items.ts'
import { isOurMark } from '../items/kind-marks.ts'
import type { ItemSource } from './cloth-item.ts'

/** What the other sides of a pair say where the task itself says nothing. It is shown and planned with, never written. */
export interface OtherFacts {
  estimate?: number
  people?: string[]
  due?: Task['due']
  priority?: number
  categories?: string[]
  notes?: string
}

/** Whether the task's own service has no place for a property, so that its being empty there means nothing. */
const isMissing = (task: ItemSource<Task>, property: string): boolean =>
  task.unsupported?.has(property) ?? false

/**
 * Null where the task says all there is to say. A private event tells nothing.
 * @param all in the order in which they count
 */
export function factsBeside(task: ItemSource<Task>, all: readonly ItemSource<Item>[]): OtherFacts | null {
  const others = all.filter(o => o.item.kind === 'task' || o.item.class === 'public')
  const tasks = others.filter((o): o is ItemSource<Task> => o.item.kind === 'task')
  const first = <T>(values: (T | null | undefined)[]): T | undefined =>
    values.find(v => v != null) ?? undefined
  const { item } = task
  const estimate =
    item.estimatedDuration === null ? first(tasks.map(t => t.item.estimatedDuration)) : undefined
  const given = item.assignees.length === 0 ? tasks.find(t => t.item.assignees.length > 0)?.people : undefined
  const due = item.due === null && isMissing(task, 'due') ? first(tasks.map(t => t.item.due)) : undefined
  const priority =
    item.priority === 0 && isMissing(task, 'priority')
      ? first(others.map(o => o.item.priority || null))
      : undefined
  const words = (o: ItemSource<Task | Event>): string[] => o.item.categories.filter(c => !isOurMark(c))
  const categories =
    item.categories.length === 0 && isMissing(task, 'categories')
      ? first(others.map(o => (words(o).length > 0 ? words(o) : null)))
      : undefined
  const notes =
    item.description === '' && isMissing(task, 'description')
      ? first(others.map(o => o.item.description || null))
      : undefined
  const facts: OtherFacts = {
    ...(estimate !== undefined && { estimate }),
    ...(given !== undefined && given.length > 0 && { people: given }),
    ...(due !== undefined && { due }),
    ...(priority !== undefined && { priority }),
    ...(categories !== undefined && { categories }),
    ...(notes !== undefined && { notes }),
  }
  return Object.keys(facts).length > 0 ? facts : null
}
