import { Item } from '../items/items.ts'
import { occurrencesBetween } from '../recurrence/occurrences.ts'
import { TooOften, UnrollBudget } from '../recurrence/unroll-budget.ts'
import { epochOf, MINUTE } from '../time/when.ts'
import { parseCalendar } from '../ical/ical-values.ts'
import { NotUnderstood, understand, type Understood } from '../ical/not-understood.ts'
import { readEagerly } from '../recurrence/read-eagerly.ts'
import { parseEvent } from '../ical/vevent.ts'
import { parseTask } from './vtodo.ts'

/**
 * The boundary through which all outside text becomes items. What is understood has been read eagerly and every
 * value is within its bounds, so later code cannot throw on it. What is not understood is returned as a sentence.
 */

/** Raised when this file understands something differently than before: kept originals are then read again. */
export const BOUNDARY_VERSION = 4

/** One calendar object (RFC 4791 §4.1), a VEVENT or a VTODO with all that belongs to it. */
export const readCalendarObject = (text: string): Understood<Item> =>
  understand(() => {
    const calendar = parseCalendar(text)
    readEagerly(calendar)
    const isTask = calendar.getFirstSubcomponent('vtodo') && !calendar.getFirstSubcomponent('vevent')
    const item = isTask ? parseTask(text, calendar) : parseEvent(text, calendar)
    mustBeKept(item)
    if (item.kind === 'event' && item.recurring) tryUnrolling(text, item.time.anchor)
    return item
  })

/** An item that a service told in a way of its own. */
export const readItem = (item: Item): Understood<Item> =>
  understand(() => {
    mustBeKept(item)
    return item
  })

/** Days in which a series is unrolled for a trial, so that whatever is wrong with its rules is found now. */
const TRIAL_MS = 14 * 24 * 60 * MINUTE

function tryUnrolling(text: string, anchor: Parameters<typeof epochOf>[0]): void {
  const from = epochOf(anchor, 'UTC')
  try {
    occurrencesBetween(text, from - TRIAL_MS, from + TRIAL_MS, 'UTC', {
      budget: new UnrollBudget(3_000, 100),
    })
  } catch (error) {
    // It is understood, and drawn once.
    if (!(error instanceof TooOften)) throw error
  }
}

const LAST_MS = Date.UTC(9999, 11, 31)

/** Items are never changed, so one that was found good is so. */
const good = new WeakSet<Item>()

/** Throws NotUnderstood where an item is beyond what can be kept and worked with. */
export function mustBeKept(item: Item): void {
  if (good.has(item)) return
  const checked = Item.safeParse(item)
  if (!checked.success) {
    const [issue] = checked.error.issues
    throw new NotUnderstood(
      reasonOf(String(issue?.path[0] ?? ''), issue?.code ?? '', item, issue?.message ?? ''),
    )
  }
  const ends =
    item.kind === 'event'
      ? epochOf(item.time.anchor, 'UTC') + item.time.minutes * MINUTE
      : Math.max(...[item.start, item.due].map(w => (w ? epochOf(w, 'UTC') : 0)))
  if (!(ends <= LAST_MS)) throw new NotUnderstood('It ends outside of any calendar.')
  good.add(item)
}

const NAMES: Record<string, string> = {
  uid: 'id',
  summary: 'title',
  description: 'notes',
  location: 'place',
  serviceStatus: 'status',
  time: 'time',
  start: 'start',
  due: 'due date',
  estimatedDuration: 'estimate',
  url: 'link',
  assignees: 'list of people',
  categories: 'list of categories',
}

function reasonOf(path: string, code: string, item: Item, message: string): string {
  const name = NAMES[path] ?? path
  const value = (item as unknown as Record<string, unknown>)[path]
  if (path === 'uid') return 'Its id is longer than any should be.'
  if (code === 'too_big' && typeof value === 'string')
    return `Its ${name} ${name === 'notes' ? 'are' : 'is'} ${value.length} characters long.`
  if (path === 'categories' || path === 'assignees')
    return 'It has more categories or people, or longer ones, than can be kept.'
  if (path === 'time' || path === 'start' || path === 'due') return 'Its date is outside of any calendar.'
  return `Its ${name} cannot be kept: ${message}.`
}
