import { asInPatch, type ItemPatch } from '../../items/items.ts'
import { epochOf } from '../../time/when.ts'
import { decision, ended, type PlanInput, reasonOn, removal, singleChange } from './decide.ts'
import {
  type EventCompletion,
  lensesOf,
  type TaskCompletion,
  type TaskTime,
  UNSETTLED,
  withMark,
  splitMark,
} from '../lenses/index.ts'
import { roundOf } from '../model/rounds.ts'
import type { Field, RuleSettings } from '../model/settings.ts'
import { editedFields } from '../merge/edited-fields.ts'
import type { Pair } from '../merge/merge.ts'
import { datedBy, isOpen, stays } from './taking-part.ts'
import {
  type BothSides,
  type Decision,
  type Mirror,
  otherSide,
  type PlannedWrite,
  type ReleaseReason,
  type Rule,
  type Side,
  type Tie,
  type RememberedDeletion,
} from '../model/types.ts'

/** One side was deleted, or no longer takes part: what becomes of the other. Null when neither is so. */
export function planEnding(input: PlanInput, pair: Pair): Decision[] | null {
  const { rule } = input
  const { tie, a, b } = pair
  if (a.presence === 'gone' && b.presence === 'gone')
    return [
      decision(
        rule,
        { effect: 'release', on: null, reason: 'agreed' },
        { ...pair, tie: ended(tie, 'both-deleted') },
      ),
    ]
  if (a.presence === 'gone') return deleted(input, pair, 'a')
  if (b.presence === 'gone') return deleted(input, pair, 'b')
  for (const side of ['a', 'b'] as const)
    if (!stays(rule, side, pair[side], input.now)) return left(input, pair, side)
  return null
}

function deleted(input: PlanInput, pair: Pair, gone: Side): Decision[] {
  const { rule } = input
  const { settings } = rule
  const rest = otherSide(gone)
  const [tie, m] = [pair.tie, pair[rest]]
  const sides = { a: pair.a, b: pair.b }
  const release: ReleaseReason = `${gone}-deleted`
  const reason = reasonOn(rule, gone, 'deleted')
  const deletion: RememberedDeletion = {
    side: gone,
    at: input.now,
    modified: pair[gone].item.lastModified,
    // A date that was edited and is carried over asks for its counterpart again.
    ...((settings.conflict === gone || !editedFields(rule, pair, rest).includes('time')) && {
      when: datedBy(rule, m.item),
    }),
  }
  const remembering = { ...tie, memory: { ...tie.memory, deletion } }
  const letGo = (why = reason, how: ReleaseReason = release): Decision =>
    decision(rule, { effect: 'release', on: null, reason: why }, { ...sides, tie: ended(remembering, how) })

  const again: ReleaseReason = `${gone}-again`
  if (input.restore?.has(tie.id)) return [letGo('made-again', again)]
  if (!rule.terms[rest].writable) return [letGo()]
  let policy = settings.deleted[gone]
  if (policy === 'deleted' && settings.neverLoses[rest]) policy = 'left'
  const change = (write: PlannedWrite): Decision[] => {
    const [change] = write.fields
    const patch: ItemPatch = write.op === 'patch' ? write.patch : {}
    const effect = change && { change, patch, before: asInPatch(m.item, patch) }
    // Where it loses its date, that is what they agree on from then on.
    const { when: _, ...undated } = deletion
    const kept = change?.field === 'time' ? undated : deletion
    const remember = { deletion: { ...kept, ...(effect && { effect }) } }
    return [
      decision(
        rule,
        { effect: 'change', on: rest, reason },
        { ...sides, tie },
        { writes: [{ ...write, remember }] },
      ),
    ]
  }
  // That one round lost its event says nothing of those to come.
  if (roundOf(m.item) !== null && (policy === 'undated' || policy === 'deleted')) policy = 'left'
  // A completed pair stays as it is, as a record.
  const settled = m.item.kind === 'task' && !isOpen(m.item)
  const isKept = settled && (policy !== 'deleted' || (gone === 'b' && rule.kinds.b === 'event'))
  if (settings.conflict !== gone && !isKept && editBeats(rule, pair, rest, policy))
    return [letGo('edit-beats-deletion', again)]
  switch (policy) {
    case 'again':
      return [letGo('made-again', again)]
    case 'left':
      return [letGo()]
    case 'deleted':
      if (isKept) return [letGo()]
      return [
        decision(
          rule,
          { effect: 'remove', on: rest, reason },
          { ...sides, tie },
          {
            writes: [
              {
                ...removal(rule, tie, rest, m, release),
                remember: { deletion: { ...deletion, removed: m.item.uid } },
              },
            ],
          },
        ),
      ]
    case 'undated': {
      if (m.item.kind !== 'task' || settled) return [letGo()]
      const promoted = promote(input, pair)
      if (promoted) return promoted
      const { date } = settings
      if (m.item[date] === null) return [letGo()]
      const before: TaskTime = { start: m.item[date], estimate: m.item.estimatedDuration }
      const after: TaskTime = { ...before, start: null }
      const known = lensesOf(rule).some(l => l.field === 'time')
      if (!known) return [letGo()]
      return change(singleChange(rule, tie, rest, m, { field: 'time', before, after }, release))
    }
    case 'cancelled':
    case 'completed':
    case 'status':
      if (settled) return [letGo()]
      return change(closing(rule, tie, rest, m, policy, release))
  }
}

