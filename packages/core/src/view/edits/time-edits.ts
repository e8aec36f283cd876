import { type OwnLayer, noOwnLayer } from '../../items/own-layer.ts'
import { addDays, epochOf, inZone, MINUTE, type When } from '../../time/when.ts'
import { type ClothItem, holdsPlan, type Place } from '../cloth-item.ts'
import { lengthOf } from '../item-length.ts'
import type { Edit } from './edit.ts'
import {
  CANNOT_MOVE,
  type Deciders,
  does,
  type EditPlan,
  type EditViewer,
  refuse,
  type Shows,
  type Subject,
} from './edit-plan.ts'
import { estimated } from './estimate-edits.ts'

/** When something is done: at an hour, on a day, in a week, or not yet. */

/** Back among the tasks without a time. What its service cannot say (any day, put by) is kept by us. */
function takeTime(subject: Subject, layer: Partial<OwnLayer>): EditPlan {
  const { item, task } = subject
  if (!task) return refuse('An event keeps its time; only tasks go back to the shelf.')
  const placed = task.item.start !== null
  if (placed && !item.movable) return refuse(item.fixedBecause ?? CANNOT_MOVE)
  const before = task.own ?? noOwnLayer
  const here = holdsPlan(task)
  const own: Partial<OwnLayer> = { week: null, ...layer, ...(!here && { plan: null, planMinutes: null }) }
  // The event of a task without a plan shows its deadline, which is no place to come back to.
  const inverse = (placed && placeAsNow(subject)) || shelfAsNow(subject)
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
  // The event of a pair holds the length, so a move in time is written there; a day without an hour is
  // something only the task can hold, and a task that has no hour (any more) must be given one itself.
  const byTask =
    task !== null &&
    (!event || holdsPlan(task)) &&
    (start.kind === 'date' || task.item.start?.kind !== 'zoned')
  const isUnplanned = byTask && task.item.start === null
  const inverse = (!isUnplanned && placeAsNow(subject)) || shelfAsNow(subject)
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

type Placing = Extract<Edit, { do: 'place' }>

export const decideTime = {
  place: (s, { start, minutes }) => place(s, start, minutes),
  lengthen: (s, { minutes }) => lengthen(s, minutes),
  unplace: s => takeTime(s, { putBy: null }),
  'any-day': (s, { week }) => takeTime(s, { week, putBy: null }),
  'put-by': (s, { until }) => putBy(s, until),
} satisfies Partial<Deciders>

function placedAt(item: ClothItem, { start, minutes }: Placing, viewer: EditViewer): ClothItem {
  const atDeadline = item.atDeadline && item.planHere !== null
  const there = { ...item, week: null, putBy: null, atDeadline, pending: true }
  if (start.kind === 'date') {
    const { date } = start
    // A list without planned times has the day from its event.
    const isEvents = item.kind === 'event' || (item.kind === 'tied' && item.planHere !== null)
    const allDay = { kind: 'all-day', from: date, to: addDays(date, 1) } as const
    return { ...there, place: isEvents ? allDay : { kind: 'day', date } }
  }
  const startMs = epochOf(start, viewer.zone)
  const length = minutes ?? lengthOf(item, viewer.defaultMinutes)
  const place: Place = { kind: 'timed', startMs, endMs: startMs + length * MINUTE }
  if (minutes === undefined || hasEventsLength(item)) return { ...there, place }
  return item.planHere ? { ...there, place, planHere: { minutes } } : { ...there, place, estimate: minutes }
}

/** Its length is an event's, and not how long a task is thought to take. */
const hasEventsLength = ({ kind, place }: ClothItem): boolean =>
  kind !== 'task' && (kind !== 'tied' || place.kind === 'timed')

/** Its deadline stays where it is. */
const shelved = (item: ClothItem, layer: Pick<ClothItem, 'week' | 'putBy'>): ClothItem => ({
  ...item,
  ...(!item.atDeadline && { place: { kind: 'none' } }),
  ...(item.planHere && { planHere: { minutes: null } }),
  ...layer,
  pending: true,
})

export const showTime = {
  place: placedAt,
  lengthen(item, { minutes }) {
    if (item.place.kind !== 'timed') return item
    const place = { ...item.place, endMs: item.place.startMs + minutes * MINUTE }
    // A task without an event takes as long as it is thought to take.
    const there = { ...item, place, pending: true }
    if (item.kind !== 'task') return there
    return item.planHere ? { ...there, planHere: { minutes } } : { ...there, estimate: minutes }
  },
  unplace: item => shelved(item, { week: null, putBy: null }),
  'any-day': (item, { week }) => shelved(item, { week, putBy: null }),
  'put-by': (item, { until }) =>
    until === null ? { ...item, putBy: null } : shelved(item, { week: null, putBy: until }),
} satisfies Partial<Shows>
