import { randomUUID } from 'node:crypto'
import { readCalendarObject, type Sighting } from '@loom/core'
import {
  type Account,
  type Capabilities,
  type Connector,
  failedWrite,
  ServiceError,
  type WriteResult,
} from '../connector.ts'
import { addressOf, type Outbound } from '../outbound.ts'
import { type Credentials, Dav, NAMESPACES } from './dav.ts'
import { escapeXml, textIn } from './xml.ts'
import { discoverCalendars } from './discover.ts'
import { glanceAt } from './glance.ts'
import { listing } from './listing.ts'
import { calendarObjects, holdsTasks } from './objects.ts'
import { writer } from './writer.ts'

/** CalDAV (RFC 4791) with collection sync (RFC 6578). A remote id is the href of a calendar object. */

export const CALDAV: Capabilities = {
  canHold: { estimate: true, location: true, due: true, start: true, notes: true, priority: true },
  can: { create: true, change: true, complete: true, delete: true },
  summaryMaxLength: null,
  datePrecision: { start: 'second', due: 'second' },
  preconditions: true,
  listing: 'as-it-is',
  notifications: false,
  batch: 1,
  marksNotes: false,
}

/** A mail address stands for the server of its domain (RFC 6764 §6). */
const startOf = (address: string): string =>
  addressOf(/^[^\s/@:]+@[^\s/@]+$/.test(address.trim()) ? (address.trim().split('@')[1] ?? '') : address)

export function caldav(
  address: string,
  credentials: Credentials,
  http: Outbound,
  now: () => number,
  signal?: AbortSignal,
): Connector {
  const start = startOf(address)
  const dav = new Dav(http, credentials, start, signal)
  const objects = calendarObjects(dav, start)
  const { urlOf, itemOf, read } = objects
  const delta = listing(dav, objects)

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

  const writeOne = writer(dav, objects, locate, now)

  return {
    capabilities: CALDAV,
    discover: async (): Promise<Account> => discoverCalendars(dav, start),
    delta: (collection, token, options = {}) => delta(collection, token, options),
    glance: since => glanceAt(dav, objects, [...since.keys()]),
    read,
    locate,
    async write(writes) {
      const results: WriteResult[] = []
      for (const w of writes) results.push(await writeOne(w).catch(failedWrite))
      return results
    },
    subscribe: null,
    chat: null,
    notified: () => null,
    interpret(collection, original) {
      const read = readCalendarObject(original)
      const isHere = read.kind === 'understood' && (read.value.kind === 'task') === holdsTasks(collection)
      return isHere ? { item: read.value, unknownStatus: null } : null
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
