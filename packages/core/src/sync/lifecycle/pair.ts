import type { Span } from '../../items/items.ts'
import { epochOf, MINUTE } from '../../time/when.ts'
import { withChecklist } from '../lenses/checklist.ts'
import { decision, ended, patchWrite, type PlanInput, reasonOn, removal, type Verdict } from './decide.ts'
import { planEnding } from './endings.ts'
import { veiledRule } from '../lenses/veiled.ts'
import { underVeil, veiled } from './private.ts'
import { withRound } from '../model/rounds.ts'
import type { Field } from '../model/settings.ts'
import type { TaskCompletion } from '../lenses/index.ts'
import { mergeChecklist } from '../merge/merge-checklist.ts'
import { type Merged, mergePair, type Pair } from '../merge/merge.ts'
import { editedFields } from '../merge/edited-fields.ts'
import { asksOtherwise, rebased } from '../merge/rebase.ts'
import { withoutOwed } from '../merge/owed.ts'
import type { Decision, DecisionReason, PlannedWrite, Rule, Tie } from '../model/types.ts'

/** A pair both of whose sides are there and take part: what each is to be told of the other. */
export function planPair(
  input: PlanInput,
  given: PlanInput['pairs'][number] & Pair,
  first?: Verdict,
): Decision[] {
  const { rule, tie, turned } = underVeil(input.rule, given.tie, given)
  const was = given.was && veiledRule(given.was, given.tie.memory.veil)
  const decisions = planShown({ ...input, rule }, { ...given, tie, ...(was && { was }) }, first)
  return decisions.map(d => veiled(d, rule, given, turned))
}

function planShown(input: PlanInput, given: PlanInput['pairs'][number] & Pair, first?: Verdict): Decision[] {
  const { rule } = input
  const { a, b, was } = given
  const tie = was ? rebased(was, rule, given) : given.tie
  const merge = (): Merged =>
    mergePair(
      rule,
      { tie, a, b },
      {
        answers: input.answers?.get(tie.id),
        olderStands: input.restore?.has(tie.id) ?? false,
        ...(was && { resettle: asksOtherwise(was, rule, given) }),
        ...(input.past && { past: { a: input.past.get(a.id) ?? [], b: input.past.get(b.id) ?? [] } }),
      },
    )
  const ending = planEnding(input, given)
  const isThere = a.presence === 'present' && b.presence === 'present'
  // What an earlier version of an item says ends nothing: it is put back first.
  const before = ending && isThere ? merge() : null
  if (ending && !(before && isPutBack(before)))
    return was ? ending.map(d => ({ ...d, asBefore: true as const })) : ending
  const merged = before ?? merge()
  const remember = isPutBack(merged) ? undefined : settleCompletion(input, tie, { a, b }, merged)
  const kept = nowTogether(withoutOwed(tie.memory, Object.keys(merged.agreed)), merged.together)
  if (remember?.event === null && merged.changes.b.length === 0) delete kept.event
  const known = withRound(withRound({ ...tie, memory: kept }, a.item), b.item)
  const next: Tie = { ...known, base: { ...tie.base, ...merged.agreed } }
  const { overridden, held } = merged
  const rest = { overridden, held }
  const pair = { tie: next, a, b }
  const writes: PlannedWrite[] = []
  const toA = patchWrite(rule, tie, 'a', a, merged)
  if (toA) writes.push(toA)
  // What was edited and waits for an answer is not removed.
  const waits =
    held.length > 0 && editedFields(rule, { tie, a, b }, 'b').some(f => held.some(h => h.field === f))
  const away = waits || isPutBack(merged) ? null : withoutCounterpart(rule, tie, a, b as Pair['b'], merged)
  // Edits of the event are carried over before the event is deleted, so nothing is lost.
  if (away?.write && toA && merged.edited.b)
    return [
      decision(
        rule,
        { effect: 'change', on: 'a', reason: reasonFor(rule, merged, was !== undefined) },
        { ...pair, tie: { ...next, memory: tie.memory } },
        { writes, ...rest },
      ),
    ]
  if (away) {
    if (away.write) writes.push({ ...away.write, ...(away.remember && { remember: away.remember }) })
    const verdict: Verdict = {
      effect: away.write ? 'remove' : 'release',
      on: away.write ? 'b' : null,
      reason: away.reason,
    }
    const after = away.write ? next : ended(next, 'no-time')
    return [decision(rule, verdict, { ...pair, tie: after }, { writes, ...rest })]
  }
  const toB = patchWrite(rule, tie, 'b', b, merged)
  if (toB) writes.push({ ...toB, ...(remember && { remember }) })
  planParts(input, given, next, writes)
  const silent =
    writes.length === 0 &&
    held.length === 0 &&
    merged.together.length === 0 &&
    Object.keys(merged.agreed).length === 0 &&
    next.memory.occurrence === given.tie.memory.occurrence &&
    JSON.stringify(next.base.subtasks) === JSON.stringify(given.tie.base.subtasks)
  if (!first && silent && !was) return []
  const verdict: Verdict = first ?? {
    effect: writes.length > 0 ? 'change' : 'none',
    on: writes[0]?.side ?? null,
    reason: reasonFor(rule, merged, was !== undefined),
  }
  return [decision(rule, verdict, pair, { writes, ...rest })]
}

