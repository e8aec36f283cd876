import { type Account, type FoundCollection, noTerms, ServiceError } from '../connector.ts'
import { childOf, type Dav, type DavResource, hrefIn, listOf, NAMESPACES, textIn } from './dav.ts'

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

function calendarsOf(resource: DavResource): FoundCollection[] {
  const { props, href } = resource
  if (childOf(props.resourcetype, 'calendar') === undefined) return []
  const components = listOf(childOf(props['supported-calendar-component-set'], 'comp')).map(c =>
    childOf(c, '@name'),
  )
  const privileges = listOf(childOf(props['current-user-privilege-set'], 'privilege'))
  const may = (right: string): boolean => privileges.some(p => childOf(p, right) !== undefined)
  const colour = /^#[0-9a-f]{6}/i.exec(textIn(props['calendar-color']).trim())
  const calendar: FoundCollection = {
    remoteId: href,
    name:
      textIn(props.displayname).trim() || decodeURIComponent(href.split('/').filter(Boolean).at(-1) ?? href),
    colour: colour?.[0] ?? null,
    holds: 'event',
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
    return [
      {
        ...calendar,
        writable: false,
        whyNot: `It holds neither events nor tasks, but ${components.join(', ')}.`,
      },
    ]
  return [
    ...(events ? [calendar] : []),
    ...(tasks
      ? [
          {
            ...calendar,
            remoteId: `${href}#tasks`,
            name: events ? `${calendar.name}: tasks` : calendar.name,
            holds: 'task' as const,
          },
        ]
      : []),
  ]
}

export async function discoverCalendars(
  dav: Dav,
  address: string,
): Promise<Account & { home: string | null }> {
  const principal = await principalOf(dav, address)
  const { resources } = await dav.ask('PROPFIND', principal, '0', HOME)
  const homes = listOf(childOf(resources[0]?.props['calendar-home-set'], 'href')).map(h => textIn(h).trim())
  const name = textIn(resources[0]?.props.displayname).trim()
  const collections: FoundCollection[] = []
  for (const home of homes.filter(Boolean)) {
    const found = await dav.ask('PROPFIND', new URL(home, principal).href, '1', CALENDARS)
    collections.push(...found.resources.flatMap(calendarsOf))
  }
  return { name, zone: null, people: [], collections, home: homes[0] ?? null }
}
