import type { TaskStatus } from '../items/items.ts'
import { dayAt, dayOf, epochOf, type When } from '../time/when.ts'

/** What follows from a status, a due date and notes: asked when an item is drawn, and when an edit is shown ahead. */

export function statusFacts(status: TaskStatus): {
  status: TaskStatus
  done: boolean
  cancelled: boolean
  busy: boolean
} {
  const done = status === 'completed' || status === 'cancelled'
  return { status, done, cancelled: status === 'cancelled', busy: !done }
}

/** `due` is a date in the viewer's zone; `dueAt` epoch ms, where the deadline has an hour. */
export function dueFacts(
  due: When | null,
  done: boolean,
  viewer: { zone: string; now: number },
): { due: string | null; dueAt: number | null; overdue: boolean } {
  if (!due) return { due: null, dueAt: null, overdue: false }
  const date = dayOf(due, viewer.zone)
  return {
    due: date,
    dueAt: due.kind === 'date' ? null : epochOf(due, viewer.zone),
    overdue: isOverdue(date, done, viewer),
  }
}

export const isOverdue = (
  due: string | null,
  done: boolean,
  { zone, now }: { zone: string; now: number },
): boolean => !done && due !== null && due < dayAt(now, zone)

const NOTES_SHOWN = 200
export const shortNotes = (notes: string): string => notes.slice(0, NOTES_SHOWN)

export const titleOr = (summary: string): string => summary || 'Untitled'
