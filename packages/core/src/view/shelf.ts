import { addDays, dayAt, mondayOf } from '../time/when.ts'
import { type ClothItem, unplacedMinutes } from './cloth-item.ts'
import { pressureOf } from './pressure.ts'
import type { ViewBody } from './saved-view.ts'
import { dayWords } from './words.ts'

/** The shelf: tasks that have no place in time yet, grouped and sorted as the view says. */

export interface ShelfItem {
  item: ClothItem
  pressure: number
  /** Why it presses, in words. */
  reasons: string[]
  /** The past day it was planned for, if it has not been planned again since. */
  leftOver: string | null
}

export interface ShelfGroup {
  key: string
  title: string
  items: ShelfItem[]
  minutes: number
}

export interface ShelfOptions {
  now: number
  zone: string
  defaultMinutes: number
  view: Pick<ViewBody, 'group' | 'groupOrder' | 'hiddenGroups' | 'sort' | 'order' | 'keepPlaced'>
  /** Names of collections and members. */
  nameOf: (id: string) => string
  /** Working time not yet taken until the end of a day, minutes. */
  freeUntil?: (date: string) => number | null
}

const PUT_BY = 'put-by'

/** The day on which its time ended, or null: leftovers go back to the week, never onto tomorrow. */
export function leftOverFrom(item: ClothItem, today: string, zone: string): string | null {
  if (item.done || item.kind === 'event' || item.kind === 'block' || item.kind === 'batch') return null
  const { place } = item
  if (place.kind === 'day') return place.date < today ? place.date : null
  if (place.kind !== 'timed') return null
  const last = dayAt(Math.max(place.startMs, place.endMs - 1), zone)
  return last < today ? last : null
}

/** A task meant for a past week is meant for the present one. */
export const weekOf = (item: ClothItem, today: string): string | null =>
  item.week === null ? null : item.week < mondayOf(today) ? mondayOf(today) : item.week

export const isPutBy = (item: ClothItem, today: string): boolean =>
  item.putBy !== null && (item.putBy === '' || item.putBy > today)

/** Open tasks that a batch still ahead holds: they have their time there. */
export function heldByBatches(items: readonly ClothItem[], now: number): Set<string> {
  return new Set(
    items
      .filter(i => i.kind === 'batch' && !i.done && i.place.kind === 'timed' && i.place.endMs > now)
      .flatMap(i => i.batch.filter(t => !t.done).map(t => t.key)),
  )
}

export function onShelf(items: readonly ClothItem[], options: ShelfOptions): ShelfItem[] {
  const today = dayAt(options.now, options.zone)
  const held = heldByBatches(items, options.now)
  return items.flatMap((item): ShelfItem[] => {
    if (item.kind !== 'task' && item.kind !== 'tied') return []
    if (item.done || isPutBy(item, today)) return []
    if (held.has(item.key) && !options.view.keepPlaced) return []
    const leftOver = leftOverFrom(item, today, options.zone)
    if (item.place.kind !== 'none' && leftOver === null && !options.view.keepPlaced) return []
    const left = { ...item, estimate: item.estimate === null ? null : unplacedMinutes(item, 0) }
    const { score, reasons } = pressureOf(
      left,
      today,
      item.due ? (options.freeUntil?.(item.due) ?? null) : null,
    )
    return [{ item, pressure: score, reasons, leftOver }]
  })
}

interface GroupKey {
  key: string
  title: string
  rank: number
}

function groupsOf({ item, leftOver }: ShelfItem, today: string, options: ShelfOptions): GroupKey[] {
  const { nameOf } = options
  switch (options.view.group) {
    case 'due': {
      const week = weekOf(item, today)
      if (leftOver !== null) return [{ key: 'any-day', title: 'Any day this week', rank: 1 }]
      if (item.due !== null && item.due < today) return [{ key: 'overdue', title: 'Overdue', rank: 0 }]
      if (week === mondayOf(today)) return [{ key: 'any-day', title: 'Any day this week', rank: 1 }]
      if (week !== null)
        return [{ key: `week ${week}`, title: `Any day, week of ${dayWords(week)}`, rank: 3 }]
      if (item.due === null) return [{ key: 'none', title: 'No date', rank: 5 }]
      return item.due <= addDays(today, 7)
        ? [{ key: 'soon', title: 'Due within 7 days', rank: 2 }]
        : [{ key: 'later', title: 'Due later', rank: 4 }]
    }
    case 'list': {
      const id = item.sources[0] ?? ''
      return [{ key: id, title: nameOf(id), rank: 0 }]
    }
    case 'status':
      return [
        item.status === 'in-process'
          ? { key: 'in-process', title: 'Under way', rank: 0 }
          : { key: 'needs-action', title: 'To do', rank: 1 },
      ]
    case 'priority':
      return [
        item.priority === 0
          ? { key: '0', title: 'No priority', rank: 4 }
          : item.priority <= 3
            ? { key: 'high', title: 'High priority', rank: 1 }
            : item.priority <= 6
              ? { key: 'medium', title: 'Medium priority', rank: 2 }
              : { key: 'low', title: 'Low priority', rank: 3 },
      ]
    case 'person':
      return item.people.length === 0
        ? [{ key: '', title: 'Nobody', rank: 1 }]
        : item.people.map(id => ({ key: id, title: nameOf(id), rank: 0 }))
    case 'category':
      return item.categories.length === 0
        ? [{ key: '', title: 'No category', rank: 1 }]
        : item.categories.map(c => ({ key: c, title: c, rank: 0 }))
    case 'none':
      return [{ key: 'all', title: 'All tasks', rank: 0 }]
  }
}

