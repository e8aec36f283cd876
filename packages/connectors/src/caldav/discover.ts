import { accountSubject } from '../account-subject.ts'
import { type Account, type FoundCollection, noTerms, ServiceError } from '../connector.ts'
import { type Dav, type DavResource, NAMESPACES } from './dav.ts'
import { childOf, hrefIn, listOf, textIn } from './xml.ts'

/**
 * From an address to the calendars (RFC 6764 §6, RFC 4791 §6.2): the address itself, else the well-known
 * one; the principal; its home sets; the calendars in them.
 */

const propfind = (props: string): string => `<d:propfind ${NAMESPACES}><d:prop>${props}</d:prop></d:propfind>`
const PRINCIPAL = propfind('<d:current-user-principal/><d:displayname/>')
const HOME = propfind('<c:calendar-home-set/><d:displayname/>')
const CALENDARS = propfind(
  '<d:resourcetype/><d:displayname/><i:calendar-color/><d:current-user-privilege-set/><c:supported-calendar-component-set/>',
)

async function principalOf(dav: Dav, address: string): Promise<string> {
  const attempts = [address, new URL('/.well-known/caldav', address).href]
  let trouble: unknown
  for (const url of attempts) {
    try {
      const { resources } = await dav.ask('PROPFIND', url, '0', PRINCIPAL)
      const href = hrefIn(resources[0]?.props['current-user-principal'])
      if (href) return new URL(href, url).href
    } catch (error) {
      const other = error instanceof ServiceError && ['missing', 'not-this-protocol'].includes(error.trouble)
      if (!other) throw error
      trouble ??= error
    }
  }
  if (trouble instanceof ServiceError && trouble.trouble === 'not-this-protocol') throw trouble
  throw new ServiceError('not-this-protocol', `${new URL(address).host} answers, but not as a CalDAV server.`)
}

const isOf = (resource: DavResource, type: string): boolean =>
  childOf(resource.props.resourcetype, type) !== undefined

/** A folder: a collection and nothing else. Calendars may lie in it. */
const isFolder = ({ props: { resourcetype } }: DavResource): boolean =>
  typeof resourcetype === 'object' &&
  resourcetype !== null &&
  Object.keys(resourcetype).join() === 'collection'

const nameOf = ({ props, href }: DavResource): string =>
  textIn(props.displayname).trim() || decodeURIComponent(href.split('/').filter(Boolean).at(-1) ?? href)

const notOffered = (resource: DavResource, whyNot: string): FoundCollection => ({
  remoteId: resource.href,
  name: nameOf(resource),
  colour: null,
  itemKind: 'event',
  writable: false,
  count: null,
  parent: null,
  whyNot,
  terms: noTerms,
})

function calendarsOf(resource: DavResource): FoundCollection[] {
  const { props, href } = resource
  if (isOf(resource, 'addressbook')) return [notOffered(resource, 'It is an address book, not a calendar.')]
  if (!isOf(resource, 'calendar')) return []
  const components = listOf(childOf(props['supported-calendar-component-set'], 'comp')).map(c =>
    childOf(c, '@name'),
  )
  const privileges = listOf(childOf(props['current-user-privilege-set'], 'privilege'))
  const may = (right: string): boolean => privileges.some(p => childOf(p, right) !== undefined)
  const colour = /^#[0-9a-f]{6}/i.exec(textIn(props['calendar-color']).trim())
  const calendar: FoundCollection = {
    remoteId: href,
    name: nameOf(resource),
    colour: colour?.[0] ?? null,
    itemKind: 'event',
    // A server that does not tell privileges is taken at its word when it refuses.
    writable: privileges.length === 0 || may('write') || may('all') || may('bind'),
    count: null,
    parent: null,
    whyNot: null,
    terms: noTerms,
  }
  const has = (kind: string): boolean => components.length === 0 || components.includes(kind)
  const events = components.length === 0 || has('VEVENT')
  const tasks = components.includes('VTODO')
  if (!events && !tasks)
    return [notOffered(resource, `It holds neither events nor tasks, but ${components.join(', ')}.`)]
  // Where others' calendars may only be asked for free times, they are listed all the same.
  if (privileges.length > 0 && !['read', 'write', 'bind', 'all'].some(may))
    return [notOffered(resource, 'The server shows it to this account, but gives it no right to read it.')]
  return [
    ...(events ? [calendar] : []),
    ...(tasks
      ? [
          {
            ...calendar,
            remoteId: `${href}#tasks`,
            name: events ? `${calendar.name}: tasks` : calendar.name,
            itemKind: 'task' as const,
          },
        ]
      : []),
  ]
}

/** As deep as calendars are looked for below a home set, and in as many folders. */
const DEEPEST = 2
const MOST_FOLDERS = 30

export async function discoverCalendars(
  dav: Dav,
  address: string,
): Promise<Account & { home: string | null }> {
  const principal = await principalOf(dav, address)
  const { resources } = await dav.ask('PROPFIND', principal, '0', HOME)
  const homes = listOf(childOf(resources[0]?.props['calendar-home-set'], 'href')).map(h => textIn(h).trim())
  const name = textIn(resources[0]?.props.displayname).trim()
  const collections: FoundCollection[] = []
  const folders = homes.filter(Boolean).map(home => ({ url: new URL(home, principal).href, depth: 0 }))
  const seen = new Set(folders.map(f => f.url))
  for (const { url, depth } of folders) {
    const found = await dav.ask('PROPFIND', url, '1', CALENDARS)
    for (const resource of found.resources) {
      collections.push(...calendarsOf(resource))
      const inner = new URL(resource.href, url).href
      if (!isFolder(resource) || seen.has(inner)) continue
      seen.add(inner)
      if (depth < DEEPEST && folders.length < MOST_FOLDERS) folders.push({ url: inner, depth: depth + 1 })
      else
        collections.push(
          notOffered(resource, 'It is a folder that lies deeper than calendars are looked for.'),
        )
    }
  }
  const subject = accountSubject(principal)
  return { name, subject, zone: null, people: [], collections, home: homes[0] ?? null }
}
