import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { type Decision, plan, RuleSettings } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Sql } from '../data/database.ts'
import { numberChange } from '../sync/changes.ts'
import type { Context } from '../sync/context.ts'
import type { Engine } from '../sync/engine.ts'
import { frozenBecause, planInput, ruleFor, type RuleRow } from '../sync/rules.ts'
import type { SignedIn } from './session.ts'

const Draft = z.object({ id: z.string().nullable(), a: z.string(), b: z.string(), settings: RuleSettings })
type Draft = z.infer<typeof Draft>

/** Listed in full up to here; the counts are always of everything. */
const LISTED = 500

/** Why this pair cannot be ruled, or null. */
async function wrongPair(sql: Sql, workspaceId: string, draft: Draft): Promise<string | null> {
  const sides = await sql.rows<{ id: string; holds: string; writable: number; name: string }>(
    'SELECT id, holds, writable, name FROM collections WHERE workspace_id = :workspaceId AND id IN (:a, :b)',
    { workspaceId, a: draft.a, b: draft.b },
  )
  const a = sides.find(s => s.id === draft.a)
  const b = sides.find(s => s.id === draft.b)
  if (a?.holds !== 'task' || b?.holds !== 'event') return 'A rule pairs a task list with a calendar.'
  const locked = [a, b].find(s => !s.writable)
  if (locked) return `${locked.name} can only be read, so nothing could be kept in step there.`
  const taken = await sql.one<{ id: string }>(
    `SELECT id FROM rules WHERE (a_collection = :a OR b_collection = :b) AND id <> :self LIMIT 1`,
    { a: draft.a, b: draft.b, self: draft.id ?? '' },
  )
  return taken ? 'One of the two is paired by another rule already.' : null
}

interface Preview {
  problem: string | null
  counts: { make: number; change: number; remove: number; match: number; none: number; outside: number }
  decisions: (Pick<Decision, 'effect' | 'on' | 'reason' | 'title' | 'a' | 'b' | 'overridden' | 'held'> & {
    fields: { side: 'a' | 'b'; field: string; before: unknown; after: unknown }[]
  })[]
  tasks: number
  events: number
}

/** What the first pass would do, from the very function that does it. */
async function preview(ctx: Context, workspaceId: string, draft: Draft): Promise<Preview> {
  return ctx.db.snapshot(async sql => {
    const existing = draft.id
      ? await sql.one<RuleRow>('SELECT * FROM rules WHERE id = :id AND workspace_id = :workspaceId', {
          id: draft.id,
          workspaceId,
        })
      : null
    const problem = (await wrongPair(sql, workspaceId, draft)) ?? (await frozenBecause(sql, draft.a, draft.b))
    const empty = { make: 0, change: 0, remove: 0, match: 0, none: 0, outside: 0 }
    if (problem) return { problem, counts: empty, decisions: [], tasks: 0, events: 0 }
    const rule = await ruleFor(sql, {
      id: existing?.id ?? 'preview',
      workspaceId,
      a: draft.a,
      b: draft.b,
      settings: draft.settings,
      enabledAt: existing?.enabled_at ?? ctx.now(),
    })
    const input = await planInput(sql, rule, null, ctx.now())
    const decisions = plan(input).filter(
      d => d.effect !== 'none' || ['no-hour', 'outside', 'held'].includes(d.reason),
    )
    const counts = { ...empty }
    for (const d of decisions) {
      if (d.reason === 'outside') counts.outside++
      else if (d.effect === 'match') {
        counts.match++
        if (d.writes.length > 0) counts.change++
      } else if (d.effect !== 'release') counts[d.effect]++
    }
    return {
      problem: null,
      counts,
      tasks: input.untied.a.length + input.pairs.length,
      events: input.untied.b.length + input.pairs.length,
      decisions: decisions.slice(0, LISTED).map(d => ({
        effect: d.effect,
        on: d.on,
        reason: d.reason,
        title: d.title,
        a: d.a,
        b: d.b,
        overridden: d.overridden,
        held: d.held,
        fields: d.writes.flatMap(w => w.fields.map(f => ({ side: w.side, ...f }))),
      })),
    }
  })
}

interface RuleView {
  id: string
  a: string
  b: string
  aName: string
  bName: string
  aDye: string
  bDye: string
  settings: RuleSettings
  state: 'on' | 'paused'
  lastPassAt: number | null
  notices: string[]
  ties: number
  waiting: number
}

