import { addDays, type ClothItem, type Edit, lengthOf, zonedAt } from '@loom/core/view'
import { type Act, ACTS, type CommandTerms, isAct, type Outcome, outcomeOfKey } from './commands.ts'

/** What keys ask for on the Cloth: arrows, and the keys of commands and of the screen, as a person has them. */

export const SCREEN_ACTS = {
  capture: { key: '.', says: 'write down, find or go somewhere' },
  before: { key: '[', says: 'the days before' },
  after: { key: ']', says: 'the days after' },
  now: { key: 't', says: 'today' },
  make: { key: 'n', says: 'keep time for something' },
  prepare: { key: 'e', says: 'prepare the week' },
  draft: { key: 'f', says: 'draft the free time' },
  shelf: { key: 's', says: 'to the shelf, and back' },
  'put-by-place': { key: 'u', says: 'what was put by' },
  undo: { key: 'z', says: 'undo' },
  keys: { key: '?', says: 'this list' },
} as const
export type ScreenAct = keyof typeof SCREEN_ACTS

/** The key of an act, as this person has it. */
export const keyOf = (act: Act | ScreenAct, own: Readonly<Record<string, string>>): string =>
  own[act] ?? (isAct(act) ? ACTS[act].key : SCREEN_ACTS[act].key)

type Pressed = Pick<KeyboardEvent, 'key' | 'shiftKey' | 'altKey' | 'ctrlKey' | 'metaKey'>

export type KeyAction = Outcome | { kind: 'menu' } | { kind: 'choose' } | null

interface Terms extends CommandTerms {
  keys: Readonly<Record<string, string>>
}

/** Arrows on a placed item: left and right move it or, with Shift, change its length; up and down change the day. */
const ARROWS: Record<string, { axis: 'time' | 'days'; sign: 1 | -1 }> = {
  ArrowLeft: { axis: 'time', sign: -1 },
  ArrowRight: { axis: 'time', sign: 1 },
  ArrowUp: { axis: 'days', sign: -1 },
  ArrowDown: { axis: 'days', sign: 1 },
}

function shifted({ place }: ClothItem, minutes: number, zone: string): Edit | null {
  return place.kind === 'timed'
    ? { do: 'place', start: zonedAt(place.startMs + minutes * 60_000, zone) }
    : null
}

function longer(item: ClothItem, minutes: number, defaultMinutes: number): Edit | null {
  const length = lengthOf(item, defaultMinutes) + minutes
  return item.place.kind === 'timed' && length >= 5 ? { do: 'lengthen', minutes: length } : null
}

function onOtherDay({ place }: ClothItem, days: number, zone: string): Edit | null {
  if (place.kind === 'day') return { do: 'place', start: { kind: 'date', date: addDays(place.date, days) } }
  if (place.kind !== 'timed') return null
  const at = zonedAt(place.startMs, zone)
  if (at.kind !== 'zoned') return null
  const local = `${addDays(at.local.slice(0, 10), days)}${at.local.slice(10)}`
  return { do: 'place', start: { ...at, local } }
}

/** What a key asks for while an item has the focus; null when it means nothing there. */
export function keyAction(item: ClothItem, event: Pressed, terms: Terms): KeyAction {
  if (event.ctrlKey || event.metaKey) return null
  const arrow = ARROWS[event.key]
  if (arrow) {
    if (terms.onlyLooks) return null
    const step = arrow.sign * (event.altKey ? 5 : 15)
    const edit =
      arrow.axis === 'days'
        ? onOtherDay(item, arrow.sign, terms.zone)
        : event.shiftKey
          ? longer(item, step, terms.defaultMinutes)
          : shifted(item, step, terms.zone)
    return edit && { kind: 'edit', edit }
  }
  if (event.key === 'Enter') return { kind: 'menu' }
  if (event.key === keyOf('choose', terms.keys)) return { kind: 'choose' }
  return outcomeOfKey(item, event.key, act => keyOf(act, terms.keys), terms)
}