const ALWAYS: Partial<Record<ViewBody['group'], GroupKey[]>> = {
  due: [
    { key: 'overdue', title: 'Overdue', rank: 0 },
    { key: 'any-day', title: 'Any day this week', rank: 1 },
    { key: 'soon', title: 'Due within 7 days', rank: 2 },
    { key: 'later', title: 'Due later', rank: 4 },
    { key: 'none', title: 'No date', rank: 5 },
  ],
}

let collator: Intl.Collator | null = null
/** As people sort names. The first time takes a page a thirtieth of a second, so it is left to where it is seen. */
function byText(x: string, y: string): number {
  collator ??= new Intl.Collator('en', { numeric: true })
  return collator.compare(x, y)
}
const byCode = (x: string, y: string): number => (x < y ? -1 : x > y ? 1 : 0)

export function sortShelf(items: readonly ShelfItem[], view: ShelfOptions['view']): ShelfItem[] {
  const place = new Map(view.order.map((key, i) => [key, i]))
  const last = Number.MAX_SAFE_INTEGER
  const compare: Record<ViewBody['sort'], (x: ShelfItem, y: ShelfItem) => number> = {
    pressure: (x, y) => y.pressure - x.pressure,
    due: (x, y) => byCode(x.item.due ?? '9999', y.item.due ?? '9999'),
    priority: (x, y) => (x.item.priority || 10) - (y.item.priority || 10),
    estimate: (x, y) => (x.item.estimate ?? last) - (y.item.estimate ?? last),
    title: (x, y) => byText(x.item.title, y.item.title),
    own: (x, y) => (place.get(x.item.key) ?? last) - (place.get(y.item.key) ?? last),
  }
  return [...items].sort(
    (x, y) => compare[view.sort](x, y) || y.pressure - x.pressure || byCode(x.item.title, y.item.title),
  )
}

/** Beside which one of its group something is put in an order of one's own. */
export interface Beside {
  key: string
  after: boolean
}

/** `order` with `key` put there; `group`: the keys of its group as they lie. */
export function putBeside(
  order: readonly string[],
  group: readonly string[],
  key: string,
  { key: other, after }: Beside,
): string[] {
  const keys = group.filter(k => k !== key)
  const at = keys.indexOf(other)
  if (at < 0) return [...order]
  keys.splice(at + Number(after), 0, key)
  return [...order.filter(k => !keys.includes(k)), ...keys]
}

/** Every group there is, also those that are hidden; the screen leaves out what the view hides. */
export function shelve(items: readonly ClothItem[], options: ShelfOptions): ShelfGroup[] {
  const today = dayAt(options.now, options.zone)
  const groups = new Map<string, ShelfGroup & { rank: number }>()
  for (const g of ALWAYS[options.view.group] ?? []) groups.set(g.key, { ...g, items: [], minutes: 0 })
  for (const entry of onShelf(items, options))
    for (const g of groupsOf(entry, today, options)) {
      const group = groups.get(g.key) ?? { ...g, items: [], minutes: 0 }
      group.items.push(entry)
      group.minutes += unplacedMinutes(entry.item, options.defaultMinutes)
      groups.set(g.key, group)
    }
  const dragged = new Map(options.view.groupOrder.map((key, i) => [key, i]))
  const at = (g: { key: string }): number => dragged.get(g.key) ?? Number.MAX_SAFE_INTEGER
  return [...groups.values()]
    .sort((x, y) => at(x) - at(y) || x.rank - y.rank || byText(x.title, y.title))
    .map(({ key, title, items: held, minutes }) => ({
      key,
      title,
      items: sortShelf(held, options.view),
      minutes,
    }))
}

/** Tasks put by, in the order in which they come back; those without a date last. */
export function putByGroups(
  items: readonly ClothItem[],
  options: Pick<ShelfOptions, 'now' | 'zone'>,
): {
  key: string
  title: string
  items: ClothItem[]
}[] {
  const today = dayAt(options.now, options.zone)
  const groups = new Map<string, ClothItem[]>()
  for (const item of items)
    if (!item.done && isPutBy(item, today))
      groups.set(item.putBy ?? '', [...(groups.get(item.putBy ?? '') ?? []), item])
  return [...groups]
    .sort(([x], [y]) => (x === '' ? 1 : y === '' ? -1 : x < y ? -1 : 1))
    .map(([key, held]) => ({
      key: `${PUT_BY} ${key}`,
      title: key === '' ? 'Without a date' : `Until ${dayWords(key)}`,
      items: [...held].sort((x, y) => byText(x.title, y.title)),
    }))
}
