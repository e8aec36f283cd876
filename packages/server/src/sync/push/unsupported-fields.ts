import { estimateStep, lacksIn } from '@loom/connectors'
import { Meaning, suggestedMeaning } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { descriptionIn } from '../rules/rules.ts'
import { describedCollection, type Described } from '../../data/repositories/collections.ts'
import { parsed } from '../../data/json.ts'

/** What writes to a list cannot say, by its service's description and what a person has said of its words. */

export interface Unsupported {
  unsupported: ReadonlySet<string>
  /** Minutes in which work is counted there; null where it is to the minute. */
  estimateStep: number | null
}
const NOTHING: Unsupported = { unsupported: new Set(), estimateStep: null }

export async function unsupportedAt(sql: Sql, collectionId: string): Promise<Unsupported> {
  const row = await describedCollection(sql, { collectionId })
  return row ? unsupportedOf(row) : NOTHING
}

const SWAPPED: Readonly<Record<string, string>> = { start: 'due', due: 'start' }

export function unsupportedOf(row: Described): Unsupported {
  const { description } = descriptionIn(row)
  if (!description) return NOTHING
  const meaning =
    row.meaning === null ? suggestedMeaning(parsed(row.terms)) : Meaning.parse(parsed(row.meaning))
  const unsupported = lacksIn(description, meaning)
  return {
    unsupported: new Set(meaning.swapDates ? unsupported.map(p => SWAPPED[p] ?? p) : unsupported),
    estimateStep: estimateStep(description),
  }
}
