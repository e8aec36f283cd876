import { lookup as dnsLookup, type LookupAddress } from 'node:dns'
import ipaddr from 'ipaddr.js'
import { promisify } from 'node:util'
import { brotliDecompress, gunzip, inflate } from 'node:zlib'
import { Agent, type Dispatcher, request as send } from 'undici'
import { ServiceError } from './connector.ts'

/**
 * All outgoing requests pass here. Addresses that are not on the public internet are refused unless they are
 * listed. Time, size and redirects are bounded. Failures are explained in a sentence.
 */
export interface OutboundOptions {
  /** `host:port` that may be private, such as the stand-ins of the demo. */
  allowed: readonly string[]
  timeoutMs: number
  maxBytes: number
}

export interface OutboundRequest {
  method: string
  url: string
  headers?: Record<string, string>
  body?: string | Uint8Array
  signal?: AbortSignal
  /** Another limit than the usual one. */
  timeoutMs?: number
  /** Origins beside that of `url` which may be shown what opens it: a person has agreed to them by name. */
  alsoAt?: readonly string[]
}

export interface OutboundResponse {
  status: number
  url: string
  header: (name: string) => string | null
  text: string
}

const MAX_REDIRECTS = 5

/** Typed text as a URL; https if it has no scheme. Throws ServiceError. */
export function addressOf(typed: string): string {
  const trimmed = typed.trim()
  const full = /^[a-z][a-z0-9+.-]*:\/\//i.test(trimmed) ? trimmed : `https://${trimmed}`
  if (!URL.canParse(full)) throw new ServiceError('unreachable', `"${typed}" is not an address.`)
  return full
}

const isPublic = (address: string): boolean => {
  try {
    return ipaddr.process(address).range() === 'unicast'
  } catch {
    return false
  }
}

/** Headers that open nothing. */
const HARMLESS = new Set([
  'accept',
  'accept-encoding',
  'content-type',
  'depth',
  'if-modified-since',
  'if-none-match',
  'user-agent',
])

/** What opens one door is shown at no other, in whatever header or body it stands. */
function mayFollow({ method, headers, body, alsoAt = [] }: OutboundRequest, from: URL, to: URL): boolean {
  if (to.origin === from.origin || alsoAt.includes(to.origin)) return true
  const opensNothing = Object.keys(headers ?? {}).every(name => HARMLESS.has(name.toLowerCase()))
  return opensNothing && body === undefined && (method === 'GET' || method === 'HEAD')
}

/** Another server than the one that was agreed to: a person can agree to it by its name. */
export const otherOrigin = (from: URL, to: URL): ServiceError =>
  new ServiceError(
    'other-origin',
    `${from.host} sends on to ${to.origin}, which is another server. Nothing of the sign-in was sent there.`,
    null,
    to.origin,
  )

/**
 * Unpacked strictly: what breaks off is not taken for whole, as the client by itself would. Throws the errors of zlib.
 */
async function unpacked(bytes: Buffer, encoding: string | null, most: number): Promise<Buffer> {
  const packed = (encoding ?? '')
    .split(',')
    .map(e => e.trim().toLowerCase())
    .filter(e => e !== '' && e !== 'identity')
  let left = bytes
  for (const how of packed.reverse()) {
    if (left.length === 0) return left
    const unpack = UNPACK[how]
    if (!unpack) throw new Error(`an unknown encoding: ${how}`)
    left = await unpack(left, { maxOutputLength: most })
  }
  return left
}
const UNPACK: Partial<
  Record<string, (bytes: Buffer, options: { maxOutputLength: number }) => Promise<Buffer>>
> = {
  gzip: promisify(gunzip),
  'x-gzip': promisify(gunzip),
  deflate: promisify(inflate),
  br: promisify(brotliDecompress),
}

export type Outbound = (request: OutboundRequest) => Promise<OutboundResponse>

