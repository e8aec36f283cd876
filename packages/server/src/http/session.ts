import { zValidator } from '@hono/zod-validator'
import { type Context, Hono, type MiddlewareHandler } from 'hono'
import { deleteCookie, getCookie, setCookie } from 'hono/cookie'
import { z } from 'zod'
import type { Limit } from '../access/limits.ts'
import { hashOf } from '../access/secrets.ts'
import { type From, SESSION_MS, type Sessions } from '../access/sessions.ts'
import type { Asking } from '../data/repositories/sessions.ts'

export const COOKIE = 'loom_session'

export interface SignedIn {
  /** `session`: what its streams are counted by. */
  Variables: { member: Asking; session: string }
}

/** What somebody who only looks may do to what is theirs alone. */
const OF_READERS = /^\/api\/(me|account|session|presence|time|reminders|team\/leave)(\/|$)/

/** Readers change nothing in the workspace. What asks by POST and changes nothing is refused to them as well. */
export const noReaders: MiddlewareHandler<SignedIn> = async (c, next) => {
  const { role } = c.get('member')
  if (role === 'reader' && c.req.method !== 'GET' && !OF_READERS.test(c.req.path))
    return c.json({ reason: 'You are a reader here: you see this workspace and change nothing in it.' }, 403)
  return next()
}

/** What is open while more than a password is still to be given: giving it, or setting it up where there is nothing yet. */
const MEANWHILE = {
  proof: /^\/api\/account\/second(\/(code|passkey(\/options)?))?$/,
  setup: /^\/api\/account\/(second(\/codes(\/confirm)?)?|passkeys(\/options)?)$/,
}

/** Only for members; everybody else is asked to sign in. */
export function membersOnly(sessions: Sessions): MiddlewareHandler<SignedIn> {
  return async (c, next) => {
    const token = getCookie(c, COOKIE)
    const member = token ? await sessions.memberOf(token) : null
    if (!member) return c.json({ reason: 'Sign in first.' }, 401)
    if (member.owes !== null && !MEANWHILE[member.owes].test(c.req.path))
      return c.json({ reason: 'One more step: show that it is you.', needs: 'second' as const }, 403)
    c.set('member', member)
    c.set('session', hashOf(token ?? ''))
    await next()
    return undefined
  }
}

const Credentials = z.object({ email: z.string().max(320), password: z.string().max(500) })

export const inWords = (seconds: number): string =>
  seconds < 90 ? `${seconds} seconds` : `${Math.ceil(seconds / 60)} minutes`

/** Refuses what is done too often. @param who by whom it is counted; null where it is not */
export const notTooOften =
  (limit: Limit, who: (c: Context<SignedIn>) => string | null): MiddlewareHandler<SignedIn> =>
  async (c, next) => {
    const counted = who(c)
    const wait = counted === null ? null : await limit.count(counted)
    if (wait === null) return next()
    c.header('Retry-After', String(wait))
    return c.json({ reason: `Too many tries. Try again in ${inWords(wait)}.` }, 429)
  }

export const NOWHERE = { reason: 'You are in no workspace any more. Ask a coordinator to invite you.' }
export const BY_NUMBER = {
  reason: 'Browsers keep passkeys for names, not for numbers. Open this page by its name, such as localhost.',
}

export interface SessionTerms {
  now: () => number
  addressOf: (c: Context) => string
  /** Whether people reach us by https. */
  secure: boolean
}

/** The browser keeps it; pages cannot read it. */
export function giveSession(c: Context, { secure }: SessionTerms, token: string): void {
  setCookie(c, COOKIE, token, {
    httpOnly: true,
    sameSite: 'Lax',
    path: '/',
    maxAge: SESSION_MS / 1000,
    secure,
  })
}

export const fromOf = (c: Context, { addressOf }: SessionTerms): From => ({
  source: addressOf(c),
  device: c.req.header('User-Agent') ?? '',
})

export function sessionRoutes(sessions: Sessions, terms: SessionTerms) {
  return new Hono()
    .post('/', zValidator('json', Credentials), async c => {
      const { email, password } = c.req.valid('json')
      const result = await sessions.signIn(email, password, fromOf(c, terms))
      switch (result.kind) {
        case 'wrong':
          return c.json({ reason: 'Wrong mail address or password.' }, 403)
        case 'nowhere':
          return c.json(NOWHERE, 403)
        case 'wait':
          c.header('Retry-After', String(result.seconds))
          return c.json({ reason: `Too many tries. Try again in ${inWords(result.seconds)}.` }, 429)
        case 'in':
          giveSession(c, terms, result.token)
          return c.json({ ok: true as const })
      }
    })
    .get('/', async c => {
      const token = getCookie(c, COOKIE)
      const member = token ? await sessions.memberOf(token) : null
      if (!member) return c.json({ reason: 'Nobody is signed in.' }, 401)
      const { name, email, zone, role, workspaceId, owes } = member
      return c.json({ name, email, zone, role, workspaceId, owes, now: terms.now() })
    })
    .delete('/', async c => {
      const token = getCookie(c, COOKIE)
      if (token) await sessions.signOut(token)
      deleteCookie(c, COOKIE, { path: '/' })
      return c.json({ ok: true as const })
    })
}
