import { type ClothItem, type Edit, lengthOf, type When, zonedAt, epochOf } from '@loom/core/view'

/** What one act comes to for several items at once. */

interface Terms {
  zone: string
  defaultMinutes: number
}

/** Placed at an hour, they come one after the other; everything else is the same for each. */
export function forEach(
  items: readonly ClothItem[],
  edit: Edit,
  { zone, defaultMinutes }: Terms,
): { item: ClothItem; edit: Edit }[] {
  if (edit.do !== 'place' || edit.start.kind === 'date') return items.map(item => ({ item, edit }))
  let at = epochOf(edit.start, zone)
  return items.map(item => {
    const start: When = zonedAt(at, zone)
    at += lengthOf(item, defaultMinutes) * 60_000
    return { item, edit: { do: 'place', start } }
  })
}

/** “A”, “A” and “B”, or how many there are: they are named below then. */
export function namedTogether(items: readonly ClothItem[]): string {
  const [one, other] = items.map(i => `“${i.title}”`)
  if (items.length > 2 || one === undefined) return `${items.length} items`
  return other === undefined ? one : `${one} and ${other}`
}

/** Those that the act can be done to at all. */
export function canBe(item: ClothItem, edit: Edit): boolean {
  const isTask = item.kind === 'task' || item.kind === 'tied'
  switch (edit.do) {
    case 'complete':
    case 'reopen':
    case 'cancel':
      return isTask && item.completable
    case 'any-day':
    case 'put-by':
    case 'unplace':
    case 'give':
      return isTask && item.movable
    case 'place':
      return item.movable && !item.recurring
    default:
      return !item.recurring
  }
}
