import { type Event, newEvent, newTask, type Span, type Task } from '../items/items.ts'
import { DAY_MINUTES, epochOf, MINUTE } from '../time/when.ts'
import {
  eventPatchOf,
  lensesOf,
  sameRaw,
  splitMark,
  type TaskTime,
  taskPatchOf,
  UNTITLED,
  type Values,
} from './lenses.ts'
import { proposeMatches } from './match.ts'
import { mergePair } from './merge.ts'
import type { Base, Decision, FieldChange, Mirror, PlannedWrite, ReleaseReason, Rule, Tie } from './types.ts'

/**
 * Decides what one rule asks for. One pure function for the pass and for the preview: what it returns
 * depends on its arguments alone.
 */
export interface PlanInput {
  rule: Rule
  /** Active ties with what both sides are now; a side is null while it is being made. */
  pairs: { tie: Tie; a: Mirror<Task> | null; b: Mirror<Event> | null }[]
  /** Present items on each side that no active tie of this rule holds. */
  untied: { a: Mirror<Task>[]; b: Mirror<Event>[] }
  /** The last ended tie of an item, by mirror id. */
  released: ReadonlyMap<string, Tie>
  /** Mirrors with a write under way; they are planned again when it is confirmed. */
  busy: ReadonlySet<string>
  /** Uids of creations under way, so that what they made is not taken for somebody's new item. */
  pendingUids: ReadonlySet<string>
  /** Epoch ms. */
  now: number
  /** The same key gives the same id, so that a plan made twice makes one thing. */
  idFor: (key: string) => string
}

type Verdict = Pick<Decision, 'effect' | 'on' | 'reason'>

const DAY = DAY_MINUTES * MINUTE

export function plan(input: PlanInput): Decision[] {
  const { rule, busy } = input
  const free = (m: Mirror | null): boolean =>
    m === null || (m.presence !== 'missing' && m.presence !== 'outside' && !busy.has(m.id))
  const decisions: Decision[] = []
  for (const { tie, a, b } of input.pairs) {
    // A side that was never seen yet belongs to a creation under way.
    if (!a || !b || !free(a) || !free(b)) continue
    decisions.push(...planPair(input, tie, a, b))
  }
  const tasks = input.untied.a.filter(m => free(m) && !input.pendingUids.has(m.item.uid))
  const events = input.untied.b.filter(m => free(m) && !input.pendingUids.has(m.item.uid))
  const matches = proposeMatches(
    rule,
    tasks.filter(m => isOpen(m.item) && !stillReleased(input, m)),
    events.filter(m => !m.item.recurring && m.item.attendees === 0 && !input.released.has(m.id)),
  )
  for (const { a, b } of matches) {
    const tie = emptyTie(input.idFor(`tie ${rule.id} ${a.id} ${b.id}`), a.id, b.id)
    decisions.push(...planPair(input, tie, a, b, { effect: 'match', on: null, reason: 'matched' }))
  }
  const matched = new Set(matches.flatMap(m => [m.a.id, m.b.id]))
  for (const a of tasks) if (!matched.has(a.id)) decisions.push(...planNewTask(input, a))
  for (const b of events) if (!matched.has(b.id)) decisions.push(...planNewEvent(input, b))
  return decisions
}

const isOpen = (task: Task): boolean => task.status === 'needs-action' || task.status === 'in-process'

const emptyTie = (id: string, a: string | null, b: string | null): Tie => ({
  id,
  a,
  b,
  base: {},
  released: null,
})

/** A released pair is not made again until the task has another date (SYNC.md §1, tie). */
function stillReleased({ released }: PlanInput, a: Mirror<Task>): boolean {
  const last = released.get(a.id)
  if (!last) return false
  return last.base.time !== undefined && sameRaw(startIn(last), a.item.start)
}

/** The planned date the two sides last agreed on. */
const startIn = (tie: Tie): unknown => (tie.base.time?.a as TaskTime | undefined)?.start ?? null

const titleOf = (a: Mirror<Task> | null, b: Mirror<Event> | null, mark: string): string =>
  a?.item.summary || splitMark(b?.item.summary ?? '', mark).title || UNTITLED

function decision(
  rule: Rule,
  verdict: Verdict,
  pair: { tie: Tie | null; a: Mirror<Task> | null; b: Mirror<Event> | null },
  rest: Partial<Decision> = {},
): Decision {
  const { tie, a, b } = pair
  const title = titleOf(a, b, rule.settings.mark)
  const ids = { a: a?.id ?? null, b: b?.id ?? null }
  return { ...verdict, title, ...ids, tie, writes: [], overridden: [], held: [], ...rest }
}

