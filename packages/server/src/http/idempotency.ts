import type { Context as HonoContext, MiddlewareHandler } from 'hono'
import { type OnceOnly, onceOnly, Repeated, putAnswer, answerTo, forgetRequest } from '../data/once-only.ts'
import type { Context } from '../context/context.ts'
import type { SignedIn } from './session.ts'

/**
 * A request with an Idempotency-Key is carried out once. The key is stored in the transaction that does the work,
 * and a repeated request gets the first answer.
 */
const HEADER = 'Idempotency-Key'
const KEY = /^[\w-]{8,64}$/
const MOST_KEPT = 200_000
/** How long the first answer is waited for, where it is still being worked out. */
const WAIT_MS = 10_000
const LOOK_MS = 50

export function idempotent(ctx: Context): MiddlewareHandler<SignedIn> {
  return async (c, next) => {
    const key = c.req.header(HEADER)
    if (key === undefined || c.req.method === 'GET') return next()
    if (!KEY.test(key)) return c.json({ reason: `${HEADER} must be 8 to 64 letters, digits, _ or -.` }, 400)
    const request: OnceOnly = { memberId: c.get('member').id, key, written: false }
    await onceOnly.run(request, next)
    // 202: what was asked for is still to be done, so that asking again is another request.
    if (request.written && c.res.status === 202) await forgetRequest(ctx.db, request)
    else if (request.written && c.res.status < 500) await keepAnswer(ctx, request, c.res.clone())
    return undefined
  }
}

async function keepAnswer(ctx: Context, { memberId, key }: OnceOnly, answer: Response): Promise<void> {
  const body = await answer.text()
  await putAnswer(ctx.db, {
    memberId,
    key,
    status: answer.status,
    body: body.length <= MOST_KEPT ? body : null,
  })
}

/** What the first of several identical requests was answered; null for an error that is none of this. */
export async function answerAgain(ctx: Context, c: HonoContext, error: unknown): Promise<Response | null> {
  if (!(error instanceof Repeated)) return null
  const { memberId, key } = error.request
  for (const until = Date.now() + WAIT_MS; Date.now() < until;) {
    const first = await answerTo(ctx.db, { memberId, key })
    if (first?.status != null && first.body !== null)
      return new Response(first.body, {
        status: first.status,
        headers: { 'Content-Type': 'application/json', 'Cache-Control': 'no-store' },
      })
    await new Promise(resolve => setTimeout(resolve, LOOK_MS))
  }
  return c.json({ reason: 'This was done already. Look at what is there now.' }, 409)
}
