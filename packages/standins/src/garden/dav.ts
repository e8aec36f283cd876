import { Hono, type Context } from 'hono'
import {
  child,
  davError,
  escapeXml,
  goneResponse,
  many,
  multistatus,
  parseXml,
  type Props,
  response,
} from './xml.ts'
import type { FaultSwitch } from '../faults.ts'
import { type Calendar, type CalendarObject, type Garden, property, textOf } from './state.ts'

/**
 * CalDAV (RFC 4791) with sync-collection (RFC 6578), over one user's calendars. Only what the protocol
 * needs is parsed; objects are returned byte for byte.
 */

type Env = { Variables: { user: string } }
const XML = { 'Content-Type': 'application/xml; charset=utf-8' }
const MAX_BYTES = 1_000_000

export function gardenDav(garden: Garden, base: string, faults: FaultSwitch): Hono<Env> {
  const app = new Hono<Env>({ strict: false })
  const homeOf = (user: string): string => `${base}/calendars/${user}/`
  const hrefOf = (cal: Calendar, name = ''): string =>
    `${homeOf(cal.user)}${cal.slug}/${encodeURIComponent(name)}`
  const token = (cal: Calendar): string => `urn:garden:${cal.slug}:${cal.log.at(-1)?.seq ?? 0}`

  app.use(async (c, next) => {
    const [scheme, coded] = (c.req.header('Authorization') ?? '').split(' ')
    const [user = '', ...rest] = Buffer.from(coded ?? '', 'base64')
      .toString('utf8')
      .split(':')
    const known = garden.store.value.users[user]
    if (scheme !== 'Basic' || !known || known.password !== rest.join(':'))
      return c.text('Sign in', 401, { 'WWW-Authenticate': 'Basic realm="Garden Calendars"' })
    c.set('user', user)
    c.header('DAV', '1, 3, calendar-access')
    await next()
    return undefined
  })

  const privileges = (readOnly: boolean): string =>
    ['read', ...(readOnly ? [] : ['write', 'write-content', 'bind', 'unbind'])]
      .map(p => `<D:privilege><D:${p}/></D:privilege>`)
      .join('')
  const principalProps = (user: string): Props => ({
    resourcetype: '<D:collection/><D:principal/>',
    displayname: escapeXml(garden.store.value.users[user]?.name ?? user),
    'current-user-principal': `<D:href>${base}/principals/${user}/</D:href>`,
    'principal-URL': `<D:href>${base}/principals/${user}/</D:href>`,
    'calendar-home-set': `<D:href>${homeOf(user)}</D:href><D:href>${base}/shared/${user}/</D:href>`,
    'calendar-user-address-set': `<D:href>mailto:${user}@quillmere.example</D:href>`,
  })
  const calendarProps = (cal: Calendar): Props => ({
    resourcetype: '<D:collection/><C:calendar/>',
    displayname: escapeXml(cal.name),
    'calendar-color': cal.colour,
    getctag: String(cal.log.at(-1)?.seq ?? 0),
    'sync-token': token(cal),
    'supported-calendar-component-set': [
      ...(cal.itemKind === 'tasks' ? [] : ['VEVENT']),
      ...(cal.tasks || cal.itemKind === 'tasks' ? ['VTODO'] : []),
    ]
      .map(name => `<C:comp name="${name}"/>`)
      .join(''),
    'supported-report-set': ['C:calendar-query', 'C:calendar-multiget', 'D:sync-collection']
      .map(r => `<D:supported-report><D:report><${r}/></D:report></D:supported-report>`)
      .join(''),
    'current-user-privilege-set': privileges(cal.readOnly),
    'max-resource-size': String(MAX_BYTES),
  })
  const objectProps = (object: CalendarObject): Props => ({
    resourcetype: '',
    getetag: escapeXml(object.etag),
    getcontenttype: `text/calendar; charset=utf-8; component=${/BEGIN:VTODO/.test(textOf(object)) ? 'VTODO' : 'VEVENT'}`,
    // A bare carriage return would not survive a reader of XML (XML 1.0 §2.11).
    'calendar-data': escapeXml(textOf(object)).replace(/\r/g, '&#13;'),
  })

  /** Those changed first, about so many, and the number of the last change among them; null where that is all. */
  const firstOf = (
    { log }: Calendar,
    names: readonly string[],
    most: number,
  ): { part: readonly string[]; until: number | null } => {
    if (!(names.length > most)) return { part: names, until: null }
    const last = new Map(log.map(l => [l.name, l.seq]))
    const inOrder = names.map(name => ({ name, seq: last.get(name) ?? 0 })).sort((x, y) => x.seq - y.seq)
    const until = inOrder[Math.max(0, most - 1)]?.seq ?? 0
    const part = inOrder.filter(n => n.seq <= until).map(n => n.name)
    return { part, until: part.length < names.length ? until : null }
  }

  const askedOf = (body: unknown, root: string): string[] | null => {
    const prop = child(child(body, root), 'prop')
    return prop && typeof prop === 'object' ? Object.keys(prop).filter(k => !k.startsWith('@')) : null
  }
  const mine = (c: Context<Env>): Calendar | undefined =>
    c.req.param('user') === c.get('user')
      ? garden.calendar(c.get('user'), c.req.param('cal') ?? '')
      : undefined

  app.on('OPTIONS', ['/', '/*'], c =>
    c.body(null, 204, { Allow: 'OPTIONS, PROPFIND, PROPPATCH, REPORT, GET, PUT, DELETE, MKCALENDAR' }),
  )

  const propfind = (
    path: string,
    list: (c: Context<Env>, depth: string) => [string, Props][] | null,
  ): void => {
    app.on('PROPFIND', path, async c => {
      const body = parseXml(await c.req.text())
      if (!body) return c.text('not XML', 400)
      const resources = list(c, c.req.header('Depth') ?? '0')
      if (!resources) return c.text('no such resource', 404)
      const asked = askedOf(body, 'propfind')
      return c.body(multistatus(resources.map(([href, props]) => response(href, props, asked))), 207, XML)
    })
  }
  propfind('/', c => [[`${base}/`, principalProps(c.get('user'))]])
  propfind('/principals/:user', c => [
    [`${base}/principals/${c.get('user')}/`, principalProps(c.get('user'))],
  ])
  propfind('/calendars/:user', (c, depth) => {
    const user = c.get('user')
    if (c.req.param('user') !== user) return null
    const own: [string, Props][] = [
      [homeOf(user), { ...principalProps(user), resourcetype: '<D:collection/>' }],
    ]
    const calendars = garden.store.value.calendars.filter(cal => cal.user === user && !cal.shared)
    return depth === '0'
      ? own
      : [...own, ...calendars.map((cal): [string, Props] => [hrefOf(cal), calendarProps(cal)])]
  })
  /** A second home set: calendars that somebody else shares with this user. */
  propfind('/shared/:user', (c, depth) => {
    const user = c.get('user')
    if (c.req.param('user') !== user) return null
    const calendars = garden.store.value.calendars.filter(cal => cal.user === user && cal.shared)
    const own: [string, Props][] = [[`${base}/shared/${user}/`, { resourcetype: '<D:collection/>' }]]
    return depth === '0'
      ? own
      : [...own, ...calendars.map((cal): [string, Props] => [hrefOf(cal), calendarProps(cal)])]
  })
  propfind('/calendars/:user/:cal', (c, depth) => {
    const cal = mine(c)
    if (!cal) return null
    const objects = Object.entries(cal.objects).map(([name, o]): [string, Props] => [
      hrefOf(cal, name),
      { ...objectProps(o), 'calendar-data': undefined },
    ])
    return [[hrefOf(cal), calendarProps(cal)], ...(depth === '0' ? [] : objects)]
  })

  app.on('REPORT', '/calendars/:user/:cal', async c => {
    const cal = mine(c)
    if (!cal) return c.text('no such calendar', 404)
    const body = parseXml(await c.req.text())
    const root = body && Object.keys(body).find(k => !k.startsWith('?'))
    if (!body || !root) return c.text('not XML', 400)
    const asked = askedOf(body, root)
    const show = (name: string): string => {
      const object = cal.objects[name]
      return object
        ? response(hrefOf(cal, name), objectProps(object), asked)
        : goneResponse(hrefOf(cal, name))
    }
    if (root === 'calendar-multiget') {
      const names = many(child(body[root], 'href')).map(h =>
        decodeURIComponent(String(h).split('/').at(-1) ?? ''),
      )
      return c.body(multistatus(names.map(show)), 207, XML)
    }
    if (root === 'calendar-query') {
      const names = Object.keys(cal.objects).filter(n => {
        const object = cal.objects[n]
        return object && admits(child(body[root], 'filter'), textOf(object))
      })
      return c.body(multistatus(names.map(show)), 207, XML)
    }
    if (root === 'sync-collection') {
      const since = String(child(body[root], 'sync-token') ?? '')
      const m = new RegExp(`^urn:garden:${cal.slug}:(\\d+)$`).exec(since)
      if (since !== '' && (!m || faults.current.staleToken))
        return c.body(davError('D:valid-sync-token'), 403, XML)
      const from = m ? Number(m[1]) : -1
      const names = m
        ? [...new Set(cal.log.filter(l => l.seq > from).map(l => l.name))]
        : faults.listed(Object.keys(cal.objects))
      const asked = child(child(body[root], 'limit'), 'nresults')
      const { part, until } = firstOf(cal, names, asked === undefined ? Infinity : Number(asked))
      // RFC 6578 §3.6: that there is more is said of the collection itself.
      const more =
        until === null
          ? []
          : [
              `<D:response><D:href>${hrefOf(cal)}</D:href><D:status>HTTP/1.1 507 Insufficient Storage</D:status></D:response>`,
            ]
      const now = until === null ? token(cal) : `urn:garden:${cal.slug}:${until}`
      return c.body(
        multistatus([...part.map(show), ...more], `<D:sync-token>${now}</D:sync-token>`),
        207,
        XML,
      )
    }
    return c.body(davError('D:supported-report'), 403, XML)
  })

  app.on('MKCALENDAR', '/calendars/:user/:cal', async c => {
    const user = c.get('user')
    const slug = c.req.param('cal')
    if (c.req.param('user') !== user) return c.text('not yours', 403)
    if (garden.calendar(user, slug)) return c.body(davError('D:resource-must-be-null'), 405, XML)
    const set = child(child(child(parseXml(await c.req.text()), 'mkcalendar'), 'set'), 'prop')
    const name = String(child(set, 'displayname') ?? slug)
    const colour = String(child(set, 'calendar-color') ?? '#44566C')
    garden.store.value.calendars.push({ user, slug, name, colour, readOnly: false, objects: {}, log: [] })
    garden.store.save()
    return c.body(null, 201)
  })

  app.on('PROPPATCH', '/calendars/:user/:cal', async c => {
    const cal = mine(c)
    if (!cal) return c.text('no such calendar', 404)
    const set = child(child(child(parseXml(await c.req.text()), 'propertyupdate'), 'set'), 'prop')
    const name = child(set, 'displayname')
    const colour = child(set, 'calendar-color')
    if (name !== undefined) cal.name = String(name)
    if (colour !== undefined) cal.colour = String(colour)
    garden.store.save()
    const done = {
      ...(name !== undefined && { displayname: '' }),
      ...(colour !== undefined && { 'calendar-color': '' }),
    }
    return c.body(multistatus([response(hrefOf(cal), done, null)]), 207, XML)
  })

  app.delete('/calendars/:user/:cal', c => {
    const cal = mine(c)
    if (!cal) return c.text('no such calendar', 404)
    garden.store.value.calendars = garden.store.value.calendars.filter(x => x !== cal)
    garden.store.save()
    return c.body(null, 204)
  })

  /** RFC 9110 §13.1: whether the request's preconditions hold for what is stored. */
  const mayWrite = (c: Context<Env>, present: CalendarObject | undefined): boolean => {
    const match = c.req.header('If-Match')
    const none = c.req.header('If-None-Match')
    if (match !== undefined && (!present || (match !== '*' && match !== present.etag))) return false
    return !(none === '*' && present)
  }

  app.get('/calendars/:user/:cal/:name', c => {
    const object = mine(c)?.objects[c.req.param('name')]
    if (!object) return c.text('no such object', 404)
    const bytes = new Uint8Array(Buffer.from(object.data, 'base64'))
    return c.body(bytes, 200, { ETag: object.etag, 'Content-Type': 'text/calendar; charset=utf-8' })
  })

  app.put('/calendars/:user/:cal/:name', async c => {
    const cal = mine(c)
    if (!cal) return c.text('no such calendar', 409)
    if (cal.readOnly) return c.body(davError('D:need-privileges'), 403, XML)
    const name = c.req.param('name')
    const present = cal.objects[name]
    if (!mayWrite(c, present)) return c.text('precondition failed', 412)
    const bytes = Buffer.from(await c.req.arrayBuffer())
    if (bytes.length > MAX_BYTES) return c.body(davError('C:max-resource-size'), 403, XML)
    const text = bytes.toString('utf8')
    const uid = property(text, 'UID')?.value
    if (!/^BEGIN:VCALENDAR/i.test(text) || !uid) return c.body(davError('C:valid-calendar-data'), 403, XML)
    const twin = Object.entries(cal.objects).find(
      ([n, o]) => n !== name && property(textOf(o), 'UID')?.value === uid,
    )
    if (twin) return c.body(davError('C:no-uid-conflict'), 403, XML)
    const object = garden.write(cal, name, bytes)
    return c.body(null, present ? 204 : 201, { ETag: object.etag })
  })

  app.delete('/calendars/:user/:cal/:name', c => {
    const cal = mine(c)
    const name = c.req.param('name')
    const present = cal?.objects[name]
    if (!cal || !present) return c.text('no such object', 404)
    if (cal.readOnly) return c.body(davError('D:need-privileges'), 403, XML)
    if (!mayWrite(c, present)) return c.text('precondition failed', 412)
    garden.remove(cal, name)
    return c.body(null, 204)
  })

  return app
}