function planPair(
  input: PlanInput,
  tie: Tie,
  a: Mirror<Task>,
  b: Mirror<Event>,
  first?: Verdict,
): Decision[] {
  const { rule } = input
  const pair = { tie, a, b }
  if (a.presence === 'gone' && b.presence === 'gone')
    return [
      decision(
        rule,
        { effect: 'release', on: null, reason: 'agreed' },
        { ...pair, tie: ended(tie, 'both-deleted') },
      ),
    ]
  const merged = mergePair(rule, tie.base, a, b)
  if (b.presence === 'gone') {
    const replanned = tie.base.time !== undefined && !sameRaw(startIn(tie), a.item.start)
    return eventDeleted(input, tie, a, b, replanned)
  }
  if (a.presence === 'gone') return taskDeleted(input, tie, a, b, merged.edited.b)

  const base: Base = { ...tie.base, ...merged.agreed }
  const next: Tie = { ...tie, base }
  const { overridden, held } = merged
  const writes: PlannedWrite[] = []
  const common = (changes: FieldChange[]) => ({
    tieId: tie.id,
    fields: changes,
    expect: Object.fromEntries(changes.map(c => [c.field, merged.expect[c.field]])) as Base,
    release: null,
  })
  if (merged.changes.a.length > 0)
    writes.push({
      ...common(merged.changes.a),
      op: 'patch',
      side: 'a',
      mirrorId: a.id,
      revision: a.revision,
      patch: taskPatchOf(merged.values.a),
    })
  if (merged.eventAbsent) {
    const { reason, expect } = merged.eventAbsent
    writes.push({ ...removal(tie, b, rule, 'no-time'), expect })
    const verdict: Verdict = { effect: 'remove', on: 'b', reason }
    return [decision(rule, verdict, { ...pair, tie: next }, { writes, overridden, held })]
  }
  if (merged.changes.b.length > 0)
    writes.push({
      ...common(merged.changes.b),
      op: 'patch',
      side: 'b',
      mirrorId: b.id,
      revision: b.revision,
      patch: eventPatchOf(merged.values.b, b.item, rule.settings.mark),
    })
  if (!first && writes.length === 0 && held.length === 0 && Object.keys(merged.agreed).length === 0) return []
  const { a: ea, b: eb } = merged.edited
  const verdict: Verdict = first ?? {
    effect: writes.length > 0 ? 'change' : 'none',
    on: writes[0]?.side ?? null,
    reason:
      held.length > 0
        ? 'held'
        : ea && eb
          ? 'both-edited'
          : ea
            ? 'task-edited'
            : eb
              ? 'event-edited'
              : 'agreed',
  }
  return [decision(rule, verdict, { ...pair, tie: next }, { writes, overridden, held })]
}

const ended = (tie: Tie, released: ReleaseReason): Tie => ({ ...tie, released })

/** Everything the event held is named, so that the journal can give it back. */
function removal(tie: Tie, b: Mirror<Event>, rule: Rule, release: ReleaseReason): PlannedWrite {
  return {
    op: 'delete',
    side: 'b',
    tieId: tie.id,
    mirrorId: b.id,
    revision: b.revision,
    fields: lensesOf(rule).map(l => ({
      field: l.field,
      before: l.readB(b.item, tie.base[l.field]?.b),
      after: null,
    })),
    expect: {},
    release,
  }
}

/** Event deleted: the task loses its date. A new date given meanwhile stands instead, with a new event. */
function eventDeleted(
  input: PlanInput,
  tie: Tie,
  a: Mirror<Task>,
  b: Mirror<Event>,
  replanned: boolean,
): Decision[] {
  const { rule } = input
  if (replanned) {
    const gone = decision(
      rule,
      { effect: 'release', on: null, reason: 'edit-beats-deletion' },
      { tie: ended(tie, 'event-deleted'), a, b },
    )
    return [gone, ...planNewTask(input, a, b.id)]
  }
  const pair = { tie, a, b }
  if (!isOpen(a.item) || a.item.start === null)
    return [
      decision(
        rule,
        { effect: 'release', on: null, reason: 'event-deleted' },
        { ...pair, tie: ended(tie, 'event-deleted') },
      ),
    ]
  const before: TaskTime = { start: a.item.start, estimate: a.item.estimatedDuration }
  const after = { ...before, start: null }
  const write: PlannedWrite = {
    op: 'patch',
    side: 'a',
    tieId: tie.id,
    mirrorId: a.id,
    revision: a.revision,
    patch: { start: null },
    fields: [{ field: 'time', before, after }],
    expect: { time: { a: after, b: tie.base.time?.b ?? null } },
    release: 'event-deleted',
  }
  return [decision(rule, { effect: 'change', on: 'a', reason: 'event-deleted' }, pair, { writes: [write] })]
}

