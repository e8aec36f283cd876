import { addDays, type ClothItem, type Edit, lengthOf, zonedAt } from '@loom/core/view'

/** What a key asks for while an item has the focus; null when it means nothing there. */
export type KeyAction = { kind: 'edit'; edit: Edit } | { kind: 'place' | 'rename' | 'menu' } | null

export function keyAction(
  item: ClothItem,
  event: Pick<KeyboardEvent, 'key' | 'shiftKey' | 'altKey' | 'ctrlKey' | 'metaKey'>,
  zone: string,
  defaultMinutes: number,
): KeyAction {
  if (event.ctrlKey || event.metaKey) return null
  const edit = (e: Edit): KeyAction => ({ kind: 'edit', edit: e })
  const step = event.altKey ? 5 : 15
  const { place } = item
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
      return item.completable ? edit({ do: item.done ? 'reopen' : 'complete' }) : null
    case 'Enter':
      return { kind: 'menu' }
    case 'p':
      return item.movable ? { kind: 'place' } : null
    case 'r':
      return item.movable ? { kind: 'rename' } : null
    case 'Delete':
    case 'Backspace':
      return item.kind !== 'event' && place.kind !== 'none' ? edit({ do: 'unplace' }) : null
    default:
      return null
  }
}
