import { zValidator } from '@hono/zod-validator'
import { type Edit, zonedAt } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import { commonTimesFor } from '../offers/common-time.ts'
import { makeRoom } from '../offers/make-room.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { makeItem } from '../view/make.ts'
import type { SignedIn } from './session.ts'

/** A time at which colleagues can meet: found, and taken. */

const MINUTE = 60_000
const asked = {
  people: z.array(z.string().max(36)).min(1).max(20),
  minutes: z.number().int().min(15).max(480),
  /** Work that presses less gives way; 0: none does. */
  below: z.number().int().min(0).max(100),
}
const MOST_MS = 28 * 1440 * MINUTE
const Look = z
  .object({ ...asked, fromMs: z.number().int().min(0), toMs: z.number().int().min(0) })
  .refine(
    ({ fromMs, toMs }) => fromMs < toMs && toMs - fromMs <= MOST_MS,
    'That is no range of up to four weeks.',
  )
const Take = z.object({
  ...asked,
  startMs: z.number().int().min(0),
  title: z.string().trim().min(1).max(500),
  location: z.string().trim().max(500).default(''),
  /** Where the event is written; null: in Amber Loom alone. */
  into: z.string().max(36).nullable(),
})
const NO_MEMBER = { reason: 'Somebody among them is no member any more.' }

export function commonTimeRoutes(ctx: Context, engine: Engine) {
  return (
    new Hono<SignedIn>()
      .post('/look', zValidator('json', Look), async c => {
        const times = await commonTimesFor(ctx, c.get('member'), c.req.valid('json'))
        return times ? c.json({ times }) : c.json(NO_MEMBER, 404)
      })
      /** It is looked at again first: what has been taken meanwhile is not taken a second time. */
      .post('/take', zValidator('json', Take), async c => {
        const member = c.get('member')
        const { startMs, minutes, people, below, title, location, into } = c.req.valid('json')
        const toMs = startMs + minutes * MINUTE
        const again = await commonTimesFor(ctx, member, { people, minutes, below, fromMs: startMs, toMs })
        if (!again) return c.json(NO_MEMBER, 404)
        if (again[0]?.fromMs !== startMs)
          return c.json({ reason: 'That time has been taken meanwhile. Choose another.' }, 409)
        const made = await makeItem(ctx, member, {
          what: 'event',
          title,
          kind: 'meeting',
          guests: people.filter(id => id !== member.id),
          start: zonedAt(startMs, member.zone),
          minutes,
          repeats: null,
          into,
          said: location === '' ? {} : { location },
        })
        if (!made.ok) return c.json({ reason: made.reason }, 422)
        engine.kick(made.connectionId)
        const { workspaceId } = member
        const taken = { fromMs: startMs, toMs }
        const team = await teamOfWorkspace(ctx.db, { workspaceId })
        const backs: { key: string; edit: Edit }[] = []
        const gave: { person: string; title: string; to: number | null; why: string | null }[] = []
        for (const person of team.filter(m => people.includes(m.id))) {
          const host = { ...person, workspaceId, userId: '' }
          const done = await makeRoom(ctx, host, { taken, below }, { by: member, cause: 'meeting-gave-way' })
          for (const id of done.connections) engine.kick(id)
          backs.push(...done.backs)
          // What whoever asks may not change, they are told nothing of.
          for (const g of done.gave)
            if (g.why === null) gave.push({ person: person.id, title: g.title, to: g.to, why: g.why })
            else
              gave.push({
                person: person.id,
                title: person.id === member.id ? g.title : '',
                to: null,
                why: g.why,
              })
        }
        return c.json({ intent: made.intent, place: made.place, gave, backs }, 201)
      })
  )
}
