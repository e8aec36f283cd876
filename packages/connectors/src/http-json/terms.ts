import { guessStatus } from '@loom/core'
import { noTerms, type Terms } from '../connector.ts'
import type { ServiceDescription } from './description.ts'
import { listAt, textAt, valueAt } from './pointer.ts'

/** What a collection of the service says about its own words and columns. */

interface Column {
  id: string
  name: string
  kind: string
  raw: unknown
}

export function columnsOf(description: ServiceDescription, raw: unknown): Column[] {
  const { columns } = description
  if (!columns) return []
  return listAt(raw, columns.at).map(c => ({
    id: textAt(c, columns.id),
    name: textAt(c, columns.name),
    kind: textAt(c, columns.kind),
    raw: c,
  }))
}

function rolesOf(description: ServiceDescription, all: Column[]): Terms['roles'] {
  const taken = new Set<string>()
  return Object.entries(description.columns?.roles ?? {}).map(([role, { label, kinds, like }]) => {
    const fitting = all.filter(c => kinds.includes(c.kind))
    const named = like ? fitting.find(c => !taken.has(c.id) && new RegExp(like, 'i').test(c.name)) : undefined
    const suggested = named ?? fitting.find(c => !taken.has(c.id)) ?? null
    if (suggested) taken.add(suggested.id)
    return {
      role,
      label,
      choices: fitting.map(({ id, name }) => ({ id, name })),
      suggested: suggested?.id ?? null,
    }
  })
}

/** `raw` is the collection as the service tells it. */
export function termsOf(description: ServiceDescription, raw: unknown): Terms {
  const { statuses, priorities } = description
  const all = columnsOf(description, raw)
  const roles = rolesOf(description, all)
  const base = { ...noTerms, priorities, roles }
  if (Array.isArray(statuses)) return { ...base, statuses }
  const choice = (s: unknown, id: string, name: string, completed?: string) => {
    const label = textAt(s, name) || textAt(s, id)
    const guess = guessStatus(label)
    const means =
      completed && valueAt(s, completed) === true
        ? guess === 'cancelled'
          ? ('cancelled' as const)
          : ('completed' as const)
        : completed && (guess === 'completed' || guess === 'cancelled')
          ? ('in-process' as const)
          : guess
    return { id: textAt(s, id), name: label, means }
  }
  if ('role' in statuses) {
    const { at, id, name } = statuses
    const statusesByColumn = Object.fromEntries(
      all.map(c => [c.id, listAt(c.raw, at).map(s => choice(s, id, name))]),
    )
    const suggested = roles.find(r => r.role === statuses.role)?.suggested
    return { ...base, statusesByColumn, statuses: (suggested && statusesByColumn[suggested]) || [] }
  }
  const { at, id, name, completed } = statuses
  return { ...base, statuses: listAt(raw, at).map(s => choice(s, id, name, completed)) }
}

/** Words of a collection's columns by their ids. */
export function wordsOf(description: ServiceDescription, raw: unknown): Map<string, string> {
  const { split } = description.collections
  const found = new Map<string, string>()
  if (!split) return found
  for (const column of columnsOf(description, raw))
    for (const w of listAt(column.raw, split.words)) found.set(textAt(w, split.id), textAt(w, split.name))
  return found
}
