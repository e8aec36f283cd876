import Papa from 'papaparse'
import { z } from 'zod'
import { isKnownZone } from '../time/when.ts'

/** Tables as they come (RFC 4180), and which column is which field: guessed, then mapped by hand. */

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

export const MOST_CSV_ROWS = 20_000

/** Null for what is no table. The delimiter is found by itself, or named by a first line `sep=;`. */
export function readTable(text: string): CsvTable | null {
  const plain = text.replace(/^\uFEFF/, '')
  const named = /^"?sep=(.)"?[ \t]*\r?\n/i.exec(plain)
  const { data, errors } = Papa.parse<string[]>(named ? plain.slice(named[0].length) : plain, {
    ...(named?.[1] && { delimiter: named[1] }),
    skipEmptyLines: 'greedy',
    preview: MOST_CSV_ROWS + 2,
  })
  if (errors.some(e => e.type === 'Quotes')) return null
  const [headings, ...rows] = data
  if (!headings || headings.length < 2 || headings.every(h => !h.trim())) return null
  return {
    headings: headings.map((h, i) => h.trim() || `Column ${i + 1}`),
    rows: rows.slice(0, MOST_CSV_ROWS),
    cut: rows.length > MOST_CSV_ROWS,
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
      const m = /^\s*(\d{1,2})[/.-](\d{1,2})[/.-](?:\d{4}|\d{2})(?!\d)/.exec(r[i] ?? '')
      return m ? [[Number(m[1]), Number(m[2])] as const] : []
    }),
  )
  const isDay = (n: number): boolean => n > 12 && n < 32
  const monthFirst = pairs.some(([, second]) => isDay(second)) && !pairs.some(([first]) => isDay(first))
  return monthFirst ? 'month-first' : 'day-first'
}
