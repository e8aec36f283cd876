import {
  composeEvent,
  type Event,
  type EventPatch,
  NotUnderstood,
  parseEvent,
  patchEvent,
  type Sighting,
} from '@loom/core'
import {
  type Account,
  type Capabilities,
  type Connector,
  type Delta,
  type ReadResult,
  type RemoteWrite,
  ServiceError,
  type WriteResult,
} from '../connector.ts'
import { addressOf, type Outbound } from '../outbound.ts'
import { type Credentials, Dav, type DavResource, escapeXml, NAMESPACES, textIn } from './dav.ts'
import { discoverCalendars } from './discover.ts'

/** CalDAV (RFC 4791) with collection sync (RFC 6578). A remote id is the href of a calendar object. */

const MULTIGET = 50

export const CALDAV: Capabilities = {
  holds: 'event',
  canHold: { estimate: true, location: true, due: false },
  summaryMaxLength: null,
  datePrecision: 'second',
  preconditions: true,
  notifications: false,
  batch: 1,
}

export function caldav(
  address: string,
  credentials: Credentials,
  http: Outbound,
  now: () => number,
  signal?: AbortSignal,
): Connector {
  const dav = new Dav(http, credentials, signal)
  const start = addressOf(address)
  const urlOf = (href: string): string => new URL(href, start).href

  const itemOf = (collection: string, href: string, etag: string, text: string): ReadResult => {
    try {
      const item = parseEvent(text)
      return {
        kind: 'found',
        item: { remoteId: href, collectionId: collection, revision: etag, item, original: text },
      }
    } catch (error) {
      if (!(error instanceof NotUnderstood)) throw error
      const problem = { remoteId: href, revision: etag, reason: error.message, original: text }
      return { kind: 'problem', problem }
    }
  }

  const sync = (collection: string, token: string | null) =>
    dav.ask(
      'REPORT',
      urlOf(collection),
      '0',
      `<d:sync-collection ${NAMESPACES}><d:sync-token>${escapeXml(token ?? '')}</d:sync-token>` +
        `<d:sync-level>1</d:sync-level><d:prop><d:getetag/></d:prop></d:sync-collection>`,
    )

  const multiget = async (collection: string, hrefs: string[]): Promise<DavResource[]> => {
    const found: DavResource[] = []
    for (let i = 0; i < hrefs.length; i += MULTIGET) {
      const part = hrefs.slice(i, i + MULTIGET).map(h => `<d:href>${escapeXml(h)}</d:href>`)
      const body = `<c:calendar-multiget ${NAMESPACES}><d:prop><d:getetag/><c:calendar-data/></d:prop>${part.join('')}</c:calendar-multiget>`
      found.push(...(await dav.ask('REPORT', urlOf(collection), '1', body)).resources)
    }
    return found
  }

  const delta = async (collection: string, token: string | null): Promise<Delta> => {
    let full = token === null
    let listing = await sync(collection, token).catch((error: unknown) => {
      if (token !== null && error instanceof ServiceError && error.trouble === 'missing') return null
      throw error
    })
    if (!listing) {
      full = true
      listing = await sync(collection, null)
    }
    const objects = listing.resources.filter(r => !r.href.endsWith('/'))
    const present = objects.filter(r => !r.gone).map(r => r.href)
    const out: Delta = {
      items: [],
      problems: [],
      left: objects.filter(r => r.gone).map(r => r.href),
      token: listing.syncToken,
      full,
    }
    for (const r of await multiget(collection, present)) {
      const data = r.props['calendar-data']
      if (r.gone || data === undefined) {
        out.left.push(r.href)
        continue
      }
      const read = itemOf(collection, r.href, textIn(r.props.getetag), textIn(data))
      if (read.kind === 'found') out.items.push(read.item)
      else if (read.kind === 'problem') out.problems.push(read.problem)
    }
    return out
  }

  const get = async (href: string): Promise<{ etag: string; text: string } | null> => {
    const answer = await dav.send('GET', urlOf(href))
    if (answer.status === 404 || answer.status === 410) return null
    if (answer.status !== 200)
      throw new ServiceError('service-error', `An event could not be read (status ${answer.status}).`)
    return { etag: answer.header('etag') ?? '', text: answer.text }
  }

  const read = async (collection: string, href: string): Promise<ReadResult> => {
    const present = await get(href)
    return present ? itemOf(collection, href, present.etag, present.text) : { kind: 'absent' }
  }

  const locate = async (uid: string): Promise<Sighting[]> => {
    const { collections } = await discoverCalendars(dav, start)
    const filter =
      `<c:calendar-query ${NAMESPACES}><d:prop><d:getetag/><c:calendar-data/></d:prop><c:filter><c:comp-filter name="VCALENDAR">` +
      `<c:comp-filter name="VEVENT"><c:prop-filter name="UID"><c:text-match collation="i;octet">${escapeXml(uid)}</c:text-match>` +
      `</c:prop-filter></c:comp-filter></c:comp-filter></c:filter></c:calendar-query>`
    const found: Sighting[] = []
    for (const { remoteId } of collections) {
      const { resources } = await dav.ask('REPORT', urlOf(remoteId), '1', filter)
      for (const r of resources) {
        const read = itemOf(remoteId, r.href, textIn(r.props.getetag), textIn(r.props['calendar-data']))
        // Servers may match parts of a text; only the very uid counts.
        if (read.kind === 'found' && read.item.item.uid === uid) found.push(read.item)
      }
    }
    return found
  }

  /** What a PUT left behind. A server that answers with an ETag kept the bytes as they were (RFC 4791 §5.3.4). */
  const afterPut = async (
    collection: string,
    href: string,
    etag: string | null,
    text: string,
  ): Promise<WriteResult> => {
    const strong = etag !== null && !etag.startsWith('W/')
    const present = strong ? { etag, text } : await get(href)
    if (!present) return { kind: 'absent' }
    const result = itemOf(collection, href, present.etag, present.text)
    if (result.kind !== 'found')
      return { kind: 'refused', reason: 'The server changed the event into something unreadable.' }
    return { kind: 'done', item: result.item, ours: strong }
  }

  const put = async (
    collection: string,
    href: string,
    text: string,
    condition: Record<string, string>,
  ): Promise<WriteResult> => {
    const headers = { 'Content-Type': 'text/calendar; charset=utf-8', ...condition }
    const answer = await dav.send('PUT', urlOf(href), headers, text)
    if (answer.status === 412) return { kind: 'conflict' }
    if (answer.status === 404) return { kind: 'absent' }
    if (answer.status >= 300) return { kind: 'refused', reason: refusal(answer.status, answer.text) }
    return afterPut(collection, href, answer.header('etag'), text)
  }

  const writeOne = async (write: RemoteWrite): Promise<WriteResult> => {
    if (write.op === 'create') {
      const href = `${write.collection}${encodeURIComponent(write.item.uid)}.ics`
      const event = write.item as Event
      const made = await put(write.collection, href, composeEvent(event, now()), { 'If-None-Match': '*' })
      if (made.kind !== 'conflict') return made
      // It is there already: by our own earlier try, or the uid would be another.
      const present = await read(write.collection, href)
      return present.kind === 'found' && present.item.item.uid === event.uid
        ? { kind: 'done', item: present.item, ours: false }
        : { kind: 'refused', reason: 'Another event stands at the same address.' }
    }
    if (write.op === 'patch') {
      // The bytes are fetched anew, because XML does not carry line ends through.
      const present = await get(write.remoteId)
      if (!present) return { kind: 'absent' }
      if (present.etag !== write.revision) return { kind: 'conflict' }
      const text = patchEvent(present.text, write.patch as EventPatch, now())
      return put(write.collection, write.remoteId, text, { 'If-Match': present.etag })
    }
    const answer = await dav.send('DELETE', urlOf(write.remoteId), { 'If-Match': write.revision })
    if (answer.status === 412) return { kind: 'conflict' }
    if (answer.status === 404 || answer.status === 410) return { kind: 'absent' }
    if (answer.status >= 300) return { kind: 'refused', reason: refusal(answer.status, answer.text) }
    return { kind: 'done', item: null, ours: true }
  }

  return {
    capabilities: CALDAV,
    discover: async (): Promise<Account> => discoverCalendars(dav, start),
    delta,
    read,
    locate,
    async write(writes) {
      const results: WriteResult[] = []
      for (const w of writes) results.push(await writeOne(w).catch(retried))
      return results
    },
    subscribe: null,
    isAuthentic: () => false,
  }
}

function retried(error: unknown): WriteResult {
  if (error instanceof ServiceError) return { kind: 'retry', error }
  if (error instanceof NotUnderstood) return { kind: 'refused', reason: error.message }
  throw error
}

function refusal(status: number, body: string): string {
  if (status === 403 && body.includes('need-privileges')) return 'This calendar can only be read.'
  if (status === 403 && body.includes('no-uid-conflict'))
    return 'The calendar holds this event already, at another address.'
  return `The calendar server refused it (status ${status}).`
}
