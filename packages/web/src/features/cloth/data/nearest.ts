/** Which of several boxes on the screen lies next in a direction: how focus moves from item to item. */

export type Direction = 'left' | 'right' | 'up' | 'down'
export type Box = Pick<DOMRect, 'left' | 'right' | 'top' | 'bottom'>

/** Between two spans; 0 where they overlap. */
const apart = (from: number, to: number, otherFrom: number, otherTo: number): number =>
  Math.max(0, otherFrom - to, from - otherTo)

/** Going sideways stays in its row, as long as there is anything: leaving it counts as so much farther. */
const ASIDE = { across: 20, along: 2 }

/** The index of the next box; null where nothing lies there. */
export function nearest(from: Box, others: readonly Box[], direction: Direction): number | null {
  const isAcross = direction === 'left' || direction === 'right'
  const sign = direction === 'left' || direction === 'up' ? -1 : 1
  const begin = (b: Box): number => (isAcross ? b.left : b.top)
  const end = (b: Box): number => (isAcross ? b.right : b.bottom)
  const middle = (b: Box): number => (begin(b) + end(b)) / 2
  let best: { at: number; far: number } | null = null
  for (const [at, box] of others.entries()) {
    // What begins at the same place is neither before nor after it.
    const ahead = isAcross ? sign * (begin(box) - begin(from)) : sign * (middle(box) - middle(from))
    if (ahead <= 1) continue
    const aside = isAcross
      ? apart(from.top, from.bottom, box.top, box.bottom)
      : apart(from.left, from.right, box.left, box.right)
    const far = ahead + aside * (isAcross ? ASIDE.across : ASIDE.along)
    if (best === null || far < best.far) best = { at, far }
  }
  return best?.at ?? null
}
