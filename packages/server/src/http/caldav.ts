import { type Context as Call, Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { limitOf } from '../access/limits.ts'
import { hashOf } from '../access/secrets.ts'
import type { Context } from '../context/context.ts'
import { markLinkUsed, openLink, type OpenLink } from '../data/repositories/links.ts'
import {
  type CalendarObject,
  calendarsOf,
  changesSince,
  type PublishedList,
} from '../outward/caldav/calendars.ts'
import { rangeIn } from '../outward/caldav/calendar-query.ts'
import {
  type Answer,
  childOf,
  hasChild,
  manyOf,
  multistatus,
  type Node,
  parsedXml,
  precondition,
  type Props,
  textOf,
} from '../outward/caldav/xml.ts'

/**
 * CalDAV (RFC 4791), to be read: the lists of a secret address as calendars, for programs that keep several in step. The
 * secret is the password; whatever user name comes with it.
 */

const USED_GRAIN_MS = 60_000
const MOST_BODY = 200_000
const ROOT = '/dav/'
const PRINCIPAL = '/dav/principal/'
const HOME = '/dav/calendars/'
const ALLOWED = 'OPTIONS, GET, HEAD, PROPFIND, REPORT'
const XML = { 'Content-Type': 'application/xml; charset=utf-8', 'Cache-Control': 'no-store' }
const READ_ONLY = ['PUT', 'DELETE', 'POST', 'PROPPATCH', 'MKCALENDAR', 'MKCOL', 'COPY', 'MOVE', 'LOCK', 'ACL']

const passwordIn = (c: Call): string => {
  const [scheme, encoded = ''] = (c.req.header('Authorization') ?? '').split(' ')
  if (scheme?.toLowerCase() !== 'basic') return ''
  const plain = Buffer.from(encoded, 'base64').toString('utf8')
  return plain.slice(plain.indexOf(':') + 1)
}

const href = (of: string): Node => ({ 'D:href': of })
const PRIVILEGES: Node = { 'D:privilege': { 'D:read': '' } }
const REPORTS: Node = {
  'D:supported-report': ['C:calendar-query', 'C:calendar-multiget', 'D:sync-collection'].map(name => ({
    'D:report': { [name]: '' },
  })),
}

const hrefOf = (list: PublishedList): string => `${HOME}${list.id}/`
const hrefIn = (list: PublishedList, name: string): string => `${hrefOf(list)}${name}`

const principalProps = (link: OpenLink): Props => ({
  resourcetype: { 'D:collection': '', 'D:principal': '' },
  displayname: link.name,
  'current-user-principal': href(PRINCIPAL),
  'principal-URL': href(PRINCIPAL),
  'calendar-home-set': href(HOME),
  'current-user-privilege-set': PRIVILEGES,
})
const homeProps = (link: OpenLink): Props => ({
  resourcetype: { 'D:collection': '' },
  displayname: link.workspace,
  'current-user-principal': href(PRINCIPAL),
  'current-user-privilege-set': PRIVILEGES,
})
const listProps = (link: OpenLink, list: PublishedList): Props => {
  const components = link.tasks_as === 'to-dos' ? ['VEVENT', 'VTODO'] : ['VEVENT']
  return {
    resourcetype: { 'D:collection': '', 'C:calendar': '' },
    displayname: list.name,
    'supported-calendar-component-set': { 'C:comp': components.map(name => ({ '@name': name })) },
    'current-user-principal': href(PRINCIPAL),
    'current-user-privilege-set': PRIVILEGES,
    'supported-report-set': REPORTS,
    'sync-token': list.token,
    getctag: list.token,
    getetag: `"${list.token.slice(6)}"`,
  }
}
const objectProps = (o: CalendarObject, withData: boolean): Props => ({
  resourcetype: '',
  getetag: o.etag,
  getcontenttype: `text/calendar; charset=utf-8; component=${o.component.toLowerCase()}`,
  'current-user-privilege-set': PRIVILEGES,
  ...(withData && { 'calendar-data': o.text }),
})

/** Null: everything; else the names that are asked for. */
function askedProps(node: unknown): string[] | null {
  const prop = childOf(node, 'prop')
  return prop === undefined
    ? null
    : Object.keys(typeof prop === 'object' && prop !== null ? prop : {}).filter(n => !n.startsWith('@'))
}

export function caldavRoutes(ctx: Context, addressOf: (c: Call) => string) {
  const { db } = ctx
  const guesses = limitOf(db, { name: 'dav-guess', times: 60, seconds: 60 })
  const opened = async (c: Call): Promise<OpenLink | null> => {
    const token = passwordIn(c)
    if (!/^[0-9a-f]{64}$/.test(token)) return null
    const link = await openLink(db, { hash: hashOf(token), now: Date.now() })
    if (link?.opens !== 'caldav') return null
    if ((link.used_at ?? 0) < Date.now() - USED_GRAIN_MS)
      await markLinkUsed(db, { id: link.id, now: Date.now(), grain: USED_GRAIN_MS })
    return link
  }
  /** A first request comes without a password, as programs ask whether one is wanted. */
  const refused = async (c: Call) => {
    const wait = passwordIn(c) === '' ? null : await guesses.count(addressOf(c))
    if (wait !== null) return c.text('Too many tries.\n', 429, { 'Retry-After': String(wait) })
    return c.text('The password is not valid, or not any more.\n', 401, {
      'WWW-Authenticate': 'Basic realm="Amber Loom", charset="UTF-8"',
    })
  }
  const answered = (c: Call, answers: readonly Answer[], asked: readonly string[] | null, more: Node = {}) =>
    c.body(multistatus(answers, asked, more), 207, XML)
  const bodyOf = async (c: Call): Promise<Node | null> => parsedXml(await c.req.text())
  const objectsAnswered = (
    c: Call,
    list: PublishedList,
    objects: readonly CalendarObject[],
    asked: readonly string[] | null,
    more: { gone?: readonly string[]; token?: string } = {},
  ) => {
    const withData = asked?.includes('calendar-data') ?? false
    const answers: Answer[] = [
      ...objects.map(o => ({ href: hrefIn(list, o.name), props: objectProps(o, withData) })),
      ...(more.gone ?? []).map(name => ({ href: hrefIn(list, name), props: null })),
    ]
    return answered(c, answers, asked, more.token === undefined ? {} : { 'D:sync-token': more.token })
  }

  const app = new Hono().use(bodyLimit({ maxSize: MOST_BODY }))
  app.options('*', c => c.body(null, 200, { DAV: '1, 3, calendar-access', Allow: ALLOWED }))
  app.on(READ_ONLY, '*', async c =>
    (await opened(c)) ? c.body(precondition('D:need-privileges'), 403, XML) : refused(c),
  )

  app.on('PROPFIND', '*', async c => {
    const link = await opened(c)
    if (!link) return refused(c)
    const body = await bodyOf(c)
    if (!body) return c.text('That is no XML.\n', 400)
    const asked = askedProps(childOf(body, 'propfind'))
    const isDeep = (c.req.header('Depth') ?? '0') !== '0'
    const path = c.req.path.endsWith('/') ? c.req.path : `${c.req.path}/`
    if (path === ROOT || path === PRINCIPAL)
      return answered(c, [{ href: path, props: principalProps(link) }], asked)
    const lists = await calendarsOf(ctx, link)
    if (path === HOME) {
      const below = isDeep ? lists.map(l => ({ href: hrefOf(l), props: listProps(link, l) })) : []
      return answered(c, [{ href: HOME, props: homeProps(link) }, ...below], asked)
    }
    const list = lists.find(l => path.startsWith(hrefOf(l)))
    const name = list && path.slice(hrefOf(list).length, -1)
    if (list && name === '') {
      const below = isDeep ? [...list.objects.values()] : []
      const objects = below.map(o => ({ href: hrefIn(list, o.name), props: objectProps(o, false) }))
      return answered(c, [{ href: hrefOf(list), props: listProps(link, list) }, ...objects], asked)
    }
    const object = name === undefined ? undefined : list?.objects.get(name)
    if (!list || !object) return c.text('There is nothing here.\n', 404)
    return objectsAnswered(c, list, [object], asked)
  })

  app.on('REPORT', '*', async c => {
    const link = await opened(c)
    if (!link) return refused(c)
    const list = (await calendarsOf(ctx, link)).find(l => c.req.path.startsWith(hrefOf(l).slice(0, -1)))
    if (!list) return c.text('There is no such calendar.\n', 404)
    const body = await bodyOf(c)
    if (!body) return c.text('That is no XML.\n', 400)
    if (hasChild(body, 'calendar-query')) {
      const query = childOf(body, 'calendar-query')
      const range = rangeIn(query)
      if (!range) return c.body(precondition('C:supported-filter'), 403, XML)
      return objectsAnswered(c, list, [...list.objects.values()].filter(range), askedProps(query))
    }
    if (hasChild(body, 'calendar-multiget')) {
      const multiget = childOf(body, 'calendar-multiget')
      const names = manyOf(childOf(multiget, 'href')).map(
        h => decodeURIComponent(textOf(h)).split('/').at(-1) ?? '',
      )
      const objects = names.flatMap(n => list.objects.get(n) ?? [])
      const gone = names.filter(n => !list.objects.has(n))
      return objectsAnswered(c, list, objects, askedProps(multiget), { gone })
    }
    if (hasChild(body, 'sync-collection')) {
      const sync = childOf(body, 'sync-collection')
      const changes = changesSince(db, list, textOf(childOf(sync, 'sync-token')).trim())
      if (!changes) return c.body(precondition('D:valid-sync-token'), 403, XML)
      return objectsAnswered(c, list, changes.changed, askedProps(sync), {
        gone: changes.gone,
        token: list.token,
      })
    }
    return c.body(precondition('D:supported-report'), 403, XML)
  })

  app.get('*', async c => {
    const link = await opened(c)
    if (!link) return refused(c)
    const list = (await calendarsOf(ctx, link)).find(l => c.req.path.startsWith(hrefOf(l)))
    const object = list?.objects.get(c.req.path.slice(hrefOf(list).length))
    if (!object) return c.text('Add this address to a calendar program, as a CalDAV account.\n', 404)
    const headers = { ETag: object.etag, 'Cache-Control': 'private, no-cache' }
    if (c.req.header('If-None-Match') === object.etag) return c.body(null, 304, headers)
    return c.body(object.text, 200, { ...headers, 'Content-Type': 'text/calendar; charset=utf-8' })
  })
  return app
}
