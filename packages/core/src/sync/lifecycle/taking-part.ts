import { admits, type Filter, type FilterTerms, keeps } from '../../filter/filter.ts'
import { type EventPatch, type Item, newEvent, newTask, type Span, type Task } from '../../items/items.ts'
import { withMarks } from '../../items/kind-marks.ts'
import { DAY_MINUTES, epochOf, MINUTE, type When } from '../../time/when.ts'
import {
  type EventCompletion,
  type Lens,
  lensesOf,
  patchOf,
  sameRaw,
  type TaskTime,
  type Values,
} from '../lenses/index.ts'
import { type Base, type FieldChange, type Mirror, otherSide, type Rule, type Side } from '../model/types.ts'

/** Who takes part in a rule, and what the counterpart of one that does would be. */

const DAY = DAY_MINUTES * MINUTE

export const isOpen = (item: Item): boolean =>
  item.kind === 'event'
    ? item.status !== 'cancelled'
    : item.status === 'needs-action' || item.status === 'in-process'

const termsOf = (rule: Rule, side: Side, now: number): FilterTerms => ({
  me: rule.terms[side].me,
  now,
  zone: rule.zone,
})

export const isAdmitted = (rule: Rule, side: Side, item: Item, now: number): boolean =>
  admits(rule.settings.filter[side], item, termsOf(rule, side, now))

/**
 * Whether something tied still passes. What is completed obeys the rule for completed work only, and
 * that a day has passed takes nothing out. A tie follows an item that moves to another list.
 */
export function stays(rule: Rule, side: Side, m: Mirror, now: number): boolean {
  if (m.item.kind === 'task' && m.item.status === 'completed') return true
  if (!keeps(rule.settings.filter[side], m.item, termsOf(rule, side, now))) return false
  return rule.settings.filter[side].every(clause =>
    clause.field !== 'serviceStatus' && clause.field !== 'status'
      ? true
      : admits([clause], m.item, termsOf(rule, side, now)),
  )
}

/** The moment by which the rule's reach is measured. */
function momentOf(rule: Rule, item: Item): When | null {
  return item.kind === 'event' ? item.time.anchor : item[rule.settings.date]
}

export function isOutside(rule: Rule, item: Item, now: number): boolean {
  const when = momentOf(rule, item)
  if (when === null || (rule.kinds.a === 'task' && rule.kinds.b === 'task')) return false
  const at = epochOf(when, rule.zone)
  const { backDays, aheadDays } = rule.settings
  return at < now - backDays * DAY || at > now + aheadDays * DAY
}

/** What an item is given so that it passes a filter: its plain equalities. */
function givenBy(filter: Filter, me: string | null): Partial<Task> {
  const given: Partial<Task> = {}
  for (const clause of filter) {
    const one = 'is' in clause && clause.is.length === 1 ? clause.is[0] : undefined
    if (clause.field === 'category' && clause.is[0]) given.categories = [clause.is[0]]
    if (clause.field === 'priority') given.priority = clause.atLeast
    if (clause.field === 'assignee' && clause.is[0] && clause.is[0] !== 'nobody') {
      const who = clause.is[0] === 'me' ? me : clause.is[0]
      if (who) given.assignees = [who]
    }
    if (clause.field === 'serviceStatus' && one) given.serviceStatus = one
  }
  return given
}

export interface Counterpart {
  item: Item
  expect: Base
  fields: FieldChange[]
}

