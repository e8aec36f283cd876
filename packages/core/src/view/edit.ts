import { z } from 'zod'
import type { Event, ItemPatch, Task } from '../items/items.ts'
import { addDays, epochOf, inZone, MINUTE, When } from '../time/when.ts'
import type { ClothItem } from './cloth-item.ts'
import { lengthOf } from './week.ts'

/** What a person can do to an item on the Cloth; and, returned as `inverse`, what takes it back. */
export const Edit = z.discriminatedUnion('do', [
  z.object({ do: z.literal('place'), start: When, minutes: z.number().int().min(5).max(1440).optional() }),
  z.object({ do: z.literal('lengthen'), minutes: z.number().int().min(5).max(1440) }),
  z.object({ do: z.literal('unplace') }),
  z.object({ do: z.literal('complete') }),
  z.object({ do: z.literal('reopen') }),
  z.object({ do: z.literal('rename'), title: z.string().trim().min(1).max(500) }),
])
export type Edit = z.infer<typeof Edit>

export interface Subject {
  item: ClothItem
  task: { id: string; item: Task } | null
  event: { id: string; item: Event } | null
}

export type EditPlan =
  | {
      ok: true
      /** One write to the service that owns what is edited, or none when only our own layer changes. */
      write: { mirrorId: string; patch: ItemPatch } | null
      /** Our own layer: what its service cannot hold. */
      estimate: { mirrorId: string; minutes: number | null } | null
      inverse: Edit
    }
  | { ok: false; reason: string }

const refuse = (reason: string): EditPlan => ({ ok: false, reason })

/** Decides which item an edit is written to. Rules carry it to the counterpart. */
export function decideEdit(subject: Subject, edit: Edit): EditPlan {
  const { item, task, event } = subject
  switch (edit.do) {
    case 'complete':
    case 'reopen': {
      if (!task) return refuse('An event has nothing to complete.')
      if (!item.completable) return refuse('Its list can only be read.')
      const status = edit.do === 'complete' ? 'completed' : 'needs-action'
      const inverse: Edit = { do: edit.do === 'complete' ? 'reopen' : 'complete' }
      return { ok: true, write: { mirrorId: task.id, patch: { status } }, estimate: null, inverse }
    }
    case 'rename': {
      const owner = task ?? event
      if (!owner || (!task && !item.movable)) return refuse(item.fixedBecause ?? 'It cannot be changed here.')
      const patch = { summary: edit.title }
      return {
        ok: true,
        write: { mirrorId: owner.id, patch },
        estimate: null,
        inverse: { do: 'rename', title: owner.item.summary || 'Untitled' },
      }
    }
    case 'unplace': {
      if (!task) return refuse('An event keeps its time; only tasks go back to the shelf.')
      if (!item.movable) return refuse(item.fixedBecause ?? 'It cannot be moved.')
      const inverse = placeAsNow(subject)
      if (!inverse) return refuse('It is on the shelf already.')
      return { ok: true, write: { mirrorId: task.id, patch: { start: null } }, estimate: null, inverse }
    }
    case 'place':
      return place(subject, edit.start, edit.minutes)
    case 'lengthen':
      return lengthen(subject, edit.minutes)
  }
}

function placeAsNow({ task, event }: Subject): Edit | null {
  const start = event?.item.time.anchor ?? task?.item.start
  if (!start) return null
  const minutes = event && start.kind !== 'date' ? event.item.time.minutes : task?.item.estimatedDuration
  return { do: 'place', start, ...(minutes && minutes >= 5 ? { minutes } : {}) }
}

function place(subject: Subject, start: When, minutes: number | undefined): EditPlan {
  const { item, task, event } = subject
  if (!item.movable) return refuse(item.fixedBecause ?? 'It cannot be moved.')
  const inverse: Edit = placeAsNow(subject) ?? { do: 'unplace' }
  // The event of a pair holds the length, so a move in time is written there; a day without an hour is
  // something only the task can hold, and a task that has no hour (any more) must be given one itself.
  const byTask = task !== null && (start.kind === 'date' || task.item.start?.kind !== 'zoned')
  if (event && !byTask) {
    const present = event.item.time
    const length =
      minutes ?? (present.anchor.kind === 'date' ? (task?.item.estimatedDuration ?? 30) : present.minutes)
    const anchor = sameKindAs(present.anchor, start)
    const time = { anchor, minutes: start.kind === 'date' ? 1440 : length }
    return { ok: true, write: { mirrorId: event.id, patch: { time } }, estimate: null, inverse }
  }
  if (!task) return refuse('It cannot be moved.')
  const keepsLength = minutes === undefined || minutes === task.item.estimatedDuration
  return {
    ok: true,
    write: { mirrorId: task.id, patch: { start } },
    estimate: keepsLength ? null : { mirrorId: task.id, minutes },
    inverse,
  }
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
    return { ok: true, write: { mirrorId: event.id, patch: { time } }, estimate: null, inverse }
  }
  if (!task) return refuse('It cannot be changed.')
  return { ok: true, write: null, estimate: { mirrorId: task.id, minutes }, inverse }
}

/** The item as it will read once the edit has arrived: shown at once, before any service has answered. */
export function shownAfter(
  item: ClothItem,
  edit: Edit,
  viewer: { zone: string; defaultMinutes: number },
): ClothItem {
  switch (edit.do) {
    case 'complete':
    case 'reopen':
      return { ...item, done: edit.do === 'complete', busy: edit.do === 'reopen', pending: true }
    case 'rename':
      return { ...item, title: edit.title, pending: true }
    case 'unplace':
      return { ...item, place: { kind: 'none' }, pending: true }
    case 'lengthen':
      return item.place.kind === 'timed'
        ? {
            ...item,
            place: { ...item.place, endMs: item.place.startMs + edit.minutes * MINUTE },
            pending: true,
          }
        : item
    case 'place': {
      if (edit.start.kind === 'date') {
        const place: ClothItem['place'] =
          item.kind === 'event'
            ? { kind: 'all-day', from: edit.start.date, to: addDays(edit.start.date, 1) }
            : { kind: 'day', date: edit.start.date }
        return { ...item, place, pending: true }
      }
      const startMs = epochOf(edit.start, viewer.zone)
      const minutes = edit.minutes ?? lengthOf(item, viewer.defaultMinutes)
      return { ...item, place: { kind: 'timed', startMs, endMs: startMs + minutes * MINUTE }, pending: true }
    }
  }
}
