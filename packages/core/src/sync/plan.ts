import { planBlock } from './blocks/blocks.ts'
import { understand, understoodOr } from '../ical/not-understood.ts'
import { emptyTie, type PlanInput, titleOfPair } from './lifecycle/decide.ts'
import { madeAfterAll } from './lifecycle/lost-creation.ts'
import { madeElsewhere } from './lifecycle/made-elsewhere.ts'
import { planNew, stillReleased } from './lifecycle/making.ts'
import { type Match, pairedByHand, proposeMatches } from './merge/match.ts'
import { planPair } from './lifecycle/pair.ts'
import { planPutBack, planReturn } from './lifecycle/returning.ts'
import { isAdmitted, isOpen } from './lifecycle/taking-part.ts'
import { repeats } from './model/rounds.ts'
import { planTurn } from './lifecycle/turn.ts'
import {
  type Decision,
  type DecisionReason,
  type Mirror,
  type Rule,
  type Side,
  SIDES,
} from './model/types.ts'

export { type EndedTie, type PlanInput, titleOfPair } from './lifecycle/decide.ts'

/**
 * Decides what one rule asks for. One pure function for the pass and for the preview: what it returns
 * depends on its arguments alone.
 *
 *   tied, both there          merged field by field           (pair, merge, lenses)
 *   tied, one gone or left    by the rule's sentence for it   (endings)
 *   a round that is done      its event is closed             (turn)
 *   a further block           its title, and its end          (blocks)
 *   untied                    matched, made, or left          (match, making)
 */
