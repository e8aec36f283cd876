import type { HttpBindings } from '@hono/node-server'
import { RESPONSE_ALREADY_SENT } from '@hono/node-server/utils/response'
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
  /** Signed notifications are not sent. */
  silent?: boolean
  /** Only requests of this method. */
  method?: string
  /** How many requests it happens to; without it, until it is switched off. */
  times?: number
}

export class FaultSwitch {
  current: Faults = {}

  middleware(): MiddlewareHandler<{ Bindings: HttpBindings }> {
    return async (c, next) => {
      const faults = this.take(c.req.method)
      if (!faults) return next()
      if (faults.latencyMs) await new Promise(resolve => setTimeout(resolve, faults.latencyMs))
      if (faults.hang) return new Promise(() => undefined)
      if (faults.drop === 'before') return this.drop(c)
      if (faults.status) {
        const headers = faults.retryAfter ? { 'Retry-After': String(faults.retryAfter) } : undefined
        return c.text('switched on for a trial', faults.status as 500, headers)
      }
      if (faults.html) return c.html('<!doctype html><title>Welcome</title><h1>Under maintenance</h1>')
      await next()
      if (faults.drop === 'after') c.res = this.drop(c)
      return undefined
    }
  }

  private take(method: string): Faults | null {
    const faults = this.current
    if (Object.keys(faults).length === 0 || (faults.method && faults.method !== method)) return null
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
