import type { Event, ItemPatch, Task } from '../items/items.ts'
import { withMarks } from '../items/kind-marks.ts'
import { type EventKind, noOwnLayer, type OwnLayer } from '../items/own-layer.ts'
import { roundOf } from '../sync/model/rounds.ts'
import { inZone, MINUTE, type When } from '../time/when.ts'
import { canBeFreed, type ClothItem, holdsPlan, type ItemSource } from './cloth-item.ts'
import type { Edit, Said } from './edit.ts'
import { durationWords } from './words.ts'

/** What an edit comes to: which item it is written to, what we keep ourselves, and what takes it back. */

export interface Subject {
  item: ClothItem
  task: ItemSource<Task> | null
  event: ItemSource<Event> | null
}

export type EditPlan =
  | {
      ok: true
      /** One write to the service that owns what is edited, or none when only our own layer changes. */
      write: { mirrorId: string; patch: ItemPatch } | null
      /** Our own layer: what its service cannot hold. */
      own: { mirrorId: string; layer: Partial<OwnLayer> } | null
      /** The item that is to be deleted at its service. */
      remove: string | null
      /** Left out of the person's own plan, or in it again. */
      leftOut: boolean | null
      /** Null where it cannot be taken back. */
      inverse: Edit | null
    }
  | { ok: false; reason: string }

const refuse = (reason: string): EditPlan => ({ ok: false, reason })
const does = (inverse: Edit | null, rest: Partial<Extract<EditPlan, { ok: true }>>): EditPlan => ({
  ok: true,
  write: null,
  own: null,
  remove: null,
  leftOut: null,
  inverse,
  ...rest,
})
const WHICH_DATE = 'It repeats. Say which of its dates you mean.'
/** What is said of a series as a whole. */
const OF_THE_WHOLE = new Set<Edit['do']>(['leave-out', 'kind'])
const CANNOT_MOVE = 'It cannot be moved.'

/** Decides which item an edit is written to. Rules carry it to the counterpart. */
export function decideEdit(subject: Subject, edit: Edit): EditPlan {
  const { item, task, event } = subject
  if (event?.item.recurring && !OF_THE_WHOLE.has(edit.do)) return refuse(WHICH_DATE)
  switch (edit.do) {
    case 'complete':
    case 'reopen':
    case 'cancel':
      return setStatus(subject, edit.do)
    case 'rename':
      return say(subject, { summary: edit.title })
    case 'say':
      return say(subject, edit.said)
    case 'unplace':
      return takeTime(subject, { putBy: null })
    case 'any-day':
      return takeTime(subject, { week: edit.week, putBy: null })
    case 'put-by':
      return putBy(subject, edit.until)
    case 'leave-out':
      return does({ do: 'leave-out', out: !edit.out }, { leftOut: edit.out })
    case 'place':
      return place(subject, edit.start, edit.minutes)
    case 'lengthen':
      return lengthen(subject, edit.minutes)
    case 'estimate':
      if (!task) return refuse('Only a task has an estimate.')
      if (task.holdsEstimate && task.estimateStep && (edit.minutes ?? 0) % task.estimateStep !== 0)
        return refuse(`Its service counts work in steps of ${durationWords(task.estimateStep)}.`)
      return does({ do: 'estimate', minutes: item.estimate }, estimated(task, edit.minutes))
    case 'give':
      return give(subject, edit.to)
    case 'spend':
      if (!event || item.kind !== 'block') return refuse('Only a block of a task can be marked as worked.')
      return does(
        { do: 'spend', spent: !edit.spent },
        { own: { mirrorId: event.id, layer: { spent: edit.spent } } },
      )
    case 'fix':
      return fix(subject, edit.movable)
    case 'kind':
      return setKind(subject, edit.kind)
    case 'delete': {
      // A deleted task takes its event along by the rule's own sentence.
      const owner = task ?? event
      if (!owner || !owner.writable) return refuse('Read-only: edit it in its service.')
      return does({ do: 'restore' }, { remove: owner.id })
    }
    case 'restore':
      return refuse('It is still there.')
    case 'series-back':
      return refuse('It does not repeat.')
  }
}

function setStatus({ item, task }: Subject, what: 'complete' | 'reopen' | 'cancel'): EditPlan {
  if (!task) return refuse('An event has nothing to complete.')
  if (!item.completable) return refuse('Its list can only be read.')
  const before = task.item.status
  const status = { complete: 'completed', reopen: 'needs-action', cancel: 'cancelled' } as const
  if (what === 'cancel' && task.unsupported?.has('status:cancelled'))
    return refuse('Its service cannot cancel tasks. Exclude it from your plan, put it by, or delete it.')
  const inverse: Edit =
    before === 'completed' ? { do: 'complete' } : before === 'cancelled' ? { do: 'cancel' } : { do: 'reopen' }
  // Its service is in the next round by then.
  const forGood = what === 'complete' && roundOf(task.item) !== null
  const changed = forGood ? null : before === status[what] ? ({ do: what } as Edit) : inverse
  return does(changed, { write: { mirrorId: task.id, patch: { status: status[what] } } })
}

