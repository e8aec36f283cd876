import Papa from 'papaparse'
import { z } from 'zod'
import { type Item, newEvent, newTask, TaskStatus } from '../items/items.ts'
import { durationMinutes } from '../time/duration.ts'
import {
  addDays,
  DAY_MINUTES,
  daysBetween,
  epochOf,
  isKnownZone,
  MINUTE,
  type When,
  zonedAt,
} from '../time/when.ts'
import { fieldsOf, type FileContents, type FileEntry, type FileField } from './file-entry.ts'
import { NotUnderstood } from './ical-values.ts'
import { endOf } from './vevent.ts'

/** Tables (RFC 4180) of tasks and events, their columns mapped by hand. */

export const CSV_FIELDS = [
  'kind',
  'uid',
  'title',
  'notes',
  'status',
  'start',
  'end',
  'due',
  'zone',
  'estimate',
  'priority',
  'categories',
  'location',
  'shown',
  'visibility',
  'parent',
  'link',
] as const
export type CsvField = (typeof CSV_FIELDS)[number]

export const CsvMapping = z.object({
  /** What a row is where no column says so. */
  rows: z.enum(['task', 'event']),
  /** Field → the heading of its column. */
  columns: z.partialRecord(z.enum(CSV_FIELDS), z.string()),
  /** How dates like 3/4/2026 are read. */
  order: z.enum(['day-first', 'month-first']),
  /** For times that name no zone. */
  zone: z.string().refine(isKnownZone, 'is not a time zone'),
})
export type CsvMapping = z.infer<typeof CsvMapping>

export interface CsvTable {
  headings: string[]
  rows: string[][]
  /** There were more rows than are read at once. */
  cut: boolean
}

const MAX_ROWS = 20_000

/** Null for what is no table. The delimiter is found by itself. */
export function readTable(text: string): CsvTable | null {
  const { data, errors } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), {
    skipEmptyLines: 'greedy',
    preview: MAX_ROWS + 2,
  })
  if (errors.some(e => e.type === 'Quotes')) return null
  const [headings, ...rows] = data
  if (!headings || headings.length < 2 || headings.every(h => !h.trim())) return null
  return {
    headings: headings.map((h, i) => h.trim() || `Column ${i + 1}`),
    rows: rows.slice(0, MAX_ROWS),
    cut: rows.length > MAX_ROWS,
  }
}

const NAMES: Record<CsvField, RegExp> = {
  kind: /^(kind|type)$/i,
  uid: /^(uid|id|key|number|no)$/i,
  title: /^(title|summary|name|task|subject|event|what|job|item)$/i,
  notes: /^(notes?|description|details|text|body)$/i,
  status: /^(status|state|stage|done|completed?)$/i,
  start: /^(start|starts|from|begin|planned|plan|date|when|start date)$/i,
  end: /^(end|ends|to|until|finish|end date)$/i,
  due: /^(due|deadline|due date|finish by)$/i,
  zone: /^(zone|time ?zone)$/i,
  estimate: /^(estimate|length|duration|minutes|hours|effort)$/i,
  priority: /^(priority|urgency|weight)$/i,
  categories: /^(categor(y|ies)|tags?|labels?|keywords?)$/i,
  location: /^(location|place|where|room)$/i,
  shown: /^(shown|busy|free|transparency)$/i,
  visibility: /^(visibility|class|privacy)$/i,
  parent: /^(parent|part of)$/i,
  link: /^(link|url|address)$/i,
}

/** A first guess by the headings and what stands below them; a person corrects it. */
export function guessMapping(table: CsvTable, zone: string): CsvMapping {
  const columns: CsvMapping['columns'] = {}
  for (const field of CSV_FIELDS) {
    const found = table.headings.find(h => NAMES[field].test(h.trim()) && !Object.values(columns).includes(h))
    if (found) columns[field] = found
  }
  // An end without any start is the day by which something is to be done.
  if (columns.end && !columns.start && !columns.due) {
    columns.due = columns.end
    delete columns.end
  }
  const rest = table.headings.find(h => !Object.values(columns).includes(h))
  if (!columns.title && rest) columns.title = rest
  return { rows: columns.end ? 'event' : 'task', columns, order: orderIn(table, columns), zone }
}

