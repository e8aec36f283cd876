import { setImmediate as turn } from 'node:timers/promises'
import { randomUUID } from 'node:crypto'
import {
  calendarObjectOf,
  type EventPatch,
  NotUnderstood,
  parseEvent,
  parseTask,
  patchEventObject,
  patchTask,
  type Sighting,
  type TaskPatch,
} from '@loom/core'
import {
  type Account,
  type Capabilities,
  type Connector,
  type DeltaOptions,
  type DeltaPage,
  emptyPage,
  type ReadResult,
  type RemoteWrite,
  ServiceError,
  type WriteResult,
} from '../connector.ts'
import { addressOf, type Outbound } from '../outbound.ts'
import { type Credentials, Dav, escapeXml, NAMESPACES, textIn } from './dav.ts'
import { discoverCalendars } from './discover.ts'

/** CalDAV (RFC 4791) with collection sync (RFC 6578). A remote id is the href of a calendar object. */

const MULTIGET = 200

export const CALDAV: Capabilities = {
  canHold: { estimate: true, location: true, due: true, start: true, notes: true, priority: true },
  can: { create: true, change: true, complete: true, delete: true },
  summaryMaxLength: null,
  datePrecision: 'second',
  preconditions: true,
  listing: 'as-it-is',
  notifications: false,
  batch: 1,
}