export function outbound(options: OutboundOptions): Outbound {
  const allowed = new Set(options.allowed)
  const refuse = (host: string): ServiceError =>
    new ServiceError('refused-address', `${host} is a private address, and those are not allowed here.`)
  /** Checked when connecting, so that a name cannot be pointed elsewhere between check and use. */
  const guarded = new Agent({
    connect: {
      lookup: (hostname, lookupOptions, done) => {
        dnsLookup(hostname, { ...lookupOptions, all: true }, (error, found: LookupAddress[]) => {
          if (error) return done(error, [])
          if (found.some(a => !isPublic(a.address))) return done(refuse(hostname), [])
          return done(null, found)
        })
      },
    },
  })
  const open = new Agent()

  const follow = async (
    request: OutboundRequest,
    redirects: number,
    timed: { out: boolean },
  ): Promise<OutboundResponse> => {
    const url = new URL(request.url)
    if (url.protocol !== 'http:' && url.protocol !== 'https:')
      throw new ServiceError('unreachable', 'The address must begin with https:// or http://.')
    const host = url.hostname.replace(/^\[|\]$/g, '')
    const listed = allowed.has(`${host}:${url.port || (url.protocol === 'https:' ? '443' : '80')}`)
    if (!listed && ipaddr.isValid(host) && !isPublic(host)) throw refuse(url.host)
    const timeout = AbortSignal.timeout(request.timeoutMs ?? options.timeoutMs)
    timeout.addEventListener('abort', () => {
      timed.out = true
    })
    const { statusCode, headers, body } = await send(url, {
      method: request.method as Dispatcher.HttpMethod,
      headers: { 'User-Agent': 'Amber Loom', 'Accept-Encoding': 'gzip, deflate', ...request.headers },
      body: request.body ?? null,
      signal: request.signal ? AbortSignal.any([timeout, request.signal]) : timeout,
      dispatcher: listed ? open : guarded,
    })
    const header = (name: string): string | null => {
      const value = headers[name.toLowerCase()]
      return Array.isArray(value) ? value.join(', ') : (value ?? null)
    }
    const location = header('location')
    if (location && [301, 302, 307, 308].includes(statusCode)) {
      await body.dump()
      if (redirects >= MAX_REDIRECTS)
        throw new ServiceError('service-error', `${url.host} redirects in a circle.`)
      if (!URL.canParse(location, url.href))
        throw new ServiceError('service-error', `${url.host} redirects to what is no address.`)
      const next = new URL(location, url)
      if (!mayFollow(request, url, next)) throw otherOrigin(url, next)
      return follow({ ...request, url: next.href }, redirects + 1, timed)
    }
    const tooMuch = (): ServiceError =>
      new ServiceError('too-large', `${url.host} sent more than is sensible.`)
    const chunks: Uint8Array[] = []
    let size = 0
    for await (const chunk of body) {
      size += (chunk as Uint8Array).length
      if (size > options.maxBytes) throw tooMuch()
      chunks.push(chunk as Uint8Array)
    }
    const bytes = await unpacked(Buffer.concat(chunks), header('content-encoding'), options.maxBytes).catch(
      (error: unknown) => {
        const code = error instanceof Error && 'code' in error ? error.code : ''
        if (code === 'ERR_BUFFER_TOO_LARGE') throw tooMuch()
        throw new ServiceError('service-error', `${url.host} sent an answer that breaks off.`)
      },
    )
    return { status: statusCode, url: url.href, header, text: new TextDecoder().decode(bytes) }
  }

  return async request => {
    const timed = { out: false }
    try {
      return await follow(request, 0, timed)
    } catch (error) {
      const limit = request.timeoutMs ?? options.timeoutMs
      throw serviceErrorFor(error, request.url, timed.out ? limit : null)
    }
  }
}

/** `timeoutMs`: the time it was given, if that ran out; null where the one who asked stopped waiting. */
function serviceErrorFor(error: unknown, address: string, timeoutMs: number | null): ServiceError {
  if (error instanceof ServiceError) return error
  const cause = error instanceof Error ? (error.cause ?? error) : undefined
  if (cause instanceof ServiceError) return cause
  const { host } = new URL(address)
  if (error instanceof Error && (error.name === 'TimeoutError' || error.name === 'AbortError'))
    return new ServiceError(
      'timeout',
      timeoutMs === null
        ? `${host} did not answer in time.`
        : `${host} did not answer within ${Math.round(timeoutMs / 1000)} seconds.`,
    )
  const code = cause instanceof Error && 'code' in cause ? String(cause.code) : ''
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN')
    return new ServiceError('unreachable', `There is no server called ${host}.`)
  if (code === 'ECONNREFUSED') return new ServiceError('unreachable', `No server answers at ${host}.`)
  if (code === 'ERR_SSL_WRONG_VERSION_NUMBER')
    return new ServiceError(
      'unreachable',
      `${host} answers, but without encryption. If that is meant, begin the address with http://.`,
    )
  if (/CERT|TLS|SSL/.test(code))
    return new ServiceError('unreachable', `${host} does not prove that it is who it says (${code}).`)
  if (code === 'UND_ERR_HEADERS_OVERFLOW')
    return new ServiceError('service-error', `${host} sent more than is sensible.`)
  return new ServiceError('unreachable', `The connection to ${host} broke off.`)
}

const MAX_RETRY_AFTER_MS = 3_600_000

/** `Retry-After` (RFC 9110 §10.2.3), seconds or a date; null when it says neither. */
export function retryAfterMs(header: string | null | undefined, now = Date.now()): number | null {
  if (!header) return null
  const seconds = /^\s*\d+\s*$/.test(header)
  const ms = seconds ? Number(header) * 1000 : /gmt/i.test(header) ? Date.parse(header) - now : NaN
  return Number.isNaN(ms) ? null : Math.min(MAX_RETRY_AFTER_MS, Math.max(0, ms))
}

/** Throws for the answers that mean the same everywhere. */
export function mustBeUsable(answer: OutboundResponse, who: string): void {
  const { status } = answer
  if (status === 401) throw new ServiceError('signed-out', `${who} did not accept these credentials.`)
  const after = retryAfterMs(answer.header('retry-after'))
  if (status === 429 || (status === 503 && after !== null))
    throw new ServiceError('slowed', `${who} asks us to slow down.`, after ?? 5000)
  if (status >= 500)
    throw new ServiceError('service-error', `${who} has trouble of its own (status ${status}).`)
}
