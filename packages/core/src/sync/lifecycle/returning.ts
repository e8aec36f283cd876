import { asInPatch } from '../../items/items.ts'
import { lensesOf, sameValue, UNSETTLED } from '../lenses/index.ts'
import type { Field } from '../model/settings.ts'
import { isOver } from '../model/rounds.ts'
import {
  type Base,
  type BothSides,
  type Decision,
  type FieldValue,
  type Mirror,
  otherSide,
  type PlannedWrite,
  type Rule,
  type Side,
  type Tie,
  type RememberedDeletion,
} from '../model/types.ts'
import { decision, type PlanInput } from './decide.ts'
import { make } from './making.ts'
import type { Pair } from '../merge/merge.ts'
import { planPair } from './pair.ts'
import { isAdmitted } from './taking-part.ts'

/** For so long a pair that ended for a deletion is taken up again. */
const REMEMBERED_MS = 90 * 86_400_000

/**
 * The item whose deletion ended a pair is back, so the pair continues, done or not. The effects of the deletion
 * are undone where nobody has touched them since; a counterpart that was deleted is made again. The returned item
 * brings no edits, unless its service says it changed after the deletion. Null if this is no return.
 */
export function planReturn(input: PlanInput, side: Side, m: Mirror): Decision[] | null {
  const { rule, now } = input
  const last = input.released.get(m.id)
  const deletion = last?.memory.deletion
  const hasEnded = last?.released === `${side}-deleted` || last?.released === `${side}-again`
  if (last?.role !== 'mirror' || !hasEnded || deletion?.side !== side) return null
  if (m.presence !== 'present' || now - deletion.at > REMEMBERED_MS || isOver(last, m.item)) return null
  // Other rules have to do with it: what it is to them shows first.
  if (input.elsewhere?.has(m.id) || !isAdmitted(rule, side, m.item, now)) return null
  const to = otherSide(side)
  const other = input.untied[to].find(o => o.id === last[to])
  if (!other && deletion.removed !== undefined)
    return make(input, side, m, 'made-again', last.id, { uid: deletion.removed })
  // It has another counterpart by now: nothing is deleted, and nothing made.
  if (!other || isOver(last, other.item) || !isAdmitted(rule, to, other.item, now)) return []
  const { was, memory, ...rest } = last
  const { deletion: _, owed: __, ...remembered } = memory
  const sides = side === 'a' ? { a: m, b: other } : { a: other, b: m }
  const undone = effectToUndo(rule, deletion, to, other)
  const tie: Tie = {
    ...rest,
    id: input.idFor(`tie again ${last.id}`),
    released: null,
    memory: { ...remembered, ...(undone && { deletion }) },
    base: baseOfReturned(was ?? rule, last, side, sides, deletion, undone),
  }
  const pair = { ...(was && { was }), tie, ...sides }
  return planPutBack(input, pair) ?? planPair(input, pair, { effect: 'match', on: null, reason: 'resumed' })
}

/**
 * Undoes the effects of a deletion before anything else is planned for the pair. Null if there is nothing to undo,
 * or somebody has touched it since.
 */
export function planPutBack(input: PlanInput, pair: PlanInput['pairs'][number] & Pair): Decision[] | null {
  const { rule } = input
  const { tie } = pair
  const { deletion } = tie.memory
  if (!deletion || pair.a.presence !== 'present' || pair.b.presence !== 'present') return null
  const to = otherSide(deletion.side)
  const [m, other] = [pair[deletion.side], pair[to]]
  const undone = effectToUndo(rule, deletion, to, other)
  if (!undone) {
    const { deletion: _, ...memory } = tie.memory
    const rested = { ...pair, tie: { ...tie, memory } }
    const planned = planPair(input, rested)
    return planned.length > 0
      ? planned
      : [decision(rule, { effect: 'none', on: null, reason: 'agreed' }, rested)]
  }
  const { field, before, after } = undone.change
  const write: PlannedWrite = {
    op: 'patch',
    side: to,
    tieId: tie.id,
    mirrorId: other.id,
    revision: other.revision,
    patch: undone.before,
    fields: [{ field, before: after, after: before }],
    expect: tie.base[field]
      ? { [field]: pairOf(deletion.side, readOf(rule, field, deletion.side, m), before) }
      : {},
    release: null,
    remember: { deletion: null },
  }
  return [decision(rule, { effect: 'change', on: to, reason: 'resumed' }, pair, { writes: [write] })]
}

const pairOf = (side: Side, own: FieldValue, there: FieldValue): BothSides =>
  side === 'a' ? { a: own, b: there } : { a: there, b: own }

const readOf = (rule: Rule, field: Field | 'subtasks', side: Side, m: Mirror): FieldValue =>
  lensesOf(rule)
    .find(l => l.field === field)
    ?.read(side, m.item, undefined)

/** What is to be put back on the other side: only where it still is as the deletion left it. */
function effectToUndo(
  rule: Rule,
  { effect }: RememberedDeletion,
  to: Side,
  other: Mirror,
): RememberedDeletion['effect'] | null {
  if (!effect || !rule.terms[to].writable) return null
  const now = asInPatch(other.item, effect.patch)
  return sameValue(now, effect.patch) && !sameValue(now, effect.before) ? effect : null
}

/** What the two count as having agreed on. */
function baseOfReturned(
  rule: Rule,
  last: Tie,
  side: Side,
  sides: Record<Side, Mirror>,
  deletion: RememberedDeletion,
  undone: RememberedDeletion['effect'] | null,
): Base {
  const { lastModified } = sides[side].item
  const isNewer =
    deletion.modified !== null &&
    lastModified !== null &&
    Date.parse(lastModified) > Date.parse(deletion.modified)
  const base: Base = {}
  for (const lens of lensesOf(rule)) {
    const agreed = last.base[lens.field]
    if (!agreed) continue
    const to = otherSide(side)
    const own = lens.read(side, sides[side].item, agreed[side])
    const there = lens.read(to, sides[to].item, agreed[to])
    // Until it is put back, the returned side is the one that speaks.
    if (undone?.change.field === lens.field) base[lens.field] = pairOf(side, UNSETTLED, there)
    else if (isNewer || lens.same(side, own, agreed[side]) || sameValue(own, agreed[side]))
      base[lens.field] = agreed
    // It is older than what was agreed on: the other side's value goes over.
    else base[lens.field] = pairOf(side, own, UNSETTLED)
  }
  return base
}