export function plan(input: PlanInput): Decision[] {
  const { rule, busy } = input
  const free = (m: Mirror | null): boolean =>
    m === null || ((m.presence === 'present' || m.presence === 'gone') && !busy.has(m.id))
  const decisions: Decision[] = []
  for (const pair of input.pairs) {
    const { tie, a, b } = pair
    // A side that was never seen yet belongs to a creation under way.
    if (!a || !b || !free(a) || !free(b)) continue
    decisions.push(
      ...alone(rule, { a, b }, () =>
        tie.role === 'mirror'
          ? (planTurn(input, { ...pair, a, b }) ??
            planPutBack(input, { ...pair, a, b }) ??
            planPair(input, { ...pair, a, b }))
          : planBlock(input, { tie, a, b }),
      ),
    )
  }
  const unplanned = (side: Side): Mirror[] =>
    input.untied[side].filter(m => free(m) && !input.pendingUids.has(m.item.uid))
  const afterAll = madeAfterAll({ a: unplanned('a'), b: unplanned('b') }, input)
  const settled = new Set([...afterAll.strays, ...afterAll.pairs.flatMap(({ a, b }) => [a, b])])
  const there = (side: Side): Mirror[] => unplanned(side).filter(m => !settled.has(m))
  const elsewhere = madeElsewhere({ a: there('a'), b: there('b') }, input)
  for (const m of [...elsewhere.strays, ...elsewhere.pairs.flatMap(({ a, b }) => [a, b])]) settled.add(m)
  const untied = {
    a: unplanned('a').filter(m => !settled.has(m)),
    b: unplanned('b').filter(m => !settled.has(m)),
  }
  const returned = new Set<string>()
  for (const side of SIDES)
    for (const m of untied[side]) {
      if (returned.has(m.id)) continue
      const sides = side === 'a' ? { a: m, b: null } : { a: null, b: m }
      const back = alone(rule, sides, () => {
        const planned = planReturn({ ...input, untied }, side, m)
        if (planned) returned.add(m.id)
        return planned ?? []
      })
      decisions.push(...back)
      for (const d of back) for (const id of [d.a, d.b]) if (id) returned.add(id)
    }
  untied.a = untied.a.filter(m => !returned.has(m.id))
  untied.b = untied.b.filter(m => !returned.has(m.id))
  /** Somebody said that these two are not the same. */
  const isParted = ({ a, b }: Match): boolean => {
    const last = input.released.get(a.id)
    return last?.released === 'by-hand' && last.b === b.id
  }
  const byHand = pairedByHand(rule, untied.a, untied.b).filter(m => !isParted(m))
  const inHand = new Set(byHand.flatMap(({ a, b }) => [a.id, b.id]))
  for (const side of SIDES) untied[side] = untied[side].filter(m => !inHand.has(m.id))
  const matchable = (side: 'a' | 'b') => (m: Mirror) =>
    understoodOr(
      () =>
        repeats(m.item) !== 'by-itself' &&
        isAdmitted(rule, side, m.item, input.now) &&
        (m.item.kind === 'task'
          ? isOpen(m.item) && !stillReleased(input, side, m)
          : m.item.attendees === 0 && !input.released.has(m.id)),
      false,
    )
  const matches = proposeMatches(
    rule,
    untied.a.filter(matchable('a')),
    untied.b.filter(matchable('b')),
  ).filter(
    ({ a, b }) =>
      !isParted({ a, b }) &&
      !(a.item.recurring && b.item.recurring) &&
      mayBeOneWork(input, a, b) &&
      input.transitive?.get(a.id) === undefined &&
      input.transitive?.get(b.id) === undefined,
  )
  const match = ({ a, b }: Match, reason: DecisionReason): void => {
    const tie = emptyTie(input.idFor(`tie ${rule.id} ${a.id} ${b.id}`), a.id, b.id)
    decisions.push(
      ...alone(rule, { a, b }, () => planPair(input, { tie, a, b }, { effect: 'match', on: null, reason })),
    )
  }
  for (const pair of byHand) match(pair, 'paired')
  for (const pair of afterAll.pairs) match(pair, 'made-after-all')
  for (const pair of elsewhere.pairs) match(pair, 'made-elsewhere')
  for (const pair of matches) match(pair, 'matched')
  const taken = new Set(matches.flatMap(m => [m.a.id, m.b.id]))
  // What is made now takes its uid as well.
  const usedUids = new Set(input.usedUids)
  // An item that two of them would have is had by the first; the other is planned once that stands.
  for (const side of SIDES)
    for (const m of untied[side]) {
      if (taken.has(m.id) || taken.has(input.transitive?.get(m.id)?.id ?? '')) continue
      const sides = side === 'a' ? { a: m, b: null } : { a: null, b: m }
      const made = alone(rule, sides, () => planNew({ ...input, untied, usedUids }, side, m))
      decisions.push(...made)
      for (const w of made.flatMap(d => d.writes)) if (w.op === 'create') usedUids.add(w.item.uid)
      for (const d of made) for (const id of [d.a, d.b]) if (id && d.tie) taken.add(id)
    }
  return decisions
}

/** One piece of work that cannot be planned is held, says why, and stops no other. */
function alone(
  rule: Rule,
  sides: { a: Mirror | null; b: Mirror | null },
  work: () => Decision[],
): Decision[] {
  const planned = understand(work)
  if (planned.kind === 'understood') return planned.value
  return [
    {
      effect: 'none',
      on: null,
      reason: 'held',
      title: titleOfPair(rule, sides),
      a: sides.a?.id ?? null,
      b: sides.b?.id ?? null,
      tie: null,
      writes: [],
      overridden: [],
      held: [{ field: 'time', reason: `${CANNOT_BE_PLANNED} ${planned.because}` }],
    },
  ]
}

export const CANNOT_BE_PLANNED = 'It cannot be planned.'

/** Not where one collection would hold the same work twice then: other rules keep these two as two. */
function mayBeOneWork({ elsewhere }: PlanInput, a: Mirror, b: Mirror): boolean {
  const placesOf = (m: Mirror): Set<string> => new Set([m.collectionId, ...(elsewhere?.get(m.id) ?? [])])
  const there = placesOf(b)
  return ![...placesOf(a)].some(place => there.has(place))
}
