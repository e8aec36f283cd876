import { TaskStatus } from '../items/items.ts'
import { lengthIn } from '../capture/lengths.ts'
import { durationMinutes } from '../time/duration.ts'
import { isDate, isKnownZone, type When, zonedAt } from '../time/when.ts'
import type { CsvMapping } from './csv-table.ts'
import { NotUnderstood } from '../ical/ical-values.ts'

/** What stands in the cells of a table, and what it means: both ways. */

/** A spreadsheet would take such a value for a formula, after spaces and in wide forms too; one quote makes it text. */
const RISKY = /^'*(?:\s*[=+\-@＝＋－＠]|[\t\r\n])/u
export const asText = (value: string): string => (RISKY.test(value) ? `'${value}` : value)
export const fromText = (value: string): string =>
  value.startsWith("'") && RISKY.test(value) ? value.slice(1) : value

const pad = (n: number | string): string => String(n).padStart(2, '0')

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']
const MONTH_NAME =
  '(jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|may|june?|july?|aug(?:ust)?|sept?(?:ember)?|oct(?:ober)?|nov(?:ember)?|dec(?:ember)?)\\.?'
const WEEKDAY = '(?:(?:mon|tue|wed|thu|fri|sat|sun)[a-z]*\\.?,?\\s+)?'
const YEAR = '(\\d{4}|\\d{2})'

/** Each manner in which a day is written; the parts are year, month and day, or the two numbers whose order is asked. */
const DAYS: {
  form: RegExp
  parts: (m: RegExpExecArray, mapping: CsvMapping) => [year: string, month: string, day: string]
}[] = [
  { form: /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})/, parts: ([, y = '', mo = '', d = '']) => [y, mo, d] },
  { form: /^(\d{4})(\d\d)(\d\d)(?!\d)/, parts: ([, y = '', mo = '', d = '']) => [y, mo, d] },
  {
    form: /^(\d{1,2})([./-])(\d{1,2})\2(\d{4}|\d{2})(?!\d)/,
    parts: ([, p = '', , q = '', y = ''], { order }) => (order === 'day-first' ? [y, q, p] : [y, p, q]),
  },
  {
    form: new RegExp(
      `^${WEEKDAY}(\\d{1,2})(?:st|nd|rd|th)?[\\s./-]+(?:of\\s+)?${MONTH_NAME}[\\s,./-]+${YEAR}(?!\\d)`,
      'i',
    ),
    parts: ([, d = '', mo = '', y = '']) => [y, monthOf(mo), d],
  },
  {
    form: new RegExp(`^${WEEKDAY}${MONTH_NAME}\\s+(\\d{1,2})(?:st|nd|rd|th)?,?\\s+${YEAR}(?!\\d)`, 'i'),
    parts: ([, mo = '', d = '', y = '']) => [y, monthOf(mo), d],
  },
]
const monthOf = (name: string): string => String(MONTHS.indexOf(name.slice(0, 3).toLowerCase()) + 1)
/** Of two digits, this century up to 2069 and the one before from 1970 on. */
const yearOf = (digits: string): string =>
  digits.length === 4 ? digits : String(Number(digits) + (Number(digits) < 70 ? 2000 : 1900))

const CLOCK =
  /^(\d{1,2})(?:[:.h](\d\d)(?:[:.](\d\d)(?:\.\d+)?)?)?\s*([ap])?\.?(m)?\.?\s*(Z|[+-]\d\d:?\d\d)?(?:\s*\[(.+)\])?$/i

/** A day, with or without an hour, in the manners in which people and programs write them. Throws NotUnderstood. */
export function whenFrom(text: string, mapping: CsvMapping, rowZone: string | null): When | null {
  const value = text.trim()
  if (!value) return null
  const refuse = (why: string): never => {
    throw new NotUnderstood(`“${value.slice(0, 60)}” ${why}`)
  }
  const found = DAYS.flatMap(({ form, parts }) => {
    const m = form.exec(value)
    return m ? [{ length: m[0].length, parts: parts(m, mapping) }] : []
  })[0]
  if (!found) return refuse('is not a date that is understood here.')
  const [y, mo, d] = found.parts
  const date = `${yearOf(y)}-${pad(mo)}-${pad(d)}`
  if (!isDate(date)) return refuse('is no day of the calendar.')
  const rest = value
    .slice(found.length)
    .replace(/^(?:T|[\s,]+(?:at\s+)?)/i, '')
    .trim()
  if (rest === '') return { kind: 'date', date }
  const clock = CLOCK.exec(rest)
  const [, h = '', mi, s = '00', half, m, offset, named] = clock ?? []
  // An hour alone is one only with am or pm.
  if (!clock || (half === undefined) !== (m === undefined) || (mi === undefined && half === undefined))
    return refuse('is not a date that is understood here.')
  if (half && (Number(h) < 1 || Number(h) > 12)) return refuse('is no time of the day.')
  const hour = half ? (Number(h) % 12) + (half.toLowerCase() === 'p' ? 12 : 0) : Number(h)
  const iso = `${date}T${pad(hour)}:${mi ?? '00'}:${s}`
  if (hour > 23 || Number.isNaN(Date.parse(`${iso}Z`))) return refuse('is no time of the day.')
  if (offset) return zonedAt(Date.parse(`${iso}${offset}`), named ?? rowZone ?? 'UTC')
  const zone = named ?? rowZone ?? mapping.zone
  if (zone === FLOATING) return { kind: 'floating', local: iso }
  if (!isKnownZone(zone))
    throw new NotUnderstood(`“${zone.slice(0, 60)}” is not a time zone that is known here.`)
  return { kind: 'zoned', local: iso, zone }
}

