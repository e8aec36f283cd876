import { handOverBlocks } from '../data/repositories/blocks.ts'
import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { type RuleSettings, settingsOf } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import { countUnconfirmed } from '../sync/push/unconfirmed.ts'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { nothingToPreview, previewRule, progressOf, RuleDraftInput } from '../sync/plan/preview.ts'
import { mayPair, NOT_BOTH_SIDES, rulesToChange } from '../sync/rules/rule-rights.ts'
import { logRule, ruleOfTheirs, saveRule, turnRule } from '../sync/plan/save-rule.ts'
import { withConsent } from '../team/agreement.ts'
import { blocksRuleOf } from '../sync/rules/blocks-rule.ts'
import { collectionsOfRule, frozenBecause, unreadBecause } from '../sync/rules/rules.ts'
import { standingNotices, weakerPromises } from '../sync/plan/standing-notices.ts'
import { asked } from './asked.ts'
import type { SignedIn } from './session.ts'
import {
  rulesOverview,
  versionOfRule,
  setPlace,
  deleteRule,
  type ListRow,
} from '../data/repositories/rules.ts'
import { dropAllOfRule } from '../data/repositories/intents.ts'
import { parsed } from '../data/json.ts'

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
  /** Unconfirmed creations. */
  unconfirmed: number
  braked: number
}

const viewOf = (r: ListRow): Omit<RuleView, 'weaker'> => ({
  id: r.id,
  name: r.name ?? r.plain_name,
  a: r.a_collection,
  b: r.b_collection,
  aName: r.a_name,
  bName: r.b_name,
  aDye: r.a_dye,
  bDye: r.b_dye,
  kinds: { a: r.a_kind, b: r.b_kind },
  settings: settingsOf(parsed(r.settings)),
  state: r.state,
  version: r.version,
  lastPassAt: r.last_pass_at,
  notices: parsed(r.notices),
  ties: r.ties,
  waiting: r.waiting,
  conflicts: r.conflicts,
  unconfirmed: r.unconfirmed,
  braked: r.braked,
})

/** A name under which the asking page follows how far a preview has come. */
const Watch = z.object({ watch: z.uuid().optional() })

export function ruleRoutes(ctx: Context, engine: Engine) {
  return new Hono<SignedIn>()
    .get('/', async c => {
      const { workspaceId } = c.get('member')
      const mine = await rulesToChange(ctx.db, c.get('member'))
      const all = await rulesOverview(ctx.db, { workspaceId })
      const rows = all.filter(r => mine.has(r.id))
      const rules = await Promise.all(
        rows.map(async row => {
          const collections = await collectionsOfRule(ctx.db, row)
          const frozen =
            (await frozenBecause(ctx.db, row.a_collection, row.b_collection)) ??
            (await unreadBecause(ctx.db, collections))
          const standing = await standingNotices(ctx.db, collections)
          const view = viewOf(row)
          const weaker = await weakerPromises(ctx.db, collections)
          const trouble = row.trouble && `It could not be planned and is tried again. ${row.trouble}`
          const first = [frozen, trouble].filter(text => text !== null)
          return { ...view, weaker, notices: [...first, ...standing, ...view.notices] }
        }),
      )
      const unconfirmed = await countUnconfirmed(ctx.db, c.get('member'))
      // A coordinator knows that there are others, whose page is for those who may change both their sides.
      const others =
        c.get('member').role === 'coordinator'
          ? all.filter(r => !mine.has(r.id)).map(r => ({ id: r.id, state: r.state }))
          : []
      return c.json({ rules, others, unconfirmed, now: ctx.now() })
    })
    .post('/preview', zValidator('query', Watch), zValidator('json', RuleDraftInput), async c => {
      const { watch = null } = c.req.valid('query')
      const member = c.get('member')
      const draft = c.req.valid('json')
      if (
        !(await mayPair(ctx.db, member, draft)) ||
        (draft.id && !(await ruleOfTheirs(ctx.db, member, draft.id)))
      )
        return c.json({ ...nothingToPreview(NOT_BOTH_SIDES) })
      return c.json(await previewRule(ctx, member, draft, watch))
    })
    .get('/preview/:watch', c =>
      c.json({ progress: progressOf(c.get('member').workspaceId, c.req.param('watch')) }),
    )
    .post('/', zValidator('json', RuleDraftInput), async c => {
      const who = c.get('member')
      const draft = c.req.valid('json')
      const id = draft.id ?? randomUUID()
      const version = draft.id ? ((await versionOfRule(ctx.db, { id }))?.version ?? null) : null
      const done = await withConsent(ctx, who, { anew: id, then: { do: 'rule', draft, version } }, sql =>
        saveRule(sql, { who, at: ctx.now() }, draft, id),
      )
      if ('asked' in done) return asked(c, done)
      if (!done.did.ok) return c.json({ reason: done.did.reason }, done.did.status)
      engine.requestPlan(who.workspaceId)
      return c.json({ id, asked: [] }, draft.id ? 200 : 201)
    })
    .put('/order', zValidator('json', z.object({ ids: z.array(z.string().max(36)).max(500) })), async c => {
      const { workspaceId } = c.get('member')
      await ctx.db.commit(async sql => {
        const mine = await rulesToChange(sql, c.get('member'))
        for (const [place, id] of c.req.valid('json').ids.entries())
          if (mine.has(id))
            await setPlace(sql, {
              place,
              id,
              workspaceId,
            })
        sql.tell(workspaceId, { topics: ['rules'] })
      })
      return c.json({ ok: true as const })
    })
    .put('/:id/state', zValidator('json', z.object({ state: z.enum(['on', 'paused']) })), async c => {
      const who = c.get('member')
      const id = c.req.param('id')
      const { state } = c.req.valid('json')
      const then = { do: 'turn on' as const, id }
      const done = await withConsent(ctx, who, { anew: state === 'on' ? id : null, then }, sql =>
        turnRule(sql, { who, at: ctx.now() }, id, state),
      )
      if ('asked' in done) return asked(c, done)
      if (!done.did.ok) return c.json({ reason: done.did.reason }, done.did.status)
      engine.requestPlan(who.workspaceId)
      return c.json({ id, asked: [] })
    })
    .delete('/:id', async c => {
      const { workspaceId } = c.get('member')
      const row = await ruleOfTheirs(ctx.db, c.get('member'), c.req.param('id'))
      if (!row) return c.json({ reason: 'There is no such rule.' }, 404)
      await ctx.db.commit(async sql => {
        await logRule(sql, { who: c.get('member'), at: ctx.now() }, row.id, 'removed')
        await dropAllOfRule(sql, { id: row.id })
        // What people made by hand stays tied.
        await handOverBlocks(sql, {
          id: row.id,
          own: await blocksRuleOf(sql, workspaceId, ctx.now()),
        })
        await deleteRule(sql, { id: row.id })
        sql.tell(workspaceId, { topics: ['rules', 'cloth', 'team'] })
      })
      return c.json({ ok: true as const })
    })
}