/** What the dates themselves show: a number over twelve is no month. */
function orderIn(table: CsvTable, columns: CsvMapping['columns']): CsvMapping['order'] {
  const at = [columns.start, columns.end, columns.due].map(h => table.headings.indexOf(h ?? ''))
  const pairs = table.rows.flatMap(r =>
    at.flatMap(i => {
      const m = /^(\d{1,2})[/.-](\d{1,2})[/.-]\d{4}/.exec(r[i] ?? '')
      return m ? [[Number(m[1]), Number(m[2])] as const] : []
    }),
  )
  const isDay = (n: number): boolean => n > 12 && n < 32
  const monthFirst = pairs.some(([, second]) => isDay(second)) && !pairs.some(([first]) => isDay(first))
  return monthFirst ? 'month-first' : 'day-first'
}

/** A spreadsheet would take such a value for a formula; one quote before it says that it is text. */
const RISKY = /^'*[=+\-@\t\r]/
const asText = (value: string): string => (RISKY.test(value) ? `'${value}` : value)
const fromText = (value: string): string => (/^'+[=+\-@\t\r]/.test(value) ? value.slice(1) : value)

const pad = (n: string): string => n.padStart(2, '0')

function whenFrom(text: string, mapping: CsvMapping, rowZone: string | null): When | null {
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
function statusFrom(text: string): TaskStatus {
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
function priorityFrom(text: string): number {
  const value = text.trim().toLowerCase()
  const known = PRIORITIES[value] ?? Number(value)
  if (Number.isInteger(known) && known >= 0 && known <= 9) return known
  throw new NotUnderstood(`“${text.slice(0, 60)}” is not a priority from 0 to 9.`)
}

/** `unit`: minutes in one, for a number alone. */
function minutesFrom(text: string, unit: number): number | null {
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
const joinList = (list: readonly string[]): string =>
  list.map(c => c.replace(/[\\;]/g, m => `\\${m}`)).join('; ')
const splitList = (text: string): string[] =>
  (text.match(/(?:\\.|[^\\;])+/g) ?? []).map(c => c.trim().replace(/\\(.)/g, '$1')).filter(Boolean)

const TASK_SAYS: Partial<Record<CsvField, FileField>> = {
  title: 'summary',
  notes: 'description',
  status: 'status',
  start: 'start',
  due: 'due',
  estimate: 'estimatedDuration',
  priority: 'priority',
  categories: 'categories',
  parent: 'parent',
  link: 'url',
}
const EVENT_SAYS: Partial<Record<CsvField, FileField>> = {
  title: 'summary',
  notes: 'description',
  start: 'time',
  categories: 'categories',
  location: 'location',
  shown: 'transparency',
  visibility: 'class',
  link: 'url',
}

function entryOf(cell: (field: CsvField) => string, mapping: CsvMapping, uid: string): FileEntry {
  const summary = cell('title').trim()
  if (!summary) throw new NotUnderstood('It has no title.')
  const zone = cell('zone').trim() || null
  const categories = splitList(cell('categories'))
  const link = cell('link').trim()
  const shared = {
    summary,
    description: cell('notes'),
    categories,
    url: /^https?:\/\//i.test(link) ? link : null,
  }
  const kind = /^task/i.test(cell('kind')) ? 'task' : /^event/i.test(cell('kind')) ? 'event' : mapping.rows
  const unit = /hour/i.test(mapping.columns.estimate ?? '') ? 60 : 1
  const mapped = Object.keys(mapping.columns) as CsvField[]
  const map = kind === 'task' ? TASK_SAYS : EVENT_SAYS
  const says = fieldsOf(kind).filter(f => mapped.some(c => map[c] === f))
  const start = whenFrom(cell('start'), mapping, zone)
  if (kind === 'task') {
    const task = newTask(uid, {
      ...shared,
      start,
      due: whenFrom(cell('due'), mapping, zone),
      status: statusFrom(cell('status')),
      estimatedDuration: minutesFrom(cell('estimate'), unit),
      priority: priorityFrom(cell('priority')),
      parent: cell('parent').trim() || null,
    })
    return { item: { ...task, serviceStatus: task.status }, says, original: null, series: null }
  }
  if (!start) throw new NotUnderstood('It has no start.')
  const end = whenFrom(cell('end'), mapping, zone)
  const event = newEvent(
    uid,
    { anchor: start, minutes: lengthOf(start, end, minutesFrom(cell('estimate'), unit)) },
    {
      ...shared,
      location: cell('location'),
      transparency: /^(free|transparent)$/i.test(cell('shown').trim()) ? 'transparent' : 'opaque',
      class: /^private$/i.test(cell('visibility').trim())
        ? 'private'
        : /^confidential$/i.test(cell('visibility').trim())
          ? 'confidential'
          : 'public',
    },
  )
  return { item: event, says, original: null, series: null }
}

/** The last day of an all-day event is told as one reads it: the day itself, not the one after. */
function lengthOf(start: When, end: When | null, minutes: number | null): number {
  if (start.kind === 'date') {
    const last = end?.kind === 'date' ? end.date : start.date
    const days = daysBetween(start.date, last) + 1
    if (days < 1) throw new NotUnderstood('It ends before it starts.')
    return days * DAY_MINUTES
  }
  if (!end) return minutes ?? 60
  if (end.kind === 'date') throw new NotUnderstood('It starts at an hour and ends on a day without one.')
  const length = (epochOf(end, 'UTC') - epochOf(start, 'UTC')) / MINUTE
  if (length < 0) throw new NotUnderstood('It ends before it starts.')
  return length
}

/** `newUid` names a row that has no id of its own. */
export function* readRows(
  table: CsvTable,
  mapping: CsvMapping,
  newUid: (row: string[]) => string,
): Generator<null, FileContents> {
  const contents: FileContents = { entries: [], problems: [] }
  const index = new Map(table.headings.map((h, i) => [h, i]))
  for (const [i, row] of table.rows.entries()) {
    const cell = (field: CsvField): string => {
      const heading = mapping.columns[field]
      return heading === undefined ? '' : fromText(row[index.get(heading) ?? -1] ?? '')
    }
    try {
      contents.entries.push(entryOf(cell, mapping, cell('uid').trim().slice(0, 500) || newUid(row)))
    } catch (error) {
      if (!(error instanceof NotUnderstood)) throw error
      contents.problems.push({ where: `Row ${i + 2}`, reason: error.message })
    }
    yield null
  }
  if (table.cut)
    contents.problems.push({
      where: `After row ${MAX_ROWS + 1}`,
      reason: `Only the first ${MAX_ROWS} rows are read. Bring in the rest as a file of its own.`,
    })
  return contents
}

const shownWhen = (when: When | null, zone: string | null): string => {
  if (!when) return ''
  if (when.kind === 'date') return when.date
  const told = when.local.replace('T', ' ').replace(/:00$/, '')
  return when.kind === 'zoned' && when.zone !== zone ? `${told} [${when.zone}]` : told
}

const zoneOf = (when: When | null): string | null =>
  when?.kind === 'zoned' ? when.zone : when?.kind === 'floating' ? FLOATING : null

function rowOf(item: Item): Record<CsvField, string> {
  const anchor = item.kind === 'task' ? (item.start ?? item.due) : item.time.anchor
  const zone = zoneOf(anchor) ?? (item.kind === 'task' ? zoneOf(item.due) : null)
  const blank = Object.fromEntries(CSV_FIELDS.map(f => [f, ''])) as Record<CsvField, string>
  const row = {
    ...blank,
    kind: item.kind,
    uid: item.uid,
    title: item.summary,
    notes: item.description,
    zone: zone ?? '',
    categories: joinList(item.categories),
    link: item.url ?? '',
  }
  if (item.kind === 'task')
    return {
      ...row,
      status: item.status,
      start: shownWhen(item.start, zone),
      due: shownWhen(item.due, zone),
      estimate: String(item.estimatedDuration ?? ''),
      priority: item.priority ? String(item.priority) : '',
      parent: item.parent ?? '',
    }
  const { time } = item
  const after = endOf(time)
  const end: When = after.kind === 'date' ? { kind: 'date', date: addDays(after.date, -1) } : after
  // An end inside the hour that the clocks repeat cannot be told by the wall; its length can.
  const told = epochOf(after, 'UTC') - epochOf(time.anchor, 'UTC') === time.minutes * MINUTE
  return {
    ...row,
    start: shownWhen(time.anchor, zone),
    end: told || end.kind === 'date' ? shownWhen(end, zone) : '',
    estimate: told || end.kind === 'date' ? '' : String(time.minutes),
    location: item.location,
    shown: item.transparency === 'transparent' ? 'free' : 'busy',
    visibility: item.class,
  }
}

export function writeTable(items: readonly Item[]): string {
  const rows = items.map(item => {
    const row = rowOf(item)
    return CSV_FIELDS.map(f => asText(row[f]))
  })
  return `${Papa.unparse([[...CSV_FIELDS], ...rows], { newline: '\r\n' })}\r\n`
}
