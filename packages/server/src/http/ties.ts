import { zValidator } from '@hono/zod-validator'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import { dropUnsentOfTie } from '../data/repositories/intents.ts'
import { partTie, tieAgain, tieInWorkspace } from '../data/repositories/ties.ts'
import type { Engine } from '../sync/engine/engine.ts'
import type { SignedIn } from './session.ts'

/** Pairs of a rule, parted and tied again by hand. Nothing is written at any service for it. */
export function tieRoutes(ctx: Context, engine: Engine) {
  const change = async (
    { workspaceId, id }: { workspaceId: string; id: string },
    act: 'part' | 'again',
  ): Promise<boolean> =>
    ctx.db.commit(async sql => {
      const tie = await tieInWorkspace(sql, { id, workspaceId })
      if (!tie) return false
      const done = act === 'part' ? await partTie(sql, { id }) : await tieAgain(sql, { id })
      if (done === 0) return false
      if (act === 'part') await dropUnsentOfTie(sql, { id, reason: 'The two were parted by hand.' })
      const both = [tie.a_mirror, tie.b_mirror].filter(m => m !== null)
      sql.tell(workspaceId, { topics: ['cloth', 'rules'] }, both)
      return true
    })
  return new Hono<SignedIn>().put('/:id', zValidator('json', z.object({ parted: z.boolean() })), async c => {
    const { workspaceId } = c.get('member')
    const { parted } = c.req.valid('json')
    if (!(await change({ workspaceId, id: c.req.param('id') }, parted ? 'part' : 'again')))
      return c.json({ reason: parted ? 'The two are no longer tied.' : TAKEN }, 409)
    if (!parted) engine.requestPlan(workspaceId)
    return c.json({ ok: true })
  })
}

const TAKEN = 'One of the two is tied to something else by now.'
