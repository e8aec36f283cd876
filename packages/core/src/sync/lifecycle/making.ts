import type { Span } from '../../items/items.ts'
import type { When } from '../../time/when.ts'
import { decision, emptyTie, type PlanInput, type Verdict } from './decide.ts'
import { planPair } from './pair.ts'
import { sameValue } from '../lenses/index.ts'
import { veiledRule } from '../lenses/veiled.ts'
import { uidOfMade } from './made-elsewhere.ts'
import { veilOfNew } from './private.ts'
import { isOver, repeats, roundOf, withRound } from '../model/rounds.ts'
import { counterpartOf } from './counterpart.ts'
import { datedBy, isAdmitted, isOpen, isOutside, sameDateAs } from './taking-part.ts'
import {
  type Decision,
  type DecisionReason,
  type Mirror,
  otherSide,
  type PlannedWrite,
  type Side,
  type Tie,
} from '../model/types.ts'

/** What an untied item asks for: a counterpart, the one it had, or nothing. */

/** A pair that ended is not made again until the item has another date. */
export function stillReleased(input: PlanInput, side: Side, m: Mirror): boolean {
  const last = input.released.get(m.id)
  if (!last || isSucceeded(last, side, m)) return false
  // Tasks are released, not their events: an event left over in a calendar is not a new one.
  if (m.item.kind === 'event' && input.rule.kinds.a === 'task') return true
  // What stood for a round that is over is none that is new.
  if (last.released === 'advanced') return true
  if (last.released === 'completed' || last.released === 'left') return false
  const { deletion } = last.memory
  // It may have been moved where its date is not carried over.
  if (deletion?.when !== undefined && deletion.side !== side && last.base.time)
    return sameValue(datedBy(input.rule, m.item), deletion.when)
  return sameDateAs(input.rule, side, last.base, m.item)
}

/** The tie ended only for another to take its place: the next round, or what was deleted, made again. */
const isSucceeded = (last: Tie, side: Side, m: Mirror): boolean =>
  last.released === `${otherSide(side)}-again` ||
  (last.released === 'advanced' && roundOf(m.item) !== null && isOpen(m.item))

/** It came to its collection as something new since the rule has been on. */
const hasArrived = ({ rule }: PlanInput, m: Mirror): boolean =>
  rule.newSince !== null && m.arrivedAt > 0 && m.arrivedAt >= rule.newSince

/** An item made directly on a side. */
const isNewHere = (input: PlanInput, m: Mirror): boolean =>
  hasArrived(input, m) && input.elsewhere?.has(m.id) !== true

function takesPart(input: PlanInput, side: Side, m: Mirror): boolean {
  const { made, madeMark, subtasks } = input.rule.settings
  const { item } = m
  if (m.presence !== 'present' || !isAdmitted(input.rule, side, item, input.now)) return false
  const last = input.released.get(m.id)
  if (last && isSucceeded(last, side, m)) return true
  if (!isOpen(item)) return false
  if (item.kind === 'task' && item.parent !== null && subtasks !== 'own') return false
  switch (made[side]) {
    case 'all':
      return true
    case 'new':
      return isNewHere(input, m)
    case 'marked':
      return isNewHere(input, m) && item.summary.trimStart().startsWith(madeMark)
    case 'nothing':
      return false
  }
}

export function planNew(input: PlanInput, side: Side, m: Mirror): Decision[] {
  const { rule, now } = input
  const none = (reason: DecisionReason): Decision[] => [
    decision(rule, { effect: 'none', on: null, reason }, { tie: null, a: null, b: null, [side]: m }),
  ]
  const resumed = resume(input, side, m)
  if (resumed) return resumed
  if (!takesPart(input, side, m)) return []
  const { item } = m
  const last = input.released.get(m.id)
  // What repeats without its service telling the rounds apart is drawn where it stands, and not tied.
  if (repeats(item) === 'by-itself') return rule.settings.made[side] === 'all' ? none('series') : []
  if (stillReleased(input, side, m)) return []
  if (rule.settings.made[side] === 'all' && isOutside(rule, item, now)) return none('outside')
  if (last?.released === 'completed' && last.memory.event) return reopened(input, side, m, last.memory.event)
  const transitive = input.transitive?.get(m.id)
  if (transitive) {
    // Of work that was made again, what was agreed on before still tells what has been edited since.
    const of = [last, input.released.get(transitive.id)].find(t => t?.released?.endsWith('-again'))
    const [a, b] = side === 'a' ? [m, transitive] : [transitive, m]
    const bare = emptyTie(input.idFor(`tie ${rule.id} ${m.id} ${transitive.id}`), a.id, b.id)
    return planPair(
      input,
      { ...(of?.was && { was: of.was }), tie: of ? { ...bare, base: of.base } : bare, a, b },
      { effect: 'match', on: null, reason: 'adopted' },
    )
  }
  const kinds = rule.kinds.a === rule.kinds.b
  const reason = last?.released?.endsWith('-again')
    ? 'made-again'
    : kinds
      ? 'new-item'
      : item.kind === 'task'
        ? becauseOf(rule.settings.date, item[rule.settings.date])
        : 'new-event'
  return make(input, side, m, reason, last?.id ?? '')
}