/** In the zone column: the same hour wherever one is. */
const FLOATING = 'floating'

const DONE = /^(completed?|done|yes|true|x|1|✓|closed|finished)$/i
export function statusFrom(text: string): TaskStatus {
  const value = text.trim()
  const known = TaskStatus.safeParse(value.toLowerCase().replace(/[\s_]+/g, '-'))
  if (known.success) return known.data
  if (DONE.test(value)) return 'completed'
  if (/^(cancel+ed|dropped)$/i.test(value)) return 'cancelled'
  if (/^(in progress|started|doing|under way)$/i.test(value)) return 'in-process'
  if (/^(|no|false|0|open|new|todo|to do|needs action)$/i.test(value)) return 'needs-action'
  throw new NotUnderstood(`“${value.slice(0, 60)}” is not a status that is understood here.`)
}

const PRIORITIES: Record<string, number> = {
  high: 1,
  urgent: 1,
  medium: 5,
  normal: 5,
  low: 9,
  none: 0,
  '': 0,
}
export function priorityFrom(text: string): number {
  const value = text.trim().toLowerCase()
  const known = PRIORITIES[value] ?? Number(value)
  if (Number.isInteger(known) && known >= 0 && known <= 9) return known
  throw new NotUnderstood(`“${text.slice(0, 60)}” is not a priority from 0 to 9.`)
}

/** `unit`: minutes in one, for a number alone. Throws NotUnderstood. */
export function minutesFrom(text: string, unit: number): number | null {
  const value = text.trim()
  if (!value) return null
  const clock = /^(\d{1,3}):(\d\d)$/.exec(value)
  const alone = /^\d+(?:[.,]\d+)?$/.test(value)
  const letters = /^(?:(\d+(?:[.,]\d+)?)\s*h)?\s*(?:(\d+)\s*m)?$/i.exec(value)
  const number = (said: string): number => Number(said.replace(',', '.'))
  const minutes = clock
    ? Number(clock[1]) * 60 + Number(clock[2])
    : alone
      ? number(value) * unit
      : letters
        ? number(letters[1] ?? '0') * 60 + Number(letters[2] ?? 0)
        : (durationMinutes(value) ?? wholeLength(value))
  if (minutes === null || !Number.isFinite(minutes))
    throw new NotUnderstood(`“${value.slice(0, 60)}” is not a length; 45, 1:30 or 1 h 30 m would be.`)
  return Math.round(minutes) || null
}

/** A length in words, where the cell says nothing else. */
function wholeLength(value: string): number | null {
  const said = lengthIn(value)
  return said?.words.trim() === value ? said.minutes : null
}

/** Names that contain the separator or a backslash keep them. */
export const joinList = (list: readonly string[]): string =>
  list.map(c => c.replace(/[\\;]/g, m => `\\${m}`)).join('; ')
export function splitList(text: string): string[] {
  const parts = ['']
  const add = (more: string): void => void (parts[parts.length - 1] += more)
  for (let i = 0; i < text.length; i++) {
    const char = text[i] ?? ''
    if (char === ';') parts.push('')
    else if (char === '\\') add(text[++i] ?? '')
    else add(char)
  }
  return parts.map(p => p.trim()).filter(Boolean)
}

export const shownWhen = (when: When | null, zone: string | null): string => {
  if (!when) return ''
  if (when.kind === 'date') return when.date
  const text = when.local.replace('T', ' ').replace(/:00$/, '')
  return when.kind === 'zoned' && when.zone !== zone ? `${text} [${when.zone}]` : text
}

export const zoneOf = (when: When | null): string | null =>
  when?.kind === 'zoned' ? when.zone : when?.kind === 'floating' ? FLOATING : null
