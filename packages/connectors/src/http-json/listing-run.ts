import type { ServiceDescription } from './description.ts'
import { textAt } from './pointer.ts'

/** One reading of a list, first page to last, for each kind of delta: the requests, and the token at the end. */
export interface ListingRun {
  params: Record<string, string | undefined>
  /** All of it, so that what is missing has left. */
  full: boolean
  /** Called with every page, in order. */
  saw(json: unknown, raws: readonly unknown[]): void
  /** After the last page. */
  token(): string | null
}

interface Start {
  token: string | null
  /** Where a reading that broke off goes on. */
  cursor: string | null
  now: () => number
}

type Delta = ServiceDescription['delta']
type Kind<K extends Delta['kind']> = Extract<Delta, { kind: K }>

export const runOf = (delta: Delta, start: Start): ListingRun =>
  delta.kind === 'token'
    ? tokenRun(delta, start)
    : delta.kind === 'updated-since'
      ? sinceRun(delta, start)
      : { params: {}, full: true, saw: () => undefined, token: () => 'listed' }

/** The token is the first page's: what changes while we turn pages is seen again next time. */
function tokenRun(delta: Kind<'token'>, { cursor }: Start): ListingRun {
  let first: string | null = null
  return {
    params: {},
    full: true,
    saw(json) {
      first ??= textAt(json, delta.first) || null
    },
    token: () => (cursor === null ? first : null),
  }
}

/**
 * State of an updated-since listing: when the whole was last read by the service's own clock, and in how many
 * pages. A list that fits into one page is always read whole: it costs no more, shows removals at once, and does
 * not depend on the clock.
 */
interface Since {
  since: string
  /** Epoch ms. */
  fullAt: number
  pages: number
}

function sinceOf(token: string | null): Since | null {
  if (token === null) return null
  try {
    const { since, fullAt, pages = 2 } = JSON.parse(token) as Partial<Since>
    return typeof since === 'string' && typeof fullAt === 'number' ? { since, fullAt, pages } : null
  } catch {
    return null
  }
}

function sinceRun(delta: Kind<'updated-since'>, { token, cursor, now }: Start): ListingRun {
  const known = sinceOf(token)
  const startedAt = now()
  const isRecent =
    known !== null && known.pages > 1 && startedAt - known.fullAt < delta.fullEveryMinutes * 60_000
  const recent = isRecent ? known : null
  const back = recent?.since
    ? new Date(Date.parse(recent.since) - delta.overlapSeconds * 1000).toISOString()
    : undefined
  let newest = recent?.since ?? ''
  let pages = 0
  return {
    params: { [delta.param]: back },
    full: recent === null,
    saw(_json, raws) {
      pages++
      for (const raw of raws) {
        const at = textAt(raw, delta.field)
        // A value that is no time must not become the next request's start.
        if (at > newest && Date.parse(at) > 0) newest = at
      }
    },
    token() {
      const read = recent?.pages ?? (cursor === null ? pages : 2)
      return JSON.stringify({
        since: newest,
        fullAt: recent?.fullAt ?? startedAt,
        pages: read,
      } satisfies Since)
    },
  }
}
