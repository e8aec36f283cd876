import { type DeltaPage, emptyPage, ServiceError } from '../connector.ts'
import { listAt, textAt, valueAt } from './pointer.ts'
import { partOf, type Reader } from './reader.ts'
import type { Variables } from './template.ts'

/** Lists, page by page: the whole of them, or what has changed. */
export function listing({ client, description, options, shapeOf, sort }: Reader, address: string) {
  interface Pages {
    json: unknown
    raws: unknown[]
    next: string | null
  }

  /** One page of a list. `at` is what the paging calls the next one. */
  const pageAt = async (
    vars: Variables,
    at: string | null,
    more: Record<string, string | undefined>,
    items = description.list.items,
  ): Promise<Pages> => {
    const { request, paging, total } = description.list
    const answer =
      paging.kind === 'link' && at !== null
        ? await client.follow({ method: 'GET', path: at, headers: {}, body: undefined })
        : await client.send(request, vars, {
            ...more,
            ...('param' in paging
              ? { [paging.param]: at ?? (paging.kind === 'page' ? String(paging.first) : undefined) }
              : {}),
          })
    if (!answer) throw new ServiceError('missing', 'The list is no longer there.')
    const raws = valueAt(answer.json, items)
    if (!Array.isArray(raws)) throw new ServiceError('not-this-protocol', client.notThis())
    const { json } = answer
    let next: string | null = null
    if (paging.kind === 'cursor') next = textAt(json, paging.next) || null
    else if (paging.kind === 'page') {
      const page = Number(at ?? paging.first)
      next = page - paging.first + 1 < Number(textAt(json, paging.pages)) ? String(page + 1) : null
    } else if (paging.kind === 'offset') {
      const upTo = Number(at ?? 0) + raws.length
      const goesOn = paging.more ? valueAt(json, paging.more) === true : upTo < Number(textAt(json, total))
      next = raws.length > 0 && goesOn ? String(upTo) : null
    } else if (paging.kind === 'link') {
      const named = /<([^>]+)>\s*;[^,]*\brel="?next"?/.exec(answer.header('link') ?? '')?.[1]
      next = named ? new URL(named, new URL(address).origin).href : null
    }
    return { json, raws: raws as unknown[], next }
  }

  const latest = (raws: unknown[], before: string): string => {
    const field = description.delta.kind === 'updated-since' ? description.delta.field : ''
    return raws.reduce<string>((max, raw) => {
      const at = textAt(raw, field)
      return at > max ? at : max
    }, before)
  }

  /**
   * State of an updated-since listing: by the service's own clock, when the whole was last read, and in how
   * many pages. What fits into one page is read whole each time: that costs no more, shows at once what was
   * removed, and a clock that is set back hides nothing.
   */
  interface Since {
    since: string
    fullAt: number
    pages: number
  }
  const sinceOf = (token: string | null): Since | null => {
    if (token === null) return null
    try {
      const { since, fullAt, pages = 2 } = JSON.parse(token) as Partial<Since>
      return typeof since === 'string' && typeof fullAt === 'number' ? { since, fullAt, pages } : null
    } catch {
      return null
    }
  }

  async function* delta(
    collection: string,
    token: string | null,
    cursor: string | null = null,
  ): AsyncGenerator<DeltaPage> {
    const ctx = await shapeOf(collection)
    const vars = { collection: partOf(collection)?.whole ?? collection }
    const { delta: how, list } = description
    if (how.kind === 'token' && token !== null) {
      const answer = await client.send(how.request, { ...vars, since: token }, {}, how.refused)
      if (answer && !how.refused.includes(answer.status)) {
        const page = emptyPage(false)
        sort(listAt(answer.json, how.items), collection, ctx, page)
        page.left = how.left ? listAt(answer.json, how.left).map(String) : []
        page.token = textAt(answer.json, how.next) || token
        yield page
        return
      }
    }
    const known = how.kind === 'updated-since' ? sinceOf(token) : null
    const recent =
      how.kind === 'updated-since' &&
      known &&
      known.pages > 1 &&
      options.now() - known.fullAt < how.fullEveryMinutes * 60_000
        ? known
        : null
    const back =
      how.kind === 'updated-since' && recent?.since
        ? new Date(Date.parse(recent.since) - how.overlapSeconds * 1000).toISOString()
        : undefined
    const more = how.kind === 'updated-since' ? { [how.param]: back } : {}
    let at: string | null = cursor
    let first: string | null = null
    let newest = recent?.since ?? ''
    const seen = new Set<string>()
    const startedAt = options.now()
    for (;;) {
      const { json, raws, next } = await pageAt(vars, at, more)
      if (next !== null && seen.has(next))
        throw new ServiceError('service-error', `${client.host} lists its pages in a circle.`)
      if (next !== null) seen.add(next)
      // The first page's token: what changes while we turn pages is seen again next time.
      if (how.kind === 'token') first ??= textAt(json, how.first) || null
      newest = latest(raws, newest)
      const page = emptyPage(!recent)
      sort(raws, collection, ctx, page)
      const total = Number(textAt(json, list.total))
      page.total = list.total && Number.isFinite(total) && !partOf(collection) ? total : null
      page.cursor = next
      if (next === null)
        page.token =
          how.kind === 'token'
            ? cursor === null
              ? first
              : null
            : how.kind === 'updated-since'
              ? JSON.stringify({
                  since: newest,
                  fullAt: recent?.fullAt ?? startedAt,
                  pages: recent?.pages ?? (cursor === null ? seen.size + 1 : 2),
                } satisfies Since)
              : 'listed'
      yield page
      if (next === null) return
      at = next
    }
  }

  return delta
}
export type Delta = ReturnType<typeof listing>
