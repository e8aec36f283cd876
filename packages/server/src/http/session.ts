import { zValidator } from '@hono/zod-validator'
import { type Context, Hono, type MiddlewareHandler } from 'hono'
import { deleteCookie, getCookie, setCookie } from 'hono/cookie'
import { z } from 'zod'
import { hashOf } from '../access/secrets.ts'
import { SESSION_MS, type Sessions } from '../access/sessions.ts'
import type { Asking } from '../data/repositories/sessions.ts'

const COOKIE = 'loom_session'

export interface SignedIn {
  /** `session`: what its streams are counted by. */
  Variables: { member: Asking; session: string }
}

/** Only for members; everybody else is asked to sign in. */
export function membersOnly(sessions: Sessions): MiddlewareHandler<SignedIn> {
  return async (c, next) => {
    const token = getCookie(c, COOKIE)
    const member = token ? await sessions.memberOf(token) : null
    if (!member) return c.json({ reason: 'Sign in first.' }, 401)
    c.set('member', member)
    c.set('session', hashOf(token ?? ''))
    await next()
    return undefined
  }
}

const Credentials = z.object({ email: z.string().max(320), password: z.string().max(500) })

const inWords = (seconds: number): string =>
  seconds < 90 ? `${seconds} seconds` : `${Math.ceil(seconds / 60)} minutes`

interface SessionTerms {
  now: () => number
  addressOf: (c: Context) => string
  /** Whether people reach us by https. */
  secure: boolean
}

export function sessionRoutes(sessions: Sessions, { now, addressOf, secure }: SessionTerms) {
  return new Hono()
    .post('/', zValidator('json', Credentials), async c => {
      const { email, password } = c.req.valid('json')
      const result = await sessions.signIn(email, password, addressOf(c))
      if (!result) return c.json({ reason: 'Wrong mail address or password.' }, 403)
      if ('wait' in result) {
        c.header('Retry-After', String(result.wait))
        return c.json({ reason: `Too many tries. Try again in ${inWords(result.wait)}.` }, 429)
      }
      setCookie(c, COOKIE, result.token, {
        httpOnly: true,
        sameSite: 'Lax',
        path: '/',
        maxAge: SESSION_MS / 1000,
        secure,
      })
      return c.json({ ok: true as const })
    })
    .get('/', async c => {
      const token = getCookie(c, COOKIE)
      const member = token ? await sessions.memberOf(token) : null
      if (!member) return c.json({ reason: 'Nobody is signed in.' }, 401)
      const { name, email, zone } = member
      return c.json({ name, email, zone, now: now() })
    })
    .delete('/', async c => {
      const token = getCookie(c, COOKIE)
      if (token) await sessions.signOut(token)
      deleteCookie(c, COOKIE, { path: '/' })
      return c.json({ ok: true as const })
    })
}