/** Fields that only one kind has are written to that one; what both have, to the task, which leads. */
const EVENT_ONLY = new Set(['location', 'transparency', 'class'])

export const SAID_WORDS: Record<keyof Said, string> = {
  summary: 'another title',
  description: 'notes',
  location: 'a place',
  url: 'a link',
  categories: 'marks',
  priority: 'a priority',
  due: 'a due date',
  status: 'another status',
  transparency: 'busy or free',
  class: 'who sees it',
  assignees: 'assignee',
}

function say({ item, task, event }: Subject, said: Said): EditPlan {
  const names = Object.keys(said) as (keyof Said)[]
  const toEvent = names.every(n => EVENT_ONLY.has(n)) || !task
  const owner = toEvent ? event : task
  if (!owner) return refuse('A task has no such field.')
  if (!owner.writable) return refuse(item.fixedBecause ?? 'Read-only: edit it in its service.')
  if (owner.item.kind === 'event' && owner.item.attendees > 0 && names.includes('summary'))
    return refuse('It has guests. Rename it in its own calendar, so that they are told.')
  const present = owner.item as unknown as Record<string, unknown>
  const before = Object.fromEntries(names.map(n => [n, present[n]])) as Said
  if (owner.item.kind === 'event' && names.some(n => !(n in owner.item)))
    return refuse('An event has no such field.')
  const unsupported = names.filter(n => owner.unsupported?.has(n))
  if (unsupported.length > 0)
    return refuse(
      `Its service does not support ${unsupported.map(n => SAID_WORDS[n]).join(' and ')}, or does not allow changing that from here.`,
    )
  const inverse: Edit = {
    do: 'say',
    said: 'summary' in before ? { ...before, summary: before.summary || 'Untitled' } : before,
  }
  return does(inverse, { write: { mirrorId: owner.id, patch: said } })
}

function give({ task }: Subject, to: string | null): EditPlan {
  if (!task) return refuse('Only a task can be assigned.')
  if (!task.writable) return refuse('Its list can only be read.')
  const account = to === null ? null : task.accounts?.[to]
  if (account === undefined)
    return refuse('They have no account at its service, or nobody said which one is theirs.')
  const before: Edit = { do: 'say', said: { assignees: task.item.assignees } }
  const assignees = account === null ? [] : [account]
  return does(before, { write: { mirrorId: task.id, patch: { assignees } } })
}

/** Back among the tasks without a time. What its service cannot say (any day, put by) is kept by us. */
function takeTime(subject: Subject, layer: Partial<OwnLayer>): EditPlan {
  const { item, task } = subject
  if (!task) return refuse('An event keeps its time; only tasks go back to the shelf.')
  const placed = task.item.start !== null
  if (placed && !item.movable) return refuse(item.fixedBecause ?? CANNOT_MOVE)
  const before = task.own ?? noOwnLayer
  const here = holdsPlan(task)
  const own: Partial<OwnLayer> = { week: null, ...layer, ...(!here && { plan: null, planMinutes: null }) }
  const inverse = placeAsNow(subject) ?? shelfAsNow(subject)
  const same = Object.entries(own).every(([k, v]) => before[k as keyof OwnLayer] === v)
  if (!placed && same) return refuse('It is on the shelf already.')
  return does(inverse, {
    write: placed && here ? { mirrorId: task.id, patch: { start: null } } : null,
    own: same ? null : { mirrorId: task.id, layer: own },
  })
}

function putBy(subject: Subject, until: string | null): EditPlan {
  const { task } = subject
  if (!task) return refuse('Only tasks can be put by.')
  if (until !== null) return takeTime(subject, { putBy: until })
  const before = task.own?.putBy ?? null
  if (before === null) return refuse('It is not put by.')
  return does({ do: 'put-by', until: before }, { own: { mirrorId: task.id, layer: { putBy: null } } })
}

function placeAsNow({ task, event }: Subject): Edit | null {
  const start = event?.item.time.anchor ?? task?.item.start
  if (!start) return null
  const minutes =
    event && start.kind !== 'date'
      ? event.item.time.minutes
      : ((task && !holdsPlan(task) ? task.own?.planMinutes : null) ?? task?.item.estimatedDuration)
  return { do: 'place', start, ...(minutes && minutes >= 5 ? { minutes } : {}) }
}

