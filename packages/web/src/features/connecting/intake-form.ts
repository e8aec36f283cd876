import {
  everything,
  type Filter,
  type Level,
  type Meaning,
  type Scope,
  suggestedMeaning,
  type Terms,
} from '@loom/core/view'

/** The settings of a connection: the same form for connecting and for later changes. */

export interface Offered {
  remoteId: string
  name: string
  itemKind: 'task' | 'event'
  parent: string | null
  whyNot: string | null
  count: number | null
  terms: Terms
  /** Statuses seen there that have no meaning yet. */
  unknown: string[]
}

export interface Someone {
  id: string
  name: string
  email: string | null
  me: boolean
  memberId: string | null
}

export interface Member {
  id: string
  name: string
}

export interface IntakeForm {
  name: string
  ownerId: string | null
  takesPart: string[]
  scope: Scope
  meanings: Record<string, Meaning>
  people: Record<string, string | null>
  dyes: Record<string, string>
  picks: string[]
  /** What colleagues see of it; asked once, when it is connected. */
  colleagues?: Level
}

export const DYES: { value: string; label: string }[] = [
  { value: '#4E6B35', label: 'moss' },
  { value: '#1C6C77', label: 'lagoon' },
  { value: '#75498A', label: 'heather' },
  { value: '#A43E2A', label: 'clay' },
  { value: '#44566C', label: 'slate' },
  { value: '#8C6A00', label: 'ochre' },
  { value: '#A23B66', label: 'rose' },
  { value: '#2F5D4A', label: 'fern' },
  { value: '#5B4B9A', label: 'iris' },
  { value: '#7A4A21', label: 'bark' },
]

export const isPart = (id: string): boolean => id.includes('#') && !id.endsWith('#tasks')
const isOffered = (o: Offered): boolean => o.whyNot === null

/** @param me whoever connects it, whose it is until they say otherwise */
export function newForm(
  name: string,
  offered: readonly Offered[],
  people: readonly Someone[],
  me: string | null,
): IntakeForm {
  return {
    name,
    ownerId: me,
    takesPart: offered.filter(o => isOffered(o) && !isPart(o.remoteId)).map(o => o.remoteId),
    scope: { ...everything },
    meanings: Object.fromEntries(
      offered.filter(o => o.itemKind === 'task').map(o => [o.remoteId, suggestedMeaning(o.terms)]),
    ),
    people: Object.fromEntries(people.map(p => [p.id, p.memberId])),
    dyes: Object.fromEntries(offered.map((o, i) => [o.remoteId, DYES[i % DYES.length]?.value ?? '#44566C'])),
    picks: [],
  }
}

export const meaningOf = (form: IntakeForm, o: Offered): Meaning =>
  form.meanings[o.remoteId] ?? suggestedMeaning(o.terms)

/** Statuses of a collection by the column chosen for them, where its users make the columns. */
export function statusesOf(o: Offered, meaning: Meaning): Terms['statuses'] {
  const column = meaning.columns.status
  return (column && o.terms.statusesByColumn[column]) || o.terms.statuses
}

/** Collections that say things in the same words are asked about once. */
export function sameTerms(offered: readonly Offered[]): Offered[][] {
  const groups = new Map<string, Offered[]>()
  for (const o of offered) {
    if (o.itemKind !== 'task') continue
    const key = JSON.stringify(o.terms)
    groups.set(key, [...(groups.get(key) ?? []), o])
  }
  return [...groups.values()]
}

export const hasTerms = (o: Offered): boolean =>
  o.terms.statuses.length + o.terms.priorities.length + o.terms.roles.length > 0

type ClauseOf<F extends Filter[number]['field']> = Extract<Filter[number], { field: F }>

export const clauseOf = <F extends Filter[number]['field']>(
  filter: Filter,
  field: F,
): ClauseOf<F> | undefined => filter.find((c): c is ClauseOf<F> => c.field === field)

/** The filter with this clause in the place of the one of its field, or without any for null. */
export function withClause(
  filter: Filter,
  field: Filter[number]['field'],
  clause: Filter[number] | null,
): Filter {
  const rest = filter.filter(c => c.field !== field)
  return clause ? [...rest, clause] : rest
}