/** Going back to values that were once held apart holds nothing apart again. */
function nowTogether(memory: Tie['memory'], fields: readonly Field[]): Tie['memory'] {
  if (!memory.apart || fields.length === 0) return memory
  const { apart: before, ...rest } = memory
  const apart = Object.fromEntries(Object.entries(before).filter(([f]) => !fields.includes(f as Field)))
  return Object.keys(apart).length > 0 ? { ...rest, apart } : rest
}

/** A side went back to an earlier version of itself: first it says again what it said. */
const isPutBack = ({ overridden, changes }: Merged): boolean =>
  overridden.some(o => o.because === 'restored' && changes[o.side].some(c => c.field === o.field))

function reasonFor(rule: Rule, merged: Merged, ruleEdited: boolean): DecisionReason {
  const { a, b } = merged.edited
  if (merged.held.length > 0) return 'held'
  if (merged.diverged.length > 0) return 'diverged'
  if (isPutBack(merged)) return 'restored'
  if (merged.overridden.some(o => o.because === 'one-way')) return 'one-way'
  if (a && b) return 'both-edited'
  if (a || b) return reasonOn(rule, a ? 'a' : 'b', 'edited')
  return ruleEdited ? 'rule-edited' : 'agreed'
}

/** The event is not to exist: the task has no hour any more, or is done and the rule removes what is done. */
function withoutCounterpart(
  rule: Rule,
  tie: Tie,
  a: Pair['a'],
  b: Pair['b'],
  merged: Merged,
): { write: PlannedWrite | null; reason: DecisionReason; remember?: PlannedWrite['remember'] } | null {
  const { completed, neverLoses } = rule.settings
  if (a.item.kind !== 'task' || b.item.kind !== 'event') return null
  if (merged.absent) {
    const { reason, expect } = merged.absent
    if (neverLoses.b) return { write: null, reason }
    return { write: { ...removal(rule, tie, 'b', b, 'no-time'), expect }, reason }
  }
  // Done by the task; a mark put on by hand in the calendar first completes the task.
  if (completed !== 'remove' || a.item.status !== 'completed' || neverLoses.b || !rule.terms.b.writable)
    return null
  // Were it to stay, it would be moved to the time that counts.
  const time = merged.values.b.time ?? b.item.time
  const remember = { event: { uid: b.item.uid, time } }
  return { write: removal(rule, tie, 'b', b, 'completed'), reason: 'completed', remember }
}

/**
 * The rule may end an event at the completion of its task: the event is cut, and gets its time back when the task
 * is reopened. The memory of this, and the agreement on completion, are stored once the write that cuts it is
 * confirmed.
 */
