import { zValidator } from '@hono/zod-validator'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import { tieAgain, tieInWorkspace } from '../data/repositories/ties.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { candidatesFor, partByHand, tieByHand } from '../view/tie-by-hand.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { levelsOf } from '../access/rights.ts'
import type { SignedIn } from './session.ts'

const Id = z.string().max(36)

/** Pairs of a rule, parted and tied again by hand. Nothing is written at any service for it. */
export function tieRoutes(ctx: Context, engine: Engine) {
  const change = async (member: Member, id: string, act: 'part' | 'again'): Promise<boolean> =>
    ctx.db.commit(async sql => {
      const { workspaceId } = member
      const tie = await tieInWorkspace(sql, { id, workspaceId })
      const both = [tie?.a_mirror, tie?.b_mirror].filter(m => typeof m === 'string')
      const level = await levelsOf(sql, member, both)
      if (!tie || !both.every(m => level(m) === 'change')) return false
      const isDone = act === 'part' ? await partByHand(sql, id) : (await tieAgain(sql, { id })) > 0
      if (!isDone) return false
      sql.tell(workspaceId, { topics: ['cloth', 'rules'] }, both)
      return true
    })
  const Pair = z.object({ rule: Id, item: Id, other: Id, same: z.boolean() })
  return new Hono<SignedIn>()
    .get('/candidates', zValidator('query', z.object({ item: Id, q: z.string().max(200) })), async c => {
      const { item, q } = c.req.valid('query')
      const found = await ctx.db.snapshot(sql => candidatesFor(sql, c.get('member'), item, q))
      return found ? c.json({ candidates: found }) : c.json({ reason: 'It is no longer there.' }, 404)
    })
    .put('/by-hand', zValidator('json', Pair), async c => {
      const { same, ...pair } = c.req.valid('json')
      const member = c.get('member')
      const answer = await tieByHand(ctx, member, pair, same)
      if (!answer.ok) return c.json({ reason: answer.reason }, answer.status)
      engine.requestPlan(member.workspaceId)
      return c.json({ ok: true as const })
    })
    .put('/:id', zValidator('json', z.object({ parted: z.boolean() })), async c => {
      const { workspaceId } = c.get('member')
      const { parted } = c.req.valid('json')
      if (!(await change(c.get('member'), c.req.param('id'), parted ? 'part' : 'again')))
        return c.json({ reason: parted ? 'The two are no longer tied.' : TAKEN }, 409)
      if (!parted) engine.requestPlan(workspaceId)
      return c.json({ ok: true })
    })
}

const TAKEN = 'One of the two is tied to something else by now.'
