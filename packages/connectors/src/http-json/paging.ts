import { ServiceError } from '../connector.ts'
import type { Answer } from './client.ts'
import type { ServiceDescription } from './description.ts'
import { textAt, valueAt } from './pointer.ts'

/** How a list goes on: what the next page is called, and how it is asked for. */

type Paging = ServiceDescription['list']['paging']

interface PageRead {
  answer: Answer
  /** What this page was called; null for the first. */
  at: string | null
  /** How many items were on it. */
  count: number
  /** Where the list says how many there are. */
  total: string | undefined
  /** Of the account; a link is read as seen from its origin. */
  address: string
}

/** What the next page is called; null where this was the last. */
export function nextPage(paging: Paging, { answer, at, count, total, address }: PageRead): string | null {
  switch (paging.kind) {
    case 'none':
      return null
    case 'cursor':
      return textAt(answer.json, paging.next) || null
    case 'page': {
      const page = Number(at ?? paging.first)
      return page - paging.first + 1 < Number(textAt(answer.json, paging.pages)) ? String(page + 1) : null
    }
    case 'offset': {
      const upTo = Number(at ?? 0) + count
      const goesOn = paging.more
        ? valueAt(answer.json, paging.more) === true
        : upTo < Number(textAt(answer.json, total))
      return count > 0 && goesOn ? String(upTo) : null
    }
    case 'link': {
      // RFC 8288.
      const named = /<([^>]+)>\s*;[^,]*\brel="?next"?/.exec(answer.header('link') ?? '')?.[1]
      if (!named) return null
      const { origin } = new URL(address)
      if (!URL.canParse(named, origin))
        throw new ServiceError('service-error', 'It names a next page that is no address.')
      return new URL(named, origin).href
    }
  }
}

/** The query parameter that asks for a page. */
export const pageParam = (paging: Paging, at: string | null): Record<string, string | undefined> =>
  'param' in paging
    ? { [paging.param]: at ?? (paging.kind === 'page' ? String(paging.first) : undefined) }
    : {}
