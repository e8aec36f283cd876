import { dayAt, onDate, zonedAt } from '../time/when.ts'
import type { ClothItem } from '../view/cloth-item.ts'
import { unplacedMinutes } from '../view/cloth-item.ts'
import { pressure } from '../view/pressure.ts'
import { heldByBatches, isPutBy, leftOverFrom, weekOf } from '../view/shelf.ts'
import { admitsShown } from '../view/shown.ts'
import type { TaskToPlan } from './demand.ts'
import { blockMinutes, type Planned } from './replanning.ts'
import type { PlanRegular, PlanWindow } from './settings.ts'
import type { Taken } from './supply.ts'

/** What the Cloth shows of one person, as it is planned with: what takes their time, and which tasks want some. */

export interface Person {
  id: string
  zone: string
  /** Epoch ms. */
  now: number
}

const isOf = ({ people }: ClothItem, { id }: Person): boolean => people.length === 0 || people.includes(id)

/**
 * Everything that has a time of its own; where a deadline is shown is none.
 * @param but keys of what is planned anew
 */
export const takenOf = (
  items: readonly ClothItem[],
  person: Person,
  but: ReadonlySet<string> = new Set(),
): Taken[] =>
  items.flatMap(item => {
    const { place } = item
    const isTaken =
      place.kind === 'timed' &&
      place.endMs > place.startMs &&
      item.busy &&
      !item.done &&
      !item.leftOut &&
      !item.atDeadline &&
      !but.has(item.key) &&
      isOf(item, person)
    const isWork = item.eventKind !== 'break' && item.eventKind !== 'travel'
    return isTaken ? [{ fromMs: place.startMs, toMs: place.endMs, isWork }] : []
  })

/**
 * Open tasks without a time ahead, and those whose time is planned anew. One that is planned for a day without an hour wants one as well: its day is its
 * plan, and never keeps it from standing earlier.
 */
export function tasksOf(
  items: readonly ClothItem[],
  person: Person,
  windows: readonly PlanWindow[] = [],
  planned: readonly Planned[] = [],
): TaskToPlan[] {
  const today = dayAt(person.now, person.zone)
  const held = heldByBatches(items, person.now)
  return items.flatMap(item => {
    if (item.kind !== 'task' && item.kind !== 'tied') return []
    if (item.done || item.cancelled || item.leftOut || item.onlyLook || held.has(item.key)) return []
    if (!isOf(item, person) || item.putBy === '') return []
    const anew = planned.filter(p => p.task === item.key)
    const isPlaced = item.place.kind === 'timed' && !item.atDeadline && !anew.some(p => p.kind === 'plan')
    if (isPlaced && leftOverFrom(item, today, person.zone) === null) return []
    const week = weekOf(item, today)
    const left = item.estimate === null ? null : unplacedMinutes(item, 0)
    const own = windows.filter(w => admitsShown(w.filter, item, person))
    return [
      {
        id: item.key,
        estimate: item.estimate,
        taken: item.blocks.spent,
        reserved: item.blocks.ahead - blockMinutes(planned, item.key),
        due:
          item.dueAt !== null
            ? zonedAt(item.dueAt, person.zone)
            : item.due !== null
              ? onDate(item.due)
              : null,
        notBefore: isPutBy(item, today) ? item.putBy : week !== null && week > today ? week : null,
        waitsFor: [],
        category: item.categories[0] ?? item.sources[0] ?? '',
        pressure: pressure({ due: item.due, priority: item.priority, estimate: left }, today),
        windows: own.map(w => w.id),
        spills: own.some(w => w.spills),
        planned: anew.map(({ fromMs, toMs }) => ({ fromMs, toMs })),
      },
    ]
  })
}

/** On which days each regular stands, done or planned: those with an event of its name. */
export function hadOf(
  items: readonly ClothItem[],
  regulars: readonly PlanRegular[],
  person: Person,
): Record<string, string[]> {
  const named = (text: string): string => text.trim().toLowerCase()
  return Object.fromEntries(
    regulars.map(({ id, name }) => {
      const days = items.flatMap(i =>
        i.kind === 'event' && i.place.kind === 'timed' && isOf(i, person) && named(i.title) === named(name)
          ? [dayAt(i.place.startMs, person.zone)]
          : [],
      )
      return [id, [...new Set(days)]]
    }),
  )
}
