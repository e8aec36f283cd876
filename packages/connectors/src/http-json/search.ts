import type { RemoteItem } from '../connector.ts'
import { ServiceError } from '../connector.ts'
import { markerOf } from './fields.ts'
import type { Delta } from './listing.ts'
import { textAt, valueAt } from './pointer.ts'
import type { Reader } from './reader.ts'

/** Looking for what bears a uid of ours, in every list of an account. */

export interface Search {
  found: RemoteItem[]
  /** Bears our marker and cannot be read as an item. */
  unreadable: number
  /** Lists that could not be looked at, each with what the service says. */
  closed: { name: string; error: ServiceError }[]
}

/** Throws what is wrong with the service as a whole; a list that alone is refused or missing is told of. */
export async function searchFor(uid: string, reader: Reader, delta: Delta): Promise<Search> {
  const { collections } = reader.description
  const search: Search = { found: [], unreadable: 0, closed: [] }
  for (const raw of await reader.readCollections()) {
    if (collections.allowed && valueAt(raw, collections.allowed) === false) continue
    try {
      for await (const page of delta(textAt(raw, collections.id), null)) {
        search.found.push(...page.items.filter(i => i.item.uid === uid))
        search.unreadable += page.problems.filter(p => p.original.includes(markerOf(uid))).length
      }
    } catch (error) {
      if (!(error instanceof ServiceError) || !['missing', 'refused'].includes(error.trouble)) throw error
      search.closed.push({ name: textAt(raw, collections.name), error })
    }
  }
  return search
}

export type Verdict =
  | { kind: 'made'; item: RemoteItem }
  | { kind: 'not-made' }
  /** `againMs`: by then another search tells; null where only somebody can. */
  | { kind: 'unsure'; reason: string; againMs: number | null }

/**
 * Whether the creation of something took effect whose answer was lost so long ago. A marker counts once: of several
 * that bear it, the first made is ours and the others are somebody's copies.
 */
export function verdictOf(search: Search, triedAgoMs: number, behindMs: number): Verdict {
  const unsure = (reason: string, againMs: number | null = null): Verdict => ({
    kind: 'unsure',
    reason,
    againMs,
  })
  const { found, unreadable, closed } = search
  if (found.length > 0) {
    const item = firstMade(found)
    return item
      ? { kind: 'made', item }
      : unsure(`${found.length} items there bear our mark, and it cannot be told which of them we made.`)
  }
  if (unreadable > 0) return unsure('Something there bears our mark, but it cannot be read.')
  if (closed.length > 0)
    return unsure(
      `It may have been made, and moved since: ${closed.map(c => `“${c.name}”`).join(' and ')} cannot be looked at.`,
    )
  if (triedAgoMs < behindMs) return unsure('What was just made may not be listed yet.', behindMs - triedAgoMs)
  return { kind: 'not-made' }
}

/** Null where the service does not tell which that is. */
function firstMade(items: RemoteItem[]): RemoteItem | null {
  if (items.length === 1) return items[0] ?? null
  const times = items.map(i => Date.parse(i.item.created ?? ''))
  const first = Math.min(...times)
  return times.filter(t => t === first).length === 1 ? (items[times.indexOf(first)] ?? null) : null
}
