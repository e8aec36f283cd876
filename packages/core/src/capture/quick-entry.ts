import { en, type ParsedComponents } from 'chrono-node'
import { epochOf, mondayOf, onDate, type When, zoned, zonedAt } from '../time/when.ts'

/**
 * Reads a line of plain words as a task: when, how long, for whom, where to, due when, how urgent. What is
 * understood is told with the words it was read from, and each of them can be taken back into the title.
 */

export type Part =
  | { kind: 'start'; words: string; when: When }
  | { kind: 'due'; words: string; when: When }
  | { kind: 'week'; words: string; week: string }
  | { kind: 'length'; words: string; minutes: number }
  | { kind: 'person'; words: string; id: string; name: string }
  | { kind: 'list'; words: string; id: string; name: string }
  /** RFC 5545 §3.8.1.9. */
  | { kind: 'priority'; words: string; priority: number }

export interface QuickEntry {
  title: string
  parts: Part[]
}

export interface Known {
  people: readonly { id: string; name: string }[]
  lists: readonly { id: string; name: string }[]
  /** Epoch ms. */
  now: number
  zone: string
}

const LENGTH =
  /\b(?:for|takes|about)\s+(?:(\d+(?:[.,]\d+)?)\s*h(?:ours?|rs?)?(?:\s*(?:and\s+)?(\d+)\s*m(?:in(?:ute)?s?)?)?|(\d+)\s*m(?:in(?:ute)?s?)?|(half an hour|an hour))\b/i
const PRIORITIES: [RegExp, number][] = [
  [/\b(?:urgent(?:ly)?|(?:high|top) priority|important)\b/i, 1],
  [/\b(?:medium|normal) priority\b/i, 5],
  [/\b(?:low priority|not urgent)\b/i, 9],
]
const ANY_DAY = /\b(?:any day|some ?time)\s+(this|next) week\b/i

/** `given`: words that the person wants to keep in the title. */
export function readQuickEntry(text: string, known: Known, given: readonly string[] = []): QuickEntry {
  const parts: Part[] = []
  const kept = new Set(given.map(w => w.toLowerCase()))
  let rest = text
  const take = (index: number, words: string, part: Part): void => {
    if (kept.has(words.toLowerCase())) return
    parts.push(part)
    // A gap of the same length that nothing reads across.
    rest = rest.slice(0, index) + GAP.repeat(words.length) + rest.slice(index + words.length)
  }
  const length = LENGTH.exec(rest)
  if (length) take(length.index, length[0], { kind: 'length', words: length[0], minutes: minutesIn(length) })
  for (const [pattern, priority] of [...PRIORITIES].reverse()) {
    const found = pattern.exec(rest)
    if (found && !parts.some(p => p.kind === 'priority'))
      take(found.index, found[0], { kind: 'priority', words: found[0], priority })
  }
  takeNames(rest, known, take, () => rest)
  const week = ANY_DAY.exec(rest)
  if (week) {
    const today = localDate(known)
    const monday = mondayOf(today)
    const value = week[1]?.toLowerCase() === 'next' ? addWeek(monday) : monday
    take(week.index, week[0], { kind: 'week', words: week[0], week: value })
  }
  for (const found of datesIn(rest, known)) {
    const due = /\b(?:due|by|until|before)(?:\s+on)?\s*$/i.exec(rest.slice(0, found.index))
    const words = due ? rest.slice(due.index, found.index + found.words.length) : found.words
    const index = due ? due.index : found.index
    const kind = due ? 'due' : 'start'
    if (parts.some(p => p.kind === kind || (kind === 'start' && p.kind === 'week'))) continue
    take(index, words, { kind, words, when: found.when })
  }
  const title = rest
    .replaceAll(GAP, ' ')
    .replace(/\s*,(?:\s*,)*\s*/g, ', ')
    .replace(/\s+/g, ' ')
    .replace(/^[\s,]+|[\s,]+$/g, '')
    .replace(/\s+(?:at|on|for|in)$/i, '')
  return { title, parts }
}

/** A private-use character, which is never typed. */
const GAP = '\uE000'

function minutesIn([, hours, more, minutes, words]: RegExpExecArray): number {
  if (words) return /half/i.test(words) ? 30 : 60
  if (minutes) return clamp(Number(minutes))
  return clamp(Math.round(Number((hours ?? '0').replace(',', '.')) * 60) + Number(more ?? 0))
}
const clamp = (minutes: number): number => Math.min(1440, Math.max(5, minutes))

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')

function takeNames(
  text: string,
  known: Known,
  take: (index: number, words: string, part: Part) => void,
  now: () => string,
): void {
  const byLength = <T extends { name: string }>(list: readonly T[]): T[] =>
    [...list].sort((x, y) => y.name.length - x.name.length)
  for (const { id, name } of byLength(known.lists)) {
    const pattern = new RegExp(`\\b(?:(?:in|on|to)\\s+(?:the\\s+)?)?${escaped(name)}\\s+list\\b`, 'i')
    const found = pattern.exec(text)
    if (!found) continue
    take(found.index, found[0], { kind: 'list', words: found[0], id, name })
    break
  }
  for (const { id, name } of byLength(known.people)) {
    const [first = name] = name.split(' ')
    const pattern = new RegExp(`\\bfor\\s+(?:${escaped(name)}|${escaped(first)})\\b`, 'iu')
    const found = pattern.exec(now())
    if (!found) continue
    take(found.index, found[0], { kind: 'person', words: found[0], id, name })
    break
  }
}

interface FoundDate {
  index: number
  words: string
  when: When
}

const localDate = ({ now, zone }: Known): string => {
  const at = zonedAt(now, zone)
  return at.kind === 'zoned' ? at.local.slice(0, 10) : ''
}
const addWeek = (monday: string): string =>
  new Date(Date.parse(monday) + 7 * 86_400_000).toISOString().slice(0, 10)

/** Dates in the order of the text, told in the zone; an hour only where one was said. */
function datesIn(text: string, { now, zone }: Known): FoundDate[] {
  const at = zonedAt(now, zone)
  const local = at.kind === 'zoned' ? at.local : '1970-01-01T00:00:00'
  // The library reads the reference by its own clock: it is given the wall clock of the zone as if it were UTC.
  const reference = { instant: new Date(`${local}Z`), timezone: 0 }
  return en.GB.parse(text, reference, { forwardDate: true }).flatMap((r): FoundDate[] => {
    if (text.slice(r.index, r.index + r.text.length).includes(GAP)) return []
    const when = whenOf(r.start, zone)
    return when ? [{ index: r.index, words: r.text, when }] : []
  })
}

const two = (n: number | null): string => String(n ?? 0).padStart(2, '0')

function whenOf(c: ParsedComponents, zone: string): When | null {
  const [year, month, day] = [c.get('year'), c.get('month'), c.get('day')]
  if (!year || !month || !day) return null
  const date = `${String(year).padStart(4, '0')}-${two(month)}-${two(day)}`
  if (!c.isCertain('hour')) return onDate(date)
  const when = zoned(`${date}T${two(c.get('hour'))}:${two(c.get('minute'))}:00`, zone)
  return Number.isNaN(epochOf(when, zone)) ? null : when
}
