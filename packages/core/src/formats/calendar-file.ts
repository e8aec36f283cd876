import type { Event, Task } from '../items/items.ts'
import { readCalendarObject } from './boundary.ts'
import { componentsNamed, parseLines, setProperty, textOf } from '../ical/content-lines.ts'
import { joinCalendars, splitCalendar } from './feed.ts'
import { fieldsOf, type FileContents } from './file-entry.ts'
import { seriesKeyOf } from './series.ts'
import { composeEvent } from '../ical/vevent.ts'
import { composeTask } from './vtodo.ts'

/** Files of calendar objects, .ics (RFC 5545): in and out. */

/** The title of something that could not be read whole, for people to find it by. */
const nameIn = (text: string): string =>
  (/^SUMMARY(?:;[^:\r\n]*)?:([^\r\n]*)/im.exec(text)?.[1] ?? '').replace(/\\(.)/g, '$1').trim().slice(0, 200)

/** Reads one calendar object after another, so that the caller can pause in between. */
export function* readCalendarFile(text: string): Generator<null, FileContents | null> {
  const calendar = splitCalendar(text)
  if (!calendar) return null
  const contents: FileContents = { entries: [], problems: [] }
  for (const part of calendar.parts) {
    const read = readCalendarObject(part.text)
    if (read.kind === 'understood') {
      const item = read.value
      contents.entries.push({
        item,
        says: fieldsOf(item.kind),
        original: part.text,
        series: item.recurring ? seriesKeyOf(part.text) : null,
      })
    } else
      contents.problems.push({ where: nameIn(part.text) || part.uid.slice(0, 200), reason: read.because })
    yield null
  }
  if (calendar.leftOut > 0)
    contents.problems.push({ where: `${calendar.leftOut} entries`, reason: 'They have no UID.' })
  return contents
}

/** An item as a calendar object: the one it came as where there is one, with all that we do not understand. */
export const calendarObjectOf = (item: Task | Event, original: string | null, now: number): string =>
  original && /^BEGIN:VCALENDAR/i.test(original)
    ? original
    : item.kind === 'task'
      ? composeTask(item, now)
      : composeEvent(item, now)

/** An event under another uid: a copy of it with every other byte, also of what we do not understand. */
export function withUid(text: string, uid: string): string {
  let lines = parseLines(text)
  for (const { begin } of componentsNamed(lines, 'VEVENT')) {
    const range = componentsNamed(lines, 'VEVENT').find(r => r.begin === begin)
    if (range) lines = setProperty(lines, range, 'UID', uid)
  }
  return textOf(lines)
}

export const writeCalendarFile = (objects: readonly string[]): string => joinCalendars(objects)
