import { Hono } from 'hono'
import { streamSSE } from 'hono/streaming'
import type { Sessions } from '../access/sessions.ts'
import type { Context } from '../sync/context.ts'
import type { Change } from '../sync/changes.ts'
import type { Engine } from '../sync/engine.ts'
import type { SignedIn } from './session.ts'

const BEAT_MS = 15_000
/** Whoever takes so little of what is sent is to come back and ask for all of it. */
const MOST_WAITING = 1_000

/** One stream of numbered changes. A client that comes back says the last number it saw. */
export function liveRoutes(ctx: Context, engine: Engine, sessions: Sessions) {
  return new Hono<SignedIn>().get('/', c => {
    const { workspaceId, id: memberId } = c.get('member')
    const session = c.get('session')
    return streamSSE(c, async stream => {
      const given = Number(c.req.header('Last-Event-ID') ?? c.req.query('since') ?? NaN)
      let sent = Number.isFinite(given) ? given : await ctx.feed.latest(workspaceId)
      let ended = false
      const queue: { seq: number; change: Change }[] = []
      let wake: () => void = () => undefined
      const stop = await ctx.feed.listen(workspaceId, (seq, change) => {
        queue.push({ seq, change })
        if (queue.length > MOST_WAITING) ended = true
        wake()
      })
      const release = sessions.streams.add(session, () => {
        ended = true
        wake()
      })
      stream.onAbort(() => wake())
      try {
        await engine.lookAround(workspaceId)
        queue.unshift(...(await ctx.feed.since(workspaceId, sent)))
        await stream.writeSSE({ event: 'hello', data: String(ctx.now()) })
        while (!stream.aborted && !ended) {
          const next = queue.shift()
          if (next) {
            if (next.seq <= sent) continue
            sent = next.seq
            await stream.write(textOf(next.change, sent, memberId))
            continue
          }
          const beat = await new Promise<boolean>(resolve => {
            const timer = setTimeout(() => resolve(true), BEAT_MS)
            wake = () => {
              clearTimeout(timer)
              resolve(false)
            }
            if (queue.length > 0 || stream.aborted || ended) wake()
          })
          if (!beat || stream.aborted) continue
          // It may have been ended by another process.
          if (!(await sessions.isOpen(session))) break
          await stream.writeSSE({ event: 'beat', data: String(ctx.now()) })
        }
      } finally {
        stop()
        release()
      }
    })
  })
}

const texts = new WeakMap<Change, string>()

/** A change as it is sent: made once for all who hear of it. Only whoever made an edit is told that it was refused. */
function textOf(change: Change, seq: number, memberId: string): string {
  const { topics, refused } = change
  if (refused?.memberId === memberId)
    return `event: change\ndata: ${JSON.stringify({ topics, refused })}\nid: ${seq}\n\n`
  const known = texts.get(change)
  if (known !== undefined) return known
  const text = `event: change\ndata: ${JSON.stringify({ topics })}\nid: ${seq}\n\n`
  texts.set(change, text)
  return text
}
