import { sameValue } from '../lenses/index.ts'
import type { FieldChange } from '../model/types.ts'

/**
 * A field that goes to and fro, or round and round, is left as it is after it came back three times. Contradicting
 * rules cause this, and services that reset a value each time.
 */

/** How far back writes are looked at, ms. */
export const ALTERNATION_WINDOW_MS = 3_600_000
/** So many writes to and fro, and the next is not made. */
export const ALTERNATIONS = 3

/** A write of a rule to one item, confirmed lately. */
export interface PastWrite {
  rule: string
  /** The rule as people call it. */
  name: string
  fields: readonly FieldChange[]
}

type Change = FieldChange & { rule: string }

/**
 * The earlier writes that this one would continue, newest first: this rule's own write that something undid each
 * time, or writes by which rules in turn bring the field back to values it had. A person who changes their mind ends
 * the row: a rule then carries different values in turn. Empty while it is too early to say.
 * @param past newest first
 */
export function toAndFro(past: readonly PastWrite[], rule: string, change: FieldChange): PastWrite[] {
  const writes = past.flatMap(write => {
    const found = write.fields.find(f => f.field === change.field)
    return found ? [{ write, change: { ...found, rule: write.rule } }] : []
  })
  const next = { ...change, rule }
  const undone = whileTrue(writes, w => isSame(w.change, next))
  if (undone.length >= ALTERNATIONS) return undone.map(w => w.write)
  let later: Change = next
  const turns = whileTrue(writes, w => {
    const isBefore = w.change.rule !== later.rule && sameValue(w.change.after, later.before)
    later = w.change
    return isBefore
  })
  const values = [...turns.map(w => w.change).reverse(), next]
  return returnsAmong(values) < ALTERNATIONS ? [] : turns.map(w => w.write)
}

const isSame = (one: Change, other: Change): boolean =>
  one.rule === other.rule && sameValue(one.before, other.before) && sameValue(one.after, other.after)

/** How many of these writes, oldest first, bring back a value that was there before. */
function returnsAmong(writes: readonly Change[]): number {
  const seen: unknown[] = writes.slice(0, 1).map(w => w.before)
  let returns = 0
  for (const { after } of writes) {
    if (seen.some(value => sameValue(value, after))) returns++
    else seen.push(after)
  }
  return returns
}

function whileTrue<T>(list: readonly T[], holds: (one: T) => boolean): T[] {
  const end = list.findIndex(one => !holds(one))
  return end < 0 ? [...list] : list.slice(0, end)
}

export const alternationReason = (row: readonly PastWrite[], rule: string): string => {
  const names = [...new Set(row.map(w => `“${w.name}”`))].join(' and ')
  return row.some(w => w.rule !== rule)
    ? `It goes to and fro between rules, so it is left as it is: ${names}.`
    : `Something at the service sets it back each time, so it is left as it is: ${names}.`
}
