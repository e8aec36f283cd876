import type { Edit } from './edits/edit.ts'
import type { Making } from './making.ts'
import type { Loss } from '../sync/lifecycle/brake.ts'
import type { Decision, FieldChange } from '../sync/model/types.ts'
import type { Span } from '../items/items.ts'
import type { EventCompletion, FramedTitle, TaskCompletion, TaskTime } from '../sync/lenses/index.ts'
import { dayAt, epochOf, MINUTE, type When, zonedAt } from '../time/when.ts'

/** What computation found, told in the interface's words. All times in the viewer's zone. */

export function durationWords(minutes: number): string {
  const whole = Math.round(minutes)
  const [h, m] = [Math.floor(whole / 60), whole % 60]
  if (h === 0) return `${m} min`
  return m === 0 ? `${h} h` : `${h} h ${String(m).padStart(2, '0')}`
}

/** The clock that a person prefers. */
export type Clock = '24' | '12'

/** `09:15` for 555: as times are written for machines, and on a 24-hour clock. */
export const wallTime = (minute: number): string =>
  `${String(Math.floor(minute / 60) % 24).padStart(2, '0')}:${String(Math.round(minute) % 60).padStart(2, '0')}`

const half = (hour: number): string => (hour < 12 ? 'am' : 'pm')
const ofTwelve = (hour: number): number => hour % 12 || 12

/** `09:15`, or `9:15 am`, for 555. */
export function minuteWords(minute: number, clock: Clock = '24'): string {
  const time = wallTime(minute)
  if (clock === '24') return time
  const hour = Number(time.slice(0, 2))
  return `${ofTwelve(hour)}:${time.slice(3)} ${half(hour)}`
}

/** `09`, or `9 am`: a mark on an axis. */
export function hourWords(minute: number, clock: Clock = '24'): string {
  const hour = Math.floor(minute / 60) % 24
  return clock === '24' ? String(hour).padStart(2, '0') : `${ofTwelve(hour)} ${half(hour)}`
}

/** The time of an instant in a zone: `09:15`, or `9:15 am`. */
export function clockWords(epochMs: number, zone: string, clock: Clock = '24'): string {
  const at = zonedAt(epochMs, zone)
  const [h = 0, m = 0] = (at.kind === 'zoned' ? at.local.slice(11, 16) : '').split(':').map(Number)
  return minuteWords(h * 60 + m, clock)
}

/** `09:15:03`, or `9:15:03 am`. */
export function secondWords(epochMs: number, zone: string, clock: Clock = '24'): string {
  const at = zonedAt(epochMs, zone)
  const seconds = at.kind === 'zoned' ? at.local.slice(16, 19) : ''
  return clockWords(epochMs, zone, clock).replace(/^\d+:\d+/, minutes => minutes + seconds)
}

const WEEKDAYS = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday']
const MONTHS = [
  ...['January', 'February', 'March', 'April', 'May', 'June'],
  ...['July', 'August', 'September', 'October', 'November', 'December'],
]
/**
 * The words for a date, `YYYY-MM-DD`. `Intl` is not used: its first formatter costs a page 50 ms, and this takes
 * nineteen words.
 */
export function dateNames(date: string): { weekday: string; day: number; month: string; year: number } {
  const at = new Date(Date.parse(date))
  return {
    weekday: WEEKDAYS[at.getUTCDay()] ?? '',
    day: at.getUTCDate(),
    month: MONTHS[at.getUTCMonth()] ?? '',
    year: at.getUTCFullYear(),
  }
}
/** `Sep`. */
export const shortName = (name: string): string => name.slice(0, 3)

/** `Tue 24 Nov`. */
export function dayWords(date: string): string {
  const { weekday, day, month } = dateNames(date)
  return `${shortName(weekday)} ${day} ${shortName(month)}`
}

/** `day 2 of 3`. */
export const dayOfWords = (several: { day: number; of: number } | null): string =>
  several ? `day ${several.day} of ${several.of}` : ''

/** `Tuesday 24 November`. */
export function longDayWords(date: string): string {
  const { weekday, day, month } = dateNames(date)
  return `${weekday} ${day} ${month}`
}

export function whenWords(when: When | null, zone: string, clock: Clock = '24'): string {
  if (when === null) return 'no date'
  if (when.kind === 'date') return dayWords(when.date)
  const at = epochOf(when, zone)
  return `${instantDayWords(at, zone)} ${clockWords(at, zone, clock)}`
}

export const instantDayWords = (epochMs: number, zone: string): string => dayWords(dayAt(epochMs, zone))

