import { z } from 'zod'
import { type TaskStatus as Status, TaskStatus } from './items.ts'
import { ofOwn } from './own-key.ts'

/** The meanings of a collection's own words, by the service's ids: a renamed status or column keeps its meaning. */
export const Meaning = z.object({
  /** Service status id → ours. */
  statuses: z.record(z.string(), TaskStatus),
  /** Which service status is written for ours; where none is named, the first that means it. */
  write: z.partialRecord(TaskStatus, z.string()),
  /** Service priority id → 0–9 (RFC 5545 §3.8.1.9). */
  priorities: z.record(z.string(), z.number().int().min(0).max(9)),
  /** Role → column or date field of the service. */
  columns: z.record(z.string(), z.string()),
  /** Whether what the service calls the start is the deadline here, and its due date the plan. */
  swapDates: z.boolean().default(false),
})
export type Meaning = z.infer<typeof Meaning>

export const noMeaning: Meaning = { statuses: {}, write: {}, priorities: {}, columns: {}, swapDates: false }

export interface StatusTerm {
  id: string
  name: string
  means: Status
}

/** What a collection's own words are, for a person to say what they mean. */
export interface Terms {
  statuses: StatusTerm[]
  priorities: { id: string; name: string; means: number }[]
  /** Roles that a column or date of the service can take here. */
  roles: { role: string; label: string; choices: { id: string; name: string }[]; suggested: string | null }[]
  /** Column → its words, where statuses depend on the column chosen. */
  statusesByColumn: Record<string, StatusTerm[]>
}

/** Statuses as the service shows them to people, where it tells. */
export const statusNames = (terms: Terms, ids: readonly string[]): string[] =>
  ids.map(id => terms.statuses.find(s => s.id === id)?.name ?? id)

export const noTerms: Terms = { statuses: [], priorities: [], roles: [], statusesByColumn: {} }

/** The meaning a collection has until a person says otherwise. */
export function suggestedMeaning(terms: Terms): Meaning {
  return {
    ...noMeaning,
    statuses: Object.fromEntries(terms.statuses.map(s => [s.id, s.means])),
    priorities: Object.fromEntries(terms.priorities.map(p => [p.id, p.means])),
    columns: Object.fromEntries(terms.roles.flatMap(r => (r.suggested ? [[r.role, r.suggested]] : []))),
  }
}

/** The service's status to write for `status`; undefined where the service has none of that meaning. */
export function statusToWrite(meaning: Meaning, status: Status): string | undefined {
  const named = meaning.write[status]
  if (named !== undefined && ofOwn(meaning.statuses, named) === status) return named
  return Object.keys(meaning.statuses).find(id => meaning.statuses[id] === status)
}

/** The service's priority nearest to `priority`; the more pressing one of two as near. */
export function priorityToWrite(meaning: Meaning, priority: number): string | undefined {
  const wanted = priority === 0 ? 5 : priority
  const all = Object.entries(meaning.priorities).sort(
    ([, x], [, y]) => Math.abs(x - wanted) - Math.abs(y - wanted) || x - y,
  )
  return (all.find(([, value]) => value === priority) ?? all[0])?.[0]
}

const GUESSES: [RegExp, Status][] = [
  [/\b(not|un)\s?(done|worth|finished)|drop|cancel|reject|abandon|thrown|won.?t|never|void/i, 'cancelled'],
  [
    /done|complete|closed?\b|finish|fixed|settled|resolved|ticked|shut|planted|swept|delivered|archiv/i,
    'completed',
  ],
  [
    /progress|under way|doing|hands on|working|started|active|in hand|out there|ordered|waiting|review/i,
    'in-process',
  ],
]

/** What a status most likely means, going by its name; a person confirms it. */
export function guessStatus(name: string): Status {
  return GUESSES.find(([words]) => words.test(name))?.[1] ?? 'needs-action'
}
