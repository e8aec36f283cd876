import { TaskStatus } from '../items/items.ts'
import { durationMinutes } from '../time/duration.ts'
import { isKnownZone, type When, zonedAt } from '../time/when.ts'
import type { CsvMapping } from './csv-table.ts'
import { NotUnderstood } from '../ical/ical-values.ts'

/** What stands in the cells of a table, and what it means: both ways. */

/** A spreadsheet would take such a value for a formula; one quote before it says that it is text. */
const RISKY = /^'*[=+\-@\t\r]/
export const asText = (value: string): string => (RISKY.test(value) ? `'${value}` : value)
export const fromText = (value: string): string => (/^'+[=+\-@\t\r]/.test(value) ? value.slice(1) : value)

const pad = (n: string): string => n.padStart(2, '0')

export function whenFrom(text: string, mapping: CsvMapping, rowZone: string | null): When | null {
  const value = text.trim()
  if (!value) return null
  const m =
    /^(?:(\d{4})-(\d{1,2})-(\d{1,2})|(\d{1,2})[./-](\d{1,2})[./-](\d{4}))(?:[T ,]+(\d{1,2})[:.](\d\d)(?:[:.](\d\d)(?:\.\d+)?)?\s*([ap]m)?(Z|[+-]\d\d:?\d\d)?)?(?:\s*\[(.+)\])?$/i.exec(
      value,
    )
  if (!m) throw new NotUnderstood(`“${value.slice(0, 60)}” is not a date that is understood here.`)
  const [, y1, mo1, d1, p, q, y2, h, mi, s = '00', half, offset, named] = m
  const [mo, d] = y1 ? [mo1, d1] : mapping.order === 'day-first' ? [q, p] : [p, q]
  const date = `${y1 ?? y2 ?? ''}-${pad(mo ?? '')}-${pad(d ?? '')}`
  const hour = half ? (Number(h) % 12) + (half.toLowerCase() === 'pm' ? 12 : 0) : Number(h)
  const iso = h === undefined ? date : `${date}T${pad(String(hour))}:${mi ?? '00'}:${s}`
  if (
    Number.isNaN(Date.parse(`${iso}${h === undefined ? '' : 'Z'}`)) ||
    new Date(`${date}T00:00Z`).getUTCDate() !== Number(d)
  )
    throw new NotUnderstood(`“${value.slice(0, 60)}” is no day of the calendar.`)
  if (h === undefined) return { kind: 'date', date }
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

/** `unit`: minutes in one, for a number alone. */
export function minutesFrom(text: string, unit: number): number | null {
  const value = text.trim()
  if (!value) return null
  const clock = /^(\d{1,3}):(\d\d)$/.exec(value)
  const words = /^(?:(\d+(?:[.,]\d+)?)\s*h(?:ours?)?)?\s*(?:(\d+)\s*m(?:in(?:utes)?)?)?$/i.exec(value)
  const minutes = clock
    ? Number(clock[1]) * 60 + Number(clock[2])
    : /^\d+$/.test(value)
      ? Number(value) * unit
      : words
        ? Number((words[1] ?? '0').replace(',', '.')) * 60 + Number(words[2] ?? 0)
        : durationMinutes(value)
  if (minutes === null || !Number.isFinite(minutes))
    throw new NotUnderstood(`“${value.slice(0, 60)}” is not a length; 45, 1:30 or 1 h 30 m would be.`)
  return Math.round(minutes) || null
}

/** Names that contain the separator or a backslash keep them. */
export const joinList = (list: readonly string[]): string =>
  list.map(c => c.replace(/[\\;]/g, m => `\\${m}`)).join('; ')
export const splitList = (text: string): string[] =>
  (text.match(/(?:\\.|[^\\;])+/g) ?? []).map(c => c.trim().replace(/\\(.)/g, '$1')).filter(Boolean)

export const shownWhen = (when: When | null, zone: string | null): string => {
  if (!when) return ''
  if (when.kind === 'date') return when.date
  const text = when.local.replace('T', ' ').replace(/:00$/, '')
  return when.kind === 'zoned' && when.zone !== zone ? `${text} [${when.zone}]` : text
}

export const zoneOf = (when: When | null): string | null =>
  when?.kind === 'zoned' ? when.zone : when?.kind === 'floating' ? FLOATING : null
