import { Hono } from 'hono'
import { streamSSE } from 'hono/streaming'
import { audibleTo } from '../access/audible.ts'
import type { Sessions } from '../access/sessions.ts'
import type { Context } from '../context/context.ts'
import type { Change } from '../data/change.ts'
import type { Numbered } from '../data/change-feed.ts'
import type { Engine } from '../sync/engine/engine.ts'
import type { SignedIn } from './session.ts'

const BEAT_MS = 15_000
/** A client that reads too slowly is disconnected, and asks for everything when it returns. */
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
      let isOver = false
      const queue: Numbered[] = []
      let wake: () => void = () => undefined
      const stop = await ctx.feed.listen(workspaceId, changes => {
        queue.push(...changes)
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
        // The same session may go on in another workspace: a page of this one begins anew then.
        await stream.writeSSE({ event: 'hello', data: workspaceId })
        while (!stream.aborted && !ended) {
          const fresh = queue.splice(0).filter(({ seq }) => seq > sent)
          const last = fresh.at(-1)
          if (last) {
            const from = sent
            sent = last.seq
            // Somebody may have been removed, at another process too.
            isOver = fresh.some(f => f.change.topics.includes('team')) && !(await sessions.isOpen(session))
            if (isOver) break
            const heard = await audibleTo(ctx.db, c.get('member'), fresh, from)
            if (heard.length > 0) await stream.write(textOf(heard, memberId))
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
          isOver = !(await sessions.isOpen(session))
          if (isOver) break
          await stream.writeSSE({ event: 'beat', data: String(ctx.now()) })
        }
        if (stream.aborted) return
        // Signed out from elsewhere, or removed: the page is to keep nothing.
        if (!(await sessions.isKnown(session))) await stream.writeSSE({ event: 'ended', data: '' })
        // Or a proof is owed: whatever the page asks for next says so.
        else if (isOver)
          await stream.writeSSE({ event: 'change', data: JSON.stringify({ topics: ['team'] }) })
      } finally {
        stop()
        release()
      }
    })
  })
}

const texts = new WeakMap<Change, { of: string; text: string }>()

/** Changes as they are sent: all but the refused as one, made once for all who hear of them. */
function textOf(changes: readonly Numbered[], memberId: string): string {
  const [first] = changes
  const last = changes.at(-1)
  if (!first || !last) return ''
  // Only the author of an edit is told that it was refused.
  const refused = changes.flatMap(({ change: c }) => (c.refused?.memberId === memberId ? [c.refused] : []))
  const of = changes.map(c => c.seq).join()
  const known = refused.length === 0 ? texts.get(first.change) : undefined
  if (known?.of === of) return known.text
  const topics = [...new Set(changes.flatMap(({ change }) => change.topics))]
  const refusals = refused.map(r => `event: change\ndata: ${JSON.stringify({ topics, refused: r })}\n\n`)
  const text = `${refusals.join('')}event: change\ndata: ${JSON.stringify({ topics })}\nid: ${last.seq}\n\n`
  if (refused.length === 0) texts.set(first.change, { of, text })
  return text
}