/** Reads `20261124`, `20261124T100000` or `…Z`; local times are taken as UTC, a day is allowed for zones. */
function roughMs(value: string | undefined): number | null {
  const m = /^(\d{4})(\d\d)(\d\d)(?:T(\d\d)(\d\d)(\d\d))?/.exec(value ?? '')
  if (!m) return null
  return Date.UTC(+(m[1] ?? 0), +(m[2] ?? 1) - 1, +(m[3] ?? 1), +(m[4] ?? 0), +(m[5] ?? 0))
}

/** CALDAV:filter (RFC 4791 §9.7), as far as VEVENT, time-range and a text-match on UID. */
function admits(filter: unknown, text: string): boolean {
  const inner = child(child(filter, 'comp-filter'), 'comp-filter')
  if (!inner) return true
  const wantedKind = String(child(inner, '@name'))
  if (!text.includes(`BEGIN:${wantedKind}`)) return false
  const match = child(child(inner, 'prop-filter'), 'text-match')
  if (match !== undefined) {
    const wanted = String(typeof match === 'object' ? child(match, '#text') : match)
    return property(text, 'UID')?.value === wanted
  }
  const range = child(inner, 'time-range')
  if (!range) return true
  const DAY = 86_400_000
  const from = roughMs(String(child(range, '@start') ?? '')) ?? -Infinity
  const to = roughMs(String(child(range, '@end') ?? '')) ?? Infinity
  const start = roughMs(property(text, 'DTSTART')?.value) ?? 0
  if (property(text, 'RRULE')) return start < to + DAY
  const end = roughMs(property(text, 'DTEND')?.value) ?? start + DAY
  return start < to + DAY && end > from - DAY
}
