import { type Answered, type Asked, serve } from './server.ts'

/** A calendar server that follows the standards in other ways than ours do. */
export interface OddDav {
  put: (path: string, text: string) => void
  address: string
  /** Path → text and version of every calendar object. */
  objects: Map<string, { text: string; version: number }>
  /** `METHOD path` of every request since it was last emptied; reports are named. */
  log: string[]
  habits: Habits
}

export interface Habits {
  /** RFC 6578; without it, only ctags and etags. */
  sync: boolean
  /** No sync token is taken any more. */
  staleTokens: boolean
  /** At most so many in one answer to sync-collection. */
  page: number
  /** PUT answers with this kind of ETag. */
  putTag: 'strong' | 'weak' | 'none'
  /** All ETags are weak; RFC 9110 lets no If-Match match them. */
  weakTags: boolean
  /** What is kept of what was put. */
  rewrite: (text: string) => string
  /** Hrefs as whole addresses. */
  absolute: boolean
  /** Of more events at once, nothing is ever heard. */
  atOnce: number
}

const ROOT =
  '<d:multistatus xmlns:d="DAV:" xmlns:c="urn:ietf:params:xml:ns:caldav" xmlns:a="urn:ietf:params:xml:ns:carddav">'
const good = (props: string): string =>
  `<d:propstat><d:prop>${props}</d:prop><d:status>HTTP/1.1 200 OK</d:status></d:propstat>`
const xml = (body: string): Answered => ({
  status: 207,
  headers: { 'Content-Type': 'application/xml' },
  body: `<?xml version="1.0"?>${ROOT}${body}</d:multistatus>`,
})
const esc = (text: string): string =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/\r/g, '&#13;')

/** `is`: what it is besides a collection; a calendar unless said otherwise. */
const CALENDARS: Record<string, { name: string; kinds: string[]; rights: string; is?: string }> = {
  '/homes/a/garden%20team/': { name: 'Garden team', kinds: ['VEVENT', 'VTODO'], rights: '<d:write/>' },
  '/homes/b/loans/': { name: 'Loans', kinds: ['VEVENT'], rights: '<d:read/>' },
  '/homes/b/freebusy/': { name: 'Free times', kinds: ['VFREEBUSY'], rights: '<d:read/>' },
  '/homes/b/trustees/': { name: 'Trustees', kinds: ['VEVENT'], rights: '<c:read-free-busy/>' },
  '/homes/b/cards/': { name: 'Cards', kinds: [], rights: '<d:read/>', is: '<a:addressbook/>' },
  '/homes/b/inbox/': { name: 'Inbox', kinds: [], rights: '<d:read/>', is: '<c:schedule-inbox/>' },
  '/homes/b/old/': { name: 'Old', kinds: [], rights: '<d:read/>', is: '' },
  '/homes/b/old/2024/': { name: '2024', kinds: ['VEVENT'], rights: '<d:read/>' },
  '/homes/b/old/older/': { name: 'Older', kinds: [], rights: '<d:read/>', is: '' },
  '/homes/b/old/older/oldest/': { name: 'Oldest', kinds: [], rights: '<d:read/>', is: '' },
}
const isFolder = (path: string): boolean => /^\/homes\/[ab]\/$/.test(path) || CALENDARS[path]?.is === ''
const liesIn = (path: string, folder: string): boolean =>
  path.startsWith(folder) && /^[^/]+\/$/.test(path.slice(folder.length))