type Ending = RuleSettings['deleted'][Side] | 'remove' | 'mark'

/**
 * Whether a person edited what the change would destroy, on the side that it would change. A removal yields to an
 * edit of any carried field, clearing the date to an edit of the date, closing to an edit of completion. Otherwise
 * both stand.
 */
function editBeats(rule: Rule, pair: Pair, rest: Side, ending: Ending): boolean {
  const destroyed: Partial<Record<Ending, Field[] | 'any'>> = {
    deleted: 'any',
    remove: 'any',
    undated: ['time'],
    completed: ['completion'],
    cancelled: ['completion'],
    status: ['completion'],
    mark: ['completion'],
  }
  const fields = destroyed[ending]
  return !!fields && editedFields(rule, pair, rest).some(f => fields === 'any' || fields.includes(f))
}

/** The item is called off, completed, or given a status of its service's own; nothing is deleted. */
function closing(
  rule: Rule,
  tie: Tie,
  side: Side,
  m: Mirror,
  how: 'cancelled' | 'completed' | 'status',
  release: ReleaseReason,
): PlannedWrite {
  const { item } = m
  const { mark, deletedStatus } = rule.settings
  const named = deletedStatus[otherSide(side)]
  const title = splitMark(item.summary, mark).title
  const forTask: ItemPatch =
    how === 'status' && named
      ? { serviceStatus: named }
      : { status: how === 'completed' ? 'completed' : 'cancelled' }
  const forEvent: ItemPatch =
    how === 'completed'
      ? { summary: withMark(title, true, mark), transparency: 'transparent' }
      : { eventStatus: 'cancelled', transparency: 'transparent' }
  return {
    op: 'patch',
    side,
    tieId: tie.id,
    mirrorId: m.id,
    revision: m.revision,
    patch: item.kind === 'task' ? forTask : forEvent,
    fields: [{ field: 'completion', ...closingValues(rule, tie, side, m, how, named) }],
    expect: {},
    release,
  }
}

/** In the raw terms of the side, so that the journal can tell it and put it back. */
function closingValues(
  rule: Rule,
  tie: Tie,
  side: Side,
  m: Mirror,
  how: 'cancelled' | 'completed' | 'status',
  named: string | null,
): { before: unknown; after: unknown } {
  const lens = lensesOf(rule).find(l => l.field === 'completion')
  if (!lens) return { before: m.item.status, after: how }
  const before = lens.read(side, m.item, tie.base.completion?.[side])
  if (m.item.kind === 'task') {
    const state = how === 'status' ? 'open' : how === 'completed' ? 'done' : 'cancelled'
    return {
      before,
      after: { ...(before as TaskCompletion), state, ...(how === 'status' && named && { open: named }) },
    }
  }
  if (rule.kinds.a === 'event') return { before, after: 'cancelled' }
  const marked = how === 'completed' || (before as EventCompletion).marked
  const cancelled = how === 'completed' ? {} : { cancelled: true }
  return {
    before,
    after: { ...(before as EventCompletion), marked, ...cancelled, transparency: 'transparent' },
  }
}

