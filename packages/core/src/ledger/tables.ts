import Papa from 'papaparse'
import { type EntryTime, minutesOf, type TimeEntry } from './entry.ts'

/** The ledger and the team's weeks as tables (RFC 4180). */

const FIELDS = [
  'day',
  'from',
  'to',
  'minutes',
  'counted',
  'what',
  'list',
  'category',
  'kind',
  'estimate',
  'source',
  'assumed',
]

/** Instants are in UTC, lengths in minutes. */
export const ledgerTable = (entries: readonly (TimeEntry & { counted: number })[]): string =>
  Papa.unparse({
    fields: FIELDS,
    data: entries.map(e => [
      e.day,
      instantOf(e.time, 'fromMs'),
      instantOf(e.time, 'toMs'),
      minutesOf(e.time),
      e.counted,
      asText(e.about.title),
      asText(e.about.list),
      asText(e.about.category),
      e.about.kind,
      e.about.estimate ?? '',
      e.source,
      e.assumed ? 'yes' : 'no',
    ]),
  })

export const weeksTable = (weeks: readonly { week: string; by: Record<string, number> | null }[]): string =>
  Papa.unparse({
    fields: ['week', 'category', 'minutes'],
    data: weeks.flatMap(({ week, by }) =>
      Object.entries(by ?? {}).map(([name, minutes]) => [week, asText(name), minutes]),
    ),
  })

const instantOf = (time: EntryTime, end: 'fromMs' | 'toMs'): string =>
  'fromMs' in time ? new Date(time[end]).toISOString() : ''

/** What a spreadsheet would take for a formula is said to be text. */
const asText = (text: string): string => (/^[=+\-@\t\r]/.test(text) ? `'${text}` : text)
