import { type Put, sameValue } from '../lenses/index.ts'
import { type BothSides, type Overridden, type FieldValue, type Side } from '../model/types.ts'
import type { FieldState, Source } from './source.ts'

/** What becomes of one field. */
export type Outcome =
  | { kind: 'nothing' }
  /** Both sides already have the same value. */
  | { kind: 'agreed' }
  /** Only a person can say; they are shown both values. */
  | { kind: 'held'; reason: string }
  /** `from` asks that its counterpart not exist. */
  | { kind: 'absent'; from: Side; reason: 'no-hour' | 'no-date'; loser: Overridden | null }
  /** What both sides are to say. */
  | { kind: 'values'; want: BothSides; loser: Overridden | null; edited: readonly Side[] }

const NOTHING: Outcome = { kind: 'nothing' }
const AGREED: Outcome = { kind: 'agreed' }

/** `forth`: what side b should be, given side a. */
export function outcomeOf(state: FieldState, source: Source, forth: Put, isResettled: boolean): Outcome {
  const alike = (): boolean => forth.kind === 'value' && sameValue(forth.value, state.now.b)
  switch (source.kind) {
    case 'none':
      return NOTHING
    case 'ask':
      return alike() ? AGREED : { kind: 'held', reason: source.reason }
    case 'join':
    case 'third':
      return bothTake(state, source.a)
    case 'back':
      return {
        kind: 'values',
        want: { ...state.now, [source.loser.side]: source.value },
        loser: source.loser,
        edited: [],
      }
    case 'from': {
      if (source.side === 'b')
        return taken(state, source, state.lens.put('b', state.now.b, state.now.a, state.base), isResettled)
      if (!alike()) return taken(state, source, forth, isResettled)
      const isAtRest = source.resettled && state.base && sameValue(state.base, state.now)
      return isAtRest ? NOTHING : AGREED
    }
  }
}

/** A value that neither side has alone goes to both. */
function bothTake({ lens, base, now }: FieldState, a: FieldValue): Outcome {
  const put = lens.put('a', a, now.b, base)
  if (put.kind !== 'value')
    return { kind: 'held', reason: put.kind === 'held' ? put.reason : 'It has no time then.' }
  return { kind: 'values', want: { a, b: put.value }, loser: null, edited: ['a', 'b'] }
}

/** One side's value goes to the other. */
function taken(
  state: FieldState,
  { side, loser, resettled, answered }: Extract<Source, { kind: 'from' }>,
  put: Put,
  isResettled: boolean,
): Outcome {
  if (put.kind === 'held')
    return answered ? insistedOn(state, side, put.insisted, loser) : { kind: 'held', reason: put.reason }
  if (put.kind === 'absent') return { ...put, from: side, loser }
  const own = ownAfter(state, side, put.value, isResettled)
  const want = side === 'a' ? { a: own, b: put.value } : { a: put.value, b: own }
  return { kind: 'values', want, loser, edited: resettled ? [] : [side] }
}

/** A person said that this side counts, although it cannot be carried as it stands. */
function insistedOn(state: FieldState, side: Side, put: FieldValue, loser: Overridden | null): Outcome {
  if (side === 'a') return { kind: 'values', want: { a: state.now.a, b: put }, loser, edited: ['a'] }
  const both = bothTake(state, put)
  return both.kind === 'values' ? { ...both, loser } : both
}

/** What the side that was edited says in the end: its own words, tidied. */
function ownAfter(
  { lens, direction, base, now }: FieldState,
  side: Side,
  there: FieldValue,
  isResettled: boolean,
): FieldValue {
  // Where a field goes one way, nothing is written to the side that it comes from.
  if (direction !== 'both') return now[side]
  let own = lens.tidy && base ? lens.tidy(side, now[side], base[side]) : now[side]
  if (side === 'a') return own
  if (base && lens.reword) own = lens.reword(own, there, base)
  if (!isResettled) return own
  // The edit goes over, and comes back in the rule's new words.
  const again = lens.put('a', there, own, base)
  return again.kind === 'value' ? again.value : own
}
