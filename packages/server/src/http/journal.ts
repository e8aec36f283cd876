import { zValidator } from '@hono/zod-validator'
import type { FieldChange } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { lookAtPutBack, putBack } from '../sync/plan/put-back.ts'
import type { SignedIn } from './session.ts'

/** What was written, newest first; all of it, or what a person looks for. */

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

interface Line {
  id: number
  at: number
  title: string
  place: string
  op: 'create' | 'patch' | 'delete' | 'override'
  cause: string
  outcome: 'done' | 'refused' | 'overridden' | 'unknown'
  reason: string | null
  who: string | null
  rule: string | null
  item: string | null
  tookMs: number | null
  /** The pass it belongs to; null for what people did. */
  pass: string | null
  undoneAt: number | null
  /** Whether a rule wrote this and it may be put back. */
  undoable: number
}

const RULE_NAME = `IFNULL(r.name, CONCAT(a.name, ' ⇄ ', b.name))`
/** For LIKE: what somebody types is text, whatever is in it. */
const like = (text: string): string => `%${text.toLowerCase().replace(/[\\%_]/g, c => `\\${c}`)}%`

/** The item, of a series each of its dates or the one that is meant, and whatever they are or were tied to. */
async function bothSides(ctx: Context, workspaceId: string, item: string): Promise<string[]> {
  const [id = item, occurrence = null] = item.split('@')
  const dates = await ctx.db.rows<{ id: string }>(
    'SELECT id FROM mirrors WHERE series_id = :id AND (:occurrence IS NULL OR occurrence = :occurrence)',
    { id, occurrence },
  )
  const items = [id, ...dates.map(d => d.id)]
  const ties = await ctx.db.rows<{ a: string; b: string }>(
    `SELECT a_mirror AS a, b_mirror AS b FROM ties
     WHERE workspace_id = :workspaceId AND (a_mirror IN (:items) OR b_mirror IN (:items))`,
    { workspaceId, items },
  )
  return [...new Set([...items, ...ties.flatMap(t => [t.a, t.b])])].filter(id => id !== null)
}

const Entries = z.object({ entries: z.array(z.number().int()).min(1).max(500) })

export function journalRoutes(ctx: Context, engine: Engine) {
  return (
    new Hono<SignedIn>()
      .get('/', zValidator('query', Wanted), async c => {
        const { workspaceId } = c.get('member')
        const { before, words, rule, who, service, field, outcome, item, pass } = c.req.valid('query')
        const where = [
          'j.workspace_id = :workspaceId AND j.id < :before',
          words && 'LOWER(j.title) LIKE :words',
          rule && 'j.rule_id = :rule',
          who && 'j.member_id = :who',
          service && 'j.collection_id IN (SELECT id FROM collections WHERE connection_id = :service)',
          field && 'j.fields LIKE :field',
          outcome && 'j.outcome = :outcome',
          item && 'j.mirror_id IN (:items)',
          pass && 'j.pass_id = :pass',
        ].filter(Boolean)
        const rows = await ctx.db.rows<Line & { fields: string }>(
          `SELECT j.id, j.at, j.title, j.place, j.op, j.cause, j.outcome, j.reason, j.took_ms AS tookMs, j.fields,
             j.pass_id AS pass, j.undone_at AS undoneAt,
             (j.rule_id IS NOT NULL AND j.outcome = 'done' AND j.op <> 'override' AND j.undone_at IS NULL) AS undoable,
             j.mirror_id AS item, m.name AS who, IF(r.id IS NULL, NULL, ${RULE_NAME}) AS rule
           FROM journal j LEFT JOIN members m ON m.id = j.member_id LEFT JOIN rules r ON r.id = j.rule_id
             LEFT JOIN collections a ON a.id = r.a_collection LEFT JOIN collections b ON b.id = r.b_collection
           WHERE ${where.join(' AND ')} ORDER BY j.id DESC LIMIT ${PAGE}`,
          {
            workspaceId,
            before: before ?? Number.MAX_SAFE_INTEGER,
            words: like(words ?? ''),
            field: `%"field":"${(field ?? '').replace(/[^a-zA-Z]/g, '')}"%`,
            items: item ? await bothSides(ctx, workspaceId, item) : [],
            rule,
            who,
            service,
            outcome,
            pass,
          },
        )
        const lines = rows.map(({ fields, ...line }) => ({
          ...(line as Line),
          fields: JSON.parse(fields) as FieldChange[],
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
        const rows = await ctx.db.rows<{ id: number }>(
          `SELECT id FROM journal WHERE workspace_id = :workspaceId AND pass_id = :pass AND rule_id IS NOT NULL
             AND outcome = 'done' AND op <> 'override' AND undone_at IS NULL ORDER BY id DESC LIMIT 500`,
          { workspaceId: c.get('member').workspaceId, pass: c.req.param('id') },
        )
        return c.json({ entries: rows.map(r => r.id) })
      })
      /** What there is to choose among. */
      .get('/choices', async c => {
        const { workspaceId } = c.get('member')
        const of = (sql: string) => ctx.db.rows<{ id: string; name: string }>(sql, { workspaceId })
        return c.json({
          rules: await of(
            `SELECT r.id, ${RULE_NAME} AS name FROM rules r JOIN collections a ON a.id = r.a_collection
               JOIN collections b ON b.id = r.b_collection WHERE r.workspace_id = :workspaceId ORDER BY name`,
          ),
          people: await of('SELECT id, name FROM members WHERE workspace_id = :workspaceId ORDER BY name'),
          services: await of(
            'SELECT id, name FROM connections WHERE workspace_id = :workspaceId ORDER BY name',
          ),
        })
      })
  )
}
