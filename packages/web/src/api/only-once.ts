import { newId } from './new-id.ts'

/**
 * Requests that change something carry an Idempotency-Key. Two hurried clicks, or a retry after a lost answer,
 * send the same key, so the work is done once and answered alike. An edit always has a new key: to change
 * something back and forth is three edits, two of which look the same.
 */
type Fetch = (input: RequestInfo | URL, init?: RequestInit) => Promise<Response>

/** Two clicks so close to each other are one. */
const HURRY_MS = 1_200
/** For as long as a lost answer may be asked for again. */
const LOST_MS = 60_000

interface Sent {
  request: string
  key: string
  until: number
}

const isEdit = (url: string): boolean => /\/(edit|series)$/.test(url)

export function onlyOnce(
  send: Fetch,
  now: () => number = () => Date.now(),
  newKey: () => string = newId,
): Fetch {
  /** The last request: the same one after another is a new request. */
  let last: Sent | null = null
  return async (input, init = {}) => {
    const method = (init.method ?? 'GET').toUpperCase()
    if (method === 'GET') return send(input, init)
    const url = String(input)
    const request = `${method} ${url} ${typeof init.body === 'string' ? init.body : ''}`
    const isAgain = last?.request === request && last.until >= now() && !isEdit(url)
    const one: Sent = isAgain && last ? last : { request, key: newKey(), until: Infinity }
    last = one
    const headers = new Headers(init.headers)
    headers.set('Idempotency-Key', one.key)
    try {
      const answer = await send(input, { ...init, headers })
      // 202: it is not done yet, and is asked for again until it is.
      one.until = answer.status === 202 ? 0 : now() + HURRY_MS
      return answer
    } catch (error) {
      one.until = now() + LOST_MS
      throw error
    }
  }
}
