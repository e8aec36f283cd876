import { dayAt, onDate, zonedAt } from '../time/when.ts'
import type { ClothItem } from '../view/cloth-item.ts'
import { unplacedMinutes } from '../view/cloth-item.ts'
import { pressure } from '../view/pressure.ts'
import { heldByBatches, isPutBy, leftOverFrom, weekOf } from '../view/shelf.ts'
import { admitsShown } from '../view/shown.ts'
import type { TaskToPlan, Wait } from './demand.ts'
import { blockMinutes, type Planned } from './replanning.ts'
import type { PlanRegular, PlanWindow } from './settings.ts'
import type { Trip } from './trips.ts'
import type { Taken } from './supply.ts'

/** What the Cloth shows of one person, as it is planned with: what takes their time, and which tasks want some. */

export interface Person {
  id: string
  zone: string
  /** Epoch ms. */
  now: number
  /** Somebody else plans their time: what they may only look at, they ask for. */
  isAnother?: boolean
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

/** What is known of a person's tasks beside what the Cloth shows of them. */
export interface Learned {
  /** Minutes taken beside those of worked blocks, by item. */
  beside: Readonly<Record<string, number>>
  /** So many times as long as estimated, by category. */
  factors: Readonly<Record<string, number>>
  /** What each waits for that is not done, by item. */
  waits: Readonly<Record<string, readonly Wait[]>>
  /** Tasks whose parts stand inside them, as a rule says: they are done with their parts, in one time. */
  listed: ReadonlySet<string>
}
/** As the planner takes it: what is done keeps nothing waiting. */
export const openWaits = (
  all: readonly {
    key: string
    for: readonly { key: string | null; gap: number; endsMs: number | null; done: boolean }[]
  }[],
): Record<string, Wait[]> =>
  Object.fromEntries(
    all.flatMap(w => {
      const open = w.for.filter(l => !l.done)
      const waits = open.map((l): Wait => ({ id: l.key ?? '', gap: l.gap, endsMs: l.endsMs }))
      return waits.length === 0 ? [] : [[w.key, waits]]
    }),
  )
const NOTHING_LEARNED: Learned = { beside: {}, factors: {}, waits: {}, listed: new Set() }

/** How long it is thought to take by what its category usually takes, on the planner's grid; null without an estimate. */
export function countedEstimate(
  { estimate, categories }: Pick<ClothItem, 'estimate' | 'categories'>,
  factors: Learned['factors'],
): number | null {
  const factor = factors[categories[0] ?? '']
  return estimate === null || factor === undefined
    ? estimate
    : Math.max(5, Math.round((estimate * factor) / 5) * 5)
}

/**
 * How long each is thought to take, where some are parts of others: either the whole wants time, or its parts do. Parts
 * without an estimate share what is left of the whole's.
 */
function estimatesOf(
  items: readonly ClothItem[],
  { factors, listed }: Learned,
): (item: ClothItem) => number | null | 'in another' {
  const parts = new Map<string, ClothItem[]>()
  for (const item of items)
    if (item.partOf && !item.done && !item.cancelled)
      parts.set(item.partOf.key, [...(parts.get(item.partOf.key) ?? []), item])
  if (parts.size === 0) return item => countedEstimate(item, factors)
  const known = new Map(items.map(i => [i.key, i]))
  const share = (whole: ClothItem, all: readonly ClothItem[]): number | null => {
    const counted = countedEstimate(whole, factors)
    if (counted === null) return null
    const said = all.reduce((sum, p) => sum + (countedEstimate(p, factors) ?? 0), 0)
    const rest = counted - whole.blocks.spent - whole.blocks.ahead - said
    const open = all.filter(p => p.estimate === null).length
    return Math.max(GRID_MINUTES, Math.floor(rest / open / GRID_MINUTES) * GRID_MINUTES)
  }
  /** From the nearest up; a service may say that two are parts of one another. */
  const wholesOf = (item: ClothItem): ClothItem[] => {
    const found: ClothItem[] = []
    for (let up = item.partOf; up;) {
      const whole = known.get(up.key)
      if (!whole || whole === item || found.includes(whole)) break
      found.push(whole)
      up = whole.partOf
    }
    return found
  }
  return item => {
    if (wholesOf(item).some(w => !w.done && listed.has(w.key))) return 'in another'
    if (parts.has(item.key) && !listed.has(item.key)) return 'in another'
    const whole = item.partOf && known.get(item.partOf.key)
    if (item.estimate !== null || !whole) return countedEstimate(item, factors)
    return share(whole, parts.get(whole.key) ?? [])
  }
}
const GRID_MINUTES = 5

/**
 * Open tasks without a time ahead, and those whose time is planned anew. One that is planned for a day without an hour wants one as well: its day is its
 * plan, and never keeps it from standing earlier.
 */
export function tasksOf(
  items: readonly ClothItem[],
  person: Person,
  windows: readonly PlanWindow[] = [],
  planned: readonly Planned[] = [],
  learned: Learned = NOTHING_LEARNED,
  tripOf: (task: ClothItem) => Trip | null = () => null,
): TaskToPlan[] {
  const today = dayAt(person.now, person.zone)
  const held = heldByBatches(items, person.now)
  const estimateOf = estimatesOf(items, learned)
  return items.flatMap(item => {
    if (item.kind !== 'task' && item.kind !== 'tied') return []
    if (item.done || item.cancelled || item.leftOut || held.has(item.key)) return []
    if (item.onlyLook && !person.isAnother) return []
    if (!isOf(item, person) || item.putBy === '') return []
    // Of a task and its parts only one of both wants time.
    const estimate = estimateOf(item)
    if (estimate === 'in another') return []
    const anew = planned.filter(p => p.task === item.key)
    const isPlaced = item.place.kind === 'timed' && !item.atDeadline && !anew.some(p => p.kind === 'plan')
    if (isPlaced && leftOverFrom(item, today, person.zone) === null) return []
    const trip = tripOf(item)
    return [
      {
        ...(trip && { trip }),
        ...wantOf(item, person, windows),
        estimate,
        taken: item.blocks.spent + (learned.beside[item.key] ?? 0),
        reserved: item.blocks.ahead - blockMinutes(planned, item.key),
        waitsFor: learned.waits[item.key] ?? [],
        planned: anew.map(({ fromMs, toMs }) => ({ fromMs, toMs })),
      },
    ]
  })
}

/** What a task says of when and where it can be done, whatever of it is still to be placed. */
export function wantOf(
  item: ClothItem,
  person: Person,
  windows: readonly PlanWindow[] = [],
): Pick<TaskToPlan, 'id' | 'due' | 'notBefore' | 'category' | 'pressure' | 'windows' | 'spills'> {
  const today = dayAt(person.now, person.zone)
  const week = weekOf(item, today)
  const left = item.estimate === null ? null : unplacedMinutes(item, 0)
  const own = windows.filter(w => admitsShown(w.filter, item, person))
  return {
    id: item.key,
    due: item.dueAt !== null ? zonedAt(item.dueAt, person.zone) : item.due !== null ? onDate(item.due) : null,
    notBefore: isPutBy(item, today) ? item.putBy : week !== null && week > today ? week : null,
    category: item.categories[0] ?? item.sources[0] ?? '',
    pressure: pressure({ due: item.due, priority: item.priority, estimate: left }, today),
    windows: own.map(w => w.id),
    spills: own.some(w => w.spills),
  }
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
