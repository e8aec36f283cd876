import { dayAt, MINUTE } from '../time/when.ts'
import type { ClothItem } from '../view/cloth-item.ts'
import { lengthOf } from '../view/item-length.ts'
import { leftOverFrom } from '../view/shelf.ts'
import type { DraftPiece } from './plan.ts'

/**
 * What a piece of a task becomes. The whole of a task that has no hour ahead, in its usual length, is its plan; all else
 * is a block beside it. So neither a deadline nor an estimate is ever written, and what marks a deadline stays.
 * @param pieces all of that task in the draft
 */
export function appliedAs(
  item: ClothItem,
  pieces: readonly Pick<DraftPiece, 'fromMs' | 'toMs'>[],
  { now, zone, defaultMinutes }: { now: number; zone: string; defaultMinutes: number },
): 'plan' | 'block' {
  const [only, ...more] = pieces
  if (!only || more.length > 0) return 'block'
  const isFree = item.place.kind !== 'timed' || leftOverFrom(item, dayAt(now, zone), zone) !== null
  const isWhole =
    item.blocks.ahead === 0 &&
    item.blocks.spent === 0 &&
    (only.toMs - only.fromMs) / MINUTE === lengthOf(item, defaultMinutes)
  // Whoever may only look asks those who may move it.
  return isFree && isWhole && (item.movable || item.onlyLook) && !item.atDeadline ? 'plan' : 'block'
}
