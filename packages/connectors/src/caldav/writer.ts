import {
  calendarObjectOf,
  type EventPatch,
  patchEventObject,
  patchTask,
  type Sighting,
  type TaskPatch,
} from '@loom/core'
import type { RemoteWrite, WriteResult } from '../connector.ts'
import type { Dav } from './dav.ts'
import { type CalendarObjects, holdsTasks, hrefOf } from './objects.ts'

/** Writing calendar objects, each upon the etag that it was decided on. */

export function writer(
  dav: Dav,
  { urlOf, itemOf, get, read }: CalendarObjects,
  locate: (uid: string) => Promise<Sighting[]>,
  now: () => number,
) {
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
      // An earlier try may have succeeded, and its item may have been moved since.
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

  return writeOne
}

function refusal(status: number, body: string): string {
  if (status === 403 && body.includes('need-privileges')) return 'This calendar can only be read.'
  if (status === 403 && body.includes('no-uid-conflict'))
    return 'The calendar holds this event already, at another address.'
  return `The calendar server refused it (status ${status}).`
}