export async function oddDav(): Promise<OddDav> {
  const dav: OddDav = {
    address: '',
    put: (path, text) => put(path, text),
    objects: new Map(),
    log: [],
    habits: {
      sync: true,
      staleTokens: false,
      page: 1000,
      putTag: 'strong',
      weakTags: false,
      rewrite: t => t,
      absolute: false,
      atOnce: 1000,
    },
  }
  const made = new Map<string, string>()
  let clock = 1
  const changed = new Map<string, number>()
  const tag = (path: string): string =>
    `${dav.habits.weakTags ? 'W/' : ''}"v${dav.objects.get(path)?.version ?? 0}"`
  const href = (path: string): string => (dav.habits.absolute ? `http://${host}${path}` : path)
  const inside = (calendar: string): string[] => [...dav.objects.keys()].filter(p => p.startsWith(calendar))

  const propfind = ({ path, header, body }: Asked): Answered => {
    if (path === '/.well-known/caldav') return { status: 301, headers: { Location: '/start/' } }
    if (path === '/') return { status: 404 }
    if (path === '/start/')
      return xml(
        `<d:response><d:href>${path}</d:href>${good('<d:current-user-principal><d:href>/who/ines/</d:href></d:current-user-principal>')}</d:response>`,
      )
    if (path === '/who/ines/')
      return xml(
        `<d:response><d:href>${path}</d:href>${good('<d:displayname>Ines</d:displayname><c:calendar-home-set><d:href>/homes/a/</d:href><d:href>/homes/b/</d:href></c:calendar-home-set>')}</d:response>`,
      )
    if (isFolder(path)) {
      const all = [
        ...Object.entries(CALENDARS),
        ...[...made].map(([p, name]) => [p, { name, kinds: ['VEVENT'], rights: '<d:all/>' }] as const),
      ].filter(([p]) => liesIn(p, path))
      const self = `<d:response><d:href>${path}</d:href>${good('<d:resourcetype><d:collection/></d:resourcetype>')}</d:response>`
      return xml(
        self +
          all
            .map(
              ([p, c]) =>
                `<d:response><d:href>${href(p)}</d:href>${good(
                  `<d:resourcetype><d:collection/>${('is' in c ? c.is : undefined) ?? '<c:calendar/>'}</d:resourcetype><d:displayname>${c.name}</d:displayname>` +
                    `<d:current-user-privilege-set><d:privilege>${c.rights}</d:privilege></d:current-user-privilege-set>` +
                    `<c:supported-calendar-component-set>${c.kinds.map(k => `<c:comp name="${k}"/>`).join('')}</c:supported-calendar-component-set>`,
                )}</d:response>`,
            )
            .join(''),
      )
    }
    const list = inside(path)
    const newest = Math.max(0, ...list.map(p => changed.get(p) ?? 0), changed.get(path) ?? 0)
    const own = `<d:response><d:href>${path}</d:href>${good(`<d:resourcetype><d:collection/></d:resourcetype><s:getctag xmlns:s="http://calendarserver.org/ns/">c${newest}</s:getctag>`)}</d:response>`
    if (header('depth') === '0') return xml(own)
    if (!body.includes('getetag')) return { status: 400 }
    return xml(
      own +
        list
          .map(
            p =>
              `<d:response><d:href>${href(p)}</d:href>${good(`<d:getetag>${tag(p)}</d:getetag>`)}</d:response>`,
          )
          .join(''),
    )
  }

  const report = ({ path, body }: Asked): Answered | null => {
    const name = /<c:(calendar-[a-z]+)|<d:(sync-collection)/.exec(body)
    dav.log.push(`${name?.[1] ?? name?.[2] ?? '?'} ${path}`)
    if (body.includes('sync-collection')) {
      if (!dav.habits.sync) return { status: 405 }
      const token = /<d:sync-token>([^<]*)/.exec(body)?.[1] ?? ''
      if (token && (dav.habits.staleTokens || !token.startsWith('t')))
        return { status: 403, body: '<d:error xmlns:d="DAV:"><d:valid-sync-token/></d:error>' }
      const since = Number(token.slice(1)) || 0
      const news = [...changed]
        .filter(([p, at]) => p.startsWith(path) && p !== path && at > since)
        .sort(([, x], [, y]) => x - y)
      const limit = Number(/<d:nresults>(\d+)/.exec(body)?.[1] ?? Infinity)
      const part = news.slice(0, Math.min(dav.habits.page, limit))
      const upTo = part.length < news.length ? (part.at(-1)?.[1] ?? since) : clock
      const gone = '<d:status>HTTP/1.1 404 Not Found</d:status>'
      const more =
        part.length < news.length
          ? `<d:response><d:href>${path}</d:href><d:status>HTTP/1.1 507 Insufficient Storage</d:status></d:response>`
          : ''
      const list = part.map(
        ([p]) =>
          `<d:response><d:href>${href(p)}</d:href>${dav.objects.has(p) ? good(`<d:getetag>${tag(p)}</d:getetag>`) : gone}</d:response>`,
      )
      return xml(`${list.join('')}${more}<d:sync-token>t${upTo}</d:sync-token>`)
    }
    const hrefs = [...body.matchAll(/<d:href>([^<]*)/g)].map(
      m => new URL(m[1] ?? '', `http://${host}`).pathname,
    )
    if (hrefs.length > dav.habits.atOnce) return null
    return xml(
      hrefs
        .map(p => {
          const object = dav.objects.get(p)
          const data = object
            ? good(`<d:getetag>${tag(p)}</d:getetag><c:calendar-data>${esc(object.text)}</c:calendar-data>`)
            : '<d:status>HTTP/1.1 404 Not Found</d:status>'
          return `<d:response><d:href>${href(p)}</d:href>${data}</d:response>`
        })
        .join(''),
    )
  }

  const host = await serve(asked => {
    const { method, path } = asked
    if (!asked.header('authorization')) return { status: 401 }
    if (method !== 'REPORT') dav.log.push(`${method} ${path}`)
    if (method === 'PROPFIND') return propfind(asked)
    if (method === 'REPORT') return report(asked)
    if (method === 'MKCALENDAR') {
      made.set(path, /displayname>([^<]*)/.exec(asked.body)?.[1] ?? '')
      return { status: 201 }
    }
    const present = dav.objects.get(path)
    const match = asked.header('if-match')
    if (match && (dav.habits.weakTags || match !== tag(path))) return { status: 412 }
    if (asked.header('if-none-match') === '*' && present) return { status: 412 }
    if (method === 'PUT') {
      put(path, dav.habits.rewrite(asked.body))
      const kinds = { strong: tag(path), weak: `W/${tag(path)}`, none: '' }
      const etag = kinds[dav.habits.putTag]
      return { status: 201, ...(etag && { headers: { ETag: etag } }) }
    }
    if (!present) return { status: 404 }
    if (method === 'DELETE') {
      dav.objects.delete(path)
      changed.set(path, ++clock)
      return { status: 204 }
    }
    return { headers: { ETag: tag(path) }, body: present.text }
  })
  function put(path: string, text: string): void {
    dav.objects.set(path, { text, version: (dav.objects.get(path)?.version ?? 0) + 1 })
    changed.set(path, ++clock)
  }
  dav.address = `http://${host}`
  return dav
}

/** A calendar object with one event. */
export const eventText = (uid: string, summary: string, extra: string[] = []): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//odd//EN',
    'BEGIN:VEVENT',
    `UID:${uid}`,
    'DTSTAMP:20260101T000000Z',
    'DTSTART;TZID=Europe/Dublin:20261125T100000',
    'DTEND;TZID=Europe/Dublin:20261125T110000',
    `SUMMARY:${summary}`,
    ...extra,
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n')

export const taskText = (uid: string, summary: string): string =>
  `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VTODO\r\nUID:${uid}\r\nSUMMARY:${summary}\r\nDUE;VALUE=DATE:20261127\r\nX-ODD:keep\r\nEND:VTODO\r\nEND:VCALENDAR\r\n`
