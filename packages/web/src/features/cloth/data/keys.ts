import { addDays, type ClothItem, dayAt, type Edit, lengthOf, mondayOf, zonedAt } from '@loom/core/view'

/** What keys ask for on the Cloth. Each act has a key of its own, which a person can change. */

export const ACTS = {
  open: { key: 'o', says: 'open everything about it' },
  choose: { key: 'c', says: 'select' },
  place: { key: 'p', says: 'place at a day and hour' },
  block: { key: 'b', says: 'reserve further time for it' },
  rename: { key: 'r', says: 'rename' },
  'any-day': { key: 'w', says: 'any day this week' },
  'put-by': { key: 'y', says: 'put by until later' },
  give: { key: 'g', says: 'give to somebody' },
  'leave-out': { key: 'l', says: 'leave out of my plan, or take in again' },
  cancel: { key: 'x', says: 'cancel task' },
  duplicate: { key: 'd', says: 'duplicate' },
  move: { key: 'm', says: 'move to another list or calendar' },
} as const
export type Act = keyof typeof ACTS

export const SCREEN_ACTS = {
  capture: { key: '.', says: 'write down, find or go somewhere' },
  before: { key: '[', says: 'the days before' },
  after: { key: ']', says: 'the days after' },
  now: { key: 't', says: 'today' },
  make: { key: 'n', says: 'keep time for something' },
  'put-by-place': { key: 'u', says: 'what was put by' },
  undo: { key: 'z', says: 'undo' },
  keys: { key: '?', says: 'this list' },
} as const
export type ScreenAct = keyof typeof SCREEN_ACTS

export const isAct = (name: string): name is Act => name in ACTS

/** The key of an act, as this person has it. */
export const keyOf = (act: Act | ScreenAct, own: Readonly<Record<string, string>>): string =>
  own[act] ?? (act in ACTS ? ACTS[act as Act].key : SCREEN_ACTS[act as ScreenAct].key)

type Pressed = Pick<KeyboardEvent, 'key' | 'shiftKey' | 'altKey' | 'ctrlKey' | 'metaKey'>

export type KeyAction =
  | { kind: 'edit'; edit: Edit }
  | { kind: 'menu' }
  | { kind: 'choose' }
  | { kind: 'ask'; act: Exclude<Act, 'choose'> }
  | null

interface Terms {
  zone: string
  defaultMinutes: number
  now: number
  keys: Readonly<Record<string, string>>
}

/** What a key asks for while an item has the focus; null when it means nothing there. */
export function keyAction(item: ClothItem, event: Pressed, terms: Terms): KeyAction {
  if (event.ctrlKey || event.metaKey) return null
  const { zone, defaultMinutes } = terms
  const edit = (e: Edit): KeyAction => ({ kind: 'edit', edit: e })
  const step = event.altKey ? 5 : 15
  const { place } = item
  const isTask = item.kind === 'task' || item.kind === 'tied'
  const shifted = (minutes: number): KeyAction =>
    place.kind === 'timed'
      ? edit({ do: 'place', start: zonedAt(place.startMs + minutes * 60_000, zone) })
      : null
  const otherDay = (days: number): KeyAction => {
    if (place.kind === 'day')
      return edit({ do: 'place', start: { kind: 'date', date: addDays(place.date, days) } })
    if (place.kind !== 'timed') return null
    const at = zonedAt(place.startMs, zone)
    if (at.kind !== 'zoned') return null
    const local = `${addDays(at.local.slice(0, 10), days)}${at.local.slice(10)}`
    return edit({ do: 'place', start: { ...at, local } })
  }
  const longer = (minutes: number): KeyAction => {
    const length = lengthOf(item, defaultMinutes) + minutes
    return place.kind === 'timed' && length >= 5 ? edit({ do: 'lengthen', minutes: length }) : null
  }
  switch (event.key) {
    case 'ArrowLeft':
      return event.shiftKey ? longer(-step) : shifted(-step)
    case 'ArrowRight':
      return event.shiftKey ? longer(step) : shifted(step)
    case 'ArrowUp':
      return otherDay(-1)
    case 'ArrowDown':
      return otherDay(1)
    case ' ':
      if (item.kind === 'block') return edit({ do: 'spend', spent: !item.done })
      return item.completable ? edit({ do: item.done ? 'reopen' : 'complete' }) : null
    case 'Enter':
      return { kind: 'menu' }
    case 'Delete':
    case 'Backspace':
      if (isTask) return place.kind === 'none' ? null : edit({ do: 'unplace' })
      return item.movable ? edit({ do: 'delete' }) : null
  }
  const act = (Object.keys(ACTS) as Act[]).find(a => keyOf(a, terms.keys) === event.key)
  if (!act) return null
  switch (act) {
    case 'choose':
      return { kind: 'choose' }
    case 'any-day':
      return isTask ? edit({ do: 'any-day', week: mondayOf(dayAt(terms.now, zone)) }) : null
    case 'cancel':
      return isTask && item.completable ? edit({ do: item.cancelled ? 'reopen' : 'cancel' }) : null
    case 'leave-out':
      return edit({ do: 'leave-out', out: !item.leftOut })
    case 'place':
      return item.movable ? { kind: 'ask', act } : null
    case 'rename':
      return (isTask ? item.completable : item.movable) ? { kind: 'ask', act } : null
    case 'block':
    case 'put-by':
    case 'give':
      return isTask ? { kind: 'ask', act } : null
    case 'open':
    case 'duplicate':
    case 'move':
      return { kind: 'ask', act }
  }
}