/** Which of a task's dates asks for an event. */
function becauseOf(date: 'start' | 'due', when: When | null): DecisionReason {
  if (date === 'due') return 'task-has-deadline'
  return when?.kind === 'date' ? 'task-has-day' : 'task-has-hour'
}

/** The work was out of the rule for a while and is back: the same two are tied again, as they were. */
function resume(input: PlanInput, side: Side, m: Mirror): Decision[] | null {
  const last = input.released.get(m.id)
  const otherId = last?.[otherSide(side)]
  if (last?.released !== 'left' || m.presence !== 'present' || !otherId) return null
  if (!isAdmitted(input.rule, side, m.item, input.now)) return []
  const other = input.untied[otherSide(side)].find(o => o.id === otherId)
  // A round that is over does not take part again; the next is planned like anything untied.
  if (!other || [m, other].some(o => isOver(last, o.item))) return null
  if (!isAdmitted(input.rule, otherSide(side), other.item, input.now)) return []
  // Said once, from side a.
  if (side === 'b') return []
  const { was, ...ended } = last
  const tie = { ...ended, id: input.idFor(`tie again ${last.id}`), released: null }
  const pair = { ...(was && { was }), tie, a: m, b: other }
  return planPair(input, pair, { effect: 'match', on: null, reason: 'resumed' })
}

/** The counterpart of `m`, to be made on the other side. */
export function make(
  given: PlanInput,
  side: Side,
  m: Mirror,
  reason: DecisionReason,
  generation: string,
  known?: { uid: string; time?: Span },
): Decision[] {
  const to = otherSide(side)
  const veil = veilOfNew(given.rule, side, m)
  const input = { ...given, rule: veiledRule(given.rule, veil) }
  const { rule } = input
  // “Busy” is no title to make anything of.
  if (input.released.get(m.id)?.memory.veil === to) return []
  const sides = side === 'a' ? { a: m, b: null } : { a: null, b: m }
  if (!rule.terms[to].writable) return []
  const uid = known?.uid ?? uidOfMade(input, side, m, generation)
  const made = counterpartOf(rule, side, m, uid, input.now)
  if ('none' in made) {
    if (made.none === 'no-date') return []
    return [decision(rule, { effect: 'none', on: null, reason: made.none }, { tie: null, ...sides })]
  }
  let { item } = made
  if (known?.time && item.kind === 'event') {
    item = { ...item, time: known.time }
    if (made.expect.time) made.expect.time = { ...made.expect.time, [to]: known.time }
  }
  const tieId = input.idFor(`tie ${rule.id} ${m.id} ${uid} ${generation}`)
  const bare = emptyTie(tieId, sides.a?.id ?? null, sides.b?.id ?? null)
  const memory = m.item.kind === 'event' ? { origin: side, ...(veil && { veil }) } : {}
  const tie = withRound({ ...bare, memory: { ...bare.memory, ...memory } }, m.item)
  const write: PlannedWrite = {
    op: 'create',
    side: to,
    tieId: tie.id,
    collectionId: rule.home[to],
    item,
    fields: made.fields,
    expect: made.expect,
    release: null,
  }
  const verdict: Verdict = { effect: 'make', on: to, reason }
  // What comes again, for whatever reason, has not just arrived.
  const isFirst = generation === '' && hasArrived(input, m)
  const arrived = isFirst ? { arrived: m.arrivedAt } : {}
  return [decision(rule, verdict, { tie, ...sides }, { writes: [write], ...arrived })]
}

/** A reopened task has its event back, at its old time unless the task was given another. */
function reopened(
  input: PlanInput,
  side: Side,
  m: Mirror,
  event: { uid: string; time: unknown },
): Decision[] {
  const last = input.released.get(m.id)
  const same = last !== undefined && sameDateAs(input.rule, side, last.base, m.item)
  const known = same ? { uid: event.uid, time: event.time as Span } : undefined
  return make(input, side, m, 'reopened', last?.id ?? '', known)
}
