import { addDays, epochOf, mondayOf, onDate, type When, zoned, zonedAt } from '../time/when.ts'
import { daysIn, type SaidDay } from './days.ts'
import { hoursIn, type SaidHours } from './hours.ts'
import { lengthIn } from './lengths.ts'

/**
 * Reads a line of plain words as a task: when, how long, who, where, deadline, priority. Each understood part is
 * returned with the words it was read from, and can be put back into the title.
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

const PRIORITIES: [RegExp, number][] = [
  [/\b(?:urgent(?:ly)?|(?:high|top) priority|important)\b/i, 1],
  [/\b(?:medium|normal) priority\b/i, 5],
  [/\b(?:low priority|not urgent)\b/i, 9],
]
const SOME_WEEK =
  /\b(?:(?:any day|some ?time)\s+(?:in\s+)?(?:(this|next) week|the week after next)|the week after next)\b/i
const DEADLINE = /\b(?:due|by|until|before|deadline)(?:\s+on)?:?\s*$/i

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
  const length = lengthIn(rest)
  if (length)
    take(length.index, length.words, { kind: 'length', words: length.words, minutes: length.minutes })
  for (const [pattern, priority] of [...PRIORITIES].reverse()) {
    const found = pattern.exec(rest)
    if (found && !parts.some(p => p.kind === 'priority'))
      take(found.index, found[0], { kind: 'priority', words: found[0], priority })
  }
  takeNames(rest, known, take, () => rest)
  const week = SOME_WEEK.exec(rest)
  if (week) {
    const weeks = /after/i.test(week[0]) ? 2 : week[1]?.toLowerCase() === 'next' ? 1 : 0
    take(week.index, week[0], {
      kind: 'week',
      words: week[0],
      week: addDays(mondayOf(localDate(known)), 7 * weeks),
    })
  }
  takeTimes(() => rest, known, parts, take)
  return { title: withoutHoles(rest), parts }
}

/** What is left, without the gaps and what held them together. */
function withoutHoles(rest: string): string {
  return rest
    .replaceAll(GAP, ' ')
    .replace(/\(\s*\)|\[\s*\]/g, ' ')
    .replace(/\s*,(?:\s*,)*\s*/g, ', ')
    .replace(/\s+([:;])\s*/g, '$1 ')
    .replace(/\s+/g, ' ')
    .replace(/^[\s,:;–—-]+|[\s,:;–—-]+$/g, '')
    .replace(/\s+(?:at|on|for|in|from|by|due)$/i, '')
}

type Take = (index: number, words: string, part: Part) => void

/** Days and hours: each day with the hour that stands beside it, and what is due. */
function takeTimes(rest: () => string, known: Known, parts: Part[], take: Take): void {
  const local = localTime(known)
  const today = local.slice(0, 10)
  const has = (kind: Part['kind']): boolean => parts.some(p => p.kind === kind)
  let hours = hoursIn(rest())
  const days = daysIn(withGap(rest(), hours), today, local).slice(0, 4)
  const isDue = (index: number): RegExpExecArray | null => DEADLINE.exec(rest().slice(0, index))
  const besides = ({ index, words }: SaidDay): boolean => {
    if (!hours) return false
    const [from, to] =
      index < hours.index ? [index + words.length, hours.index] : [hours.index + hours.words.length, index]
    return /^\s*$/.test(rest().slice(from, to))
  }
  // The hour belongs to the day beside it, else to the day of the start.
  const owner = days.find(besides) ?? days.find(d => !isDue(d.index)) ?? null
  for (const day of days) {
    const due = isDue(day.index)
    const kind = due ? 'due' : 'start'
    if (has(kind) || (kind === 'start' && has('week'))) continue
    const said = day === owner ? hours : null
    const isLate = /\b(?:tonight|evening)\b/i.test(day.words) && said !== null && said.start < 720
    const hour = isLate ? said.start + 720 : (said?.start ?? day.hour)
    const when = hour === null ? onDate(day.date) : at(day.date, hour, known.zone)
    if (!when) continue
    const joined = said !== null && besides(day)
    const first = Math.min(day.index, joined ? said.index : day.index)
    const last = Math.max(day.index + day.words.length, joined ? said.index + said.words.length : 0)
    const lead = isDue(first)
    const index = lead ? lead.index : first
    const words = rest().slice(index, last)
    const before = parts.length
    take(index, words, { kind, words, when })
    if (parts.length === before) {
      if (said) hours = null
      continue
    }
    if (!said) continue
    if (!joined) hide(said, take, parts)
    addLength(said, words, parts)
    hours = null
  }
  if (!hours || owner) return
  // An hour alone is the next one.
  const lead = isDue(hours.index)
  const kind = lead ? 'due' : 'start'
  if (has(kind) || has('week')) return
  const now = Number(local.slice(11, 13)) * 60 + Number(local.slice(14, 16))
  const when = at(hours.start > now ? today : addDays(today, 1), hours.start, known.zone)
  if (!when) return
  const index = lead ? lead.index : hours.index
  const words = rest().slice(index, hours.index + hours.words.length)
  const before = parts.length
  take(index, words, { kind, words, when })
  if (parts.length > before) addLength(hours, words, parts)
}

