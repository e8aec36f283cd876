import type { Search } from '@loom/core'
import { type RemoteItem, ServiceError } from '../connector.ts'
import { markerOf } from './marker.ts'
import type { Delta } from './listing.ts'
import { textAt, valueAt } from './pointer.ts'
import type { Reader } from './reader.ts'

/** Looking for what bears a uid of ours, in every list of an account. */

export interface AccountSearch extends Search<RemoteItem> {
  /** Each with what the service says. */
  closed: { name: string; error: ServiceError }[]
}

/** Throws what is wrong with the service as a whole; a list that alone is refused or missing is told of. */
export async function searchFor(uid: string, reader: Reader, delta: Delta): Promise<AccountSearch> {
  const { collections } = reader.description
  const search: AccountSearch = { found: [], unreadable: 0, closed: [] }
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
