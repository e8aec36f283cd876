import { estimateStep, lacksIn } from '@loom/connectors'
import { Meaning, suggestedMeaning, type Terms } from '@loom/core'
import { descriptionIn } from './rules.ts'

/** What writes to a list cannot say, by its service's description and what a person has said of its words. */

export interface Described {
  kind: string
  description: string | null
  /** What its words are, and what a person has said that they mean, if anybody has. */
  terms: string
  meaning: string | null
}

const SWAPPED: Readonly<Record<string, string>> = { start: 'due', due: 'start' }

export function lackingOf(row: Described): { lacks: ReadonlySet<string>; estimateStep: number | null } {
  const { description } = descriptionIn(row)
  if (!description) return { lacks: new Set(), estimateStep: null }
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
