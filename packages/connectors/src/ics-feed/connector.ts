import { createHash } from 'node:crypto'
import { setImmediate as turn } from 'node:timers/promises'
import { readCalendarObject, splitCalendar } from '@loom/core'
import {
  type Capabilities,
  type Connector,
  emptyPage,
  noTerms,
  type ReadResult,
  type RemoteItem,
  ServiceError,
  type WriteResult,
} from '../connector.ts'
import { accountSubject } from '../account-subject.ts'
import { addressOf, mustBeUsable, type Outbound } from '../outbound.ts'

/** An iCalendar feed: one file at an address, to be read only. Its items are told apart by their UIDs. */

export const ICS_FEED: Capabilities = {
  canHold: { estimate: false, location: true, due: false, start: true, notes: true, priority: true },
  can: { create: false, change: false, complete: false, delete: false },
  summaryMaxLength: null,
  datePrecision: { start: 'second', due: 'second' },
  preconditions: false,
  listing: 'as-it-is',
  notifications: false,
  batch: 1,
  marksNotes: false,
}

const COLLECTION = 'feed'
/** A part of a feed this large vanishing at once is a broken feed more often than an empty calendar. */
const FEW = 3
const PAGE = 500
const BREATH_MS = 12
/** A feed is fetched whole: not more often, whatever it asks for. */
const LEAST_REST_MS = 900_000

interface Token {
  etag: string | null
  modified: string | null
  items: number
}

const tokenOf = (token: string | null): Token | null => {
  if (token === null) return null
  try {
    return JSON.parse(token) as Token
  } catch {
    return null
  }
}

