import { collectionNames } from '../data/repositories/collection-views.ts'
import { logSharing, type RuleAct } from '../data/repositories/grants.ts'
import { handOverBlocks } from '../data/repositories/blocks.ts'
import { countKinds } from '../data/repositories/sides.ts'
import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { type RuleSettings, sameReach, settingsOf } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Sql } from '../data/database.ts'
import { countUnconfirmed } from '../sync/push/unconfirmed.ts'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { goAlong } from '../sync/move/going-along.ts'
import { nothingToPreview, previewRule, progressOf, RuleDraftInput, wrongPair } from '../sync/plan/preview.ts'
import { mayChangeRule, mayPair, NOT_BOTH_SIDES, rulesToChange } from '../sync/rules/rule-rights.ts'
import { opensOthers } from '../sync/rules/audience.ts'
import { blocksRuleOf } from '../sync/rules/blocks-rule.ts'
import { collectionsOfRule, frozenBecause, unreadBecause } from '../sync/rules/rules.ts'
import { standingNotices, weakerPromises } from '../sync/plan/standing-notices.ts'
import type { Member } from '../data/repositories/sessions.ts'
import type { SignedIn } from './session.ts'
import {
  addVersion,
  ruleToChange,
  rulesOverview,
  changeRule,
  addRule,
  versionOfRule,
  setPlace,
  setRuleState,
  deleteRule,
  type ListRow,
} from '../data/repositories/rules.ts'
import { dropUnsentTies } from '../data/repositories/ties.ts'
import { dropUnsentOfRule, dropAllOfRule } from '../data/repositories/intents.ts'
import { parsed, json, type Json } from '../data/json.ts'

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

export async function saveVersion(
  sql: Sql,
  of: {
    ruleId: string
    version: number
    workspaceId: string
    settings: Json<unknown>
    now: number
    memberId: string
  },
): Promise<void> {
  await addVersion(sql, of)
}

/** Drops unsent writes, which are planned again. A dropped creation takes its tie along. */
async function dropUnsent(sql: Sql, id: string, reason: string): Promise<void> {
  await dropUnsentTies(sql, { id })
  await dropUnsentOfRule(sql, { id, reason })
}

async function holdSame(sql: Sql, one: string, other: string): Promise<boolean> {
  const row = await countKinds(sql, { ids: [one, other] })
  return Number(row?.n) === 1
}

/** A name under which the asking page follows how far a preview has come. */
const Watch = z.object({ watch: z.uuid().optional() })

export function ruleRoutes(ctx: Context, engine: Engine) {
  const own = async (id: string, member: Member) => {
    const row = await ruleToChange(ctx.db, { id, workspaceId: member.workspaceId })
    return row && (await mayChangeRule(ctx.db, member, row)) ? row : null
  }

  /** For the activity of the team. */
  async function logRule(sql: Sql, { id: memberId, workspaceId }: Member, id: string, did: RuleAct) {
    const row = await ruleToChange(sql, { id, workspaceId })
    if (!row) return
    const known = await collectionNames(sql, { workspaceId })
    const nameOf = (list: string): string => known.find(k => k.id === list)?.list ?? ''
    const name = row.name ?? `${nameOf(row.a_collection)} ⇄ ${nameOf(row.b_collection)}`
    const act = { do: 'rule' as const, name, did, lists: await collectionsOfRule(sql, row) }
    await logSharing(sql, { workspaceId, at: ctx.now(), memberId, collectionId: null, act })
  }

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
      if (!(await mayPair(ctx.db, member, draft)) || (draft.id && !(await own(draft.id, member))))
        return c.json({ ...nothingToPreview(NOT_BOTH_SIDES) })
      return c.json(await previewRule(ctx, member, draft, watch))
    })
    .get('/preview/:watch', c =>
      c.json({ progress: progressOf(c.get('member').workspaceId, c.req.param('watch')) }),
    )
    .post('/', zValidator('json', RuleDraftInput), async c => {
      const { workspaceId, id: memberId } = c.get('member')
      const draft = c.req.valid('json')
      const mine = await mayPair(ctx.db, c.get('member'), draft)
      if (!mine) return c.json({ reason: NOT_BOTH_SIDES }, 422)
      const opens = await opensOthers(ctx.db, c.get('member'), draft)
      if (opens) return c.json({ reason: opens }, 422)
      const problem =
        (await wrongPair(ctx.db, workspaceId, draft)) ?? (await frozenBecause(ctx.db, draft.a, draft.b))
      if (problem) return c.json({ reason: problem }, 422)
      const id = draft.id ?? randomUUID()
      const settings = json(draft.settings)
      const before = draft.id ? await own(draft.id, c.get('member')) : null
      if (draft.id && !before) return c.json({ reason: 'There is no such rule.' }, 404)
      const moves = before !== null && before.b_collection !== draft.b
      const reachesAsBefore =
        before !== null && !moves && sameReach(settingsOf(parsed(before.settings)), draft.settings)
      if (moves && !(await holdSame(ctx.db, before.b_collection, draft.b)))
        return c.json({ reason: 'It holds something else than what this rule has made so far.' }, 422)
      const kept = await ctx.db.commit(async sql => {
        if (draft.id) {
          const changed = await changeRule(sql, {
            id,
            workspaceId,
            settings,
            name: draft.name,
            a: draft.a,
            b: draft.b,
            newSince: reachesAsBefore ? before.new_since : ctx.now(),
          })
          if (changed === 0) return false
          if (moves) {
            await dropUnsent(sql, id, 'The rule pairs with something else now.')
            await goAlong(sql, id, before.b_collection, memberId)
          }
        } else
          await addRule(sql, {
            id,
            workspaceId,
            name: draft.name,
            a: draft.a,
            b: draft.b,
            settings,
            now: ctx.now(),
          })
        const row = await versionOfRule(sql, { id })
        const version = row?.version ?? 1
        await saveVersion(sql, { ruleId: id, version, workspaceId, settings, now: ctx.now(), memberId })
        await logRule(sql, c.get('member'), id, draft.id ? 'changed' : 'made')
        sql.tell(workspaceId, { topics: ['rules', 'team'] })
        return true
      })
      if (!kept) return c.json({ reason: 'This rule is no longer there, or pairs something else.' }, 404)
      engine.requestPlan(workspaceId)
      return c.json({ id }, draft.id ? 200 : 201)
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
      const { workspaceId } = c.get('member')
      const row = await own(c.req.param('id'), c.get('member'))
      if (!row) return c.json({ reason: 'There is no such rule.' }, 404)
      const { state } = c.req.valid('json')
      await ctx.db.commit(async sql => {
        await setRuleState(sql, { id: row.id, state })
        if (state === 'paused') await dropUnsent(sql, row.id, 'The rule was paused.')
        await logRule(sql, c.get('member'), row.id, state === 'paused' ? 'paused' : 'turned on')
        sql.tell(workspaceId, { topics: ['rules', 'team'] })
      })
      engine.requestPlan(workspaceId)
      return c.json({ ok: true as const })
    })
    .delete('/:id', async c => {
      const { workspaceId } = c.get('member')
      const row = await own(c.req.param('id'), c.get('member'))
      if (!row) return c.json({ reason: 'There is no such rule.' }, 404)
      await ctx.db.commit(async sql => {
        await logRule(sql, c.get('member'), row.id, 'removed')
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
