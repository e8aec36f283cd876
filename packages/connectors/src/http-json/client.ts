import { ServiceError } from '../connector.ts'
import { mustBeUsable, type Outbound, type OutboundResponse } from '../outbound.ts'
import type { Pace } from '../pace.ts'
import type { Request, ServiceDescription } from './description.ts'
import { baseOf } from './address.ts'
import { type OAuthTokens, refreshTokens, type SignInPlace } from './oauth.ts'
import { textAt, valueAt } from './pointer.ts'
import { fill, type Variables } from './template.ts'

/** Credentials; the description says which of them are used. */
export interface JsonCredentials {
  key?: string | undefined
  user?: string | undefined
  password?: string | undefined
  tokens?: OAuthTokens | undefined
  /** Origins that the person agreed to beside that of the address. */
  alsoAt?: string[] | undefined
}

export interface Answer {
  status: number
  json: unknown
  header: OutboundResponse['header']
}

export interface ClientOptions {
  http: Outbound
  now: () => number
  pace: Pace | null
  signal?: AbortSignal
  /** Tokens were renewed and must be kept. */
  onTokens?: (tokens: OAuthTokens) => Promise<void>
}

/** Renewed a little early, so that none runs out on its way. */
const EARLY_MS = 30_000

/** Sends a description's requests: base address, sign-in, limits, and what failures look like. */
export class JsonClient {
  readonly host: string
  /** The service's clock minus ours, ms. */
  skew = 0
  private readonly base: string
  private readonly at: SignInPlace
  private renewing: Promise<void> | null = null

  constructor(
    private readonly description: ServiceDescription,
    address: string,
    private readonly credentials: JsonCredentials,
    private readonly options: ClientOptions,
  ) {
    this.base = baseOf(address, description.base)
    this.host = new URL(this.base).host
    this.at = { address, alsoAt: credentials.alsoAt ?? [] }
  }

  private authorization(): Record<string, string> {
    const { signIn } = this.description
    const { key = '', user = '', password = '', tokens } = this.credentials
    switch (signIn.kind) {
      case 'bearer':
        return { Authorization: `Bearer ${key}` }
      case 'header':
        return { [signIn.name]: key }
      case 'basic':
        return { Authorization: `Basic ${Buffer.from(`${user}:${password}`).toString('base64')}` }
      case 'oauth2':
        return { Authorization: `Bearer ${tokens?.access ?? ''}` }
    }
  }

  /** Several requests that find the token old wait for one renewal. */
  private renew(): Promise<void> {
    this.renewing ??= this.renewNow().finally(() => {
      this.renewing = null
    })
    return this.renewing
  }

  private async renewNow(): Promise<void> {
    const { signIn } = this.description
    const { tokens } = this.credentials
    if (signIn.kind !== 'oauth2' || !tokens) return
    const fresh = await refreshTokens(signIn, this.at, tokens, this.options.http, Date.now())
    this.credentials.tokens = fresh
    await this.options.onTokens?.(fresh)
  }

  /** Statuses in `expected` are for the caller; null when there is nothing at this address. */
  async send(
    request: Request,
    vars: Variables,
    more: Record<string, string | undefined> = {},
    expected: readonly number[] = [],
  ): Promise<Answer | null> {
    return this.follow(fill(request, vars, more), expected)
  }

  /** `path` may be one that a Link header named. */
  async follow(
    {
      method,
      path,
      headers,
      body,
    }: { method: string; path: string; headers: Record<string, string>; body: string | undefined },
    expected: readonly number[] = [],
    again = false,
  ): Promise<Answer | null> {
    const { tokens } = this.credentials
    if (tokens?.expiresAt && tokens.expiresAt - EARLY_MS < Date.now()) await this.renew()
    await this.options.pace?.turn()
    const full = /^https?:\/\//i.test(path) ? path : `${this.base}${path.startsWith('/') ? '' : '/'}${path}`
    if (!URL.canParse(full)) throw new ServiceError('service-error', `${this.host} names what is no address.`)
    const url = new URL(full)
    // What opens this service is shown to no other.
    if (url.origin !== new URL(this.base).origin)
      throw new ServiceError('service-error', `${this.host} names another server for its next page.`)
    const answer = await this.options.http({
      method,
      url: url.href,
      headers: {
        Accept: 'application/json',
        ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
        ...this.authorization(),
        ...headers,
      },
      ...(body === undefined ? {} : { body }),
      ...(this.options.signal ? { signal: this.options.signal } : {}),
      ...(this.credentials.alsoAt && { alsoAt: this.credentials.alsoAt }),
    })
    if (answer.status === 401 && !again && this.description.signIn.kind === 'oauth2') {
      await this.renew()
      return this.follow({ method, path, headers, body }, expected, true)
    }
    mustBeUsable(answer, this.host)
    const date = Date.parse(answer.header('date') ?? '')
    // Its Date is told in whole seconds; less than two of them say nothing.
    if (!this.description.clock && !Number.isNaN(date)) {
      const off = date - this.options.now()
      this.skew = Math.abs(off) > 2000 ? off : 0
    }
    const json = parsed(answer.text)
    if (expected.includes(answer.status)) return { status: answer.status, json, header: answer.header }
    if (answer.status === 404 || answer.status === 410) return null
    if (json === undefined && answer.text.trim() !== '')
      throw new ServiceError('not-this-protocol', this.notThis(answer.text))
    if (answer.status >= 400)
      throw new ServiceError(
        'refused',
        `${this.host} refused it: ${reasonIn(json) || `status ${answer.status}`}.`,
      )
    return this.failing(json) ? null : { status: answer.status, json, header: answer.header }
  }

  notThis(text = ''): string {
    const how = /^\s*</.test(text) ? 'with a web page, not' : 'but not'
    return `${this.host} answers, ${how} as ${this.description.name}.`
  }

  /** For services that answer 200 to everything. Returns whether there is nothing at this address. */
  private failing(json: unknown): boolean {
    const { failure } = this.description
    if (!failure || valueAt(json, failure.ok.at) === failure.ok.is) return false
    const code = textAt(json, failure.code)
    if (failure.missing.includes(code)) return true
    if (failure.signedOut.includes(code))
      throw new ServiceError('signed-out', `${this.host} did not accept these credentials.`)
    if (failure.slowed.includes(code)) {
      const seconds = Number(textAt(json, failure.waitSeconds)) || 5
      throw new ServiceError('slowed', `${this.host} asks us to slow down.`, Math.min(3600, seconds) * 1000)
    }
    if (failure.conflict.includes(code)) throw new Changed()
    const words = textAt(json, failure.words) || code
    if (!words) throw new ServiceError('not-this-protocol', this.notThis())
    throw new ServiceError('refused', `${this.host} refused it: ${words.replace(/\.$/, '')}.`)
  }
}

/** The service says that what we wrote upon has changed. */
export class Changed extends Error {}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return undefined
  }
}

/** Services put their reason under one of a few names; at most a line of it is shown. */
function reasonIn(json: unknown): string {
  const found = ['/error', '/message', '/why', '/problem', '/reason', '/error/message', '/detail']
    .map(p => textAt(json, p))
    .find(Boolean)
  return (found ?? '').replace(/\s+/g, ' ').slice(0, 200).replace(/\.$/, '')
}
