import type { Item, Task } from '../../items/items.ts'
import { decision, ended, type PlanInput } from './decide.ts'
import type { TaskTime } from '../lenses/index.ts'
import type { Pair } from '../merge/merge.ts'
import { planPair } from './pair.ts'
import { isOver, OF_THE_ROUND } from '../model/rounds.ts'
import {
  type Decision,
  otherSide,
  type PlannedWrite,
  type Rule,
  type Side,
  SIDES,
  type Tie,
} from '../model/types.ts'

/**
 * A repeating task that its service has advanced. The round of this tie is completed, and the counterpart is
 * changed by the rule's own sentence. Then the tie ends, and the next round is planned like any untied item. Null
 * if no round has ended. Edits of the counterpart from the same moment are carried over first. What only a person
 * can settle stays on the counterpart of the old round.
 */
export function planTurn(input: PlanInput, given: PlanInput['pairs'][number] & Pair): Decision[] | null {
  const { tie } = given
  const side = SIDES.find(s => given[s].presence === 'present' && isOver(tie, given[s].item))
  if (!side) return null
  const other = otherSide(side)
  const letGo = (after: Tie): Decision =>
    decision(
      input.rule,
      { effect: 'release', on: null, reason: 'advanced' },
      { ...given, tie: ended(after, 'advanced') },
    )
  if (given[other].presence !== 'present') return [letGo(tie)]
  const asDone = { ...given[side], item: doneRound(input.rule, tie, side, given[side].item as Task) }
  const [closing] = planPair({ ...input, rule: ofTheRound(input.rule, tie) }, { ...given, [side]: asDone })
  if (!closing) return [letGo(tie)]
  const carried = closing.writes.flatMap(w => (w.side === side ? withoutTheRound(w) : []))
  if (carried.length > 0) return [{ ...closing, on: side, writes: carried }]
  const writes = closing.writes
    .filter(w => w.side === other)
    .map(w => ({ ...w, release: 'advanced' as const }))
  if (writes.length === 0) return [letGo(closing.tie ?? tie)]
  return [
    {
      ...closing,
      reason: 'advanced',
      effect: closing.effect === 'remove' ? 'remove' : 'change',
      on: other,
      tie,
      writes,
      held: [],
    },
  ]
}

/** A date on which the two never agreed is of the next round by now: it says nothing of the one that is done. */
function ofTheRound(rule: Rule, { base }: Tie): Rule {
  const { fields } = rule.settings
  const never = (['time', 'due'] as const).filter(f => base[f] === undefined && fields[f] !== 'off')
  if (never.length === 0) return rule
  const off = Object.fromEntries(never.map(f => [f, 'off' as const]))
  return { ...rule, settings: { ...rule.settings, fields: { ...fields, ...off } } }
}

/** The task as it would stand had its service left the round that is done where it was. */
function doneRound(rule: Rule, tie: Tie, side: Side, task: Task): Item {
  const planned = tie.base.time?.[side] as TaskTime | null | undefined
  const date = planned === undefined ? {} : { [rule.settings.date]: planned?.start ?? null }
  // A deadline that is carried by itself is of the round, too.
  const due = tie.base.due === undefined ? {} : { due: tie.base.due[side] as Task['due'] }
  return { ...task, ...due, ...date, status: 'completed', recurring: false }
}

/** The rest of a write is for the task in any round. */
function withoutTheRound(write: PlannedWrite): PlannedWrite[] {
  if (write.op !== 'patch') return []
  const fields = write.fields.filter(f => !OF_THE_ROUND.has(f.field))
  if (fields.length === 0) return []
  const {
    start: _,
    due: __,
    status: ___,
    serviceStatus: ____,
    estimatedDuration: _____,
    ...patch
  } = write.patch
  const expect = Object.fromEntries(fields.map(f => [f.field, write.expect[f.field]]))
  return [{ ...write, patch, fields, expect }]
}
