import { type Connector, type RemoteItem, ServiceError } from '@loom/connectors'
import type { Background } from '../work/background.ts'
import { admits, entry, type Filter, type FilterTerms, type Item, type Scope } from '@loom/core'

/**
 * The contents of a service, read once while a person chooses what comes in. It stays in this process for a few
 * minutes; another process reads it again.
 */
interface Listing {
  items: Map<string, RemoteItem[]>
  reading: Set<string>
  error: string | null
  usedAt: number
}

const KEEP_MS = 5 * 60_000
const MAX_ITEMS = 30_000
const MAX_LISTINGS = 20

const listings = new Map<string, Listing>()

function listingOf(key: string): Listing {
  const now = Date.now()
  for (const [k, l] of listings) if (now - l.usedAt > KEEP_MS) listings.delete(k)
  const oldest = [...listings].sort(([, x], [, y]) => x.usedAt - y.usedAt)[0]
  if (listings.size >= MAX_LISTINGS && oldest && !listings.has(key)) listings.delete(oldest[0])
  const known = listings.get(key) ?? { items: new Map(), reading: new Set(), error: null, usedAt: now }
  known.usedAt = now
  listings.set(key, known)
  return known
}

export const forgetListing = (key: string): boolean => listings.delete(key)

/** Whose listing it is: a draft's or a connection's id; it is read without anybody waiting. */
export interface ListingOf {
  key: string
  background: Background
}

/** Begins to read the collections that were not read yet. */
function readOn(of: ListingOf, connector: Connector, collections: readonly string[]): Listing {
  const listing = listingOf(of.key)
  for (const collection of collections) {
    if (listing.items.has(collection) || listing.reading.has(collection)) continue
    listing.reading.add(collection)
    of.background.run('read a listing', () => readAll(listing, connector, collection))
  }
  return listing
}

async function readAll(listing: Listing, connector: Connector, collection: string): Promise<void> {
  const items: RemoteItem[] = []
  listing.items.set(collection, items)
  listing.error = null
  try {
    for await (const page of connector.delta(collection, null)) {
      items.push(...page.items)
      if (items.length >= MAX_ITEMS || Date.now() - listing.usedAt > KEEP_MS) break
    }
  } catch (error) {
    listing.items.delete(collection)
    listing.error =
      error instanceof ServiceError
        ? error.message
        : 'Something went wrong here while it was read. Try again.'
    if (!(error instanceof ServiceError)) throw error
  } finally {
    listing.reading.delete(collection)
  }
}

export interface Counted {
  total: number
  admitted: number
  /** Whether there is more to come: ask again in a moment. */
  reading: boolean
  error: string | null
  examples: string[]
}

/** Items as they read with the connector's meanings, from what the listing holds by now. */
function* read(
  listing: Listing,
  connector: Connector,
  collections: readonly string[],
): Generator<{ seen: RemoteItem; item: Item }> {
  for (const collection of collections)
    for (const seen of listing.items.get(collection) ?? []) {
      const again = connector.interpret(collection, seen.original)
      yield { seen, item: again?.item ?? seen.item }
    }
}

export function countListing(
  of: ListingOf,
  connector: Connector,
  collections: readonly string[],
  filter: Filter,
  terms: FilterTerms,
): Counted {
  const listing = readOn(of, connector, collections)
  const out: Counted = {
    total: 0,
    admitted: 0,
    reading: listing.reading.size > 0,
    error: listing.error,
    examples: [],
  }
  for (const { item } of read(listing, connector, collections)) {
    out.total++
    if (!admits(filter, item, terms)) continue
    out.admitted++
    if (out.examples.length < 5) out.examples.push(item.summary)
  }
  return out
}

export interface Coming {
  coming: number
  comingExamples: string[]
  reading: boolean
  error: string | null
}

/** What a scope would bring in that is not in yet. */
export function comingIn(
  of: ListingOf,
  connector: Connector,
  collections: readonly string[],
  scope: Scope,
  terms: FilterTerms & { picks: ReadonlySet<string>; isIn: (seen: RemoteItem) => boolean },
): Coming {
  const listing = readOn(of, connector, collections)
  const out: Coming = {
    coming: 0,
    comingExamples: [],
    reading: listing.reading.size > 0,
    error: listing.error,
  }
  for (const { seen, item } of read(listing, connector, collections)) {
    const at = { ...terms, picked: terms.picks.has(seen.remoteId), isIn: false }
    if (terms.isIn(seen) || entry(scope, item, at) !== 'in') continue
    out.coming++
    if (out.comingExamples.length < 5) out.comingExamples.push(item.summary || 'Untitled')
  }
  return out
}

export interface Found {
  remoteId: string
  collection: string
  title: string
  status: string | null
  assignees: string[]
}

/** Looks through the service: the words in any order, in title or notes. */
export function searchListing(
  of: ListingOf,
  connector: Connector,
  collections: readonly string[],
  words: string,
): { found: Found[]; total: number; reading: boolean; error: string | null } {
  const listing = readOn(of, connector, collections)
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean)
  const found: Found[] = []
  let total = 0
  for (const { seen, item } of read(listing, connector, collections)) {
    const text = `${item.summary}\n${item.description}`.toLowerCase()
    if (!wanted.every(w => text.includes(w))) continue
    total++
    if (found.length < 50)
      found.push({
        remoteId: seen.remoteId,
        collection: seen.collectionId,
        title: item.summary || 'Untitled',
        status: item.kind === 'task' ? item.status : null,
        assignees: item.kind === 'task' ? item.assignees : [],
      })
  }
  return { found, total, reading: listing.reading.size > 0, error: listing.error }
}