/** What the counterpart of `m` on the other side would be. */
export function counterpartOf(
  rule: Rule,
  side: Side,
  m: Mirror,
  uid: string,
  now: number,
): Counterpart | { none: 'no-hour' | 'no-date' | 'would-not-fit' } {
  const to = otherSide(side)
  const values: Values = {}
  const expect: Base = {}
  const fields: FieldChange[] = []
  const against: Lens[] = []
  let none: 'no-hour' | 'no-date' | null = null
  for (const lens of lensesOf(rule)) {
    const direction = rule.settings.fields[lens.field]
    // What only goes the other way is not carried; a title and a time something must have.
    if (
      direction === (side === 'a' ? 'b-to-a' : 'a-to-b') &&
      lens.field !== 'title' &&
      lens.field !== 'time'
    ) {
      against.push(lens)
      continue
    }
    const own = lens.read(side, m.item, undefined)
    const put = lens.put(side, own, null, undefined)
    if (put.kind === 'absent') none = put.reason
    if (put.kind !== 'value') continue
    values[lens.field] = put.value
    expect[lens.field] = { a: side === 'a' ? own : put.value, b: side === 'a' ? put.value : own }
    fields.push({ field: lens.field, before: null, after: put.value })
  }
  // Without a date, and with a time that is not carried, there is no place for an event.
  if (!none && rule.kinds[to] === 'event' && m.item.kind === 'task' && !values.time && !dateOf(rule, m.item))
    return { none: 'no-date' }
  if (none) return { none }
  const { filter, show } = rule.settings
  const given = givenBy(filter[to], rule.terms[to].me)
  const patch = patchOf(rule, to, values, null)
  let item: Item
  if (rule.kinds[to] === 'task') item = newTask(uid, { ...given, ...patch })
  else {
    const rest: EventPatch = { ...patch }
    if (given.categories && !rest.categories) rest.categories = given.categories
    if (given.priority && !rest.priority) rest.priority = given.priority
    if (rule.settings.tellKind && m.item.kind === 'task')
      rest.categories = withMarks(rest.categories ?? [], { movable: true, kind: 'task block' })
    const event = newEvent(uid, timeIn(rule, values, m.item), rest)
    const free = show.as === 'free' || (event.time.anchor.kind === 'date' && m.item.kind === 'task')
    item = {
      ...event,
      class: show.class,
      ...(patch.transparency === undefined && { transparency: free ? 'transparent' : 'opaque' }),
    }
    if (free && item.kind === 'event') item.transparency = 'transparent'
    const done = values.completion as EventCompletion | undefined
    if (done && typeof done === 'object' && expect.completion)
      expect.completion = {
        ...expect.completion,
        [to]: { ...done, transparency: item.transparency, open: item.transparency },
      }
  }
  if (!isAdmitted(rule, to, item, now)) return { none: 'would-not-fit' }
  // That the new side has nothing to say yet takes nothing away on the side where it was made.
  for (const lens of against) {
    const [own, there] = [lens.read(side, m.item, undefined), lens.read(to, item, undefined)]
    expect[lens.field] = side === 'a' ? { a: own, b: there } : { a: there, b: own }
  }
  return { item, expect, fields }
}

/** An event needs a time even where the rule does not carry it. */
function timeIn(rule: Rule, values: Values, from: Item): Span {
  const time = values.time as Span | undefined
  if (time) return time
  if (from.kind === 'event') return from.time
  const when = dateOf(rule, from)
  return {
    anchor: when ?? { kind: 'date', date: '1970-01-01' },
    minutes: when?.kind === 'date' ? DAY_MINUTES : 30,
  }
}

const dateOf = (rule: Rule, task: Task): When | null => task[rule.settings.date] ?? task.start ?? task.due

/**
 * Whether the item's date is still the one that its ended tie last agreed on. Two lists that have no plan in common
 * agree on the deadline, or on no date at all: then there is none that could be another.
 */
export function sameDateAs(rule: Rule, side: Side, base: Base, item: Item): boolean {
  const agreed = base.time?.[side]
  if (agreed === undefined)
    return item.kind === 'event' || base.due === undefined || sameRaw(base.due[side], item.due)
  const now = item.kind === 'event' ? item.time : item[rule.settings.date]
  const then = item.kind === 'event' ? agreed : ((agreed as TaskTime | null)?.start ?? null)
  return sameRaw(now, then)
}
