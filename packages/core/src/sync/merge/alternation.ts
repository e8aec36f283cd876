import { sameValue } from '../lenses/index.ts'
import type { FieldChange } from '../model/types.ts'

/**
 * A field that goes to and fro is left as it is after three alternations. Contradicting rules cause this, and
 * services that reset a value each time.
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

/**
 * The earlier writes that this one would continue, newest first: another rule's write back from the same value, or
 * this rule's own write that something undid each time. A person who changes their mind ends the row: the rule
 * then carries different values in turn. Empty if fewer than three.
 * @param past newest first
 */
export function toAndFro(
  past: readonly PastWrite[],
  rule: string,
  { field, before, after }: FieldChange,
): PastWrite[] {
  const row: PastWrite[] = []
  for (const write of past) {
    const change = write.fields.find(f => f.field === field)
    if (!change) continue
    const again = write.rule === rule && sameValue(change.before, before) && sameValue(change.after, after)
    const back = write.rule !== rule && sameValue(change.before, after) && sameValue(change.after, before)
    if (!again && !back) break
    row.push(write)
  }
  return row.length < ALTERNATIONS ? [] : row
}

export const alternationReason = (row: readonly PastWrite[], rule: string): string => {
  const names = [...new Set(row.map(w => `“${w.name}”`))].join(' and ')
  return row.some(w => w.rule !== rule)
    ? `It goes to and fro between rules, so it is left as it is: ${names}.`
    : `Something at the service sets it back each time, so it is left as it is: ${names}.`
}
