import { addDays, dayAt, epochOf, onDate } from '../time/when.ts'
import type { ClothItem } from './cloth-item.ts'
import { type Clock, clockWords, longDayWords } from './words.ts'

/** Days as plain text, for people who read them elsewhere; what whoever sent them did not show is only taken time. */

export interface WordsTerms {
  /** The first day, and how many. */
  from: string
  days: number
  zone: string
  clock: Clock
}

const MOST_TITLE = 120

/** What stands on each of the days, by its beginning. Days with nothing say so. */
export function daysInWords(items: readonly ClothItem[], { from, days, zone, clock }: WordsTerms): string {
  return Array.from({ length: days }, (_, n) => addDays(from, n))
    .map(date => {
      const lines = linesOf(items, date, zone, clock)
      return [longDayWords(date), ...(lines.length === 0 ? ['  nothing'] : lines.map(l => `  ${l}`))].join(
        '\n',
      )
    })
    .join('\n\n')
}

function linesOf(items: readonly ClothItem[], date: string, zone: string, clock: Clock): string[] {
  const [start, end] = [date, addDays(date, 1)].map(d => epochOf(onDate(d), zone))
  const found: { at: number; line: string }[] = []
  for (const item of items) {
    const { place, cancelled, atDeadline } = item
    if (cancelled || atDeadline) continue
    if (place.kind === 'timed' && place.startMs < (end ?? 0) && place.endMs > (start ?? 0)) {
      const words = (ms: number): string => (dayAt(ms, zone) === date ? clockWords(ms, zone, clock) : '…')
      // What ends at midnight ends on this day.
      const to = place.endMs === end ? clockWords(place.endMs, zone, clock) : words(place.endMs)
      found.push({ at: place.startMs, line: `${words(place.startMs)}–${to} ${titleOf(item)}` })
    } else if (place.kind === 'all-day' && place.from <= date && date < place.to)
      found.push({ at: 0, line: `all day: ${titleOf(item)}` })
    else if (place.kind === 'day' && place.date === date)
      found.push({ at: 1, line: `sometime: ${titleOf(item)}` })
  }
  return found.sort((x, y) => x.at - y.at || (x.line < y.line ? -1 : 1)).map(f => f.line)
}

function titleOf({ onlyBusy, title, done, location }: ClothItem): string {
  if (onlyBusy) return 'taken'
  const short = title.replace(/\s+/g, ' ').slice(0, MOST_TITLE)
  const where = location.replace(/\s+/g, ' ').slice(0, MOST_TITLE)
  return `${done ? '✓ ' : ''}${short}${where ? ` (${where})` : ''}`
}
