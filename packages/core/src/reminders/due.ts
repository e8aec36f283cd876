import { atMinute } from '../planning/windows.ts'
import { addDays, dayAt, MINUTE } from '../time/when.ts'
import type { ClothItem } from '../view/cloth-item.ts'
import type { Reminders } from '../view/reminders.ts'
import { capacityOn, wallMinutes, type WorkingHours } from '../view/rows.ts'

/**
 * What somebody is to be reminded of, told from what stands now. Nothing is planned ahead and kept: what was moved,
 * done or deleted is not among it any more, and what took its place is.
 */

export type ReminderKind = 'event' | 'block' | 'due' | 'window' | 'plan' | 'review'

/** Times are epoch ms. Kind, key and `aboutMs` together say which it is: one of a kind is given once. */
export interface Reminder {
  kind: ReminderKind
  /** Of the item or the work window; '' for the hours of the Day page. */
  key: string
  /** Minutes before, where an event has alarms of its own: each is one. */
  alarm: number | null
  title: string
  location: string
  /** When that begins or is due; of the Day page: when its day begins. */
  aboutMs: number
  /** When it is to come. */
  atMs: number
  /** Until then it is of use. */
  untilMs: number
}

export interface ReminderTerms {
  me: string
  hours: WorkingHours
  reminders: Reminders
  /** Beginnings of work windows. */
  windows: readonly { id: string; name: string; fromMs: number }[]
  /** Of events, by their keys without an occurrence: minutes before they begin, or after where below 0. */
  alarms: ReadonlyMap<string, readonly number[]>
  /** What was said of single items, by their keys without an occurrence: minutes before; null: never. */
  chosen: ReadonlyMap<string, number | null>
  focusUntilMs: number | null
  /** The days that are looked at, in the person's zone. */
  dates: readonly string[]
}

/** So long after its beginning it is of use to be told of it. */
const BEGUN_MS = 15 * MINUTE
const DUE_MS = 60 * MINUTE
const ALARM_MS = 12 * 60 * MINUTE
/** What is about the day as a whole. */
const LASTS_MS = 180 * MINUTE

/** All that begins or is due on these days, in the order in which it comes; what nobody would hear in time is left out. */
export function remindersOf(items: readonly ClothItem[], terms: ReminderTerms): Reminder[] {
  const meetings = items.flatMap(i => (isMeeting(i, terms.me) && i.place.kind === 'timed' ? [i.place] : []))
  return [...items.flatMap(i => ofItem(i, terms)), ...ofWindows(terms), ...ofDays(terms)]
    .flatMap(r => {
      const atMs = whenHeard(r, terms, meetings)
      return atMs < r.untilMs ? [{ ...r, atMs }] : []
    })
    .sort((x, y) => x.atMs - y.atMs || x.aboutMs - y.aboutMs || (x.key < y.key ? -1 : 1))
    .filter(onlyOnce())
}

/** A task and an event of one name at one time are one thing to whoever is reminded. */
function onlyOnce(): (r: Reminder) => boolean {
  const before = new Set<string>()
  return ({ kind, title, aboutMs, alarm }) => {
    if (kind !== 'event' && kind !== 'block') return true
    const name = `${aboutMs} ${alarm ?? ''} ${title}`
    const isFirst = !before.has(name)
    before.add(name)
    return isFirst
  }
}

/** Which it is, whatever is said of it later. */
export const reminderName = ({
  kind,
  key,
  aboutMs,
  alarm,
}: Pick<Reminder, 'kind' | 'key' | 'aboutMs' | 'alarm'>): string =>
  `${kind} ${aboutMs} ${key}${alarm === null ? '' : ` ${alarm}`}`

/** What an item is called without its occurrence. */
export const seriesOf = (key: string): string => key.split('@')[0] ?? key