export function spanWords(span: Span, zone: string, clock: Clock = '24'): string {
  if (span.anchor.kind === 'date') {
    const days = Math.round(span.minutes / 1440)
    return days > 1 ? `${dayWords(span.anchor.date)}, ${days} days` : `${dayWords(span.anchor.date)}, all day`
  }
  const start = epochOf(span.anchor, zone)
  return `${whenWords(span.anchor, zone, clock)}–${clockWords(start + span.minutes * MINUTE, zone, clock)}`
}

export const FIELD_WORDS: Record<FieldChange['field'], string> = {
  title: 'title',
  time: 'time',
  completion: 'completion',
  notes: 'notes',
  due: 'deadline',
  priority: 'priority',
  categories: 'categories',
  location: 'place',
  people: 'assignees',
  link: 'link',
  subtasks: 'sub-tasks',
}

const partWords = (part: unknown): string => {
  if (typeof part !== 'object' || part === null || !('title' in part)) return String(part)
  const { title, done } = part as { title: string; done: boolean }
  return `${done ? '☑' : '☐'} ${title}`
}

const quote = (text: string): string =>
  text === '' ? 'empty' : text.length > 80 ? `${text.slice(0, 79)}…` : text

/** A raw value of the journal or of a preview; null when there was none. */
export function valueWords(value: unknown, zone: string, clock: Clock = '24'): string | null {
  if (value === null || value === undefined) return null
  if (typeof value === 'string') return quote(value)
  if (typeof value === 'boolean') return value ? 'done' : 'open'
  if (typeof value !== 'object') return String(value)
  if (Array.isArray(value)) return value.length === 0 ? 'none' : value.map(partWords).join(', ')
  if ('state' in value)
    return (value as TaskCompletion).state === 'cancelled' ? 'cancelled' : (value as TaskCompletion).state
  if ('before' in value && 'title' in value) return quote((value as FramedTitle).title)
  if ('kind' in value) return whenWords(value as When, zone, clock)
  if ('anchor' in value) return spanWords(value as Span, zone, clock)
  if ('start' in value) return whenWords((value as TaskTime).start, zone, clock)
  if ('marked' in value) {
    const { marked, cancelled, transparency } = value as EventCompletion
    if (cancelled) return 'cancelled'
    return marked ? `marked done, shown ${transparency === 'transparent' ? 'free' : 'busy'}` : 'not marked'
  }
  return JSON.stringify(value)
}

type Kinds = Record<'a' | 'b', 'task' | 'event'>

/** What a decision comes to, in a couple of words. */
export function effectWords(d: Pick<Decision, 'effect' | 'on' | 'reason'>, kinds: Kinds): string {
  const kind = d.on ? kinds[d.on] : kinds.b
  if (d.reason === 'outside') return 'outside'
  if (d.reason === 'held') return 'waits for you'
  switch (d.effect) {
    case 'make':
      return `make ${kind}`
    case 'change':
      return `change ${kind}`
    case 'remove':
      return `remove ${kind}`
    case 'match':
      return 'tie together'
    case 'release':
      return 'untie'
    case 'none':
      return `no ${kind}`
  }
}

