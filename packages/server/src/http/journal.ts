import { zValidator } from '@hono/zod-validator'
import type { FieldChange } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../sync/context.ts'
import type { SignedIn } from './session.ts'

const Page = z.object({ before: z.coerce.number().int().optional() })
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
  tookMs: number | null
}

export function journalRoutes(ctx: Context) {
  return new Hono<SignedIn>().get('/', zValidator('query', Page), async c => {
    const { before } = c.req.valid('query')
    const rows = await ctx.db.rows<Line & { fields: string }>(
      `SELECT j.id, j.at, j.title, j.place, j.op, j.cause, j.outcome, j.reason, j.took_ms AS tookMs, j.fields,
         m.name AS who, IF(r.id IS NULL, NULL, CONCAT(a.name, ' ⇄ ', b.name)) AS rule
       FROM journal j LEFT JOIN members m ON m.id = j.member_id LEFT JOIN rules r ON r.id = j.rule_id
         LEFT JOIN collections a ON a.id = r.a_collection LEFT JOIN collections b ON b.id = r.b_collection
       WHERE j.workspace_id = :workspaceId AND j.id < :before ORDER BY j.id DESC LIMIT ${PAGE}`,
      { workspaceId: c.get('member').workspaceId, before: before ?? Number.MAX_SAFE_INTEGER },
    )
    const lines = rows.map(({ fields, ...line }) => ({
      ...(line as Line),
      fields: JSON.parse(fields) as FieldChange[],
    }))
    return c.json({ lines, more: rows.length === PAGE })
  })
}
