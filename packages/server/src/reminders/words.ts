import { clockWords, dayAt, longDayWords } from '@loom/core'
import type { Reminder } from '@loom/core/reminders'

/** What a reminder says, in the person's zone: outside of the page it has to be told by words alone. */

export interface ReminderWords {
  title: string
  body: string
  /** Where it leads, within the application. */
  to: string
}

/** RFC 8291 §4: a push holds 4096 bytes, with what wraps it; a sign can take four of them. */
const MOST_TITLE = 200
const MOST_PLACE = 150
const shortened = (text: string, most: number): string =>
  text.length <= most ? text : `${text.slice(0, most - 1)}…`

const WHOLE_DAY = { plan: 'Time to plan the day.', review: 'Time to look back on the day.' }

export function reminderWords(r: Reminder, zone: string, now: number): ReminderWords {
  if (r.kind === 'plan' || r.kind === 'review') return { title: WHOLE_DAY[r.kind], body: '', to: '/day' }
  const date = dayAt(r.aboutMs, zone)
  const isToday = date === dayAt(now, zone)
  const at = `${isToday ? '' : `${longDayWords(date)}, `}${clockWords(r.aboutMs, zone)}`
  const to = `/cloth?at=${date}&item=${encodeURIComponent(r.key)}`
  const says = { event: 'begins', block: 'is planned for', due: 'is due', window: 'begins' }[r.kind]
  const place = r.location === '' ? '' : ` · ${r.location}`
  return {
    title: shortened(r.title, MOST_TITLE),
    body: `${says} ${at}${shortened(place, MOST_PLACE)}`.replace(/^./, c => c.toUpperCase()),
    to: r.kind === 'window' ? `/cloth?at=${date}` : to,
  }
}