/** A calendar that holds tasks too is two collections here; this is what tells the second. */
const TASKS = '#tasks'
const hrefOf = (collection: string): string => collection.replace(/#tasks$/, '')
const holdsTasks = (collection: string): boolean => collection.endsWith(TASKS)

/** A mail address stands for the server of its domain (RFC 6764 §6). */
const startOf = (address: string): string =>
  addressOf(/^[^\s/@:]+@[^\s/@]+$/.test(address.trim()) ? (address.trim().split('@')[1] ?? '') : address)

/** Of servers without sync-collection: the collection's ctag stands in for a token. */
const CTAG = 'ctag '

export function caldav(
  address: string,
  credentials: Credentials,
  http: Outbound,
  now: () => number,
  signal?: AbortSignal,
): Connector {
  const dav = new Dav(http, credentials, signal)
  const start = startOf(address)
  const urlOf = (href: string): string => new URL(hrefOf(href), start).href

  /** `wrong-kind`: an event among tasks, or a task among events; it belongs to the other half. */
  const itemOf = (
    collection: string,
    href: string,
    etag: string,
    text: string,
  ): ReadResult | { kind: 'wrong-kind' } => {
    const isTask = /^BEGIN:VTODO\s*$/im.test(text) && !/^BEGIN:VEVENT\s*$/im.test(text)
    if (isTask !== holdsTasks(collection)) return { kind: 'wrong-kind' }
    try {
      const item = isTask ? parseTask(text) : parseEvent(text)
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
    for (;;) {
      const part = await sync(collection, listing.token || null)
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
    for (let i = 0; i === 0 || i < wanted.length; i += MULTIGET) {
      const page: DeltaPage = { ...emptyPage(full), total: full ? hrefs.length : null }
      if (i === 0) Object.assign(page, { unchanged, left })
      const part = wanted.slice(i, i + MULTIGET)
      const got = part.length > 0 ? (await multiget(collection, part)).resources : []
      for (const [n, r] of got.entries()) {
        // Reading two hundred events takes a while; others have their turn meanwhile.
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
      const more = i + MULTIGET < wanted.length
      // A listing that broke off is begun again: what is mirrored by then is not fetched twice.
      page.cursor = more ? 'again' : null
      page.token = more ? null : listing.token
      yield page
    }
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
    const read = present && itemOf(collection, href, present.etag, present.text)
    return !read || read.kind === 'wrong-kind' ? { kind: 'absent' } : read
  }

  const locate = async (uid: string): Promise<Sighting[]> => {
    const { collections } = await discoverCalendars(dav, start)
    const filterFor = (kind: string): string =>
      `<c:calendar-query ${NAMESPACES}><d:prop><d:getetag/><c:calendar-data/></d:prop><c:filter><c:comp-filter name="VCALENDAR">` +
      `<c:comp-filter name="${kind}"><c:prop-filter name="UID"><c:text-match collation="i;octet">${escapeXml(uid)}</c:text-match>` +
      `</c:prop-filter></c:comp-filter></c:comp-filter></c:filter></c:calendar-query>`
    const found: Sighting[] = []
    for (const { remoteId, whyNot } of collections) {
      if (whyNot) continue
      const filter = filterFor(holdsTasks(remoteId) ? 'VTODO' : 'VEVENT')
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

  /**
   * An `If-Match` compares strongly (RFC 9110 §13.1.1): a weak etag would never match. There, what we read just before is
   * all that stands between somebody's edit and our write.
   */
  const onlyIf = (etag: string): Record<string, string> =>
    etag === '' || etag.startsWith('W/') ? {} : { 'If-Match': etag }

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
      const { item } = write
      // An earlier try may have succeeded, and somebody may have moved what it made since.
      const [moved] = write.triedAgoMs !== null ? await locate(item.uid) : []
      if (moved) {
        const present = await read(moved.collectionId, moved.remoteId)
        if (present.kind === 'found') return { kind: 'done', item: present.item, ours: false }
      }
      const href = `${hrefOf(write.collection)}${encodeURIComponent(item.uid)}.ics`
      const text = calendarObjectOf(item, write.original ?? null, now())
      const made = await put(write.collection, href, text, { 'If-None-Match': '*' })
      if (made.kind !== 'conflict') return made
      // It is there already: by our own earlier try, or the uid would be another.
      const present = await read(write.collection, href)
      return present.kind === 'found' && present.item.item.uid === item.uid
        ? { kind: 'done', item: present.item, ours: false }
        : { kind: 'refused', reason: 'Something else stands at the same address.' }
    }
    if (write.op === 'patch') {
      // The bytes are fetched anew, because XML does not carry line ends through.
      const present = await get(write.remoteId)
      if (!present) return { kind: 'absent' }
      if (present.etag !== write.revision) return { kind: 'conflict' }
      const text = holdsTasks(write.collection)
        ? patchTask(present.text, write.patch as TaskPatch, now())
        : patchEventObject(present.text, write.patch as EventPatch, now())
      return put(write.collection, write.remoteId, text, onlyIf(present.etag))
    }
    const condition = onlyIf(write.revision)
    if (!('If-Match' in condition)) {
      const present = await get(write.remoteId)
      if (present && present.etag !== write.revision) return { kind: 'conflict' }
    }
    const answer = await dav.send('DELETE', urlOf(write.remoteId), condition)
    if (answer.status === 412) return { kind: 'conflict' }
    if (answer.status === 404 || answer.status === 410) return { kind: 'absent' }
    if (answer.status >= 300) return { kind: 'refused', reason: refusal(answer.status, answer.text) }
    return { kind: 'done', item: null, ours: true }
  }

  return {
    capabilities: CALDAV,
    discover: async (): Promise<Account> => discoverCalendars(dav, start),
    delta: (collection, token, options = {}) => delta(collection, token, options),
    read,
    locate,
    async write(writes) {
      const results: WriteResult[] = []
      for (const w of writes) results.push(await writeOne(w).catch(retried))
      return results
    },
    subscribe: null,
    notified: () => null,
    interpret(collection, original) {
      try {
        const item = holdsTasks(collection) ? parseTask(original) : parseEvent(original)
        return { item, unknownStatus: null }
      } catch (error) {
        if (error instanceof NotUnderstood) return null
        throw error
      }
    },
    async makeCollection(name, colour) {
      const { home } = await discoverCalendars(dav, start)
      if (!home) throw new ServiceError('refused', 'This server names no place for a new calendar.')
      const href = `${home}${randomUUID()}/`
      const body =
        `<?xml version="1.0" encoding="utf-8"?><c:mkcalendar ${NAMESPACES}><d:set><d:prop>` +
        `<d:displayname>${escapeXml(name)}</d:displayname><i:calendar-color>${escapeXml(colour)}</i:calendar-color>` +
        `</d:prop></d:set></c:mkcalendar>`
      const type = { 'Content-Type': 'application/xml; charset=utf-8' }
      const answer = await dav.send('MKCALENDAR', urlOf(href), type, body)
      if (answer.status >= 300)
        throw new ServiceError('refused', `The server made no calendar (status ${answer.status}).`)
      const made = (await discoverCalendars(dav, start)).collections.find(
        c => c.remoteId === new URL(urlOf(href)).pathname,
      )
      if (!made)
        throw new ServiceError(
          'service-error',
          'The server says that it made the calendar, but does not show it.',
        )
      return made
    },
    skew: () => dav.skew,
    restMs: () => null,
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
