import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { type RuleSettings, settingsOf } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Sql } from '../data/database.ts'
import { howManyAsked } from '../sync/push/asking.ts'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { goAlong } from '../sync/move/going-along.ts'
import { previewRule, progressOf, RuleDraftInput, wrongPair } from '../sync/plan/preview.ts'
import { blocksRuleOf } from '../sync/rules/blocks-rule.ts'
import { collectionsOfRule, frozenBecause, PLAN_ANEW, type RuleRow } from '../sync/rules/rules.ts'
import { standingNotices, weakerPromises } from '../sync/plan/standing-notices.ts'
import type { SignedIn } from './session.ts'

/** Rules: listed, previewed, saved, paused, put in order, removed. */

export interface RuleView {
  id: string
  name: string
  a: string
  b: string
  aName: string
  bName: string
  aDye: string
  bDye: string
  kinds: { a: 'task' | 'event'; b: 'task' | 'event' }
  settings: RuleSettings
  state: 'on' | 'paused'
  version: number
  lastPassAt: number | null
  notices: string[]
  /** Where it promises less than elsewhere. */
  weaker: string[]
  ties: number
  waiting: number
  conflicts: number
  /** New items of which nobody can tell whether they were made. */
  asked: number
  braked: number
}

type ListRow = RuleRow & {
  a_name: string
  b_name: string
  a_dye: string
  b_dye: string
  a_holds: 'task' | 'event'
  b_holds: 'task' | 'event'
  plain_name: string
  ties: number
  waiting: number
  conflicts: number
  asked: number
  braked: number
}

const RULE_LIST = `SELECT r.*, CONCAT(an.name, ' · ', a.name) AS a_name, CONCAT(bn.name, ' · ', b.name) AS b_name,
    CONCAT(a.name, ' ⇄ ', b.name) AS plain_name, a.dye AS a_dye, b.dye AS b_dye, a.holds AS a_holds, b.holds AS b_holds,
    (SELECT COUNT(*) FROM ties t WHERE t.rule_id = r.id AND t.released IS NULL) AS ties,
    (SELECT COUNT(*) FROM intents i WHERE i.rule_id = r.id AND i.state = 'open' AND i.asks_since IS NULL) AS waiting,
    (SELECT COUNT(*) FROM conflicts c WHERE c.rule_id = r.id AND c.answer IS NULL) AS conflicts,
    (SELECT COUNT(*) FROM intents q WHERE q.rule_id = r.id AND q.state = 'open' AND q.asks_since IS NOT NULL) AS asked,
    (SELECT COUNT(*) FROM braked k WHERE k.rule_id = r.id AND k.answer IS NULL) AS braked
  FROM rules r JOIN collections a ON a.id = r.a_collection JOIN collections b ON b.id = r.b_collection
    JOIN connections an ON an.id = a.connection_id JOIN connections bn ON bn.id = b.connection_id`

const viewOf = (r: ListRow): Omit<RuleView, 'weaker'> => ({
  id: r.id,
  name: r.name ?? r.plain_name,
  a: r.a_collection,
  b: r.b_collection,
  aName: r.a_name,
  bName: r.b_name,
  aDye: r.a_dye,
  bDye: r.b_dye,
  kinds: { a: r.a_holds, b: r.b_holds },
  settings: settingsOf(JSON.parse(r.settings)),
  state: r.state,
  version: r.version,
  lastPassAt: r.last_pass_at,
  notices: JSON.parse(r.notices) as string[],
  ties: r.ties,
  waiting: r.waiting,
  conflicts: r.conflicts,
  asked: r.asked,
  braked: r.braked,
})

export async function saveVersion(
  sql: Sql,
  of: {
    ruleId: string
    version: number
    workspaceId: string
    settings: string
    now: number
    memberId: string
  },
): Promise<void> {
  await sql.insert(
    `INSERT INTO rule_versions (rule_id, version, workspace_id, settings, saved_at, member_id)
     VALUES (:ruleId, :version, :workspaceId, :settings, :now, :memberId)`,
    of,
  )
}