const withGap = (text: string, said: SaidHours | null): string =>
  said
    ? text.slice(0, said.index) + GAP.repeat(said.words.length) + text.slice(said.index + said.words.length)
    : text

/** An hour that stands apart from its day goes with it. */
function hide({ index, words }: SaidHours, take: Take, parts: Part[]): void {
  const last = parts.at(-1)
  if (!last) return
  parts.pop()
  take(index, words, last)
}

function addLength({ minutes }: SaidHours, words: string, parts: Part[]): void {
  if (minutes !== null && !parts.some(p => p.kind === 'length'))
    parts.push({ kind: 'length', words, minutes })
}

function at(date: string, minute: number, zone: string): When | null {
  const two = (n: number): string => String(n).padStart(2, '0')
  const when = zoned(`${date}T${two(Math.floor(minute / 60) % 24)}:${two(minute % 60)}:00`, zone)
  return Number.isNaN(epochOf(when, zone)) ? null : when
}

/** A private-use character, which is never typed. */
const GAP = '\uE000'

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')

function takeNames(text: string, known: Known, take: Take, now: () => string): void {
  const byLength = <T extends { name: string }>(list: readonly T[]): T[] =>
    [...list].sort((x, y) => y.name.length - x.name.length)
  for (const { id, name } of byLength(known.lists)) {
    const of = escaped(name)
    const pattern = new RegExp(
      `(?<![\\p{L}])(?:(?:(?:in|on|to)\\s+(?:the\\s+)?)?${of}\\s+list|(?:in|on)\\s+${of})${NO_MORE}`,
      'iu',
    )
    const found = pattern.exec(text)
    if (!found) continue
    take(found.index, found[0], { kind: 'list', words: found[0], id, name })
    break
  }
  // By any part of their name that is nobody else's.
  const named = known.people.flatMap(({ id, name }) =>
    [name, ...name.split(/\s+/)].filter(part => part.length > 1).map(part => ({ id, name, part })),
  )
  for (const { id, name, part } of named.sort((x, y) => y.part.length - x.part.length)) {
    if (named.some(n => n.id !== id && n.part.toLowerCase() === part.toLowerCase())) continue
    const found = new RegExp(`(?<![\\p{L}])for\\s+${escaped(part)}${NO_MORE}`, 'iu').exec(now())
    if (!found) continue
    take(found.index, found[0], { kind: 'person', words: found[0], id, name })
    break
  }
}

/** Not where the word goes on, or somebody's something is meant. */
const NO_MORE = "(?![\\p{L}\\p{N}]|['’]s)"

const localTime = ({ now, zone }: Known): string => {
  const at = zonedAt(now, zone)
  return at.kind === 'zoned' ? at.local : '1970-01-01T00:00:00'
}
const localDate = (known: Known): string => localTime(known).slice(0, 10)