/** One side no longer passes the filter. */
function left(input: PlanInput, pair: Pair, side: Side): Decision[] | null {
  const { rule } = input
  const rest = otherSide(side)
  const [tie, m] = [pair.tie, pair[rest]]
  const sides = { a: pair.a, b: pair.b }
  const { left: policies, neverLoses } = rule.settings
  const policy = neverLoses[rest] && policies[side] === 'remove' ? 'release' : policies[side]
  const as = (effect: 'release' | 'change' | 'remove', writes: PlannedWrite[], after = tie): Decision[] => [
    decision(
      rule,
      { effect, on: effect === 'release' ? null : rest, reason: 'left-filter' },
      { ...sides, tie: after },
      { writes },
    ),
  ]
  if (policy === 'release' || !rule.terms[rest].writable || m.presence !== 'present')
    return as('release', [], ended(tie, 'left'))
  // An edit is carried over first, and one that waits for an answer is waited for.
  if (editBeats(rule, pair, rest, policy)) return null
  if (policy === 'mark') return as('change', [closing(rule, tie, rest, m, 'cancelled', 'left')])
  return as('remove', [removal(rule, tie, rest, m, 'left')])
}

/** The task's own event is gone, but it has further blocks: the next of them takes its place. */
function promote(input: PlanInput, pair: Pair): Decision[] | null {
  const { rule, now } = input
  const blocks = input.pairs.flatMap(p =>
    p.tie.role === 'block' &&
    p.tie.a === pair.tie.a &&
    p.b?.presence === 'present' &&
    p.b.item.kind === 'event'
      ? [{ tie: p.tie, b: p.b, at: startOf(p.b, rule) }]
      : [],
  )
  const next = blocks.filter(p => p.at >= now).sort((x, y) => x.at - y.at)[0]
  if (!next || pair.a.item.kind !== 'task') return null
  const date: TaskTime = { start: pair.a.item[rule.settings.date], estimate: pair.a.item.estimatedDuration }
  const time = lensesOf(rule).find(l => l.field === 'time')
  const put = time?.put('b', time.read('b', next.b.item, undefined), date, undefined)
  if (put?.kind !== 'value') return null
  const after = put.value as TaskTime
  const id = input.idFor(`tie promoted ${next.tie.id}`)
  const base = Object.fromEntries(
    lensesOf(rule).map(l => [
      l.field,
      { a: l.read('a', pair.a.item, undefined), b: l.read('b', next.b.item, undefined) },
    ]),
  )
  const agreed: Tie = { ...pair.tie, id, b: next.b.id, base, memory: {}, released: null }
  const write = singleChange(rule, agreed, 'a', pair.a, { field: 'time', before: date, after }, null)
  // Until the task has the block's time, that counts as an edit of the block: it is asked for again where it is refused.
  const tie: Tie = { ...agreed, base: { ...base, time: { ...base.time, b: UNSETTLED } as BothSides } }
  const gone = (t: Tie, b: Mirror): Decision =>
    decision(
      rule,
      { effect: 'release', on: null, reason: 'promoted' },
      { tie: ended(t, 'promoted'), a: pair.a, b },
    )
  return [
    gone(pair.tie, pair.b),
    gone(next.tie, next.b),
    decision(
      rule,
      { effect: 'change', on: 'a', reason: 'promoted' },
      { tie, a: pair.a, b: next.b },
      { writes: [write] },
    ),
  ]
}

const startOf = (b: Mirror, rule: Rule): number =>
  b.item.kind === 'event' ? epochOf(b.item.time.anchor, rule.zone) : 0
