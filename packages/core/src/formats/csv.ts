import Papa from 'papaparse'
import { type Item, newEvent, newTask } from '../items/items.ts'
import { addDays, DAY_MINUTES, daysBetween, epochOf, MINUTE, type When } from '../time/when.ts'
import { CSV_FIELDS, type CsvField, type CsvMapping, type CsvTable, MOST_CSV_ROWS } from './csv-table.ts'
import {
  asText,
  fromText,
  joinList,
  minutesFrom,
  priorityFrom,
  shownWhen,
  splitList,
  statusFrom,
  whenFrom,
  zoneOf,
} from './csv-values.ts'
import { fieldsOf, type FileContents, type FileEntry, type FileField } from './file-entry.ts'
import { mustBeKept } from './boundary.ts'
import { NotUnderstood, understand } from '../ical/not-understood.ts'
import { endOf } from '../ical/vevent.ts'

/** Tables (RFC 4180) of tasks and events, their columns mapped by hand. */

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
  location: 'location',
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
      ...(cell('location').trim() && { location: cell('location') }),
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
    const read = understand(() => {
      const entry = entryOf(cell, mapping, cell('uid').trim().slice(0, 500) || newUid(row))
      mustBeKept(entry.item)
      return entry
    })
    if (read.kind === 'understood') contents.entries.push(read.value)
    else contents.problems.push({ where: `Row ${i + 2}`, reason: read.because })
    yield null
  }
  if (table.cut)
    contents.problems.push({
      where: `After row ${MOST_CSV_ROWS + 1}`,
      reason: `Only the first ${MOST_CSV_ROWS} rows are read. Bring in the rest as a file of its own.`,
    })
  return contents
}

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
      location: item.location ?? '',
    }
  const { time } = item
  const after = endOf(time)
  const end: When = after.kind === 'date' ? { kind: 'date', date: addDays(after.date, -1) } : after
  // An end inside the hour that the clocks repeat cannot be told by the wall; its length can.
  const lengthFits = epochOf(after, 'UTC') - epochOf(time.anchor, 'UTC') === time.minutes * MINUTE
  return {
    ...row,
    start: shownWhen(time.anchor, zone),
    end: lengthFits || end.kind === 'date' ? shownWhen(end, zone) : '',
    estimate: lengthFits || end.kind === 'date' ? '' : String(time.minutes),
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
