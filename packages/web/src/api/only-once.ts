/**
 * Requests that change something carry an Idempotency-Key. Whoever clicks twice in a hurry, or tries again after the
 * answer was lost, sends the same key, so that it is carried out once and answered alike.
 */
type Fetch = (input: RequestInfo | URL, init?: RequestInit) => Promise<Response>

/** Two clicks so close to each other are one. */
const HURRY_MS = 1_200
/** For as long as a lost answer may be asked for again. */
const LOST_MS = 60_000

interface Sent {
  key: string
  until: number
}

export function onlyOnce(
  send: Fetch,
  now: () => number = () => Date.now(),
  newKey: () => string = () => crypto.randomUUID(),
): Fetch {
  const sent = new Map<string, Sent>()
  return async (input, init = {}) => {
    const method = (init.method ?? 'GET').toUpperCase()
    if (method === 'GET') return send(input, init)
    const same = `${method} ${String(input)} ${typeof init.body === 'string' ? init.body : ''}`
    for (const [request, { until }] of sent) if (until < now()) sent.delete(request)
    const one = sent.get(same) ?? { key: newKey(), until: 0 }
    one.until = Infinity
    sent.set(same, one)
    const headers = new Headers(init.headers)
    headers.set('Idempotency-Key', one.key)
    try {
      const answer = await send(input, { ...init, headers })
      one.until = now() + HURRY_MS
      return answer
    } catch (error) {
      one.until = now() + LOST_MS
      throw error
    }
  }
}
