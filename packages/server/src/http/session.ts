import { getConnInfo } from '@hono/node-server/conninfo'
import { zValidator } from '@hono/zod-validator'
import { Hono, type MiddlewareHandler } from 'hono'
import { deleteCookie, getCookie, setCookie } from 'hono/cookie'
import { z } from 'zod'
import { type Asking, SESSION_MS, type Sessions } from '../access/sessions.ts'

const COOKIE = 'loom_session'

export interface SignedIn {
  Variables: { member: Asking }
}

/** Only for members; everybody else is asked to sign in. */
export function membersOnly(sessions: Sessions): MiddlewareHandler<SignedIn> {
  return async (c, next) => {
    const token = getCookie(c, COOKIE)
    const member = token ? await sessions.memberOf(token) : null
    if (!member) return c.json({ reason: 'Sign in first.' }, 401)
    c.set('member', member)
    await next()
    return undefined
  }
}

const Credentials = z.object({ email: z.string().max(320), password: z.string().max(500) })

export function sessionRoutes(sessions: Sessions, now: () => number) {
  return new Hono()
    .post('/', zValidator('json', Credentials), async c => {
      const { email, password } = c.req.valid('json')
      const result = await sessions.signIn(email, password, getConnInfo(c).remote.address ?? '')
      if (result === 'wait')
        return c.json({ reason: 'Too many tries. Wait five minutes, then try again.' }, 429)
      if (!result) return c.json({ reason: 'This address and password do not go together.' }, 403)
      setCookie(c, COOKIE, result.token, {
        httpOnly: true,
        sameSite: 'Lax',
        path: '/',
        maxAge: SESSION_MS / 1000,
        secure: new URL(c.req.url).protocol === 'https:',
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
