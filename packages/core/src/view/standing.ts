import type { ClothItem } from './cloth-item.ts'

/** Where an item stands, and for when it is meant. */
export type Standing = Pick<ClothItem, 'place' | 'week' | 'putBy'>

/** The same text where two pages see it at the same place. */
export function standingText({ place, week, putBy }: Standing): string {
  const at =
    place.kind === 'timed'
      ? [place.startMs, place.endMs]
      : place.kind === 'all-day'
        ? [place.from, place.to]
        : place.kind === 'day'
          ? [place.date]
          : []
  return JSON.stringify([place.kind, ...at, week, putBy])
}

/** What changes where an item stands: of two who do so at once, the later is told of the other. */
export const MOVES: ReadonlySet<string> = new Set(['place', 'lengthen', 'unplace', 'any-day', 'put-by'])
