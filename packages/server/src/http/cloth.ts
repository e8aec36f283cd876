import { zValidator } from '@hono/zod-validator'
import { Edit, Filter, Making, type SlimItem, When } from '@loom/core'
import { Hono, type TypedResponse } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { DEFAULT_MINUTES } from '../view/cloth.ts'
import { setBatch } from '../view/batch.ts'
import { duplicateItem } from '../view/duplicate.ts'
import { editItem } from '../view/edit.ts'
import { editSeries } from '../view/edit-series.ts'
import { itemDetails } from '../view/item-details.ts'
import { makeItem } from '../view/make.ts'
import { moveItem, moveOutlook } from '../view/move.ts'
import { sayIfCounts } from '../outward/invitations/answers.ts'
import { searchItems } from '../view/search.ts'
import { type Around, aroundText, sharedCloth } from '../view/shared-cloth.ts'
import { takeBack } from '../view/take-back.ts'
import { LRUCache } from 'lru-cache'
import type { Asker, Sharing } from '../access/sight.ts'
import { logSharing } from '../data/repositories/grants.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import type { SignedIn } from './session.ts'

const Id = z.string().max(36)
/** Where the page saw the item, as `standingText`. */
const Was = z.object({ was: z.string().max(300).optional() })
/** Whether an answer that waits counts. */
const GuestSaid = z.object({
  email: z.string().max(320),
  recurrence: z.string().max(100).default(''),
  counts: z.boolean(),
})
const SeriesEdit = z.object({ edit: Edit, which: z.enum(['one', 'onward', 'all']) })
const Span = z.object({
  from: z.iso.date(),
  days: z.coerce.number().int().min(1).max(42),
  /** The version of this span that the page already has. */
  have: z.string().max(40).optional(),
  /** As far as this colleague sees it as well; to look at. */
  as: Id.optional(),
})

const Search = z.object({
  q: z.string().max(200),
  /** A filter as JSON. */
  filter: z
    .string()
    .max(4000)
    .optional()
    .transform((text, refuse) => {
      try {
        return Filter.parse(text ? JSON.parse(text) : [])
      } catch {
        refuse.addIssue({ code: 'custom', message: 'is no filter' })
        return z.NEVER
      }
    }),
})

/** What a span of the Cloth shows, as of change number `seq`. */
interface ClothAnswer extends Around {
  /** Those that are new or another since the version asked with; all where `gone` is null. */
  items: SlimItem[]
  /** Keys of those that have left since. */
  gone: string[] | null
  version: string
  /** Names what the member sees at all: of another one, nothing that a page holds is to be kept. */
  sight: string
  /** How many tasks on the shelf are not among them: of very many, those that are due first are given. */
  beyond: number
  me: string
  seq: number
  now: number
  zone: string
  defaultMinutes: number
}

const ITEMS = Buffer.from('{"items":')

/** Whom somebody looks as; that they do is written down, once for each time that they sit down to it. */
async function colleague(ctx: Context, member: Member, id: string): Promise<Asker | null> {
  const { workspaceId } = member
  const found = (await teamOfWorkspace(ctx.db, { workspaceId })).find(m => m.id === id)
  if (!found) return null
  const key = `${member.id} ${id}`
  if (!lookedAs.has(key)) {
    lookedAs.set(key, true)
    const act = { do: 'see-as' as const, whom: found.name }
    const line = { workspaceId, at: ctx.now(), memberId: member.id, collectionId: null, act }
    await ctx.db.commit(sql => logSharing(sql, line))
  }
  return { id, role: found.role }
}
const lookedAs = new LRUCache<string, true>({ max: 1000, ttl: 30 * 60_000 })

