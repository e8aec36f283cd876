import type { Event, Item, Task } from '../items/items.ts'
import { lensesOf, sameRaw } from './lenses.ts'
import type { Base, PlannedWrite, Rule, Tie } from './types.ts'

/** What the service showed after a write. */
export interface Returned {
  /** Null after a deletion. */
  item: Item | null
  /** The mirror the item is kept under. */
  mirrorId: string | null
  /** Whether the revision is that of our write; if not, somebody may have edited in between. */
  revisionIsOurs: boolean
}

/**
 * The tie after a confirmed write. The base is what the service returned where the revision is that of
 * the write (it may have rounded or trimmed); else what we wrote, so that anything else is new input.
 */
export function confirmWrite(rule: Rule, tie: Tie, write: PlannedWrite, returned: Returned): Tie {
  const base: Base = { ...tie.base }
  for (const lens of lensesOf(rule)) {
    const expected = write.expect[lens.field]
    if (!expected) continue
    const { item } = returned
    let shown: unknown
    if (returned.revisionIsOurs && item?.kind === 'task' && write.side === 'a') shown = lens.readA(item)
    else if (returned.revisionIsOurs && item?.kind === 'event' && write.side === 'b')
      shown = lens.readB(item, expected.b)
    else shown = expected[write.side]
    base[lens.field] = { ...expected, [write.side]: shown }
  }
  const bound = write.op === 'create' ? { [write.side]: returned.mirrorId } : {}
  return { ...tie, ...bound, base, released: write.release ?? tie.released }
}

/**
 * Whether the item already shows what a write was to bring about: asked when its outcome is unknown
 * (a lost answer, a killed server), so that it is confirmed and not made twice.
 */
export function alreadyShows(rule: Rule, write: PlannedWrite, item: Task | Event): boolean {
  return lensesOf(rule).every(lens => {
    const expected = write.expect[lens.field]
    if (!expected) return true
    return item.kind === 'task'
      ? sameRaw(lens.readA(item), expected.a)
      : sameRaw(lens.readB(item, expected.b), expected.b)
  })
}
