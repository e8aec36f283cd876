import { type Lens, sameValue } from '../lenses/index.ts'
import type { Direction } from '../model/settings.ts'
import {
  type BothSides,
  otherSide,
  type Overridden,
  type FieldValue,
  type Rule,
  type SeenSpan,
  type Side,
  SIDES,
} from '../model/types.ts'
import type { MergeTerms } from './merge-terms.ts'
import { newest } from './newest.ts'

/** Where the value of one field comes from, three ways: the one place where edits are weighed. */

export type Source =
  | { kind: 'none' }
  /** `answered`: a person said so, and nothing holds it any more. */
  | { kind: 'from'; side: Side; loser: Overridden | null; resettled?: boolean; answered?: true }
  | { kind: 'join'; a: FieldValue }
  | { kind: 'ask'; reason: string }
  | { kind: 'third'; a: FieldValue }
  /** This side went back to an earlier version: it says again what it had agreed on. */
  | { kind: 'back'; loser: Overridden; value: FieldValue }

export interface FieldState {
  lens: Lens
  direction: Direction
  base: BothSides | undefined
  now: BothSides
  spans(): Record<Side, SeenSpan>
}

const NOTHING: Source = { kind: 'none' }
const from = (side: Side, loser: Overridden | null = null): Source => ({ kind: 'from', side, loser })

/** Which side's value is to go to the other, if any: the one place where edits are weighed. */
export function sourceOf(rule: Rule, state: FieldState, terms: MergeTerms, cannotBe: boolean): Source {
  const { lens, direction, base, now } = state
  const { field } = lens
  const { settings } = rule
  const losing = (side: Side, because: Overridden['because']): Overridden => ({
    field,
    side,
    value: now[side],
    because,
  })
  if (direction === 'once') return NOTHING
  const oneWay = direction === 'a-to-b' ? 'a' : direction === 'b-to-a' ? 'b' : null
  if (!base) {
    // A match must never remove what it found: an event with an hour gives it to a task without one.
    const side = oneWay ?? (cannotBe ? 'b' : settings.firstWinner)
    return from(side, losing(otherSide(side), 'first-winner'))
  }
  const edited = { a: !lens.same('a', now.a, base.a), b: !lens.same('b', now.b, base.b) }
  if (!edited.a && !edited.b) {
    if (!terms.resettle?.has(field)) return NOTHING
    return { kind: 'from', side: oneWay ?? 'a', loser: null, resettled: true }
  }
  const answer = terms.answers?.[field]
  if (answer && sameValue(answer.a, now.a) && sameValue(answer.b, now.b)) {
    const { take } = answer
    if (typeof take === 'object') return { kind: 'third', a: take.value }
    const loser = otherSide(take)
    return {
      kind: 'from',
      side: take,
      loser: edited[loser] ? losing(loser, 'answered') : null,
      answered: true,
    }
  }
  if (oneWay) {
    const to = otherSide(oneWay)
    return from(oneWay, edited[to] ? losing(to, 'one-way') : null)
  }
  const back = terms.olderStands ? null : backwards(edited, state)
  if (back) {
    const loser = losing(back, 'restored')
    return edited[otherSide(back)] ? from(otherSide(back), loser) : { kind: 'back', loser, value: base[back] }
  }
  if (!edited.a || !edited.b) return from(edited.a ? 'a' : 'b')
  const joined = lens.join?.(now.a, now.b, base) ?? null
  if (joined !== null) return { kind: 'join', a: joined }
  if (settings.conflict === 'ask') return { kind: 'ask', reason: 'Both sides changed it.' }
  if (settings.conflict !== 'newest')
    return from(settings.conflict, losing(otherSide(settings.conflict), 'rule-says'))
  const spans = state.spans()
  const { side, because } = newest(spans.a, spans.b, settings.fallback)
  return from(side, losing(otherSide(side), because))
}

/** The side whose value is of an earlier version of its item; null also where both are. */
function backwards(edited: Record<Side, boolean>, state: FieldState): Side | null {
  const spans = state.spans()
  const back = SIDES.filter(side => edited[side] && spans[side].restored)
  return back.length === 1 ? (back[0] ?? null) : null
}
