import { ServiceError } from '../connector.ts'
import { mustBeUsable, otherOrigin, type Outbound, type OutboundResponse } from '../outbound.ts'
import { childOf, listOf, parseXml, textIn } from './xml.ts'

/** WebDAV requests (RFC 4918) and their multistatus answers. */

export interface DavResource {
  href: string
  /** 404 in the answer to a sync-collection or multiget. */
  gone: boolean
  /** Local property name → what the server gave for it. */
  props: Record<string, unknown>
}

export interface Multistatus {
  resources: DavResource[]
  syncToken: string | null
  /** There is more: ask again with the new token (RFC 6578 §3.6). */
  truncated: boolean
}

export const NAMESPACES =
  'xmlns:d="DAV:" xmlns:c="urn:ietf:params:xml:ns:caldav" xmlns:i="http://apple.com/ns/ical/"'

export interface Credentials {
  user: string
  password: string
  /** Origins that the person agreed to beside that of the address. */
  alsoAt?: string[] | undefined
}

export class Dav {
  /** The server's clock minus ours, ms, from its Date header. */
  skew = 0

  constructor(
    private readonly http: Outbound,
    private readonly credentials: Credentials,
    /** The address of the account: the password is shown to its origin. */
    private readonly home: string,
    private readonly signal?: AbortSignal,
  ) {}

  async send(
    method: string,
    url: string,
    headers: Record<string, string> = {},
    body?: string,
  ): Promise<OutboundResponse> {
    const { user, password, alsoAt = [] } = this.credentials
    const [home, at] = [new URL(this.home), new URL(url)]
    // Servers may name another host for a calendar: it is shown nothing before the person agrees.
    if (at.origin !== home.origin && !alsoAt.includes(at.origin)) throw otherOrigin(home, at)
    const answer = await this.http({
      method,
      url,
      headers: {
        Authorization: `Basic ${Buffer.from(`${user}:${password}`).toString('base64')}`,
        ...headers,
      },
      alsoAt: [home.origin, ...alsoAt],
      ...(body === undefined ? {} : { body }),
      ...(this.signal ? { signal: this.signal } : {}),
    })
    const { host } = new URL(url)
    mustBeUsable(answer, host)
    // A maintenance page says 200 to everything; it must not pass for a write that succeeded.
    if (answer.status < 300 && /^\s*<(!doctype html|html)/i.test(answer.text))
      throw new ServiceError('not-this-protocol', `${host} answers with a web page, not as a CalDAV server.`)
    const date = Date.parse(answer.header('date') ?? '')
    // Told in whole seconds: less than two of them say nothing.
    if (!Number.isNaN(date)) this.skew = Math.abs(date - Date.now()) > 2000 ? date - Date.now() : 0
    return answer
  }

  /** Throws `not-this-protocol` for an answer that is no multistatus. */
  async ask(
    method: 'PROPFIND' | 'REPORT',
    url: string,
    depth: '0' | '1',
    body: string,
  ): Promise<Multistatus> {
    const headers = { Depth: depth, 'Content-Type': 'application/xml; charset=utf-8' }
    const answer = await this.send(method, url, headers, `<?xml version="1.0" encoding="utf-8"?>${body}`)
    if (answer.status === 404 || answer.status === 410)
      throw new ServiceError('missing', `${new URL(url).host} holds nothing at this address.`)
    const { host } = new URL(url)
    if (answer.status !== 207) {
      if (answer.status === 403 && answer.text.includes('valid-sync-token'))
        throw new ServiceError('missing', 'The sync token is no longer taken.')
      // RFC 3253 §3.6; servers also say simply that they do not have it.
      if (
        method === 'REPORT' &&
        ([405, 501].includes(answer.status) || answer.text.includes('supported-report'))
      )
        throw new ServiceError('unsupported-report', `${host} does not know this report.`)
      throw new ServiceError('not-this-protocol', `${host} answers, but not as a CalDAV server.`)
    }
    return await multistatusOf(answer.text, host)
  }
}

async function multistatusOf(text: string, host: string): Promise<Multistatus> {
  try {
    const root = childOf(await parseXml(text), 'multistatus')
    if (root !== undefined) return readMultistatus(root)
  } catch {
    // Said below, as for another document.
  }
  throw new ServiceError('service-error', `${host} sent an answer that breaks off.`)
}

function readMultistatus(root: unknown): Multistatus {
  const responses = listOf(childOf(root, 'response'))
  const statusOf = (r: unknown): string => `${textIn(childOf(r, 'status'))} `
  const truncated = responses.some(r => / 507 /.test(statusOf(r)))
  const resources = responses.map((response): DavResource => {
    const good = listOf(childOf(response, 'propstat')).filter(p => / 200 /.test(textIn(childOf(p, 'status'))))
    return {
      href: textIn(listOf(childOf(response, 'href'))[0]).trim(),
      gone: / 404 /.test(statusOf(response)),
      props: Object.assign({}, ...good.map(p => childOf(p, 'prop') as object)) as Record<string, unknown>,
    }
  })
  return { resources, syncToken: textIn(childOf(root, 'sync-token')) || null, truncated }
}