export function clothRoutes(ctx: Context, engine: Engine) {
  return new Hono<SignedIn>()
    .get('/', zValidator('query', Span), async c => {
      const member = c.get('member')
      const { zone, seq } = member
      const { from, days, have, as: whom } = c.req.valid('query')
      const as = whom === undefined ? null : await colleague(ctx, member, whom)
      if (whom !== undefined && !as) return c.json({ reason: 'That person is not in this workspace.' }, 404)
      const now = ctx.now()
      const viewer = { zone, defaultMinutes: DEFAULT_MINUTES, now }
      const looking = {
        workspaceId: member.workspaceId,
        seq,
        memberId: member.id,
        sightIn: (sharing: Sharing) => {
          const own = sharing.sightOf(member)
          return as ? own.seeingAs(sharing.sightOf(as)) : own
        },
      }
      const { items, beyond, around, sight } = await sharedCloth(ctx.db, looking, { from, days }, viewer, {
        have,
        check: ctx.checks,
      })
      const { lines, gone, version } = items
      const rest = {
        gone,
        version,
        sight: sight.epoch,
        beyond,
        me: member.id,
        seq,
        now,
        zone,
        defaultMinutes: DEFAULT_MINUTES,
      }
      // The parts are written already: most who ask are given what was written for another.
      const after = Buffer.from(`,${aroundText(around, sight).slice(1, -1)},${JSON.stringify(rest).slice(1)}`)
      const text = Buffer.concat([ITEMS, lines, after])
      const answer = c.body(text, 200, { 'Content-Type': 'application/json' })
      return answer as unknown as TypedResponse<ClothAnswer, 200, 'json'>
    })
    .get('/search', zValidator('query', Search), async c => {
      const member = c.get('member')
      const viewer = { zone: member.zone, defaultMinutes: DEFAULT_MINUTES, now: ctx.now() }
      const { q, filter } = c.req.valid('query')
      return c.json({ items: await searchItems(ctx.db, member, q, viewer, filter) })
    })
    .post('/make', zValidator('json', Making), async c => {
      const made = await makeItem(ctx, c.get('member'), c.req.valid('json'))
      if (!made.ok) return c.json({ reason: made.reason }, 422)
      engine.kick(made.connectionId)
      return c.json({ intent: made.intent, place: made.place, lost: made.lost }, 201)
    })
    .post('/made/:intent/take-back', async c => {
      const taken = await takeBack(ctx, c.get('member'), c.req.param('intent'))
      if (!taken) return c.json({ onItsWay: true as const }, 202)
      if (!taken.ok) return c.json({ reason: taken.reason }, taken.status)
      if (taken.connectionId) engine.kick(taken.connectionId)
      return c.json({ onItsWay: false as const })
    })
    .get('/:key', async c => {
      const member = c.get('member')
      const viewer = { zone: member.zone, defaultMinutes: DEFAULT_MINUTES, now: ctx.now() }
      const found = await ctx.db.snapshot(sql => itemDetails(sql, member, c.req.param('key'), viewer))
      return found ? c.json(found) : c.json({ reason: 'It is no longer there.' }, 404)
    })
    .post('/:key/answers', zValidator('json', GuestSaid), async c => {
      const member = c.get('member')
      const key = c.req.param('key')
      const viewer = { zone: member.zone, defaultMinutes: DEFAULT_MINUTES, now: ctx.now() }
      const found = await ctx.db.snapshot(sql => itemDetails(sql, member, key, viewer))
      const id = found?.mayChange ? (found.guests?.meeting ?? null) : null
      if (id === null) return c.json({ reason: 'There is nothing that waits for you.' }, 404)
      const why = await sayIfCounts(ctx, member, id, c.req.valid('json'), to => engine.kick(to))
      return why === null ? c.json({ done: true as const }) : c.json({ reason: why }, 409)
    })
    .post('/:key/duplicate', zValidator('json', z.object({ start: When.nullable() })), async c => {
      const made = await duplicateItem(ctx, c.get('member'), c.req.param('key'), c.req.valid('json').start)
      if (!made.ok) return c.json({ reason: made.reason }, 422)
      engine.kick(made.connectionId)
      return c.json({ intent: made.intent, place: made.place }, 201)
    })
    .put('/:key/batch', zValidator('json', z.object({ tasks: z.array(Id).max(200) })), async c => {
      const answer = await setBatch(ctx, c.get('member'), c.req.param('key'), c.req.valid('json').tasks)
      return answer.ok ? c.json({ before: answer.before }) : c.json({ reason: answer.reason }, 422)
    })
    .get('/:key/move', zValidator('query', z.object({ to: Id })), async c => {
      const answer = await moveOutlook(ctx, c.get('member'), c.req.param('key'), c.req.valid('query').to)
      return answer.ok ? c.json(answer.outlook) : c.json({ reason: answer.reason }, 422)
    })
    .post('/:key/move', zValidator('json', z.object({ to: Id })), async c => {
      const answer = await moveItem(ctx, c.get('member'), c.req.param('key'), c.req.valid('json').to)
      if (!answer.ok) return c.json({ reason: answer.reason }, 422)
      engine.kick(answer.connectionId)
      return c.json({ ...answer.outlook, intent: answer.intent })
    })
    .post('/:key/series', zValidator('json', SeriesEdit), async c => {
      const { edit, which } = c.req.valid('json')
      const answer = await editSeries(ctx, c.get('member'), c.req.param('key'), edit, which)
      if (!answer.ok) return c.json({ reason: answer.reason }, answer.status)
      if (answer.connectionId) engine.kick(answer.connectionId)
      return c.json({ inverse: answer.inverse })
    })
    .post('/:key/edit', zValidator('query', Was), zValidator('json', Edit), async c => {
      const { was = null } = c.req.valid('query')
      const answer = await editItem(ctx, c.get('member'), c.req.param('key'), c.req.valid('json'), was)
      if (!answer.ok) return c.json({ reason: answer.reason }, answer.status)
      if (answer.connectionId) engine.kick(answer.connectionId)
      else engine.requestPlan(c.get('member').workspaceId)
      return c.json({ inverse: answer.inverse, meanwhile: answer.meanwhile ?? null })
    })
}