function ofItem(item: ClothItem, terms: ReminderTerms): Reminder[] {
  const { me, hours, reminders, chosen } = terms
  const { key, title, location, place, people, done, cancelled, onlyBusy, leftOut, due, dueAt } = item
  const said = chosen.get(seriesOf(key))
  const isMine = people.includes(me) || typeof said === 'number'
  // What no service has confirmed yet has no name that stays.
  if (!isMine || done || cancelled || onlyBusy || leftOut || said === null || key.startsWith('new '))
    return []
  const rings = said === undefined ? ofAlarms(item, terms) : []
  if (rings.length > 0) return rings
  const found: Reminder[] = []
  if (place.kind === 'timed') {
    const kind = item.kind === 'event' ? 'event' : 'block'
    const usual = kind === 'event' && item.eventKind === 'break' ? null : reminders[kind]
    const lead = said ?? usual
    const { startMs: aboutMs, endMs } = place
    // A deadline that is drawn at its hour is no time to begin anything.
    if (lead !== null && !item.atDeadline) {
      const untilMs = aboutMs + Math.max(5 * MINUTE, Math.min(BEGUN_MS, endMs - aboutMs))
      const atMs = aboutMs - lead * MINUTE
      found.push({ kind, key, alarm: null, title, location, aboutMs, atMs, untilMs })
    }
  }
  const isTask = item.kind === 'task' || item.kind === 'tied'
  // What was said of it holds for its beginning; for its deadline where it has no beginning.
  const lead = place.kind === 'timed' && !item.atDeadline ? reminders.due : (said ?? reminders.due)
  if (isTask && due !== null && lead !== null) {
    const { zone } = hours
    const aboutMs = dueAt ?? atMinute(due, hours.from, zone)
    const untilMs = dueAt === null ? atMinute(due, 1440, zone) : dueAt + DUE_MS
    const atMs = aboutMs - lead * MINUTE
    found.push({ kind: 'due', key, alarm: null, title, location: '', aboutMs, atMs, untilMs })
  }
  return found
}

/** A whole day begins at midnight where its person is. An alarm of days ago is no news when it is looked at first. */
function ofAlarms({ key, kind, title, location, place }: ClothItem, terms: ReminderTerms): Reminder[] {
  if (kind !== 'event' || (place.kind !== 'timed' && place.kind !== 'all-day')) return []
  const aboutMs = place.kind === 'timed' ? place.startMs : atMinute(place.from, 0, terms.hours.zone)
  return (terms.alarms.get(seriesOf(key)) ?? []).map(alarm => {
    const atMs = aboutMs - alarm * MINUTE
    const untilMs = Math.min(Math.max(aboutMs, atMs) + BEGUN_MS, atMs + ALARM_MS)
    return { kind: 'event', key, alarm, title, location, aboutMs, atMs, untilMs }
  })
}

function ofWindows({ windows, reminders: { window: lead } }: ReminderTerms): Reminder[] {
  if (lead === null) return []
  return windows.map(({ id, name, fromMs }) => ({
    kind: 'window',
    key: id,
    alarm: null,
    title: name,
    location: '',
    aboutMs: fromMs,
    atMs: fromMs - lead * MINUTE,
    untilMs: fromMs + BEGUN_MS,
  }))
}

function ofDays({ reminders, hours, dates }: ReminderTerms): Reminder[] {
  return (['plan', 'review'] as const).flatMap(kind => {
    const minute = reminders[kind]
    if (minute === null) return []
    return dates
      .filter(date => capacityOn(hours, date) > 0)
      .map(date => {
        const atMs = atMinute(date, minute, hours.zone)
        const aboutMs = atMinute(date, 0, hours.zone)
        return {
          kind,
          key: '',
          alarm: null,
          title: '',
          location: '',
          aboutMs,
          atMs,
          untilMs: atMs + LASTS_MS,
        }
      })
  })
}

/** Quiet hours hold back everything, focus all but events, and meetings what is about the day as a whole. */
function whenHeard(
  { kind, atMs }: Reminder,
  { focusUntilMs, reminders: { quiet }, hours: { zone } }: ReminderTerms,
  meetings: readonly Span[],
): number {
  let at = atMs
  // Each can end within another; they all end.
  for (let look = 0; look < 50; look++) {
    const before = at
    if (kind !== 'event' && focusUntilMs !== null && at < focusUntilMs) at = focusUntilMs
    if (quiet) at = afterQuiet(at, quiet, zone)
    if (kind === 'plan' || kind === 'review')
      for (const m of meetings) if (m.startMs <= at && at < m.endMs) at = m.endMs
    if (at === before) break
  }
  return at
}

/** The end of the quiet hours that a moment is in, else itself. */
export function afterQuiet(atMs: number, { from, to }: { from: number; to: number }, zone: string): number {
  const date = dayAt(atMs, zone)
  const minute = wallMinutes(atMs, date, zone)
  const isTonight = from > to && minute >= from
  const isQuiet = isTonight || (minute < to && (from > to || minute >= from))
  // In an hour that the clocks go through twice, its end may lie before.
  return isQuiet ? Math.max(atMs, atMinute(isTonight ? addDays(date, 1) : date, to, zone)) : atMs
}

interface Span {
  startMs: number
  endMs: number
}

function isMeeting(item: ClothItem, me: string): boolean {
  const { kind, busy, done, cancelled, eventKind, people } = item
  return kind === 'event' && busy && !done && !cancelled && eventKind !== 'break' && people.includes(me)
}
