import { readCalendarObject } from '@loom/core'
import { type ReadResult, ServiceError } from '../connector.ts'
import type { Dav } from './dav.ts'

/** Calendar objects (RFC 4791 §4.1) as items: one at a time, by their hrefs. */

/** A calendar that holds tasks too is two collections here; this is what tells the second. */
const TASKS = '#tasks'
export const hrefOf = (collection: string): string => collection.replace(/#tasks$/, '')
export const holdsTasks = (collection: string): boolean => collection.endsWith(TASKS)

export const TOO_LARGE = 'It is larger than what is read of one event.'

export function calendarObjects(dav: Dav, start: string) {
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
    const read = readCalendarObject(text)
    const at = { remoteId: href, revision: etag, original: text }
    return read.kind === 'understood'
      ? { kind: 'found', item: { ...at, collectionId: collection, item: read.value } }
      : { kind: 'problem', problem: { ...at, reason: read.because } }
  }

  const get = async (href: string): Promise<{ etag: string; text: string } | null> => {
    const answer = await dav.send('GET', urlOf(href))
    if (answer.status === 404 || answer.status === 410) return null
    if (answer.status !== 200)
      throw new ServiceError('service-error', `An event could not be read (status ${answer.status}).`)
    // Its server may have closed the connection in the middle.
    if (/^\s*BEGIN:VCALENDAR/i.test(answer.text) && !/^END:VCALENDAR/im.test(answer.text))
      throw new ServiceError('service-error', `${new URL(urlOf(href)).host} sent an event that breaks off.`)
    return { etag: answer.header('etag') ?? '', text: answer.text }
  }

  const read = async (collection: string, href: string): Promise<ReadResult> => {
    const present = await get(href).catch((error: unknown) => {
      if (error instanceof ServiceError && error.trouble === 'too-large') return 'too-large' as const
      throw error
    })
    if (present === 'too-large')
      return { kind: 'problem', problem: { remoteId: href, revision: '', original: '', reason: TOO_LARGE } }
    const read = present && itemOf(collection, href, present.etag, present.text)
    return !read || read.kind === 'wrong-kind' ? { kind: 'absent' } : read
  }

  return { urlOf, itemOf, get, read }
}
export type CalendarObjects = ReturnType<typeof calendarObjects>