function settleCompletion(
  { rule, now }: PlanInput,
  tie: Tie,
  { a, b }: Pick<Pair, 'a' | 'b'>,
  merged: Merged,
): PlannedWrite['remember'] {
  const { memory } = tie
  if (a.item.kind !== 'task' || b.item.kind !== 'event' || rule.settings.completed !== 'end') return undefined
  const was = tie.base.completion?.a as TaskCompletion | undefined
  const done = a.item.status === 'completed'
  // Moved in the same moment, it has a time of its own.
  const moved = [merged.values.a, merged.values.b, merged.agreed].some(of => 'time' in of)
  const taskTime = tie.base.time?.a
  if (moved || taskTime === undefined || merged.held.some(h => h.field === 'time')) return undefined
  const before = b.item.time
  const last = (minutes: number): void => {
    if (minutes === before.minutes) return
    const after = { ...before, minutes }
    merged.values.b.time = after
    merged.changes.b.push({ field: 'time', before, after })
    merged.expect.b.time = { a: taskTime, b: after }
    const { completion } = merged.agreed
    if (!completion) return
    merged.expect.b.completion = completion
    delete merged.agreed.completion
  }
  if (done && was?.state === 'open' && !memory.event) {
    const start = epochOf(before.anchor, rule.zone)
    const at = a.item.completed ? Date.parse(a.item.completed) : now
    const taken = Math.max(0, Math.floor((at - start) / MINUTE))
    if (before.anchor.kind === 'date' || taken >= before.minutes) return undefined
    last(taken)
    return { event: { uid: b.item.uid, time: before } }
  }
  if (done || !memory.event) return undefined
  last((memory.event.time as Span).minutes)
  return { event: null }
}

/** The sub-tasks that are listed in the event's notes, and the boxes ticked there. */
function planParts(
  { rule }: PlanInput,
  { a, b, children }: PlanInput['pairs'][number] & Pair,
  tie: Tie,
  writes: PlannedWrite[],
): void {
  if (rule.settings.subtasks !== 'listed' || a.item.kind !== 'task' || b.item.kind !== 'event' || !children)
    return
  const list = mergeChecklist(tie, children, b.item)
  const closes = rule.settings.openSubtasks === 'completed' && a.item.status === 'completed'
  const common = { tieId: tie.id, expect: {}, release: null }
  const patchChild = (child: Pair['a'], done: boolean): void => {
    if (writes.some(w => w.op === 'patch' && w.mirrorId === child.id)) return
    writes.push({
      ...common,
      op: 'patch',
      side: 'a',
      mirrorId: child.id,
      revision: child.revision,
      patch: { status: done ? 'completed' : 'needs-action' },
      fields: [{ field: 'subtasks', before: !done, after: done }],
    })
  }
  for (const { child, done } of list.ticked) patchChild(child, done)
  if (closes)
    for (const child of children)
      if (
        child.item.kind === 'task' &&
        child.presence === 'present' &&
        child.item.status !== 'completed' &&
        child.item.status !== 'cancelled'
      )
        patchChild(child, true)
  if (list.write === null) {
    tie.base.subtasks = list.base
    return
  }
  const own = writes.find(w => w.op === 'patch' && w.side === 'b')
  const text = (own?.op === 'patch' ? own.patch.description : undefined) ?? b.item.description
  const change = { field: 'subtasks' as const, before: partsBefore(tie), after: list.write }
  const patch = { description: withChecklist(text, list.write) }
  if (own?.op === 'patch') {
    Object.assign(own.patch, patch)
    own.fields.push(change)
    own.expect.subtasks = list.base
  } else
    writes.push({
      ...common,
      op: 'patch',
      side: 'b',
      mirrorId: b.id,
      revision: b.revision,
      patch,
      fields: [change],
      expect: { subtasks: list.base },
    })
}

const partsBefore = (tie: Tie): unknown => tie.base.subtasks?.b ?? []