const REASONS: Record<string, string> = {
  'own-mark': 'our own mark was taken out of its notes',
  'task-has-hour': 'the task is planned for an hour',
  'task-has-day': 'the task is planned for a day',
  'task-has-deadline': 'the task has a deadline',
  'new-event': 'a new event was made in the calendar',
  'new-item': 'it was made on one side only',
  'task-edited': 'the task was changed',
  'event-edited': 'the event was changed',
  'a-edited': 'it was changed on the first side',
  'b-edited': 'it was changed on the second side',
  'both-edited': 'both sides were changed',
  'rule-edited': 'the rule says it in another way now',
  'one-way': 'this goes one way only, and is put back',
  restored: 'its service went back to an earlier version, which gives way',
  matched: 'both sides have it already',
  adopted: 'another rule brought it here already',
  'made-after-all': 'it had been made after all',
  paired: 'you said that they are the same',
  'made-elsewhere': 'another workspace made it for the same work',
  resumed: 'it takes part again, as it did before',
  'event-deleted': 'the event was deleted',
  'task-deleted': 'the task was deleted',
  'a-deleted': 'it was deleted on the first side',
  'b-deleted': 'it was deleted on the second side',
  'edit-beats-deletion': 'it was changed on one side while the other deleted it',
  'made-again': 'it was deleted on one side and is made again',
  reopened: 'the task was reopened',
  completed: 'the task is done',
  'left-filter': 'it no longer takes part in this rule',
  block: 'a further block of the task',
  promoted: 'the next block takes the place of the deleted event',
  'no-hour': 'planned for a day without an hour: listed at the head of that day',
  'no-date': 'the task has no date any more',
  outside: 'beyond the days this rule covers',
  series: 'it repeats, and is not synced',
  advanced: 'this occurrence is done',
  'would-not-fit': 'what would be made there would not pass that side’s filter',
  agreed: 'both sides say the same',
  held: 'needs your decision',
  diverged: 'the other side can only be read, so it stays different',
  newer: 'the other side was changed later',
  fallback: 'both sides were changed at the same time; the rule says which is kept',
  'first-winner': 'the two differed when they were first tied',
  'rule-says': 'both sides were changed; the rule says which is kept',
  answered: 'somebody chose between the two',
  undo: 'undone by hand',
  'kept-up-landed': 'kept up by itself: something landed where it was planned',
  'kept-up-overran': 'kept up by itself: what was before it took longer',
  'kept-up-deadline': 'kept up by itself: its deadline came nearer',
  'kept-up-room': 'kept up by itself: there was room before its deadline',
  'kept-up-gave-way': 'kept up by itself: it made room',
  'kept-up-back': 'put back from where it had been moved by itself',
  'booking-gave-way': 'it made room for what a guest has booked',
  'meeting-gave-way': 'it made room for a meeting',
  'booking-moved': 'a guest moved it',
  'answer-by-mail': 'a guest answered by mail',
  'asked-anew': 'it is at another time, so its guests are asked anew',
  'booking-called-off': 'it was called off',
}

/** What somebody did here, by the cause that its write bears (`person-…`). */
const BY_HAND: Record<Edit['do'] | Making['what'] | 'move' | 'moved' | 'duplicate' | 'file', string> = {
  place: 'placed by hand',
  lengthen: 'length changed by hand',
  unplace: 'put back on the shelf by hand',
  'any-day': 'planned for a week by hand',
  'put-by': 'put by for later by hand',
  'leave-out': 'left out or shown again by hand',
  complete: 'completed by hand',
  reopen: 'reopened by hand',
  cancel: 'called off by hand',
  rename: 'renamed by hand',
  estimate: 'estimated by hand',
  say: 'changed by hand',
  give: 'given to somebody by hand',
  invite: 'its guests were changed by hand',
  'note-answers': 'an answer of a guest was noted',
  spend: 'marked as time spent by hand',
  fix: 'marked fixed or movable by hand',
  kind: 'its kind was chosen by hand',
  'keep-private': 'kept private, or shown again, by hand',
  delete: 'deleted by hand',
  restore: 'put back by hand',
  'series-back': 'a series was put back by hand',
  event: 'made by hand',
  task: 'written down by hand',
  block: 'a further block, made by hand',
  batch: 'a batch, made by hand',
  move: 'moved here from another list by hand',
  moved: 'moved to another list by hand',
  duplicate: 'duplicated by hand',
  file: 'brought in from a file',
}

/** Why, as the second line under a title. */
const LOSSES: Record<Loss, string> = {
  deleted: 'would be deleted',
  undated: 'would lose its date',
  emptied: 'would lose what is written in it',
  completed: 'would be completed',
  cancelled: 'would be cancelled',
  restated: 'would get another status',
  restored: 'would say again what it said before its service went back to an earlier version',
  'let-go': 'would stay, on its own from then on',
}

/** What the brake holds, told of one item. */
export const lossWords = (loss: string): string => LOSSES[loss as Loss] ?? 'would be changed'

/** The effects of held decisions in words: `3 tasks would lose their date, 1 would be completed`. */
export function lossesInWords(losses: readonly string[], kind: 'task' | 'event'): string {
  const counts = new Map<string, number>()
  for (const loss of losses) counts.set(loss, (counts.get(loss) ?? 0) + 1)
  return [...counts]
    .map(([loss, n], i) => {
      const words = lossWords(loss)
      const told =
        n === 1
          ? words
          : words
              .replaceAll(' its ', ' their ')
              .replace('what it said', 'what they said')
              .replace('in it', 'in them')
              .replace('on its own', 'on their own')
              .replace('another status', 'other statuses')
      return `${n}${i > 0 ? '' : n === 1 ? ` ${kind}` : ` ${kind}s`} ${told}`
    })
    .join(', ')
}

export const reasonWords = (reason: string): string => {
  const byHand = reason.startsWith('person-') ? reason.slice('person-'.length) : ''
  return REASONS[reason] ?? (BY_HAND as Record<string, string>)[byHand] ?? reason
}
