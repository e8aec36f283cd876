import { dyeFor, type Category } from '@loom/core/view'
import { ALL_ELSE, type Grouping, OTHER, type Period, type PeriodSum } from '@loom/core/ledger'
import type { InferResponseType } from 'hono/client'
import { api } from '../../api/client.ts'

/** What the parts of the time report share: what the server answers, and how it is named and coloured. */

export type Report = InferResponseType<typeof api.time.report.$get, 200>
export type TeamReport = InferResponseType<typeof api.time.team.$get, 200>

/** What a chart's part stands for, and opens. */
export interface Opened {
  title: string
  from: string
  to: string
  by?: Grouping
  name?: string
  uid?: string
  assumed?: 'yes'
}

/** So many weeks each choice goes back, and what its bars stand for where nothing else was chosen. */
export const SPANS: { value: number; label: string; period: Period }[] = [
  { value: 2, label: 'the last 2 weeks', period: 'day' },
  { value: 4, label: 'the last 4 weeks', period: 'week' },
  { value: 8, label: 'the last 8 weeks', period: 'week' },
  { value: 12, label: 'the last 12 weeks', period: 'week' },
  { value: 26, label: 'the last half-year', period: 'week' },
  { value: 52, label: 'the last year', period: 'month' },
]

/** The names that are drawn by themselves; all else goes under one. Only the server knows what it may tell of a team. */
export function foldedInto(periods: readonly PeriodSum[], names: readonly string[]): PeriodSum[] {
  return periods.map(p => {
    const by: Record<string, number> = {}
    for (const [name, minutes] of Object.entries(p.by)) {
      const as = names.includes(name) ? name : OTHER
      by[as] = (by[as] ?? 0) + minutes
    }
    return { ...p, by }
  })
}

export const isRest = (name: string): boolean => name === OTHER || name === ALL_ELSE || name.startsWith('No ')

/** Of what is no category. */
const KIND_DYES: Readonly<Record<string, string>> = {
  Tasks: '#4e6b35',
  'Meetings and appointments': '#1c6c77',
  Focus: '#75498a',
  Travel: '#44566c',
}

export function dyeOf(name: string, categories: readonly Pick<Category, 'name' | 'dye'>[]): string {
  if (isRest(name)) return 'var(--warp-strong)'
  return categories.find(c => c.name === name)?.dye ?? KIND_DYES[name] ?? dyeFor(name)
}
