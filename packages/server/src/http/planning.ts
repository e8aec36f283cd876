import { zValidator } from '@hono/zod-validator'
import { Planning } from '@loom/core/planning'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import { applyDraft } from '../planning/apply.ts'
import { keptUpFor, sawKeptUp, undoKeptUp } from '../planning/kept-up-passes.ts'
import { changePlanning, planningFor } from '../planning/planning.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { waysOfOthers } from '../planning/ways.ts'
import { newItemsFor, sawNew } from '../view/new-items.ts'
import { listedWholes, sayWaits, waitsOf } from '../view/waits.ts'
import type { SignedIn } from './session.ts'

/** How a person plans their time, and drafts that are applied. */

const Id = z.string().min(1).max(36)
const MOST_DAYS = 42
const MOST_PIECES = 300
const span = {
  fromMs: z.number().int().min(0),
  toMs: z.number().int().min(0),
  pinned: z.boolean(),
}
const Piece = z
  .discriminatedUnion('what', [
    z.object({ what: z.literal('plan'), task: Id, person: Id.nullable().default(null), ...span }),
    z.object({ what: z.literal('block'), task: Id, person: Id.nullable().default(null), ...span }),
    z.object({
      what: z.literal('regular'),
      title: z.string().trim().min(1).max(100),
      isBreak: z.boolean().default(false),
      ...span,
    }),
    /** A block, or a task's own plan, goes there. */
    z.object({ what: z.literal('move'), key: Id, plan: z.boolean(), ...span }),
    /** It is not to be there any more; the span is where it was. */
    z.object({ what: z.literal('remove'), key: Id, plan: z.boolean(), ...span }),
  ])
  .refine(p => p.toMs - p.fromMs >= 5 * 60_000 && p.toMs - p.fromMs <= 24 * 3_600_000, 'Its length is odd.')

const SomeDays = z.object({
  from: z.iso.date(),
  days: z.coerce.number().int().min(1).max(MOST_DAYS),
})
/** Minutes: up to a hundred days. */
const Waits = z.object({
  for: z.array(z.object({ key: Id, gap: z.number().int().min(0).max(144_000) })).max(100),
})

const Draft = z
  .object({ pieces: z.array(Piece).min(1).max(MOST_PIECES) })
  .refine(
    ({ pieces }) =>
      Math.max(...pieces.map(p => p.toMs)) - Math.min(...pieces.map(p => p.fromMs)) <= MOST_DAYS * 86_400_000,
    'That is more than six weeks.',
  )

export function planningRoutes(ctx: Context, engine: Engine) {
  return new Hono<SignedIn>()
    .get('/', async c => c.json(await planningFor(ctx.db, c.get('member'))))
    .put(
      '/',
      zValidator('json', z.object({ version: z.number().int().min(0), planning: Planning })),
      async c => {
        const { version, planning } = c.req.valid('json')
        const written = await changePlanning(ctx, c.get('member'), version, planning)
        if (!written)
          return c.json({ reason: 'It was changed in another window meanwhile. Look again.' }, 409)
        return c.json({ version: version + 1 })
      },
    )
    .get('/waits', async c =>
      c.json(
        await ctx.db.snapshot(async sql => ({
          waits: await waitsOf(sql, c.get('member'), ctx.now()),
          listed: await listedWholes(sql, c.get('member')),
        })),
      ),
    )
    .put('/waits/:key', zValidator('json', Waits), async c => {
      const said = await sayWaits(ctx, c.get('member'), c.req.param('key'), c.req.valid('json').for)
      if (!said.ok) return c.json({ reason: said.reason }, 409)
      if (said.connectionId) engine.kick(said.connectionId)
      return c.json({ before: said.before })
    })
    .get('/ways', zValidator('query', SomeDays), async c =>
      c.json({ ways: await waysOfOthers(ctx, c.get('member'), c.req.valid('query')) }),
    )
    .get('/new', async c => c.json(await newItemsFor(ctx, c.get('member'))))
    .post('/new/seen', zValidator('json', z.object({ atMs: z.number().int().min(0) })), async c => {
      await sawNew(ctx, c.get('member'), c.req.valid('json').atMs)
      return c.json({ ok: true as const })
    })
    .get('/kept-up', async c => c.json({ passes: await keptUpFor(ctx, c.get('member')) }))
    .post('/kept-up/seen', async c => {
      await sawKeptUp(ctx, c.get('member'))
      return c.json({ ok: true })
    })
    .post('/kept-up/:id/undo', async c => {
      const undone = await undoKeptUp(ctx, c.get('member'), c.req.param('id'))
      if (!undone) return c.json({ reason: 'It is not there any more, or was put back before.' }, 409)
      for (const id of undone.connections) engine.kick(id)
      engine.requestPlan(c.get('member').workspaceId)
      return c.json({ back: undone.back, stays: undone.stays })
    })
    .post('/apply', zValidator('json', Draft), async c => {
      const member = c.get('member')
      const given = c.req.valid('json').pieces
      const whose = given.map(p => ('person' in p ? { ...p, person: p.person ?? member.id } : p))
      const { pieces, connections } = await applyDraft(ctx, member, whose)
      for (const id of connections) engine.kick(id)
      engine.requestPlan(c.get('member').workspaceId)
      return c.json({ pieces })
    })
}
