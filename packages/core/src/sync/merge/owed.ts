import type { Lens } from '../lenses/index.ts'
import {
  type BothSides,
  otherSide,
  type FieldChange,
  type FieldValue,
  type Owed,
  type Side,
  type Tie,
} from '../model/types.ts'

/**
 * A decision about a field may need a write on either side: a marked event is shown free and its task completed;
 * categories added on both sides go to both. Each write may be refused by itself. The base is a pair that was seen
 * to agree, so a write raises it when it brings a side the other's value. What is still owed to the other side is
 * stored in the tie.
 */

/** The base that a field is compared with: the side that something is owed to counts as not edited, the other as edited. */
export function baseWithOwed(
  lens: Lens,
  base: BothSides | undefined,
  owed: Owed | undefined,
  now: BothSides,
): BothSides | undefined {
  if (!base || !owed) return base
  const { to } = owed
  const isEdited = (side: Side): boolean => !lens.same(side, now[side], base[side])
  switch (owed.as) {
    case 'own':
      // What people have said since, on either side, goes on from what was agreed.
      return isEdited('a') || isEdited('b') ? base : { ...base, [to]: owed.base }
    case 'other': {
      const source = otherSide(to)
      // It arrived after all, and nobody could tell.
      if (lens.same(to, now[to], owed.value)) return { ...base, [to]: owed.value, [source]: owed.own }
      return isEdited(source) ? base : { ...base, [source]: owed.own }
    }
    case 'join': {
      const source = otherSide(to)
      const put = lens.put(to, base[to], now[source], undefined)
      return put.kind === 'value' ? { ...base, [source]: put.value } : base
    }
  }
}

type OwedFields = NonNullable<Tie['memory']['owed']>

export function withoutOwed(memory: Tie['memory'], fields: readonly string[]): Tie['memory'] {
  const left = Object.entries(memory.owed ?? {}).filter(([field]) => !fields.includes(field))
  const { owed: _, ...rest } = memory
  return left.length > 0 ? { ...rest, owed: Object.fromEntries(left) as OwedFields } : { ...rest }
}

export interface Raised {
  /** Null where the write raises nothing. */
  base: BothSides | null
  /** Undefined where nothing is owed any more. */
  owed: Owed | undefined
}

/**
 * The base of a field after a write to `side` is confirmed; `expected` is the base as the plan knew it. What is
 * owed may come from an earlier decision that was reversed since: a write completes its decision only if the other
 * side has the value that belongs to it.
 */
export function raised(
  lens: Pick<Lens, 'same'>,
  { as, owes }: Pick<FieldChange, 'as' | 'owes'>,
  side: Side,
  shown: FieldValue,
  expected: BothSides,
  before: { base: BothSides | undefined; owed: Owed | undefined },
): Raised {
  const other = otherSide(side)
  const both = { ...expected, [side]: shown }
  const isSecond = before.owed?.to === side && before.owed.as === as
  const isOfDecision = (of: Side, value: FieldValue, known: FieldValue): boolean =>
    known !== undefined && value !== undefined && lens.same(of, value, known)
  switch (as) {
    case undefined:
      return { base: both, owed: undefined }
    case 'own':
      return isSecond && isOfDecision(other, owes, before.base?.[other])
        ? { base: before.base ? { ...before.base, [side]: shown } : null, owed: undefined }
        : { base: null, owed: { to: other, as: 'other', value: owes, own: shown } }
    case 'other':
      return before.owed?.as === 'other' && isSecond && isOfDecision(side, expected[side], before.owed.value)
        ? { base: { ...both, [other]: before.owed.own }, owed: undefined }
        : { base: both, owed: { to: other, as: 'own', base: before.base?.[other] } }
    case 'join':
      // The first of two writes has changed what the other side showed the plan.
      return isSecond && !lens.same(other, expected[other], before.base?.[other])
        ? { base: before.base ? { ...before.base, [side]: shown } : both, owed: undefined }
        : { base: both, owed: { to: other, as: 'join' } }
  }
}
