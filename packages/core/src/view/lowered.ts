import { type Event, type Item, newEvent, newTask, type Task } from '../items/items.ts'
import { noOwnLayer, type OwnLayer } from '../items/own-layer.ts'
import { fixedBecause, holdsPlan, type ItemSource, kindOfEvent } from './cloth-item.ts'
import { type Level, reaches } from '../access/level.ts'
import type { Privacy } from '../access/sight.ts'

/**
 * What each level shows: one table, in which every field has its lowest level. Below `title` nothing of an item is
 * shown; of `busy` only the time is told, by `busy-time.ts`.
 */

type Shown = Exclude<Level, 'nothing' | 'busy'>
type Table<T> = { [K in keyof Required<T>]: Shown }

/** Its uid joins it with its like and is never sent. */
const TASK: Table<Task> = {
  kind: 'title',
  uid: 'title',
  summary: 'title',
  status: 'title',
  start: 'title',
  due: 'title',
  estimatedDuration: 'title',
  completed: 'title',
  assignees: 'title',
  recurring: 'title',
  description: 'everything',
  serviceStatus: 'everything',
  priority: 'everything',
  categories: 'everything',
  parent: 'everything',
  waitsFor: 'everything',
  location: 'everything',
  occurrence: 'everything',
  url: 'everything',
  created: 'everything',
  lastModified: 'everything',
}

const EVENT: Table<Event> = {
  kind: 'title',
  uid: 'title',
  summary: 'title',
  status: 'title',
  transparency: 'title',
  time: 'title',
  recurring: 'title',
  description: 'everything',
  location: 'everything',
  class: 'everything',
  priority: 'everything',
  categories: 'everything',
  attendees: 'everything',
  invited: 'everything',
  url: 'everything',
  created: 'everything',
  lastModified: 'everything',
}

const OWN: Table<OwnLayer> = {
  estimate: 'title',
  plan: 'title',
  planMinutes: 'title',
  week: 'title',
  spent: 'title',
  movable: 'title',
  eventKind: 'title',
  private: 'everything',
  slips: 'everything',
  putBy: 'everything',
}

function cut<T extends object>(full: T, blank: T, table: Table<T>, level: Level): T {
  const kept = { ...blank }
  for (const key of Object.keys(table) as (keyof T & string)[])
    if (key in full && reaches(level, table[key])) kept[key] = full[key]
  return kept
}

const cutItem = (item: Item, level: Level): Item =>
  item.kind === 'task'
    ? cut(item, newTask('', {}), TASK, level)
    : cut(item, newEvent('', item.time), EVENT, level)

export const privacyOf = ({ item, own }: Pick<ItemSource<Item>, 'item' | 'own'>): Privacy =>
  own?.private === true ? 'marked' : item.kind === 'event' && item.class !== 'public' ? 'classed' : 'open'

/** Without a reason: what marks it fixed may be what is not shown. */
const IS_FIXED = 'It is fixed.'

/**
 * An item as somebody sees it who may not change it: only what the level shows, and not to be written to. Null
 * where nothing of it is shown.
 * @param completes it is given to whoever looks, and they may complete it
 */
export function lowered<I extends Item>(
  source: ItemSource<I>,
  level: Level,
  completes = false,
): ItemSource<I> | null {
  if (level === 'change') return source
  if (!reaches(level, 'title')) return null
  const item = cutItem(source.item, level) as I
  const { own = noOwnLayer } = source
  const layer = cut(own, noOwnLayer, OWN, level)
  const whole: ItemSource<Item> = source
  const because = whole.item.kind === 'event' ? fixedBecause(whole as ItemSource<Event>) : null
  const kind = whole.item.kind === 'event' ? kindOfEvent(whole as ItemSource<Event>) : layer.eventKind
  return Object.freeze({
    ...source,
    item,
    own: { ...layer, eventKind: kind === 'other' ? layer.eventKind : kind },
    level,
    writable: false,
    fixed: because === null ? null : level === 'title' ? IS_FIXED : because,
    completes: completes && source.writable,
    accounts: {},
    holdsPlan: holdsPlan(source),
  })
}
