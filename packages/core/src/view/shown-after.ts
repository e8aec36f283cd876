import { addDays, epochOf, MINUTE } from '../time/when.ts'
import type { ClothItem } from './cloth-item.ts'
import type { Edit, Said } from './edit.ts'
import { lengthOf } from './item-length.ts'

/** The item as it will read once the edit has arrived: shown at once, before any service has answered. */
export function shownAfter(
  item: ClothItem,
  edit: Edit,
  viewer: { zone: string; defaultMinutes: number },
): ClothItem {
  const shelved = { ...item, place: { kind: 'none' } as const, pending: true }
  switch (edit.do) {
    case 'complete':
    case 'cancel':
      return { ...item, done: true, cancelled: edit.do === 'cancel', busy: false, pending: true }
    case 'reopen':
      return { ...item, done: false, cancelled: false, busy: true, pending: true }
    case 'rename':
      return { ...item, title: edit.title, pending: true }
    case 'say':
      return saidOf(item, edit.said)
    case 'unplace':
      return { ...shelved, week: null, putBy: null }
    case 'any-day':
      return { ...shelved, week: edit.week, putBy: null }
    case 'put-by':
      return edit.until === null ? { ...item, putBy: null } : { ...shelved, week: null, putBy: edit.until }
    case 'leave-out':
      return { ...item, leftOut: edit.out }
    case 'estimate': {
      const known = { ...item, estimate: edit.minutes }
      if (item.kind !== 'task' || item.place.kind !== 'timed') return known
      const length = (edit.minutes ?? viewer.defaultMinutes) * MINUTE
      return { ...known, place: { ...item.place, endMs: item.place.startMs + length } }
    }
    case 'give':
      return { ...item, people: edit.to === null ? [] : [edit.to], pending: true }
    case 'spend':
      return { ...item, done: edit.spent }
    case 'fix':
      return { ...item, movable: edit.movable, fixedBecause: edit.movable ? null : item.fixedBecause }
    case 'kind':
      return { ...item, eventKind: edit.kind }
    case 'delete':
      return { ...item, cancelled: true, done: true, busy: false, pending: true }
    case 'series-back':
      return item
    case 'restore':
      return { ...item, cancelled: false, done: false, pending: true }
    case 'lengthen':
      return item.place.kind === 'timed'
        ? {
            ...item,
            place: { ...item.place, endMs: item.place.startMs + edit.minutes * MINUTE },
            // A task without an event takes as long as it is thought to take.
            ...(item.kind === 'task' && { estimate: edit.minutes }),
            pending: true,
          }
        : item
    case 'place':
      return placedAt(item, edit, viewer)
  }
}

function saidOf(item: ClothItem, said: Said): ClothItem {
  return {
    ...item,
    ...(said.summary !== undefined && { title: said.summary }),
    ...(said.location !== undefined && { location: said.location }),
    ...(said.priority !== undefined && { priority: said.priority }),
    ...(said.categories && { categories: said.categories }),
    ...(said.due !== undefined && {
      due: said.due === null ? null : said.due.kind === 'date' ? said.due.date : said.due.local.slice(0, 10),
    }),
    pending: true,
  }
}

function placedAt(
  item: ClothItem,
  edit: Extract<Edit, { do: 'place' }>,
  viewer: { zone: string; defaultMinutes: number },
): ClothItem {
  const there = { ...item, week: null, putBy: null, pending: true }
  if (edit.start.kind === 'date') {
    const { date } = edit.start
    const allDay = { kind: 'all-day', from: date, to: addDays(date, 1) } as const
    return { ...there, place: item.kind === 'event' ? allDay : { kind: 'day', date } }
  }
  const startMs = epochOf(edit.start, viewer.zone)
  const minutes = edit.minutes ?? lengthOf(item, viewer.defaultMinutes)
  const byTask =
    edit.minutes !== undefined &&
    (item.kind === 'task' || (item.kind === 'tied' && item.place.kind !== 'timed'))
  return {
    ...there,
    ...(byTask && { estimate: minutes }),
    place: { kind: 'timed', startMs, endMs: startMs + minutes * MINUTE },
  }
}
