import { zValidator } from '@hono/zod-validator'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { lookAtPutBack, putBack } from '../sync/plan/put-back.ts'
import type { SignedIn } from './session.ts'
import { datesAt } from '../data/repositories/series.ts'
import { pairsWith } from '../data/repositories/ties.ts'
import { undoableOfPass, journalEntries, type JournalLine } from '../data/repositories/journal.ts'
import { ruleNames } from '../data/repositories/rules.ts'
import { memberNames } from '../data/repositories/members.ts'
import { connectionNames } from '../data/repositories/connections.ts'
import { parsed } from '../data/json.ts'

/** Journal entries, newest first; all, or those that match. */

const Id = z.string().max(36)
const Wanted = z.object({
  before: z.coerce.number().int().optional(),
  /** In titles. */
  words: z.string().trim().max(200).optional(),
  rule: Id.optional(),
  who: Id.optional(),
  /** A connection. */
  service: Id.optional(),
  field: z.string().max(40).optional(),
  outcome: z.enum(['done', 'refused', 'overridden', 'unknown']).optional(),
  pass: Id.optional(),
  /** A mirror, or one date of a series: the whole history of one item, on both sides. */
  item: z.string().max(80).optional(),
})
const PAGE = 100

/** The item, of a series each of its dates or the one that is meant, and whatever they are or were tied to. */
async function bothSides(ctx: Context, workspaceId: string, item: string): Promise<string[]> {
  const [id = item, occurrence = null] = item.split('@')
  const dates = await datesAt(ctx.db, { id, occurrence })
  const items = [id, ...dates.map(d => d.id)]
  const ties = await pairsWith(ctx.db, { workspaceId, items })
  return [...new Set([...items, ...ties.flatMap(t => [t.a, t.b])])].filter(id => id !== null)
}

const Entries = z.object({ entries: z.array(z.number().int()).min(1).max(500) })

export function journalRoutes(ctx: Context, engine: Engine) {
  return (
    new Hono<SignedIn>()
      .get('/', zValidator('query', Wanted), async c => {
        const { workspaceId } = c.get('member')
        const { item, ...asked } = c.req.valid('query')
        const items = item ? await bothSides(ctx, workspaceId, item) : undefined
        const rows = await journalEntries(ctx.db, workspaceId, { ...asked, items }, PAGE)
        const lines = rows.map(({ fields, ...line }) => ({
          ...(line as JournalLine),
          fields: parsed(fields),
        }))
        return c.json({ lines, more: rows.length === PAGE })
      })
      /** What putting these entries back would do now; nothing is written. */
      .post('/put-back/look', zValidator('json', Entries), async c =>
        c.json({ lines: await lookAtPutBack(ctx, c.get('member').workspaceId, c.req.valid('json').entries) }),
      )
      .post('/put-back', zValidator('json', Entries), async c => {
        const { queued, connections } = await putBack(ctx, c.get('member'), c.req.valid('json').entries)
        if (queued === 0) return c.json({ reason: 'Nothing of this can be put back any more.' }, 409)
        for (const id of connections) engine.kick(id)
        return c.json({ queued })
      })
      /** The entries of one pass, for putting it back whole. */
      .get('/pass/:id', async c => {
        const rows = await undoableOfPass(ctx.db, {
          workspaceId: c.get('member').workspaceId,
          pass: c.req.param('id'),
        })
        return c.json({ entries: rows.map(r => r.id) })
      })
      /** What there is to choose among. */
      .get('/choices', async c => {
        const { workspaceId } = c.get('member')
        return c.json({
          rules: await ruleNames(ctx.db, { workspaceId }),
          people: await memberNames(ctx.db, { workspaceId }),
          services: await connectionNames(ctx.db, { workspaceId }),
        })
      })
  )
}
