import type { Event, Task } from '../items/items.ts'
import { type Lens, lensesOf, sameRaw, type Values } from './lenses.ts'
import { changeSpan, newest } from './newest.ts'
import type { Base, Field, FieldChange, Mirror, Overridden, Rule, Side } from './types.ts'

/** What a three-way merge of one pair asks for, side by side. */
export interface Merged {
  /** New raw values to write, for each side. */
  values: Record<Side, Values>
  changes: Record<Side, FieldChange[]>
  /** Bases that hold already, nothing to write. */
  agreed: Base
  /** Bases that hold once the writes are confirmed. */
  expect: Base
  /** The time field asks that the event not exist. */
  eventAbsent: { reason: 'no-hour' | 'no-date'; expect: Base } | null
  overridden: Overridden[]
  held: { field: Field; reason: string }[]
  edited: Record<Side, boolean>
}

const nothing = (): Merged => ({
  values: { a: {}, b: {} },
  changes: { a: [], b: [] },
  agreed: {},
  expect: {},
  eventAbsent: null,
  overridden: [],
  held: [],
  edited: { a: false, b: false },
})

/** Which side's value is to go to the other, if any. */
function sourceOf(
  lens: Lens,
  rule: Rule,
  base: Base[Field],
  a: { mirror: Mirror; value: unknown },
  b: { mirror: Mirror; value: unknown },
  eventCannotBe: boolean,
): { side: Side; loser: Overridden | null } | null {
  if (!base) {
    // A match must never remove what it found: an event with an hour gives it to a task without one.
    const side = eventCannotBe ? 'b' : rule.settings.firstWinner
    const value = side === 'a' ? b.value : a.value
    const lost: Side = side === 'a' ? 'b' : 'a'
    return { side, loser: { field: lens.field, side: lost, value, because: 'first-winner' } }
  }
  const aEdited = !sameRaw(a.value, base.a)
  const bEdited = !lens.sameB(b.value, base.b)
  if (!aEdited && !bEdited) return null
  if (!aEdited || !bEdited) return { side: aEdited ? 'a' : 'b', loser: null }
  const { side, because } = newest(
    changeSpan(a.mirror, lens.props.a),
    changeSpan(b.mirror, lens.props.b),
    rule.settings.fallback,
  )
  const [lost, value]: [Side, unknown] = side === 'a' ? ['b', b.value] : ['a', a.value]
  return { side, loser: { field: lens.field, side: lost, value, because } }
}

/** Merges a pair field by field, three ways, each side compared with its own base in its own terms. */
export function mergePair(rule: Rule, base: Base, a: Mirror<Task>, b: Mirror<Event>): Merged {
  const out = nothing()
  for (const lens of lensesOf(rule)) {
    const { field } = lens
    const was = base[field]
    const av = lens.readA(a.item)
    const bv = lens.readB(b.item, was?.b)
    const fromA = lens.forth(av, bv, was)
    const [sideA, sideB] = [
      { mirror: a, value: av },
      { mirror: b, value: bv },
    ]
    const source = sourceOf(lens, rule, was, sideA, sideB, fromA.kind === 'absent')
    if (!source) continue
    if (fromA.kind === 'value' && sameRaw(fromA.value, bv)) {
      // Both sides say the same, whoever was first.
      out.agreed[field] = { a: av, b: bv }
      continue
    }
    out.edited[source.side] = true
    if (source.side === 'a') {
      if (fromA.kind === 'held') {
        out.held.push({ field, reason: fromA.reason })
        continue
      }
      if (source.loser) out.overridden.push(source.loser)
      if (fromA.kind === 'absent') {
        out.eventAbsent = { reason: fromA.reason, expect: { [field]: { a: av, b: bv } } }
        continue
      }
      out.values.b[field] = fromA.value
      out.changes.b.push({ field, before: bv, after: fromA.value })
      out.expect[field] = { a: av, b: fromA.value }
      continue
    }
    const toA = lens.back(bv, av)
    if (toA.kind === 'held') {
      out.held.push({ field, reason: toA.reason })
      continue
    }
    if (toA.kind === 'absent') continue
    if (source.loser) out.overridden.push(source.loser)
    const tidied = lens.tidy && was ? lens.tidy(bv, was.b) : bv
    if (!sameRaw(toA.value, av)) {
      out.values.a[field] = toA.value
      out.changes.a.push({ field, before: av, after: toA.value })
    }
    if (!sameRaw(tidied, bv)) {
      out.values.b[field] = tidied
      out.changes.b.push({ field, before: bv, after: tidied })
    }
    if (field in out.values.a || field in out.values.b) out.expect[field] = { a: toA.value, b: tidied }
    else out.agreed[field] = { a: av, b: bv }
  }
  return out
}
