import { estimateStep, lacksIn } from '@loom/connectors'
import { Meaning, suggestedMeaning } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { descriptionIn } from '../rules/rules.ts'
import { describedCollection, type Described } from '../../data/repositories/collections.ts'
import { parsed } from '../../data/json.ts'

/** What writes to a list cannot say, by its service's description and what a person has said of its words. */

export interface Lacking {
  lacks: ReadonlySet<string>
  /** Minutes in which work is counted there; null where it is to the minute. */
  estimateStep: number | null
}
const NOTHING: Lacking = { lacks: new Set(), estimateStep: null }

export async function lackingAt(sql: Sql, collectionId: string): Promise<Lacking> {
  const row = await describedCollection(sql, { collectionId })
  return row ? lackingOf(row) : NOTHING
}

const SWAPPED: Readonly<Record<string, string>> = { start: 'due', due: 'start' }

export function lackingOf(row: Described): Lacking {
  const { description } = descriptionIn(row)
  if (!description) return NOTHING
  const meaning =
    row.meaning === null ? suggestedMeaning(parsed(row.terms)) : Meaning.parse(parsed(row.meaning))
  const lacks = lacksIn(description, meaning)
  return {
    lacks: new Set(meaning.swapDates ? lacks.map(p => SWAPPED[p] ?? p) : lacks),
    estimateStep: estimateStep(description),
  }
}
