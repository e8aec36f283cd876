import type { Event, Item, Task } from '../../items/items.ts'
import { lensesOf, sameValue } from '../lenses/index.ts'
import { BOOKKEEPING } from './observe.ts'
import { partsIn } from '../lenses/checklist.ts'
import { isOver, OF_THE_ROUND } from '../model/rounds.ts'
import type { Base, FieldValue, PlannedWrite, Rule, Tie } from '../model/types.ts'
import { veiledRule } from '../lenses/veiled.ts'
import { raised } from './owed.ts'

/** What the service showed after a write. */
export interface Returned {
  /** Null after a deletion. */
  item: Item | null
  /** As it was when we last read it; null where that is not known, or it was made. */
  before: Item | null
  /** The mirror the item is kept under. */
  mirrorId: string | null
  /** Whether the revision is that of our write. If not, the item may have been edited in between. */
  revisionIsOurs: boolean
}

/**
 * The tie after a confirmed write. The base is what the service returned where the revision is that of
 * the write (it may have rounded or trimmed); else what we wrote, so that anything else is new input.
 */
export function confirmWrite(of: Rule, tie: Tie, write: PlannedWrite, returned: Returned): Tie {
  const rule = veiledRule(of, tie.memory.veil)
  const base: Base = { ...tie.base }
  const owed = { ...tie.memory.owed }
  const { item } = returned
  const shows = returned.revisionIsOurs && item !== null
  // The service shows the next round already: when that is, and that it is open, says nothing of this tie's.
  const over = item !== null && isOver(tie, item)
  for (const lens of lensesOf(rule)) {
    const expected = write.expect[lens.field]
    if (!expected) continue
    const shown =
      shows &&
      !(over && OF_THE_ROUND.has(lens.field)) &&
      !changedBeside(write, lens.props[write.side], returned)
        ? lens.read(write.side, item, expected[write.side])
        : expected[write.side]
    const change = write.fields.find(f => f.field === lens.field) ?? {}
    const after = raised(lens, change, write.side, shown, expected, {
      base: base[lens.field],
      owed: owed[lens.field],
    })
    if (after.base) base[lens.field] = after.base
    if (after.owed) owed[lens.field] = after.owed
    else delete owed[lens.field]
  }
  const parts = write.expect.subtasks
  if (parts)
    base.subtasks = {
      ...parts,
      ...(returned.revisionIsOurs && item?.kind === 'event' && { b: agreedParts(item.description, parts.b) }),
    }
  const bound = write.op === 'create' ? { [write.side]: returned.mirrorId } : {}
  const memory = remembering(tie.memory, write, owed)
  return { ...tie, ...bound, base, memory, released: write.release ?? tie.released }
}

function remembering(
  { owed: _, event, deletion, ...memory }: Tie['memory'],
  { remember }: PlannedWrite,
  owed: Tie['memory']['owed'],
): Tie['memory'] {
  const kept = remember?.event === undefined ? event : remember.event
  const ending = remember?.deletion === undefined ? deletion : remember.deletion
  return {
    ...memory,
    ...(ending && { deletion: ending }),
    ...(kept && { event: kept }),
    ...(owed && Object.keys(owed).length > 0 && { owed }),
  }
}

/** A box that was ticked in the notes is not agreed on before its sub-task is done. */
const agreedParts = (description: string, expected: FieldValue): unknown[] =>
  partsIn(description).map(part => {
    const known = (expected as (typeof part)[]).find(p => p.title === part.title)
    return known ? { ...part, done: known.done } : part
  })

/**
 * Whether somebody changed a source property that we did not write. A service without preconditions lets an edit
 * pass between our reading and our write.
 */
function changedBeside(write: PlannedWrite, props: readonly string[], { item, before }: Returned): boolean {
  if (write.op !== 'patch' || !item || before?.kind !== item.kind) return false
  const [was, is] = [before, item] as unknown as Record<string, unknown>[]
  const written = new Set(Object.keys(write.patch).map(k => (k === 'eventStatus' ? 'status' : k)))
  return props.some(p => !written.has(p) && !BOOKKEEPING.has(p) && !sameValue(is?.[p], was?.[p]))
}

/**
 * Whether the item already shows the effect of a write whose outcome is unknown (a lost answer, a killed server).
 * Then it is confirmed and not sent twice.
 */
export function alreadyShows(rule: Rule, write: PlannedWrite, item: Task | Event): boolean {
  return lensesOf(rule).every(lens => {
    const expected = write.expect[lens.field]
    return (
      !expected ||
      lens.same(write.side, lens.read(write.side, item, expected[write.side]), expected[write.side])
    )
  })
}