/** What was decided and not yet sent is decided anew; with a creation, the tie of what was to be made goes as well. */
async function dropUnsent(sql: Sql, id: string, reason: string): Promise<void> {
  await sql.run(
    `DELETE FROM ties WHERE (a_mirror IS NULL OR b_mirror IS NULL) AND id IN
       (SELECT tie_id FROM intents WHERE rule_id = :id AND state = 'open' AND attempts = 0)`,
    { id },
  )
  await sql.run(
    `UPDATE intents SET state = 'dropped', reason = :reason WHERE rule_id = :id AND state = 'open' AND attempts = 0`,
    { id, reason },
  )
}

async function holdSame(sql: Sql, one: string, other: string): Promise<boolean> {
  const row = await sql.one<{ n: number }>(
    'SELECT COUNT(DISTINCT holds) AS n FROM collections WHERE id IN (:ids)',
    { ids: [one, other] },
  )
  return Number(row?.n) === 1
}

/** A name under which the asking page follows how far a preview has come. */
const Watch = z.object({ watch: z.uuid().optional() })

export function ruleRoutes(ctx: Context, engine: Engine) {
  const own = (id: string, workspaceId: string) =>
    ctx.db.one<RuleRow>('SELECT * FROM rules WHERE id = :id AND workspace_id = :workspaceId AND own = 0', {
      id,
      workspaceId,
    })

  return new Hono<SignedIn>()
    .get('/', async c => {
      const { workspaceId } = c.get('member')
      const rows = await ctx.db.rows<ListRow>(
        `${RULE_LIST} WHERE r.workspace_id = :workspaceId AND r.own = 0 ORDER BY r.place, r.enabled_at`,
        { workspaceId },
      )
      const rules = await Promise.all(
        rows.map(async row => {
          const frozen = await frozenBecause(ctx.db, row.a_collection, row.b_collection)
          const collections = await collectionsOfRule(ctx.db, row)
          const standing = await standingNotices(ctx.db, collections)
          const view = viewOf(row)
          const weaker = await weakerPromises(ctx.db, collections)
          const trouble = row.trouble && `It could not be planned and is tried again. ${row.trouble}`
          const first = [frozen, trouble].filter(text => text !== null)
          return { ...view, weaker, notices: [...first, ...standing, ...view.notices] }
        }),
      )
      const asked = await howManyAsked(ctx.db, workspaceId)
      return c.json({ rules, asked, now: ctx.now() })
    })
    .post('/preview', zValidator('query', Watch), zValidator('json', RuleDraftInput), async c => {
      const { watch = null } = c.req.valid('query')
      return c.json(await previewRule(ctx, c.get('member').workspaceId, c.req.valid('json'), watch))
    })
    .get('/preview/:watch', c =>
      c.json({ progress: progressOf(c.get('member').workspaceId, c.req.param('watch')) }),
    )
    .post('/', zValidator('json', RuleDraftInput), async c => {
      const { workspaceId, id: memberId } = c.get('member')
      const draft = c.req.valid('json')
      const problem =
        (await wrongPair(ctx.db, workspaceId, draft)) ?? (await frozenBecause(ctx.db, draft.a, draft.b))
      if (problem) return c.json({ reason: problem }, 422)
      const id = draft.id ?? randomUUID()
      const settings = JSON.stringify(draft.settings)
      const before = draft.id ? await own(draft.id, workspaceId) : null
      const moves = before !== null && before.b_collection !== draft.b
      if (moves && !(await holdSame(ctx.db, before.b_collection, draft.b)))
        return c.json({ reason: 'It holds something else than what this rule has made so far.' }, 422)
      const kept = await ctx.db.commit(async sql => {
        if (draft.id) {
          const changed = await sql.run(
            `UPDATE rules SET settings = :settings, name = :name, b_collection = :b, version = version + 1, ${PLAN_ANEW}
             WHERE id = :id AND workspace_id = :workspaceId AND a_collection = :a`,
            { id, workspaceId, settings, name: draft.name, a: draft.a, b: draft.b },
          )
          if (changed === 0) return false
          if (moves) {
            await dropUnsent(sql, id, 'The rule pairs with something else now.')
            await goAlong(sql, id, before.b_collection, memberId)
          }
        } else
          await sql.insert(
            `INSERT INTO rules (id, workspace_id, name, a_collection, b_collection, settings, state, version, enabled_at,
               notices, place)
             SELECT :id, :workspaceId, :name, :a, :b, :settings, 'on', 1, :now, '[]',
               (SELECT IFNULL(MAX(o.place), 0) + 1 FROM rules o WHERE o.workspace_id = :workspaceId)`,
            { id, workspaceId, name: draft.name, a: draft.a, b: draft.b, settings, now: ctx.now() },
          )
        const row = await sql.one<{ version: number }>('SELECT version FROM rules WHERE id = :id', { id })
        const version = row?.version ?? 1
        await saveVersion(sql, { ruleId: id, version, workspaceId, settings, now: ctx.now(), memberId })
        sql.tell(workspaceId, { topics: ['rules'] })
        return true
      })
      if (!kept) return c.json({ reason: 'This rule is no longer there, or pairs something else.' }, 404)
      engine.requestPlan(workspaceId)
      return c.json({ id }, draft.id ? 200 : 201)
    })
    .put('/order', zValidator('json', z.object({ ids: z.array(z.string().max(36)).max(500) })), async c => {
      const { workspaceId } = c.get('member')
      await ctx.db.commit(async sql => {
        for (const [place, id] of c.req.valid('json').ids.entries())
          await sql.run('UPDATE rules SET place = :place WHERE id = :id AND workspace_id = :workspaceId', {
            place,
            id,
            workspaceId,
          })
        sql.tell(workspaceId, { topics: ['rules'] })
      })
      return c.json({ ok: true as const })
    })
    .put('/:id/state', zValidator('json', z.object({ state: z.enum(['on', 'paused']) })), async c => {
      const { workspaceId } = c.get('member')
      const row = await own(c.req.param('id'), workspaceId)
      if (!row) return c.json({ reason: 'There is no such rule.' }, 404)
      const { state } = c.req.valid('json')
      await ctx.db.commit(async sql => {
        await sql.run(`UPDATE rules SET state = :state, ${PLAN_ANEW} WHERE id = :id`, { id: row.id, state })
        if (state === 'paused') await dropUnsent(sql, row.id, 'The rule was paused.')
        sql.tell(workspaceId, { topics: ['rules'] })
      })
      engine.requestPlan(workspaceId)
      return c.json({ ok: true as const })
    })
    .delete('/:id', async c => {
      const { workspaceId } = c.get('member')
      const row = await own(c.req.param('id'), workspaceId)
      if (!row) return c.json({ reason: 'There is no such rule.' }, 404)
      await ctx.db.commit(async sql => {
        await sql.run(
          `UPDATE intents SET state = 'dropped' WHERE rule_id = :id AND state = 'open'
             AND (attempts = 0 OR asks_since IS NOT NULL)`,
          { id: row.id },
        )
        // What people made by hand stays tied.
        await sql.run(`UPDATE ties SET rule_id = :own WHERE rule_id = :id AND role <> 'mirror'`, {
          id: row.id,
          own: await blocksRuleOf(sql, workspaceId, ctx.now()),
        })
        await sql.run('DELETE FROM rules WHERE id = :id', { id: row.id })
        sql.tell(workspaceId, { topics: ['rules', 'cloth'] })
      })
      return c.json({ ok: true as const })
    })
}
