import type { Chosen } from '../access/lens.ts'
import { admits, type Filter } from '../filter/filter.ts'
import { type Item, newEvent, newTask } from '../items/items.ts'
import { dayAt, onDate, zonedAt } from '../time/when.ts'
import type { ClothItem, ItemSource } from './cloth-item.ts'
import type { ViewBody } from './saved-view.ts'

/** Which items a view shows; and of one that it does not, why. */

export type HiddenBecause = 'source' | 'filter' | 'done' | 'put-by' | 'left-out' | 'horizon'

interface Terms {
  now: number
  zone: string
}

/** The item in the terms of the filter language. */
function asItem(item: ClothItem, zone: string) {
  if (item.kind === 'event' || item.kind === 'batch' || item.kind === 'block') {
    const { place } = item
    const anchor =
      place.kind === 'timed'
        ? zonedAt(place.startMs, zone)
        : onDate(place.kind === 'all-day' ? place.from : '1970-01-01')
    return newEvent(
      '',
      { anchor, minutes: 30 },
      { summary: item.title, description: item.notes, categories: item.categories },
    )
  }
  return newTask('', {
    summary: item.title,
    description: item.notes,
    status: item.status ?? 'needs-action',
    serviceStatus: item.serviceStatus,
    priority: item.priority,
    categories: item.categories,
    due: item.due === null ? null : onDate(item.due),
  })
}

const passes = (view: ViewBody, item: ClothItem, terms: Terms): boolean =>
  view.filter.length === 0 || admitsShown(view.filter, item, terms)

/** Whether a filter admits an item as it is shown. A clause about something its kind does not have holds. */
export function admitsShown(filter: Filter, item: ClothItem, { now, zone }: Terms): boolean {
  const about = { collections: item.sources, members: item.people }
  return admits(filter, asItem(item, zone), { me: null, now, zone, about })
}

/** Of a tied pair, one shown source is enough. */
const fromHidden = (view: ViewBody, item: ClothItem): boolean =>
  view.hidden.length > 0 && item.sources.length > 0 && item.sources.every(s => view.hidden.includes(s))

function doneHidden(view: ViewBody, item: ClothItem, { now, zone }: Terms): boolean {
  if (!item.done || view.done === 'faded') return false
  if (view.done === 'hidden') return true
  const { place } = item
  const day = place.kind === 'timed' ? dayAt(place.startMs, zone) : place.kind === 'day' ? place.date : null
  return day === null || day >= dayAt(now, zone)
}

/** Null when the view shows it, as far as what it says of items goes. */
export function hiddenBecause(view: ViewBody, item: ClothItem, terms: Terms): HiddenBecause | null {
  if (fromHidden(view, item)) return 'source'
  if (!passes(view, item, terms)) return 'filter'
  if (doneHidden(view, item, terms)) return 'done'
  if (item.leftOut) return 'left-out'
  return null
}

export const shownIn = (view: ViewBody, items: readonly ClothItem[], terms: Terms): ClothItem[] =>
  items.filter(i => hiddenBecause(view, i, terms) === null)

/**
 * Whether a view that was granted, as it stood then, shows an item to its giver.
 * @param seen the item as far as its giver sees it
 * @param today epoch ms of a moment of this day, in UTC; days are told by UTC, as somewhere it is that day already, or still
 */
export const isChosen = ({ filter, hidden }: Chosen, seen: ItemSource<Item>, today: number): boolean =>
  !hidden.includes(seen.collectionId) &&
  admits(filter, seen.item, {
    me: null,
    now: today,
    zone: 'UTC',
    about: { collections: [seen.collectionId], members: seen.people ?? [] },
  })

/** The view with what hides the item taken away, as little of it as possible. */
export function showing(view: ViewBody, item: ClothItem, because: HiddenBecause): ViewBody {
  switch (because) {
    case 'source':
      return { ...view, hidden: view.hidden.filter(s => !item.sources.includes(s)) }
    case 'filter':
      return { ...view, filter: [] }
    case 'done':
      return { ...view, done: 'faded' }
    case 'put-by':
    case 'left-out':
    case 'horizon':
      return view
  }
}
