import { type DeltaPage, emptyPage, ServiceError } from '../connector.ts'
import type { ServiceDescription } from './description.ts'
import { nextPage, pageParam } from './paging.ts'
import { listAt, textAt, valueAt } from './pointer.ts'
import { type ListingRun, runOf } from './listing-run.ts'
import { partOf, type Reader } from './reader.ts'
import type { Variables } from './template.ts'

type TokenDelta = Extract<ServiceDescription['delta'], { kind: 'token' }>

/** Lists, page by page: the whole of them, or what has changed. */
export function listing({ client, description, options, shapeOf, sort }: Reader, address: string) {
  const { delta: how, list } = description

  interface Page {
    json: unknown
    raws: unknown[]
    /** What the paging calls the next page. */
    next: string | null
  }

  const pageAt = async (vars: Variables, at: string | null, run: ListingRun): Promise<Page> => {
    const { request, paging } = list
    const answer =
      paging.kind === 'link' && at !== null
        ? await client.follow({ method: 'GET', path: at, headers: {}, body: undefined })
        : await client.send(request, vars, { ...run.params, ...pageParam(paging, at) })
    if (!answer) throw new ServiceError('missing', 'The list is no longer there.')
    const raws = valueAt(answer.json, list.items)
    if (!Array.isArray(raws)) throw new ServiceError('not-this-protocol', client.notThis())
    const next = nextPage(paging, { answer, at, count: raws.length, total: list.total, address })
    return { json: answer.json, raws: raws as unknown[], next }
  }

  /** What the service itself says has changed; null where it does not take the token any more. */
  const changesSince = async (
    delta: TokenDelta,
    collection: string,
    vars: Variables,
    token: string,
  ): Promise<DeltaPage | null> => {
    const answer = await client.send(delta.request, { ...vars, since: token }, {}, delta.refused)
    if (!answer || delta.refused.includes(answer.status)) return null
    const page = emptyPage(false)
    sort(listAt(answer.json, delta.items), collection, await shapeOf(collection), page)
    page.left = delta.left ? listAt(answer.json, delta.left).map(String) : []
    page.token = textAt(answer.json, delta.next) || token
    return page
  }

  /**
   * What is asked for the first part of a delta, and what is answered, in one text; null where there is more than one
   * part. While that stays the same, nothing has changed.
   */
  const firstPart = async (collection: string, token: string | null): Promise<string | null> => {
    const vars = { collection: partOf(collection)?.whole ?? collection }
    if (how.kind === 'token' && token !== null) {
      const answer = await client.send(how.request, { ...vars, since: token }, {}, how.refused)
      return JSON.stringify([token, answer?.status ?? null, answer?.json])
    }
    const run = runOf(how, { token, cursor: null, now: options.now })
    const { json, next } = await pageAt(vars, null, run)
    return next === null ? JSON.stringify([run.params, json]) : null
  }

  /** How many the service says there are; unknown for a part of a list. */
  const totalIn = (json: unknown, collection: string): number | null => {
    const total = Number(textAt(json, list.total))
    return list.total && Number.isFinite(total) && !partOf(collection) ? total : null
  }

  async function* delta(
    collection: string,
    token: string | null,
    cursor: string | null = null,
  ): AsyncGenerator<DeltaPage> {
    const ctx = await shapeOf(collection)
    const vars = { collection: partOf(collection)?.whole ?? collection }
    const changes =
      how.kind === 'token' && token !== null ? await changesSince(how, collection, vars, token) : null
    if (changes) {
      yield changes
      return
    }
    const run = runOf(how, { token, cursor, now: options.now })
    const seen = new Set<string>()
    let at = cursor
    do {
      const { json, raws, next } = await pageAt(vars, at, run)
      if (next !== null && seen.has(next))
        throw new ServiceError('service-error', `${client.host} lists its pages in a circle.`)
      if (next !== null) seen.add(next)
      run.saw(json, raws)
      const page = emptyPage(run.full)
      sort(raws, collection, ctx, page)
      page.total = totalIn(json, collection)
      page.cursor = next
      if (next === null) page.token = run.token()
      yield page
      at = next
    } while (at !== null)
  }

  return { delta, firstPart }
}
export type Delta = ReturnType<typeof listing>['delta']
