import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { ViewBody, viewOf } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import type { SignedIn } from './session.ts'
import { viewsOf, addView, changeView, deleteView, type ViewRow } from '../data/repositories/views.ts'
import { parsed, json } from '../data/json.ts'

/** Saved views: a member's own, and the team's, which every member sees and may change. */

export const ICONS = [
  'bead',
  'leaf',
  'sun',
  'moon',
  'lamp',
  'wrench',
  'people',
  'flag',
  'cup',
  'path',
] as const

const Given = z.object({
  name: z.string().trim().min(1).max(100),
  icon: z.enum(ICONS),
  team: z.boolean(),
  body: ViewBody,
  /** The version it was changed from; absent for a new one. */
  version: z.number().int().optional(),
})

export interface SavedView {
  id: string
  name: string
  icon: (typeof ICONS)[number]
  team: boolean
  body: ViewBody
  version: number
  madeBy: string | null
}

const saved = (r: ViewRow): SavedView => ({
  id: r.id,
  name: r.name,
  icon: ICONS.find(i => i === r.icon) ?? 'bead',
  team: r.member_id === null,
  body: viewOf(parsed(r.body)),
  version: r.version,
  madeBy: r.made_by,
})

export function viewRoutes(ctx: Context) {
  return new Hono<SignedIn>()
    .get('/', async c => {
      const { workspaceId, id: memberId } = c.get('member')
      const rows = await viewsOf(ctx.db, { workspaceId, memberId })
      return c.json({ views: rows.map(saved) })
    })
    .post('/', zValidator('json', Given), async c => {
      const { workspaceId, id: memberId } = c.get('member')
      const { name, icon, team, body } = c.req.valid('json')
      const id = randomUUID()
      await ctx.db.commit(async sql => {
        await addView(sql, {
          id,
          workspaceId,
          owner: team ? null : memberId,
          memberId,
          name,
          icon,
          body: json(body),
        })
        sql.tell(workspaceId, { topics: ['views'] })
      })
      return c.json({ id }, 201)
    })
    .put('/:id', zValidator('json', Given), async c => {
      const { workspaceId, id: memberId } = c.get('member')
      const { name, icon, team, body, version } = c.req.valid('json')
      const changed = await ctx.db.commit(async sql => {
        const n = await changeView(sql, {
          id: c.req.param('id'),
          workspaceId,
          memberId,
          owner: team ? null : memberId,
          name,
          icon,
          body: json(body),
          version: version ?? -1,
        })
        if (n > 0) sql.tell(workspaceId, { topics: ['views'] })
        return n > 0
      })
      if (!changed)
        return c.json(
          {
            reason:
              'Somebody else has changed or removed this view meanwhile. Save yours under another name, or look at theirs first.',
          },
          409,
        )
      return c.json({ id: c.req.param('id') })
    })
    .delete('/:id', async c => {
      const { workspaceId, id: memberId } = c.get('member')
      const n = await ctx.db.commit(async sql => {
        const gone = await deleteView(sql, {
          id: c.req.param('id'),
          workspaceId,
          memberId,
        })
        if (gone > 0) sql.tell(workspaceId, { topics: ['views'] })
        return gone
      })
      if (n === 0) return c.json({ reason: 'There is no such view.' }, 404)
      return c.json({ ok: true as const })
    })
}
