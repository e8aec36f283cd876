import { zValidator } from '@hono/zod-validator'
import type { FieldChange } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../sync/context.ts'
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
  outcome: z.enum(['done', 'refused', 'overridden']).optional(),
  /** A mirror: the whole history of one item, on both sides. */
  item: Id.optional(),
})
const PAGE = 100

interface Line {
  id: number
  at: number
  title: string
  place: string
  op: 'create' | 'patch' | 'delete' | 'override'
  cause: string
  outcome: 'done' | 'refused' | 'overridden'
  reason: string | null
  who: string | null
  rule: string | null
  item: string | null
  tookMs: number | null
}

const RULE_NAME = `CONCAT(a.name, ' ⇄ ', b.name)`
/** For LIKE: what somebody types is text, whatever is in it. */
const like = (text: string): string => `%${text.toLowerCase().replace(/[\\%_]/g, c => `\\${c}`)}%`

/** The item and whatever it is or was tied to. */
async function bothSides(ctx: Context, workspaceId: string, item: string): Promise<string[]> {
  const ties = await ctx.db.rows<{ a: string; b: string }>(
    `SELECT a_mirror AS a, b_mirror AS b FROM ties
     WHERE workspace_id = :workspaceId AND (a_mirror = :item OR b_mirror = :item)`,
    { workspaceId, item },
  )
  return [...new Set([item, ...ties.flatMap(t => [t.a, t.b])])].filter(id => id !== null)
}

export function journalRoutes(ctx: Context) {
  return (
    new Hono<SignedIn>()
      .get('/', zValidator('query', Wanted), async c => {
        const { workspaceId } = c.get('member')
        const { before, words, rule, who, service, field, outcome, item } = c.req.valid('query')
        const where = [
          'j.workspace_id = :workspaceId AND j.id < :before',
          words && 'LOWER(j.title) LIKE :words',
          rule && 'j.rule_id = :rule',
          who && 'j.member_id = :who',
          service && 'j.collection_id IN (SELECT id FROM collections WHERE connection_id = :service)',
          field && 'j.fields LIKE :field',
          outcome && 'j.outcome = :outcome',
          item && 'j.mirror_id IN (:items)',
        ].filter(Boolean)
        const rows = await ctx.db.rows<Line & { fields: string }>(
          `SELECT j.id, j.at, j.title, j.place, j.op, j.cause, j.outcome, j.reason, j.took_ms AS tookMs, j.fields,
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
          },
        )
        const lines = rows.map(({ fields, ...line }) => ({
          ...(line as Line),
          fields: JSON.parse(fields) as FieldChange[],
        }))
        return c.json({ lines, more: rows.length === PAGE })
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
