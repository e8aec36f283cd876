import { estimateStep, lacksIn } from '@loom/connectors'
import { Meaning, suggestedMeaning, type Terms } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { descriptionIn } from '../rules/rules.ts'

/** What writes to a list cannot say, by its service's description and what a person has said of its words. */

export interface Described {
  kind: string
  description: string | null
  /** What its words are, and what a person has said that they mean, if anybody has. */
  terms: string
  meaning: string | null
}

export interface Lacking {
  lacks: ReadonlySet<string>
  /** Minutes in which work is counted there; null where it is to the minute. */
  estimateStep: number | null
}
const NOTHING: Lacking = { lacks: new Set(), estimateStep: null }

export async function lackingAt(sql: Sql, collectionId: string): Promise<Lacking> {
  const row = await sql.one<Described>(
    `SELECT n.kind, n.description, k.terms, k.meaning FROM collections k
     JOIN connections n ON n.id = k.connection_id WHERE k.id = :collectionId`,
    { collectionId },
  )
  return row ? lackingOf(row) : NOTHING
}

const SWAPPED: Readonly<Record<string, string>> = { start: 'due', due: 'start' }

export function lackingOf(row: Described): Lacking {
  const { description } = descriptionIn(row)
  if (!description) return NOTHING
  const meaning =
    row.meaning === null
      ? suggestedMeaning(JSON.parse(row.terms) as Terms)
      : Meaning.parse(JSON.parse(row.meaning))
  const lacks = lacksIn(description, meaning)
  return {
    lacks: new Set(meaning.swapDates ? lacks.map(p => SWAPPED[p] ?? p) : lacks),
    estimateStep: estimateStep(description),
  }
}
