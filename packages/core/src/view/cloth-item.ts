import type { Event, Task } from '../items/items.ts'
import { dayOf, epochOf, MINUTE } from '../time/when.ts'

/** Where an item stands in time, for one viewer's zone. */
export type Place =
  | { kind: 'timed'; startMs: number; endMs: number }
  /** `to` is the day after the last (as DTEND). */
  | { kind: 'all-day'; from: string; to: string }
  /** Planned for a day, no hour chosen. */
  | { kind: 'day'; date: string }
  | { kind: 'none' }

/** One thing as the Cloth draws it: a tied pair is one item. */
export interface ClothItem {
  /** The mirror that edits are addressed to; with `@recurrenceId` for one occurrence of a series. */
  key: string
  kind: 'task' | 'event' | 'tied'
  title: string
  place: Place
  done: boolean
  /** False for what is fixed: it has other attendees, repeats, or its calendar is read-only. */
  movable: boolean
  /** Why it cannot be moved, in words. */
  fixedBecause: string | null
  completable: boolean
  /** Collections it comes from: the task list first. */
  sources: string[]
  due: string | null
  overdue: boolean
  /** 1 highest … 9 lowest, 0 none (RFC 5545 §3.8.1.9). */
  priority: number
  /** Minutes; null when nobody said. */
  estimate: number | null
  location: string
  busy: boolean
  /** A change of ours is on its way to the service. */
  pending: boolean
}

export interface ItemSource<I> {
  id: string
  item: I
  collectionId: string
  pending: boolean
  writable: boolean
}

export interface Viewer {
  zone: string
  /** Minutes a task counts with when nobody estimated it. */
  defaultMinutes: number
  now: number
}

function fixedBecause(event: ItemSource<Event>): string | null {
  if (event.item.recurring) return 'It repeats. Change a series in its own calendar.'
  if (event.item.attendees > 0) return 'It has guests. Move it in its own calendar, so that they are told.'
  if (!event.writable) return 'Its calendar can only be read.'
  return null
}

function eventPlace(event: Event, zone: string): Place {
  const { anchor, minutes } = event.time
  if (anchor.kind === 'date') {
    const from = anchor.date
    const last = epochOf(anchor, 'UTC') + Math.max(1440, minutes) * MINUTE
    return { kind: 'all-day', from, to: new Date(last).toISOString().slice(0, 10) }
  }
  const startMs = epochOf(anchor, zone)
  return { kind: 'timed', startMs, endMs: startMs + minutes * MINUTE }
}

function taskPlace(task: Task, viewer: Viewer): Place {
  if (!task.start) return { kind: 'none' }
  if (task.start.kind === 'date') return { kind: 'day', date: task.start.date }
  const startMs = epochOf(task.start, viewer.zone)
  const minutes = task.estimatedDuration ?? viewer.defaultMinutes
  return { kind: 'timed', startMs, endMs: startMs + minutes * MINUTE }
}

/**
 * Draws a task, an event, or a tied pair as one item. Of a pair, the task gives the words and the
 * event the place, except that a task's own time that is still on its way to the event is shown at once.
 */
export function clothItem(
  task: ItemSource<Task> | null,
  event: ItemSource<Event> | null,
  viewer: Viewer,
): ClothItem | null {
  const today = dayOf(
    { kind: 'zoned', local: new Date(viewer.now).toISOString().slice(0, 19), zone: 'UTC' },
    viewer.zone,
  )
  if (task) {
    const { item } = task
    const done = item.status === 'completed' || item.status === 'cancelled'
    const taskLeads = !event || task.pending || item.start === null
    const place = taskLeads ? taskPlace(item, viewer) : eventPlace(event.item, viewer.zone)
    const due = item.due ? dayOf(item.due, viewer.zone) : null
    const because = event ? fixedBecause(event) : task.writable ? null : 'Its list can only be read.'
    return {
      key: task.id,
      kind: event ? 'tied' : 'task',
      title: item.summary,
      place: keepLength(place, event, taskLeads),
      done,
      movable: because === null,
      fixedBecause: because,
      completable: task.writable,
      sources: event ? [task.collectionId, event.collectionId] : [task.collectionId],
      due,
      overdue: !done && due !== null && due < today,
      priority: item.priority,
      estimate: item.estimatedDuration,
      location: event?.item.location ?? '',
      busy: !done,
      pending: task.pending || (event?.pending ?? false),
    }
  }
  if (!event || event.item.status === 'cancelled') return null
  const because = fixedBecause(event)
  return {
    key: event.id,
    kind: 'event',
    title: event.item.summary || 'Untitled',
    place: eventPlace(event.item, viewer.zone),
    done: false,
    movable: because === null,
    fixedBecause: because,
    completable: false,
    sources: [event.collectionId],
    due: null,
    overdue: false,
    priority: 0,
    estimate: null,
    location: event.item.location,
    busy: event.item.transparency === 'opaque',
    pending: event.pending,
  }
}

/** A task's new hour keeps the length its event has. */
function keepLength(place: Place, event: ItemSource<Event> | null, taskLeads: boolean): Place {
  if (!event || !taskLeads || place.kind !== 'timed' || event.item.time.anchor.kind === 'date') return place
  return { ...place, endMs: place.startMs + event.item.time.minutes * MINUTE }
}
