import { setImmediate as turn } from 'node:timers/promises'
import {
  CsvMapping,
  type FileContents,
  guessMapping,
  readCalendarFile,
  readJsCalendar,
  readRows,
  readTable,
} from '@loom/core'
import { hashOf } from '../access/secrets.ts'
import type { Sql } from '../data/database.ts'
import { mappingFor, putMapping } from '../data/repositories/csv-mappings.ts'
import { json, parsed } from '../data/json.ts'

/** Detects what a file is and reads it, pausing so that others get their turn. */

export type FileFormat = 'ics' | 'jscalendar' | 'csv'

export interface ReadFile {
  format: FileFormat
  contents: FileContents
  /** Of a table: its headings, its first rows, and how it was read. */
  table: { headings: string[]; sample: string[][]; mapping: CsvMapping; remembered: boolean } | null
}

const BREATH_MS = 12

/** Runs a reading to its end, letting others have their turn every few milliseconds. */
export async function inTurns<T>(reading: Generator<null, T>): Promise<T> {
  let since = Date.now()
  for (;;) {
    const step = reading.next()
    if (step.done) return step.value
    if (Date.now() - since < BREATH_MS) continue
    await turn()
    since = Date.now()
  }
}

const headingsKey = (headings: readonly string[]): string => hashOf(json(headings))

async function rememberedMapping(
  sql: Sql,
  workspaceId: string,
  headings: readonly string[],
): Promise<CsvMapping | null> {
  const row = await mappingFor(sql, { workspaceId, key: headingsKey(headings) })
  const remembered = row && CsvMapping.safeParse(parsed(row.mapping))
  return remembered?.success ? remembered.data : null
}

export async function rememberMapping(
  sql: Sql,
  workspaceId: string,
  headings: readonly string[],
  mapping: CsvMapping,
): Promise<void> {
  await putMapping(sql, { workspaceId, key: headingsKey(headings), mapping: json(mapping) })
}

/** Null for what is none of the formats. A row without an id of its own is told apart by what it says. */
export async function readFile(
  sql: Sql,
  at: { workspaceId: string; zone: string; now: number },
  text: string,
  given: CsvMapping | null,
): Promise<ReadFile | null> {
  if (/^\uFEFF?\s*BEGIN:VCALENDAR/i.test(text)) {
    const contents = await inTurns(readCalendarFile(text.trimStart()))
    return contents && { format: 'ics', contents, table: null }
  }
  if (/^\uFEFF?\s*[[{]/.test(text)) {
    const contents = await inTurns(readJsCalendar(text, at.now))
    return contents && { format: 'jscalendar', contents, table: null }
  }
  const table = readTable(text)
  if (!table) return null
  const { headings, rows } = table
  const remembered = given ? null : await rememberedMapping(sql, at.workspaceId, headings)
  const mapping = given ?? remembered ?? guessMapping(table, at.zone)
  const contents = await inTurns(
    readRows(table, mapping, row => `row-${hashOf(json([headings, row])).slice(0, 32)}`),
  )
  const sample = rows.slice(0, 4)
  return { format: 'csv', contents, table: { headings, sample, mapping, remembered: remembered !== null } }
}