/** `webcal` is http with a hint for browsers. */
export const feedAddress = (typed: string): string =>
  addressOf(typed.trim().replace(/^webcals?:\/\//i, 'https://'))

export function icsFeed(address: string, http: Outbound, signal?: AbortSignal): Connector {
  const url = /^webcal:\/\/(127\.0\.0\.1|localhost)/i.test(address.trim())
    ? address.trim().replace(/^webcal:/i, 'http:')
    : feedAddress(address)
  const { host } = new URL(url)
  let skew = 0
  let rest: number | null = null
  let last: { parts: Map<string, RemoteItem>; problems: ReadResult[] } | null = null

  const fetchFeed = async (known: Token | null) => {
    const answer = await http({
      method: 'GET',
      url,
      headers: {
        Accept: 'text/calendar, */*;q=0.5',
        'Accept-Encoding': 'gzip',
        ...(known?.etag ? { 'If-None-Match': known.etag } : {}),
        ...(known?.modified ? { 'If-Modified-Since': known.modified } : {}),
      },
      ...(signal ? { signal } : {}),
    })
    mustBeUsable(answer, host)
    const date = Date.parse(answer.header('date') ?? '')
    if (!Number.isNaN(date)) skew = Math.abs(date - Date.now()) > 2000 ? date - Date.now() : 0
    if (answer.status === 304) return null
    if (answer.status === 404 || answer.status === 410)
      throw new ServiceError('missing', `${host} holds no feed at this address any more.`)
    if (answer.status >= 300)
      throw new ServiceError('service-error', `${host} did not give the feed (status ${answer.status}).`)
    if (/^\s*<(!doctype|html|\?xml)/i.test(answer.text))
      throw new ServiceError(
        'not-this-protocol',
        `${host} answers with a web page instead of a calendar. What came in before stays.`,
      )
    if (
      /^\uFEFF?\s*BEGIN:VCALENDAR/i.test(answer.text) &&
      !/END:VCALENDAR\s*$/i.test(answer.text.slice(-200))
    )
      throw new ServiceError(
        'service-error',
        `${host} sent a calendar that breaks off. What came in before stays.`,
      )
    const feed = splitCalendar(answer.text)
    if (!feed)
      throw new ServiceError(
        'not-this-protocol',
        `${host} answers, but not with a calendar. What came in before stays.`,
      )
    rest = feed.refreshMs
    const token: Token = {
      etag: answer.header('etag'),
      modified: answer.header('last-modified'),
      items: feed.parts.length,
    }
    return { feed, token }
  }

  const readPart = (part: { uid: string; kind: 'event' | 'task'; text: string }): ReadResult => {
    // A feed has no revisions. A new DTSTAMP at each reading is no change.
    const stable = part.text.replace(/^DTSTAMP[^\r\n]*\r?\n/gm, '')
    const revision = createHash('sha256').update(stable).digest('base64url').slice(0, 27)
    const remoteId = part.kind === 'event' ? part.uid : `${part.uid}#task`
    const read =
      part.kind === 'task'
        ? { kind: 'not-understood' as const, because: 'It is a task in a feed of events.' }
        : readCalendarObject(part.text)
    return read.kind === 'understood'
      ? {
          kind: 'found',
          item: { remoteId, collectionId: COLLECTION, revision, item: read.value, original: part.text },
        }
      : { kind: 'problem', problem: { remoteId, revision, reason: read.because, original: part.text } }
  }

  const load = async (known: Token | null): Promise<Token | null> => {
    const got = await fetchFeed(known)
    if (!got) return null
    const parts = new Map<string, RemoteItem>()
    const problems: ReadResult[] = []
    let since = Date.now()
    for (const part of got.feed.parts) {
      // A large feed is read in turns with everybody else's.
      if (Date.now() - since > BREATH_MS) {
        await turn()
        since = Date.now()
      }
      const read = readPart(part)
      if (read.kind === 'found') parts.set(read.item.remoteId, read.item)
      else problems.push(read)
    }
    last = { parts, problems }
    return got.token
  }

  const refused = (): WriteResult => ({ kind: 'refused', reason: 'A feed can only be read.' })

  return {
    capabilities: ICS_FEED,
    async discover() {
      const got = await fetchFeed(null)
      const name = got?.feed.name ?? host
      return {
        name,
        // What tells feeds of one place apart may stand in the query.
        subject: accountSubject(url, new URL(url).search),
        zone: null,
        people: [],
        collections: [
          {
            remoteId: COLLECTION,
            name,
            colour: null,
            itemKind: 'event',
            writable: false,
            count: got?.feed.parts.length ?? null,
            parent: null,
            whyNot: null,
            terms: noTerms,
          },
        ],
      }
    },
    async *delta(_collection, token) {
      const known = tokenOf(token)
      const fresh = await load(known)
      if (!fresh || !last) {
        yield { ...emptyPage(false), token }
        return
      }
      if (known && known.items > FEW && fresh.items === 0)
        throw new ServiceError(
          'service-error',
          `${host} sent an empty calendar where there were ${known.items} events. They stay as they were until it says so with some left.`,
        )
      const items = [...last.parts.values()]
      const { problems } = last
      for (let i = 0; i === 0 || i < items.length; i += PAGE) {
        const page = emptyPage(true)
        page.items = items.slice(i, i + PAGE)
        page.total = items.length
        if (i === 0) page.problems = problems.flatMap(p => (p.kind === 'problem' ? [p.problem] : []))
        const more = i + PAGE < items.length
        page.cursor = more ? String(i + PAGE) : null
        page.token = more ? null : JSON.stringify(fresh)
        yield page
      }
    },
    glance: null,
    async read(_collection, remoteId) {
      if (!last) await load(null)
      const item = last?.parts.get(remoteId)
      return item ? { kind: 'found', item } : { kind: 'absent' }
    },
    locate: async () => [],
    write: async writes => writes.map(refused),
    subscribe: null,
    notified: () => null,
    interpret(_collection, original) {
      const read = readCalendarObject(original)
      return read.kind === 'understood' ? { item: read.value, unknownStatus: null } : null
    },
    makeCollection: null,
    chat: null,
    skew: () => skew,
    restMs: () => Math.max(LEAST_REST_MS, rest ?? 0),
  }
}
