import type { Decision, FieldChange } from '../sync/types.ts'
import type { Span } from '../items/items.ts'
import type { EventCompletion, TaskTime } from '../sync/lenses.ts'
import { epochOf, MINUTE, type When } from '../time/when.ts'

/** What computation found, told in the interface's words. All times in the viewer's zone. */

export function durationWords(minutes: number): string {
  const whole = Math.round(minutes)
  const [h, m] = [Math.floor(whole / 60), whole % 60]
  if (h === 0) return `${m} min`
  return m === 0 ? `${h} h` : `${h} h ${String(m).padStart(2, '0')}`
}

export const clockWords = (epochMs: number, zone: string): string =>
  new Intl.DateTimeFormat('en-IE', {
    timeZone: zone,
    hour: '2-digit',
    minute: '2-digit',
    hour12: false,
  }).format(epochMs)

/** `09:15` for 555. */
export const minuteWords = (minute: number): string =>
  `${String(Math.floor(minute / 60) % 24).padStart(2, '0')}:${String(Math.round(minute) % 60).padStart(2, '0')}`

/** `Tue 24 Nov`. */
export const dayWords = (date: string): string =>
  new Intl.DateTimeFormat('en-IE', { timeZone: 'UTC', weekday: 'short', day: 'numeric', month: 'short' })
    .format(Date.parse(date))
    .replace(',', '')

/** `Tuesday 24 November`. */
export const longDayWords = (date: string): string =>
  new Intl.DateTimeFormat('en-IE', { timeZone: 'UTC', weekday: 'long', day: 'numeric', month: 'long' })
    .format(Date.parse(date))
    .replace(',', '')

export function whenWords(when: When | null, zone: string): string {
  if (when === null) return 'no date'
  if (when.kind === 'date') return dayWords(when.date)
  const at = epochOf(when, zone)
  return `${instantDayWords(at, zone)} ${clockWords(at, zone)}`
}

export const instantDayWords = (epochMs: number, zone: string): string =>
  new Intl.DateTimeFormat('en-IE', { timeZone: zone, weekday: 'short', day: 'numeric', month: 'short' })
    .format(epochMs)
    .replace(',', '')

export function spanWords(span: Span, zone: string): string {
  if (span.anchor.kind === 'date') {
    const days = Math.round(span.minutes / 1440)
    return days > 1 ? `${dayWords(span.anchor.date)}, ${days} days` : `${dayWords(span.anchor.date)}, all day`
  }
  const start = epochOf(span.anchor, zone)
  return `${whenWords(span.anchor, zone)}–${clockWords(start + span.minutes * MINUTE, zone)}`
}

export const FIELD_WORDS: Record<FieldChange['field'], string> = {
  title: 'title',
  time: 'time',
  completion: 'completion',
  notes: 'notes',
}

const quote = (text: string): string =>
  text === '' ? 'empty' : text.length > 80 ? `${text.slice(0, 79)}…` : text

/** A raw value of the journal or of a preview; null when there was none. */
export function valueWords(value: unknown, zone: string): string | null {
  if (value === null || value === undefined) return null
  if (typeof value === 'string') return quote(value)
  if (typeof value === 'boolean') return value ? 'done' : 'open'
  if (typeof value !== 'object') return String(value)
  if ('anchor' in value) return spanWords(value as Span, zone)
  if ('start' in value) return whenWords((value as TaskTime).start, zone)
  if ('marked' in value) {
    const { marked, transparency } = value as EventCompletion
    return marked ? `marked done, shown ${transparency === 'transparent' ? 'free' : 'busy'}` : 'not marked'
  }
  return JSON.stringify(value)
}

/** What a decision comes to, in a couple of words. */
export function effectWords(d: Pick<Decision, 'effect' | 'on' | 'reason'>): string {
  if (d.reason === 'outside') return 'outside'
  if (d.reason === 'held') return 'waits for you'
  switch (d.effect) {
    case 'make':
      return d.on === 'b' ? 'make event' : 'make task'
    case 'change':
      return d.on === 'b' ? 'change event' : 'change task'
    case 'remove':
      return 'remove event'
    case 'match':
      return 'tie together'
    case 'release':
      return 'untie'
    case 'none':
      return 'no event'
  }
}

/** Why, as the second line under a title. */
export function reasonWords(reason: string): string {
  const words: Record<string, string> = {
    'task-has-hour': 'the task has an hour',
    'new-event': 'a new event was made in the calendar',
    'task-edited': 'the task was changed',
    'event-edited': 'the event was changed',
    'both-edited': 'both sides were changed',
    matched: 'both sides have it already',
    'event-deleted': 'the event was deleted, so the task goes back to the shelf',
    'task-deleted': 'the task was deleted',
    'edit-beats-deletion': 'it was changed on one side while the other deleted it',
    'no-hour': 'planned for a day without an hour: listed at the head of that day',
    'no-date': 'the task has no date any more',
    outside: 'planned beyond the days this rule covers',
    agreed: 'both sides say the same',
    held: 'only a person can say',
    newer: 'the other side was changed later',
    fallback: 'both sides were changed at the same time; the rule says which is kept',
    'first-winner': 'the two differed when they were first tied',
    'person-place': 'placed by hand',
    'person-lengthen': 'length changed by hand',
    'person-unplace': 'put back on the shelf by hand',
    'person-complete': 'completed by hand',
    'person-reopen': 'reopened by hand',
    'person-rename': 'renamed by hand',
  }
  return words[reason] ?? reason
}
