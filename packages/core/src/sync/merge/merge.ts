import type { Item } from '../../items/items.ts'
import { lensesOf, sameValue, UNSETTLED, type Values } from '../lenses/index.ts'
import type { Field } from '../model/settings.ts'
import {
  type Base,
  type BothSides,
  type FieldChange,
  type Held,
  type Mirror,
  otherSide,
  type Overridden,
  type Rule,
  type Side,
  SIDES,
  type Tie,
} from '../model/types.ts'
import { alternationReason, toAndFro } from './alternation.ts'
import type { MergeTerms } from './merge-terms.ts'
import { baseWithOwed } from './owed.ts'
import { changeSpan } from './newest.ts'
import { type Outcome, outcomeOf } from './outcome.ts'
import { type FieldState, type Source, sourceOf } from './source.ts'

/** What a three-way merge of one pair asks for, side by side. */
export interface Merged {
  /** New raw values to write, for each side. */
  values: Record<Side, Values>
  changes: Record<Side, FieldChange[]>
  /** Bases that hold already, nothing to write. */
  agreed: Base
  /** For the writes to each side: bases that hold once they are confirmed. */
  expect: Record<Side, Base>
  /** The time field asks that the counterpart not exist. */
  absent: { reason: 'no-hour' | 'no-date'; expect: Base } | null
  overridden: Overridden[]
  held: Held[]
  edited: Record<Side, boolean>
  /** Values that a side that cannot be written should have had. */
  diverged: Field[]
  /** Fields that were held apart, until a side said something else. */
  together: Field[]
}

export interface Pair {
  tie: Tie
  a: Mirror
  b: Mirror
}

/** Merges a pair field by field, three ways, each side compared with its own base in its own terms. */
export function mergePair(rule: Rule, { tie, a, b }: Pair, terms: MergeTerms = {}): Merged {
  const out: Merged = {
    values: { a: {}, b: {} },
    changes: { a: [], b: [] },
    agreed: {},
    expect: { a: {}, b: {} },
    absent: null,
    overridden: [],
    held: [],
    edited: { a: false, b: false },
    diverged: [],
    together: [],
  }
  const items: Record<Side, Item> = { a: a.item, b: b.item }
  for (const lens of lensesOf(rule)) {
    const { field } = lens
    // A block with a title of its own keeps that.
    if (field === 'title' && tie.memory.ownTitle) continue
    const agreed = tie.base[field]
    const now: BothSides = {
      a: lens.read('a', items.a, agreed?.a),
      b: lens.read('b', items.b, agreed?.b),
    }
    const apart = tie.memory.apart?.[field]
    const before = baseWithOwed(lens, agreed, tie.memory.owed?.[field], now)
    // Most fields of most pairs are at rest; what the other side should be need not be worked out for them.
    if (
      before &&
      !terms.resettle?.has(field) &&
      lens.same('a', now.a, before.a) &&
      lens.same('b', now.b, before.b)
    ) {
      // Somebody said again what had been taken back.
      if (apart) out.together.push(field)
      continue
    }
    const isApart = (side: Side): boolean => !!apart && lens.same(side, apart[side], now[side])
    if (isApart('a') && isApart('b')) continue
    if (apart) out.together.push(field)
    // A side that still is as it was put back, nobody has edited since.
    const base = before && {
      a: isApart('a') ? now.a : before.a,
      b: isApart('b') ? now.b : before.b,
    }
    const state: FieldState = {
      lens,
      direction: rule.settings.fields[field],
      base,
      now,
      spans: () => ({ a: changeSpan(lens, 'a', a, base?.a), b: changeSpan(lens, 'b', b, base?.b) }),
    }
    const forth = lens.put('a', now.a, now.b, base)
    const source = sourceOf(rule, state, terms, forth.kind === 'absent')
    const outcome = outcomeOf(state, source, forth, terms.resettle?.has(field) ?? false)
    record(out, { rule, state, source, past: terms.past }, outcome)
  }
  return out
}

interface About {
  rule: Rule
  state: FieldState
  source: Source
  past: MergeTerms['past']
}

/** Puts what became of one field beside what became of the others. */
function record(out: Merged, about: About, outcome: Outcome): void {
  const { state, source } = about
  const { now, base } = state
  const { field } = state.lens
  const isResettled = source.kind === 'from' && source.resettled === true
  switch (outcome.kind) {
    case 'nothing':
      return
    case 'agreed':
      out.agreed[field] = now
      return
    case 'held': {
      const conflict = { base: base ?? null, ...now, seen: state.spans() }
      out.held.push({ field, reason: outcome.reason, conflict })
      return
    }
    case 'absent': {
      const { from, reason, loser } = outcome
      if (!isResettled) out.edited[from] = true
      if (isResettled) out.agreed[field] = { ...now, a: UNSETTLED }
      if (from !== 'a') return
      out.absent = { reason, expect: { [field]: now } }
      if (loser) out.overridden.push(loser)
      return
    }
    case 'values':
      for (const side of outcome.edited) out.edited[side] = true
      recordValues(out, about, outcome)
  }
}

/** Writes what differs from what stands there, and says what the base is to be. */
function recordValues(
  out: Merged,
  { rule, state, source, past }: About,
  { want, loser }: Extract<Outcome, { kind: 'values' }>,
): void {
  const { now, base } = state
  const { field } = state.lens
  const differs = SIDES.filter(side => !sameValue(want[side], now[side]))
  const isAnswered = source.kind === 'third' || (source.kind === 'from' && source.answered === true)
  for (const side of past && !isAnswered ? differs : []) {
    const change = { field, before: now[side], after: want[side] }
    const row = toAndFro(past?.[side] ?? [], rule.id, change)
    if (row.length > 0) {
      const conflict = { base: base ?? null, ...now, seen: state.spans() }
      out.held.push({ field, reason: alternationReason(row, rule.id), conflict })
      return
    }
  }
  if (loser && differs.includes(loser.side)) out.overridden.push(loser)
  const written = differs.filter(side => rule.terms[side].writable)
  const stands = { ...want }
  for (const side of differs.filter(d => !written.includes(d))) {
    out.diverged.push(field)
    stands[side] = now[side]
  }
  for (const side of written) {
    const as =
      written.length < 2 ? null : source.kind !== 'from' ? 'join' : side === source.side ? 'own' : 'other'
    out.values[side][field] = want[side]
    out.changes[side].push({
      field,
      before: now[side],
      after: want[side],
      ...(as && { as }),
      ...(as === 'own' && { owes: want[otherSide(side)] }),
    })
    // What the other side showed the plan: what we write there ourselves is not yet seen to be so.
    out.expect[side][field] = as ? { ...now, [side]: want[side] } : stands
  }
  if (written.length === 0) {
    if (!base || !sameValue(stands, base)) out.agreed[field] = stands
    return
  }
  if (source.kind === 'from' && source.resettled) out.agreed[field] = { ...now, [source.side]: UNSETTLED }
}