/** How a task without a time lies on the shelf. */
function shelfAsNow({ task }: Subject): Edit {
  const { putBy, week } = task?.own ?? noOwnLayer
  if (putBy !== null) return { do: 'put-by', until: putBy }
  return week === null ? { do: 'unplace' } : { do: 'any-day', week }
}

function place(subject: Subject, start: When, minutes: number | undefined): EditPlan {
  const { item, task, event } = subject
  if (!item.movable) return refuse(item.fixedBecause ?? CANNOT_MOVE)
  const inverse = placeAsNow(subject) ?? shelfAsNow(subject)
  // The event of a pair holds the length, so a move in time is written there; a day without an hour is
  // something only the task can hold, and a task that has no hour (any more) must be given one itself.
  const byTask =
    task !== null &&
    (!event || holdsPlan(task)) &&
    (start.kind === 'date' || task.item.start?.kind !== 'zoned')
  if (event && !byTask) {
    const present = event.item.time
    const length =
      minutes ?? (present.anchor.kind === 'date' ? (task?.item.estimatedDuration ?? 30) : present.minutes)
    const anchor = sameKindAs(present.anchor, start)
    const time = { anchor, minutes: start.kind === 'date' ? 1440 : length }
    return does(inverse, { write: { mirrorId: event.id, patch: { time } } })
  }
  if (!task) return refuse(CANNOT_MOVE)
  const here = holdsPlan(task)
  const other = minutes !== undefined && minutes !== task.item.estimatedDuration
  const layer: Partial<OwnLayer> = {
    ...(other && here && { estimate: minutes }),
    ...(minutes !== undefined && !here && { planMinutes: minutes }),
    // With a place in time it is neither put by nor meant for any day.
    ...(task.own && task.own.putBy !== null && { putBy: null }),
    ...(task.own?.week && { week: null }),
  }
  if (!here) return does(inverse, { own: { mirrorId: task.id, layer: { ...layer, plan: start } } })
  return does(inverse, {
    write: { mirrorId: task.id, patch: { start } },
    own: Object.keys(layer).length > 0 ? { mirrorId: task.id, layer } : null,
  })
}

/** An event that belongs to another zone stays told in it. */
const sameKindAs = (present: When, start: When): When =>
  present.kind === 'zoned' && start.kind === 'zoned' ? inZone(start, present.zone, start.zone) : start

function lengthen(subject: Subject, minutes: number): EditPlan {
  const { item, task, event } = subject
  if (item.place.kind !== 'timed') return refuse('Only something with an hour has a length.')
  const before = (item.place.endMs - item.place.startMs) / MINUTE
  const inverse: Edit = { do: 'lengthen', minutes: Math.max(5, before) }
  if (event) {
    if (!item.movable) return refuse(item.fixedBecause ?? 'It cannot be changed.')
    const time = { ...event.item.time, minutes }
    return does(inverse, { write: { mirrorId: event.id, patch: { time } } })
  }
  if (!task) return refuse('It cannot be changed.')
  // The time that is planned for it; how long it is thought to take stays.
  if (!holdsPlan(task)) return does(inverse, { own: { mirrorId: task.id, layer: { planMinutes: minutes } } })
  return does(inverse, estimated(task, minutes))
}

/** Where its service says how long it takes, there; else in our own layer. */
function estimated(task: ItemSource<Task>, minutes: number | null): Partial<Extract<EditPlan, { ok: true }>> {
  return task.holdsEstimate
    ? { write: { mirrorId: task.id, patch: { estimatedDuration: minutes } } }
    : { own: { mirrorId: task.id, layer: { estimate: minutes } } }
}

/** Kept by us, and said in its categories, so that colleagues who look in the calendar itself see it too. */
function fix({ item, event }: Subject, movable: boolean): EditPlan {
  if (!event || !canBeFreed(event)) return refuse(item.fixedBecause ?? 'It cannot be changed.')
  return does(
    { do: 'fix', movable: !movable },
    {
      own: { mirrorId: event.id, layer: { movable } },
      write: {
        mirrorId: event.id,
        patch: { categories: withMarks(event.item.categories, { movable }) },
      },
    },
  )
}

function setKind({ item, event }: Subject, kind: EventKind): EditPlan {
  if (!event || item.kind !== 'event') return refuse('Only an event has a kind.')
  const own = { mirrorId: event.id, layer: { eventKind: kind } }
  const inverse: Edit = { do: 'kind', kind: item.eventKind }
  if (!canBeFreed(event)) return does(inverse, { own })
  const categories = withMarks(event.item.categories, { kind: kind === 'other' ? null : kind })
  return does(inverse, { own, write: { mirrorId: event.id, patch: { categories } } })
}
