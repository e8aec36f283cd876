import type { ClothItem } from '@loom/core/view'

/** What of somebody's plan an invitation would stand on. */

/** In order of when it begins; not what is done, free, or the invitation itself as it stands in a list. */
export function meets(
  items: readonly ClothItem[],
  me: string,
  span: { fromMs: number; toMs: number },
  title: string,
): ClothItem[] {
  const lies = ({ place }: ClothItem): boolean =>
    place.kind === 'timed' && place.startMs < span.toMs && place.endMs > span.fromMs
  const isItself = ({ place, title: of }: ClothItem): boolean =>
    of === title && place.kind === 'timed' && place.startMs === span.fromMs
  return items
    .filter(i => i.busy && !i.done && !i.cancelled && lies(i) && !isItself(i))
    .filter(i => i.people.length === 0 || i.people.includes(me))
    .sort((x, y) => startOf(x) - startOf(y))
}
const startOf = ({ place }: ClothItem): number => (place.kind === 'timed' ? place.startMs : 0)
