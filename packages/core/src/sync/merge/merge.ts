import type { Item } from '../../items/items.ts'
import { alternationReason, type PastWrite, toAndFro } from './alternation.ts'
import { partsIn, partsOf } from '../lenses/checklist.ts'
import { type Lens, lensesOf, type Put, sameRaw, UNSETTLED, type Values } from '../lenses/index.ts'
import { changeSpan, newest } from './newest.ts'
import {
  type Answer,
  type Base,
  type BothSides,
  type FieldChange,
  type Held,
  type Mirror,
  otherSide,
  type Overridden,
  type Raw,
  type Rule,
  type Side,
  SIDES,
  type Tie,
} from '../model/types.ts'
import type { Direction, Field } from '../model/settings.ts'

/** What a three-way merge of one pair asks for, side by side. */
export interface Merged {
  /** New raw values to write, for each side. */
  values: Record<Side, Values>
  changes: Record<Side, FieldChange[]>
  /** Bases that hold already, nothing to write. */
  agreed: Base
  /** Bases that hold once the writes are confirmed. */
  expect: Base
  /** The time field asks that the counterpart not exist. */
  absent: { reason: 'no-hour' | 'no-date'; expect: Base } | null
  overridden: Overridden[]
  held: Held[]
  edited: Record<Side, boolean>
  /** Values that a side that cannot be written should have had. */
  diverged: Field[]
}

export interface Pair {
  tie: Tie
  a: Mirror
  b: Mirror
}

export interface MergeTerms {
  /** What a person answered to conflicts of this pair. */
  answers?: Partial<Record<Field, Answer>> | undefined
  /** The rule was edited since the two last agreed: of these fields it asks for something else, which is written. */
  resettle?: ReadonlySet<Field>
  /** What rules wrote to either side lately, newest first. */
  past?: Record<Side, readonly PastWrite[]>
}

type Source =
  | { kind: 'none' }
  | { kind: 'from'; side: Side; loser: Overridden | null; resettled?: boolean }
  | { kind: 'join'; a: Raw }
  | { kind: 'ask'; reason: string }
  | { kind: 'third'; a: Raw }

interface FieldState {
  lens: Lens
  direction: Direction
  base: BothSides | undefined
  now: BothSides
  spans(): Record<Side, { without: number; with: number }>
}

const NOTHING: Source = { kind: 'none' }
const from = (side: Side, loser: Overridden | null = null): Source => ({ kind: 'from', side, loser })

/** Which side's value is to go to the other, if any: the one place where edits are weighed. */
function sourceOf(rule: Rule, state: FieldState, terms: MergeTerms, cannotBe: boolean): Source {
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
  if (oneWay) {
    const to = otherSide(oneWay)
    return from(oneWay, edited[to] ? losing(to, 'one-way') : null)
  }
  if (!edited.a || !edited.b) return from(edited.a ? 'a' : 'b')
  const answer = terms.answers?.[field]
  if (answer && sameRaw(answer.a, now.a) && sameRaw(answer.b, now.b)) {
    if (typeof answer.take === 'object') return { kind: 'third', a: answer.take.value }
    return from(answer.take, losing(otherSide(answer.take), 'answered'))
  }
  const joined = lens.join?.(now.a, now.b, base) ?? null
  if (joined !== null) return { kind: 'join', a: joined }
  if (settings.conflict === 'ask') return { kind: 'ask', reason: 'Both sides changed it.' }
  if (settings.conflict !== 'newest')
    return from(settings.conflict, losing(otherSide(settings.conflict), 'rule-says'))
  const spans = state.spans()
  const { side, because } = newest(spans.a, spans.b, settings.fallback)
  return from(side, losing(otherSide(side), because))
}

/** Merges a pair field by field, three ways, each side compared with its own base in its own terms. */
export function mergePair(rule: Rule, { tie, a, b }: Pair, terms: MergeTerms = {}): Merged {
  const out: Merged = {
    values: { a: {}, b: {} },
    changes: { a: [], b: [] },
    agreed: {},
    expect: {},
    absent: null,
    overridden: [],
    held: [],
    edited: { a: false, b: false },
    diverged: [],
  }
  const items: Record<Side, Item> = { a: a.item, b: b.item }
  for (const lens of lensesOf(rule)) {
    const { field } = lens
    // A block with a title of its own keeps that.
    if (field === 'title' && tie.memory.ownTitle) continue
    const base = tie.base[field]
    const now: BothSides = {
      a: lens.read('a', items.a, base?.a),
      b: lens.read('b', items.b, base?.b),
    }
    // Most fields of most pairs are at rest; what the other side should be need not be worked out for them.
    if (base && !terms.resettle?.has(field) && lens.same('a', now.a, base.a) && lens.same('b', now.b, base.b))
      continue
    const apart = tie.memory.apart?.[field]
    if (apart && lens.same('a', apart.a, now.a) && lens.same('b', apart.b, now.b)) continue
    const state: FieldState = {
      lens,
      direction: rule.settings.fields[field],
      base,
      now,
      spans: () => ({ a: changeSpan(lens, 'a', a, base?.a), b: changeSpan(lens, 'b', b, base?.b) }),
    }
    const forth = lens.put('a', now.a, now.b, base)
    const source = sourceOf(rule, state, terms, forth.kind === 'absent')
    mergeField(rule, out, state, forth, source, terms)
  }
  return out
}