/** Task deleted: the event is removed. An event edited meanwhile stands, and its task is made again. */
function taskDeleted(
  input: PlanInput,
  tie: Tie,
  a: Mirror<Task>,
  b: Mirror<Event>,
  eventEdited: boolean,
): Decision[] {
  const { rule } = input
  const pair = { tie, a, b }
  if (!eventEdited)
    return [
      decision(rule, { effect: 'remove', on: 'b', reason: 'task-deleted' }, pair, {
        writes: [removal(tie, b, rule, 'task-deleted')],
      }),
    ]
  return [
    decision(
      rule,
      { effect: 'release', on: null, reason: 'edit-beats-deletion' },
      { ...pair, tie: ended(tie, 'task-deleted') },
    ),
    makeTask(input, b, 'edit-beats-deletion', tie.id),
  ]
}

/** An untied task. `after` keeps the id of a second event apart from that of the first. */
function planNewTask(input: PlanInput, a: Mirror<Task>, after?: string): Decision[] {
  const { rule, now } = input
  const { settings } = rule
  const task = a.item
  const none = (reason: 'no-hour' | 'outside'): Decision[] => [
    decision(rule, { effect: 'none', on: null, reason }, { tie: null, a, b: null }),
  ]
  // What its service moves on by itself is drawn where it stands, and not tied.
  if (a.presence !== 'present' || !isOpen(task) || task.start === null || task.recurring) return []
  if (!after && stillReleased(input, a)) return []
  const at = epochOf(task.start, rule.zone)
  if (at < now - settings.backDays * DAY || at > now + settings.aheadDays * DAY) return none('outside')
  if (task.start.kind === 'date') return none('no-hour')

  const generation = after ?? input.released.get(a.id)?.id ?? ''
  const values: Values = {}
  const expect: Base = {}
  const fields: FieldChange[] = []
  for (const lens of lensesOf(rule)) {
    const av = lens.readA(task)
    const put = lens.forth(av, null, undefined)
    if (put.kind !== 'value') continue
    values[lens.field] = put.value
    expect[lens.field] = { a: av, b: put.value }
    fields.push({ field: lens.field, before: null, after: put.value })
  }
  const uid = input.idFor(`event ${rule.id} ${a.id} ${generation} ${JSON.stringify(task.start)}`)
  const tie = emptyTie(input.idFor(`tie ${uid}`), a.id, null)
  const item = newEvent(uid, values.time as Span, eventPatchOf(values, null, settings.mark))
  const write: PlannedWrite = {
    op: 'create',
    side: 'b',
    tieId: tie.id,
    collectionId: rule.b,
    item,
    fields,
    expect,
    release: null,
  }
  return [
    decision(
      rule,
      { effect: 'make', on: 'b', reason: 'task-has-hour' },
      { tie, a, b: null },
      { writes: [write] },
    ),
  ]
}

/** An untied event: invitations, series and events older than the rule never make a task. */
function planNewEvent(input: PlanInput, b: Mirror<Event>): Decision[] {
  const { rule, released } = input
  const { item } = b
  const since = rule.enabledAt
  if (since === null || b.presence !== 'present' || item.recurring || item.attendees > 0) return []
  if (item.status === 'cancelled' || released.has(b.id)) return []
  if (b.firstSeenAt < since || (item.created !== null && Date.parse(item.created) + 1000 <= since)) return []
  return [makeTask(input, b, 'new-event', '')]
}

function makeTask(
  input: PlanInput,
  b: Mirror<Event>,
  reason: 'new-event' | 'edit-beats-deletion',
  generation: string,
): Decision {
  const { rule } = input
  const values: Values = {}
  const expect: Base = {}
  const fields: FieldChange[] = []
  for (const lens of lensesOf(rule)) {
    const bv = lens.readB(b.item, undefined)
    const put = lens.back(bv, null)
    if (put.kind !== 'value') continue
    values[lens.field] = put.value
    expect[lens.field] = { a: put.value, b: bv }
    fields.push({ field: lens.field, before: null, after: put.value })
  }
  const uid = input.idFor(`task ${rule.id} ${b.id} ${generation}`)
  const tie = emptyTie(input.idFor(`tie ${uid}`), null, b.id)
  const write: PlannedWrite = {
    op: 'create',
    side: 'a',
    tieId: tie.id,
    collectionId: rule.a,
    item: newTask(uid, taskPatchOf(values)),
    fields,
    expect,
    release: null,
  }
  return decision(rule, { effect: 'make', on: 'a', reason }, { tie, a: null, b }, { writes: [write] })
}
