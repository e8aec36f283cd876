import { setImmediate as turn } from 'node:timers/promises'
import { type DeltaOptions, type DeltaPage, emptyPage, ServiceError } from '../connector.ts'
import { type Dav, type Multistatus, NAMESPACES } from './dav.ts'
import { escapeXml, textIn } from './xml.ts'
import { type CalendarObjects, TOO_LARGE } from './objects.ts'

/** What a calendar holds and what has changed in it: by collection sync (RFC 6578), or by etags where there is none. */

const LISTED_AT_ONCE = 5_000
/** The first events are to be seen soon; more at once is quicker. */
const FIRST_BATCH = 100
const BATCH = 500
/** A server that needs longer than it is given for so few is not merely slow. */
const SLOW_BATCH = 50

/** Of servers without sync-collection: the collection's ctag stands in for a token. */
const CTAG = 'ctag '

interface Batch {
  resources: Multistatus['resources']
  tooLarge: string | null
  more: boolean
}

/** Where there is nothing to fetch, there is still something to say. */
async function* orNone(batches: AsyncIterable<Batch>): AsyncGenerator<Batch> {
  let any = false
  for await (const batch of batches) {
    any = true
    yield batch
  }
  if (!any) yield { resources: [], tooLarge: null, more: false }
}

export function listing(dav: Dav, { urlOf, itemOf }: CalendarObjects) {
  /** @param most how many are asked for at once (RFC 6578 §3.7); null for all */
  const sync = (collection: string, token: string | null, most: number | null) =>
    dav.ask(
      'REPORT',
      urlOf(collection),
      '0',
      `<d:sync-collection ${NAMESPACES}><d:sync-token>${escapeXml(token ?? '')}</d:sync-token>` +
        `<d:sync-level>1</d:sync-level>${most === null ? '' : `<d:limit><d:nresults>${most}</d:nresults></d:limit>`}` +
        `<d:prop><d:getetag/></d:prop></d:sync-collection>`,
    )

  interface Listing {
    /** href → etag. */
    present: Map<string, string>
    left: string[]
    token: string
    full: boolean
  }

  /** The whole listing by etags, for servers that know no sync-collection; null when its ctag is the same. */
  const byEtags = async (collection: string, token: string | null): Promise<Listing | null> => {
    const props = '<d:getetag/><d:resourcetype/><s:getctag xmlns:s="http://calendarserver.org/ns/"/>'
    const body = `<d:propfind ${NAMESPACES}><d:prop>${props}</d:prop></d:propfind>`
    const [own] = (await dav.ask('PROPFIND', urlOf(collection), '0', body)).resources
    const ctag = `${CTAG}${textIn(own?.props.getctag)}`
    if (ctag !== CTAG && ctag === token) return null
    const { resources } = await dav.ask('PROPFIND', urlOf(collection), '1', body)
    const objects = resources.filter(r => !r.href.endsWith('/') && r.props.getetag !== undefined)
    return {
      present: new Map(objects.map(r => [r.href, textIn(r.props.getetag)])),
      left: [],
      token: ctag,
      full: true,
    }
  }

  const bySync = async (collection: string, token: string | null): Promise<Listing> => {
    const listing: Listing = { present: new Map(), left: [], token: token ?? '', full: token === null }
    // Not every server takes a limit: it is set where all at once is too much.
    let most: number | null = null
    for (;;) {
      const part: Multistatus | null = await sync(collection, listing.token || null, most).catch(
        (error: unknown) => {
          if (most !== null || !(error instanceof ServiceError) || error.trouble !== 'too-large') throw error
          return null
        },
      )
      if (part === null) {
        most = LISTED_AT_ONCE
        continue
      }
      const objects = part.resources.filter(r => !r.href.endsWith('/'))
      for (const r of objects) {
        if (r.gone) listing.left.push(r.href)
        else listing.present.set(r.href, textIn(r.props.getetag))
      }
      const goesOn = part.truncated && part.syncToken !== null && part.syncToken !== listing.token
      listing.token = part.syncToken ?? ''
      if (!goesOn) return listing
    }
  }

  const list = async (collection: string, token: string | null): Promise<Listing | null> => {
    if (token?.startsWith(CTAG)) return byEtags(collection, token)
    try {
      return await bySync(collection, token)
    } catch (error) {
      if (!(error instanceof ServiceError)) throw error
      if (error.trouble === 'unsupported-report') return byEtags(collection, null)
      // The token is no longer taken: everything anew.
      if (token !== null && error.trouble === 'missing') return list(collection, null)
      throw error
    }
  }

  const multiget = (collection: string, hrefs: string[]) => {
    const part = hrefs.map(h => `<d:href>${escapeXml(h)}</d:href>`)
    const body = `<c:calendar-multiget ${NAMESPACES}><d:prop><d:getetag/><c:calendar-data/></d:prop>${part.join('')}</c:calendar-multiget>`
    return dav.ask('REPORT', urlOf(collection), '1', body)
  }

  /**
   * What was listed, in batches that a server can give. One that is too large is halved, and those after it grow again:
   * a single one that is too large by itself is listed as a problem, and slows no other. What takes too long is asked for
   * in smaller ones from there on.
   */
  async function* batchesOf(collection: string, hrefs: readonly string[]): AsyncGenerator<Batch> {
    let most = BATCH
    let size = FIRST_BATCH
    for (let from = 0; from < hrefs.length;) {
      const part = hrefs.slice(from, from + size)
      const to = from + part.length
      try {
        const { resources } = await multiget(collection, part)
        yield { resources, tooLarge: null, more: to < hrefs.length }
        from = to
        size = Math.min(most, 2 * size)
      } catch (error) {
        if (!(error instanceof ServiceError)) throw error
        const isLarge = error.trouble === 'too-large'
        if (!isLarge && (error.trouble !== 'timeout' || part.length <= SLOW_BATCH)) throw error
        const [only = ''] = part
        if (part.length === 1) {
          yield { resources: [], tooLarge: only, more: to < hrefs.length }
          from = to
        }
        size = Math.max(1, Math.floor(part.length / 2))
        if (!isLarge) most = size
      }
    }
  }

  async function* delta(
    collection: string,
    token: string | null,
    options: DeltaOptions,
  ): AsyncGenerator<DeltaPage> {
    const listing = await list(collection, token)
    if (!listing) {
      yield { ...emptyPage(false), token }
      return
    }
    const { present, left, full } = listing
    const hrefs = [...present.keys()]
    const known = (await options.revisions?.(hrefs)) ?? new Map<string, string>()
    const unchanged = hrefs.filter(h => known.get(h) !== undefined && known.get(h) === present.get(h))
    const same = new Set(unchanged)
    const wanted = hrefs.filter(h => !same.has(h))
    // What is not fetched comes with the first page; the token with the last.
    let rest: Pick<DeltaPage, 'unchanged' | 'left'> = { unchanged, left }
    for await (const { resources, tooLarge, more } of orNone(batchesOf(collection, wanted))) {
      const page: DeltaPage = { ...emptyPage(full), total: full ? hrefs.length : null, ...rest }
      rest = { unchanged: [], left: [] }
      if (tooLarge !== null) {
        const revision = present.get(tooLarge) ?? ''
        page.problems.push({ remoteId: tooLarge, revision, original: '', reason: TOO_LARGE })
      }
      for (const [n, r] of resources.entries()) {
        // Reading hundreds of events takes a while; others have their turn meanwhile.
        if (n % 40 === 39) await turn()
        const data = r.props['calendar-data']
        if (r.gone || data === undefined) {
          page.left.push(r.href)
          continue
        }
        const read = itemOf(collection, r.href, textIn(r.props.getetag), textIn(data))
        if (read.kind === 'found') page.items.push(read.item)
        else if (read.kind === 'problem') page.problems.push(read.problem)
      }
      // A listing that broke off is begun again: what is mirrored by then is not fetched twice.
      page.cursor = more ? 'again' : null
      page.token = more ? null : listing.token
      yield page
    }
  }

  return delta
}
