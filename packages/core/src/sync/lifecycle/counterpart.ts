import type { Filter } from '../../filter/filter.ts'
import {
  type Event,
  type EventPatch,
  type Item,
  newEvent,
  newTask,
  type Span,
  type Task,
  type TaskPatch,
} from '../../items/items.ts'
import { withMarks } from '../../items/kind-marks.ts'
import { DAY_MINUTES, type When } from '../../time/when.ts'
import { type EventCompletion, type Lens, lensesOf, patchOf, type Values } from '../lenses/index.ts'
import {
  type Base,
  type BothSides,
  type FieldChange,
  type Mirror,
  otherSide,
  type FieldValue,
  type Rule,
  type Side,
} from '../model/types.ts'
import { isAdmitted } from './taking-part.ts'

/** What stands on the other side for an item that takes part. */
export interface Counterpart {
  item: Item
  expect: Base
  fields: FieldChange[]
}

type None = 'no-hour' | 'no-date' | 'would-not-fit'

/** What the counterpart of `m`, which is on `side`, would be; it gets `uid`. `now`: epoch ms. */
export function counterpartOf(
  rule: Rule,
  side: Side,
  m: Mirror,
  uid: string,
  now: number,
): Counterpart | { none: None } {
  const to = otherSide(side)
  const carried = carry(rule, side, m.item)
  const none = carried.none ?? (hasNoPlace(rule, to, m.item, carried.values) ? 'no-date' : null)
  if (none) return { none }
  const item =
    rule.kinds[to] === 'task' ? taskFor(rule, to, uid, carried) : eventFor(rule, to, uid, m.item, carried)
  if (!isAdmitted(rule, to, item, now)) return { none: 'would-not-fit' }
  return {
    item,
    expect: { ...expectedOf(carried, to, item), ...basesOf(carried.against, side, m.item, item) },
    fields: carried.fields,
  }
}

/** What the fields of the rule carry over. */
interface Carried {
  values: Values
  expect: Base
  fields: FieldChange[]
  /** Fields that only go the other way. */
  against: Lens[]
  none: 'no-hour' | 'no-date' | null
}

const sides = (side: Side, own: FieldValue, there: FieldValue): BothSides =>
  side === 'a' ? { a: own, b: there } : { a: there, b: own }

function carry(rule: Rule, side: Side, item: Item): Carried {
  const out: Carried = { values: {}, expect: {}, fields: [], against: [], none: null }
  const back = side === 'a' ? 'b-to-a' : 'a-to-b'
  for (const lens of lensesOf(rule)) {
    const { field } = lens
    // A new item always needs a title and a time.
    if (rule.settings.fields[field] === back && field !== 'title' && field !== 'time') {
      out.against.push(lens)
      continue
    }
    const own = lens.read(side, item, undefined)
    const put = lens.put(side, own, null, undefined)
    if (put.kind === 'absent') out.none = put.reason
    if (put.kind !== 'value') continue
    out.values[field] = put.value
    out.expect[field] = sides(side, own, put.value)
    out.fields.push({ field, before: null, after: put.value })
  }
  return out
}

/** That the new side has nothing to say yet takes nothing away on the side where it was made. */
function basesOf(against: readonly Lens[], side: Side, own: Item, made: Item): Base {
  const base: Base = {}
  for (const lens of against)
    base[lens.field] = sides(
      side,
      lens.read(side, own, undefined),
      lens.read(otherSide(side), made, undefined),
    )
  return base
}

/** How an event shows before its task is done is part of the agreement, and is restored when the task is reopened. */
function expectedOf({ values, expect }: Carried, to: Side, item: Item): Base {
  const done = values.completion as EventCompletion | undefined
  if (item.kind !== 'event' || !done || typeof done !== 'object' || !expect.completion) return expect
  const { transparency } = item
  return {
    ...expect,
    completion: { ...expect.completion, [to]: { ...done, transparency, open: transparency } },
  }
}

const dateOf = (rule: Rule, task: Task): When | null => task[rule.settings.date] ?? task.start ?? task.due

/** Without a date, and with a time that is not carried, there is no place for an event. */
const hasNoPlace = (rule: Rule, to: Side, item: Item, values: Values): boolean =>
  rule.kinds[to] === 'event' && item.kind === 'task' && !values.time && !dateOf(rule, item)

function taskFor(rule: Rule, to: Side, uid: string, { values }: Carried): Task {
  const given = givenBy(rule.settings.filter[to], rule.terms[to].me)
  return newTask(uid, { ...given, ...(patchOf(rule, to, values, null) as TaskPatch) })
}

function eventFor(rule: Rule, to: Side, uid: string, from: Item, { values }: Carried): Event {
  const { filter, show, tellKind } = rule.settings
  const given = givenBy(filter[to], rule.terms[to].me)
  const patch = patchOf(rule, to, values, null) as EventPatch
  const categories = patch.categories ?? given.categories
  const marked = tellKind && from.kind === 'task'
  const priority = patch.priority || given.priority
  const time = timeIn(rule, values, from)
  const isFree = show.as === 'free' || (time.anchor.kind === 'date' && from.kind === 'task')
  return {
    ...newEvent(uid, time, {
      ...patch,
      ...(categories && { categories }),
      ...(marked && { categories: withMarks(categories ?? [], { movable: true, kind: 'task block' }) }),
      ...(priority && { priority }),
    }),
    class: rule.veil && from.kind === 'event' ? from.class : show.class,
    transparency: isFree ? 'transparent' : (patch.transparency ?? 'opaque'),
  }
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
