import { Hono } from 'hono'
import { streamSSE } from 'hono/streaming'
import type { Context } from '../sync/context.ts'
import type { Change } from '../sync/changes.ts'
import type { Engine } from '../sync/engine.ts'
import type { SignedIn } from './session.ts'

const BEAT_MS = 15_000

/** One stream of numbered changes. A client that comes back says the last number it saw. */
export function liveRoutes(ctx: Context, engine: Engine) {
  return new Hono<SignedIn>().get('/', c => {
    const { workspaceId, id: memberId } = c.get('member')
    return streamSSE(c, async stream => {
      const given = Number(c.req.header('Last-Event-ID') ?? c.req.query('since') ?? NaN)
      let sent = Number.isFinite(given) ? given : await ctx.feed.latest(workspaceId)
      const queue: { seq: number; change: Change }[] = []
      let wake: () => void = () => undefined
      const stop = await ctx.feed.listen(workspaceId, (seq, change) => {
        queue.push({ seq, change })
        wake()
      })
      await engine.lookAround(workspaceId)
      stream.onAbort(() => {
        stop()
        wake()
      })
      queue.unshift(...(await ctx.feed.since(workspaceId, sent)))
      await stream.writeSSE({ event: 'hello', data: String(ctx.now()) })
      while (!stream.aborted) {
        const next = queue.shift()
        if (next) {
          if (next.seq <= sent) continue
          sent = next.seq
          const { topics, refused } = next.change
          // Only whoever made the edit is told that it was refused.
          const mine = refused?.memberId === memberId ? { refused } : {}
          await stream.writeSSE({
            id: String(sent),
            event: 'change',
            data: JSON.stringify({ topics, ...mine }),
          })
          continue
        }
        const beat = await new Promise<boolean>(resolve => {
          const timer = setTimeout(() => resolve(true), BEAT_MS)
          wake = () => {
            clearTimeout(timer)
            resolve(false)
          }
          if (queue.length > 0 || stream.aborted) wake()
        })
        if (beat && !stream.aborted) await stream.writeSSE({ event: 'beat', data: String(ctx.now()) })
      }
    })
  })
}