export function ruleRoutes(ctx: Context, engine: Engine) {
  const own = (id: string, workspaceId: string) =>
    ctx.db.one<RuleRow>('SELECT * FROM rules WHERE id = :id AND workspace_id = :workspaceId', {
      id,
      workspaceId,
    })

  return new Hono<SignedIn>()
    .get('/', async c => {
      const { workspaceId } = c.get('member')
      const rows = await ctx.db.rows<
        RuleRow & {
          a_name: string
          b_name: string
          a_dye: string
          b_dye: string
          ties: number
          waiting: number
        }
      >(
        `SELECT r.*, CONCAT(an.name, ' · ', a.name) AS a_name, CONCAT(bn.name, ' · ', b.name) AS b_name,
           a.dye AS a_dye, b.dye AS b_dye,
           (SELECT COUNT(*) FROM ties t WHERE t.rule_id = r.id AND t.released IS NULL) AS ties,
           (SELECT COUNT(*) FROM intents i WHERE i.rule_id = r.id AND i.state = 'open') AS waiting
         FROM rules r JOIN collections a ON a.id = r.a_collection JOIN collections b ON b.id = r.b_collection
           JOIN connections an ON an.id = a.connection_id JOIN connections bn ON bn.id = b.connection_id
         WHERE r.workspace_id = :workspaceId ORDER BY r.enabled_at`,
        { workspaceId },
      )
      const rules = rows.map((r): RuleView => ({
        id: r.id,
        a: r.a_collection,
        b: r.b_collection,
        aName: r.a_name,
        bName: r.b_name,
        aDye: r.a_dye,
        bDye: r.b_dye,
        settings: RuleSettings.parse(JSON.parse(r.settings)),
        state: r.state,
        lastPassAt: r.last_pass_at,
        notices: JSON.parse(r.notices) as string[],
        ties: r.ties,
        waiting: r.waiting,
      }))
      return c.json({ rules, now: ctx.now() })
    })
    .post('/preview', zValidator('json', Draft), async c =>
      c.json(await preview(ctx, c.get('member').workspaceId, c.req.valid('json'))),
    )
    .post('/', zValidator('json', Draft), async c => {
      const { workspaceId } = c.get('member')
      const draft = c.req.valid('json')
      const problem =
        (await wrongPair(ctx.db, workspaceId, draft)) ?? (await frozenBecause(ctx.db, draft.a, draft.b))
      if (problem) return c.json({ reason: problem }, 422)
      const before = draft.id ? await own(draft.id, workspaceId) : null
      // Events marked the old way would read as open again, and their tasks with them.
      if (before && RuleSettings.parse(JSON.parse(before.settings)).mark !== draft.settings.mark)
        return c.json(
          { reason: 'The mark of a rule stays as it is: events are marked with it already.' },
          422,
        )
      const id = draft.id ?? randomUUID()
      const settings = JSON.stringify(draft.settings)
      const kept = await ctx.db.transaction(async sql => {
        if (draft.id) {
          const changed = await sql.run(
            `UPDATE rules SET settings = :settings, version = version + 1, planned_seq = -1
             WHERE id = :id AND workspace_id = :workspaceId AND a_collection = :a AND b_collection = :b`,
            { id, workspaceId, settings, a: draft.a, b: draft.b },
          )
          if (changed === 0) return false
        } else
          await sql.insert(
            `INSERT INTO rules (id, workspace_id, a_collection, b_collection, settings, state, version, enabled_at, notices)
             VALUES (:id, :workspaceId, :a, :b, :settings, 'on', 1, :now, '[]')`,
            { id, workspaceId, a: draft.a, b: draft.b, settings, now: ctx.now() },
          )
        await numberChange(sql, workspaceId, { topics: ['rules'] })
        return true
      })
      if (!kept) return c.json({ reason: 'This rule is no longer there, or pairs something else.' }, 404)
      ctx.feed.nudge()
      void engine.plan(workspaceId)
      return c.json({ id }, draft.id ? 200 : 201)
    })
    .put('/:id/state', zValidator('json', z.object({ state: z.enum(['on', 'paused']) })), async c => {
      const { workspaceId } = c.get('member')
      const row = await own(c.req.param('id'), workspaceId)
      if (!row) return c.json({ reason: 'There is no such rule.' }, 404)
      await ctx.db.transaction(async sql => {
        await sql.run('UPDATE rules SET state = :state, version = version + 1 WHERE id = :id', {
          id: row.id,
          state: c.req.valid('json').state,
        })
        await numberChange(sql, workspaceId, { topics: ['rules'] })
      })
      ctx.feed.nudge()
      void engine.plan(workspaceId)
      return c.json({ ok: true as const })
    })
    .delete('/:id', async c => {
      const { workspaceId } = c.get('member')
      const row = await own(c.req.param('id'), workspaceId)
      if (!row) return c.json({ reason: 'There is no such rule.' }, 404)
      await ctx.db.transaction(async sql => {
        await sql.run(
          `UPDATE intents SET state = 'dropped' WHERE rule_id = :id AND state = 'open' AND attempts = 0`,
          {
            id: row.id,
          },
        )
        await sql.run('DELETE FROM rules WHERE id = :id', { id: row.id })
        await numberChange(sql, workspaceId, { topics: ['rules', 'cloth'] })
      })
      ctx.feed.nudge()
      return c.json({ ok: true as const })
    })
}
