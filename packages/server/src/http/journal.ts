import { zValidator } from '@hono/zod-validator'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { lookAtPutBack, putBack } from '../sync/plan/put-back.ts'
import type { SignedIn } from './session.ts'
import { datesAt } from '../data/repositories/series.ts'
import { pairsWith } from '../data/repositories/ties.ts'
import {
  entriesToPutBack,
  type SeenLines,
  undoableOfPass,
  journalEntries,
} from '../data/repositories/journal.ts'
import { ruleNames } from '../data/repositories/rules.ts'
import { memberNames } from '../data/repositories/members.ts'
import { connectionNames, connectionsHolding } from '../data/repositories/connections.ts'
import { sightIn } from '../access/sight.ts'
import type { Sql } from '../data/database.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { rulesToChange } from '../sync/rules/rule-rights.ts'
import { withNames } from '../sync/log/named-accounts.ts'
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

/** Which lines somebody may see, and which rules they may change. */
async function journalOf(sql: Sql, member: Member): Promise<{ seen: SeenLines; mine: string[] }> {
  const [sight, mine] = await Promise.all([sightIn(sql, member), rulesToChange(sql, member)])
  return { seen: sight.wholeLists(), mine: [...mine] }
}

const toPutBack = async (ctx: Context, member: Member, ids: readonly number[]): Promise<number[]> =>
  entriesToPutBack(ctx.db, { workspaceId: member.workspaceId, ids, ...(await journalOf(ctx.db, member)) })

const Entries = z.object({ entries: z.array(z.number().int()).min(1).max(500) })

export function journalRoutes(ctx: Context, engine: Engine) {
  return (
    new Hono<SignedIn>()
      .get('/', zValidator('query', Wanted), async c => {
        const { workspaceId } = c.get('member')
        const { item, ...asked } = c.req.valid('query')
        const items = item ? await bothSides(ctx, workspaceId, item) : undefined
        const may = await journalOf(ctx.db, c.get('member'))
        const rows = await journalEntries(ctx.db, workspaceId, { ...asked, items }, { most: PAGE, ...may })
        const written = rows.map(row => ({ ...row, fields: parsed(row.fields) }))
        const lines = (await withNames(ctx.db, written)).map(({ collection: _, ...line }) => line)
        return c.json({ lines, more: rows.length === PAGE })
      })
      /** What putting these entries back would do now; nothing is written. */
      .post('/put-back/look', zValidator('json', Entries), async c => {
        const member = c.get('member')
        const entries = await toPutBack(ctx, member, c.req.valid('json').entries)
        return c.json({ lines: await lookAtPutBack(ctx, member.workspaceId, entries) })
      })
      .post('/put-back', zValidator('json', Entries), async c => {
        const member = c.get('member')
        const entries = await toPutBack(ctx, member, c.req.valid('json').entries)
        const { queued, connections } = await putBack(ctx, member, entries)
        if (queued === 0) return c.json({ reason: 'Nothing of this can be put back any more.' }, 409)
        for (const id of connections) engine.kick(id)
        return c.json({ queued })
      })
      /** The entries of one pass, for putting it back whole. */
      .get('/pass/:id', async c => {
        const rows = await undoableOfPass(ctx.db, {
          workspaceId: c.get('member').workspaceId,
          pass: c.req.param('id'),
          ...(await journalOf(ctx.db, c.get('member'))),
        })
        return c.json({ entries: rows.map(r => r.id) })
      })
      /** What there is to choose among. */
      .get('/choices', async c => {
        const { workspaceId } = c.get('member')
        const mine = await rulesToChange(ctx.db, c.get('member'))
        const sight = await sightIn(ctx.db, c.get('member'))
        const seen = await connectionsHolding(ctx.db, { workspaceId, lists: sight.withAtLeast('everything') })
        return c.json({
          rules: (await ruleNames(ctx.db, { workspaceId })).filter(r => mine.has(r.id)),
          people: await memberNames(ctx.db, { workspaceId }),
          services: (await connectionNames(ctx.db, { workspaceId })).filter(n => seen.has(n.id)),
        })
      })
  )
}
