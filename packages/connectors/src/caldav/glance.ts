import type { Glance } from '../connector.ts'
import { ServiceError } from '../connector.ts'
import { type Dav, NAMESPACES } from './dav.ts'
import type { CalendarObjects } from './objects.ts'
import { textIn } from './xml.ts'

const BODY =
  `<d:propfind ${NAMESPACES} xmlns:s="http://calendarserver.org/ns/"><d:prop>` +
  `<d:sync-token/><s:getctag/></d:prop></d:propfind>`

/** The folder that a collection lies in. */
const folderOf = (url: string): string => new URL('..', url.endsWith('/') ? url : `${url}/`).href
const withoutSlash = (url: string): string => url.replace(/\/$/, '')

/**
 * Asks each home for the ctags and sync tokens (RFC 6578 §4) of all its calendars at once: mostly one request for an
 * account. A calendar that its folder does not show, such as one that somebody shares, is asked by itself.
 */
export async function glanceAt(
  dav: Dav,
  { urlOf }: Pick<CalendarObjects, 'urlOf'>,
  collections: readonly string[],
): Promise<Glance> {
  const urls = new Map(collections.map(c => [c, withoutSlash(urlOf(c))]))
  const shown = new Map<string, string>()
  const folders = new Set([...urls.values()].map(folderOf))
  for (const folder of folders) await addMarks(dav, folder, '1', shown)
  const strays = new Set([...urls].filter(([, url]) => !shown.has(url)).map(([c]) => urlOf(c)))
  for (const stray of strays) await addMarks(dav, stray, '0', shown)
  const marks = new Map<string, string>()
  for (const [collection, url] of urls) {
    const mark = shown.get(url)
    if (mark) marks.set(collection, mark)
  }
  return { marks, requests: folders.size + strays.size }
}

async function addMarks(dav: Dav, url: string, depth: '0' | '1', marks: Map<string, string>): Promise<void> {
  try {
    const { resources } = await dav.ask('PROPFIND', url, depth, BODY)
    for (const { href, props } of resources) {
      const mark = [textIn(props['sync-token']), textIn(props.getctag)].join(' ').trim()
      if (mark && URL.canParse(href, url)) marks.set(withoutSlash(new URL(href, url).href), mark)
    }
  } catch (error) {
    // Some servers show a calendar, but not the folder that it lies in.
    const isUnknown =
      error instanceof ServiceError && ['missing', 'not-this-protocol', 'refused'].includes(error.trouble)
    if (!isUnknown) throw error
  }
}