function mergeField(
  rule: Rule,
  out: Merged,
  state: FieldState,
  forth: Put,
  source: Source,
  { resettle, past }: MergeTerms,
): void {
  const { lens, base, now } = state
  const { field } = lens
  if (source.kind === 'none') return
  const hold = (reason: string, choose: boolean): void => {
    out.held.push({
      field,
      reason,
      ...(choose && { conflict: { base: base ?? null, ...now, seen: state.spans() } }),
    })
  }
  /** Writes what differs from what stands there, and says what the base is to be. */
  const settle = (a: Raw, b: Raw, loser: Overridden | null = null): void => {
    const want: BothSides = { a, b }
    const differs = SIDES.filter(side => !sameRaw(want[side], now[side]))
    for (const side of past ? differs : []) {
      const change = { field, before: now[side], after: want[side] }
      const row = toAndFro(past?.[side] ?? [], rule.id, change)
      if (row.length > 0) return hold(alternationReason(row, rule.id), false)
    }
    if (loser && differs.includes(loser.side)) out.overridden.push(loser)
    let writes = false
    for (const side of differs) {
      if (!rule.terms[side].writable) {
        out.diverged.push(field)
        want[side] = now[side]
        continue
      }
      writes = true
      out.values[side][field] = want[side]
      out.changes[side].push({ field, before: now[side], after: want[side] })
    }
    if (writes) {
      out.expect[field] = want
      if (source.kind === 'from' && source.resettled) out.agreed[field] = { ...now, [source.side]: UNSETTLED }
    } else if (!base || !sameRaw(want, base)) out.agreed[field] = want
  }
  // Both sides say the same, whoever was first.
  const direction = source.kind === 'from' ? source.side : 'a'
  if (direction === 'a' && forth.kind === 'value' && sameRaw(forth.value, now.b) && source.kind === 'from') {
    if (!source.resettled || !base || !sameRaw(base, now)) out.agreed[field] = now
    return
  }
  if (source.kind === 'ask') {
    if (forth.kind === 'value' && sameRaw(forth.value, now.b)) out.agreed[field] = now
    else hold(source.reason, true)
    return
  }
  if (source.kind === 'join' || source.kind === 'third') {
    const put = lens.put('a', source.a, now.b, base)
    if (put.kind !== 'value') return hold(put.kind === 'held' ? put.reason : 'It has no time then.', true)
    out.edited = { a: true, b: true }
    return settle(source.a, put.value)
  }
  const { side, loser } = source
  const put = side === 'a' ? forth : lens.put('b', now.b, now.a, base)
  if (put.kind === 'held') {
    hold(put.reason, true)
    return
  }
  if (!source.resettled) out.edited[side] = true
  if (put.kind === 'absent') {
    if (side === 'a') out.absent = { reason: put.reason, expect: { [field]: now } }
    if (source.resettled) out.agreed[field] = { ...now, a: UNSETTLED }
    if (side === 'a' && loser) out.overridden.push(loser)
    return
  }
  // Where a field goes one way, nothing is written to the side that it comes from.
  const mayTidy = state.direction === 'both'
  let own = lens.tidy && base && mayTidy ? lens.tidy(side, now[side], base[side]) : now[side]
  if (side === 'b' && mayTidy && base && lens.reword) own = lens.reword(own, put.value, base)
  if (resettle?.has(field) && side === 'b' && mayTidy) {
    // The edit goes over, and comes back in the rule's new words.
    const again = lens.put('a', put.value, own, base)
    if (again.kind === 'value') own = again.value
  }
  settle(side === 'a' ? own : put.value, side === 'a' ? put.value : own, loser)
}

/** The list of sub-tasks in an event's notes: what is written there, and what was ticked. */
export interface Checklist {
  /** The parts as the notes are to say; null when they say so already. */
  write: { title: string; done: boolean }[] | null
  /** Children whose box was ticked or cleared in the notes. */
  ticked: { child: Mirror; done: boolean }[]
  /** What the two are to agree on. */
  base: BothSides
}

export function mergeChecklist(tie: Tie, children: readonly Mirror[], event: Item): Checklist {
  const tasks = children.filter(c => c.presence === 'present')
  const now = partsOf(tasks.flatMap(c => (c.item.kind === 'task' ? [c.item] : [])))
  const shown = partsIn(event.description)
  const was = (tie.base.subtasks?.b ?? []) as typeof shown
  const ticked: Checklist['ticked'] = []
  const after = now.map((part, i) => {
    const [there, before] = [shown, was].map(list => list.find(p => p.title === part.title))
    const child = tasks[i]
    if (!there || !before || !child || there.done === before.done || there.done === part.done) return part
    ticked.push({ child, done: there.done })
    return { ...part, done: there.done }
  })
  // What somebody wrote into the list by hand stays in it.
  const strangers = shown.filter(p => ![...was, ...after].some(q => q.title === p.title))
  const want = [...after, ...strangers]
  return { write: sameRaw(want, shown) ? null : want, ticked, base: { a: after, b: want } }
}
