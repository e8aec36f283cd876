import type { HttpBindings } from '@hono/node-server'
import { RESPONSE_ALREADY_SENT } from '@hono/node-server/utils/response'
import { now } from './clock.ts'
import type { Context, MiddlewareHandler } from 'hono'

/** Trouble that can be switched on for one service, so that connectors meet it before a customer does. */
export interface Faults {
  latencyMs?: number
  /** Answers this status instead of doing anything. */
  status?: number
  /** Seconds, sent with `status`. */
  retryAfter?: number
  /** Closes the connection without an answer, before or after the request took effect. */
  drop?: 'before' | 'after'
  /** Answers a web page where data was expected. */
  html?: boolean
  /** Takes the request and never answers. */
  hang?: boolean
  /** Notifications never leave, come three times each, or come late and in the wrong order. */
  notifications?: 'lost' | 'repeated' | 'reordered'
  /** Every sign-in counts as expired. */
  expired?: boolean
  /** No token for changes is taken any more. */
  staleToken?: boolean
  /** Listings leave out every third item and say that this was all. */
  incomplete?: boolean
  /** Listings show what was so this long ago, or at this instant (epoch ms); asking by id shows what is so. */
  lagMs?: number
  asOf?: number
  /** A feed that has lost everything in it. */
  empty?: boolean
  /** The service's clock goes wrong by this much. */
  skewMs?: number
  /** Only requests of this method. */
  method?: string
  /** Only requests to an address with this in it. */
  path?: string
  /** How many requests it happens to; without it, until it is switched off. */
  times?: number
}

export class FaultSwitch {
  current: Faults = {}

  /** The service's own time, epoch ms. */
  clock = (): number => now() + (this.current.skewMs ?? 0)

  /** What is left of a listing when it is incomplete. */
  listed = <T>(items: T[]): T[] => (this.current.incomplete ? items.filter((_, i) => i % 3 !== 2) : items)

  /** The instant of which listings tell, epoch ms. */
  listedAt = (): number => this.current.asOf ?? now() - (this.current.lagMs ?? 0)

  middleware(): MiddlewareHandler<{ Bindings: HttpBindings }> {
    return async (c, next) => {
      const faults = this.take(c.req.method, c.req.path)
      if (!faults) return next()
      if (faults.latencyMs) await new Promise(resolve => setTimeout(resolve, faults.latencyMs))
      if (faults.hang) return new Promise(() => undefined)
      if (faults.drop === 'before') return this.drop(c)
      if (faults.expired) return c.json({ error: 'the sign-in has expired' }, 401)
      if (faults.status) {
        const headers = faults.retryAfter ? { 'Retry-After': String(faults.retryAfter) } : undefined
        return c.text('switched on for a trial', faults.status as 500, headers)
      }
      if (faults.html) return c.html('<!doctype html><title>Welcome</title><h1>Under maintenance</h1>')
      await next()
      if (faults.drop === 'after') c.res = this.drop(c)
      else if (faults.skewMs) c.res.headers.set('Date', new Date(now() + faults.skewMs).toUTCString())
      return undefined
    }
  }

  private take(method: string, path: string): Faults | null {
    const faults = this.current
    if (Object.keys(faults).length === 0 || (faults.method && faults.method !== method)) return null
    if (faults.path && !path.includes(faults.path)) return null
    if (faults.times !== undefined) {
      if (faults.times <= 0) return null
      this.current = { ...faults, times: faults.times - 1 }
    }
    return faults
  }

  private drop(c: Context<{ Bindings: HttpBindings }>): Response {
    c.env.outgoing.destroy()
    return RESPONSE_ALREADY_SENT
  }
}
