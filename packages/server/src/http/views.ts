import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { type Grant, type Level, ViewBody, viewOf, type ViewRight } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import { parsed, json } from '../data/json.ts'
import { addView, changeView, deleteView, viewsOfWorkspace } from '../data/repositories/views.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { type SaidOfView, sayOfView } from '../team/view-grants.ts'
import { To, unknownAmong } from '../team/share.ts'
import { type Known, viewsFor } from '../team/views-for.ts'
import { withConsent } from '../team/agreement.ts'
import type { SignedIn } from './session.ts'

/** Saved views: each its maker's, for whom they say, to look by or to change as well. */

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

const MOST_VIEWS = 1000
const ViewGrants = z
  .array(
    z.object({
      to: To,
      level: z.enum(['everything', 'change']),
      /** How much of what it shows comes into sight by it; null: each sees what they see anyway. */
      opens: z.enum(['busy', 'title', 'everything']).nullable().default(null),
    }),
  )
  .max(200)
  .refine(all => new Set(all.map(g => JSON.stringify(g.to))).size === all.length, 'Each only once.')

const Given = z.object({
  name: z.string().trim().min(1).max(100),
  icon: z.enum(ICONS),
  body: ViewBody,
  /** Whom it is for; absent: as it is. */
  grants: ViewGrants.optional(),
  /** The version it was changed from; absent for a new one. */
  version: z.number().int().optional(),
})

export interface SavedView {
  id: string
  name: string
  icon: (typeof ICONS)[number]
  body: ViewBody
  version: number
  madeBy: string | null
  right: Exclude<ViewRight, 'none'>
  /** For everybody, for some, or only for whoever asks. */
  for: 'everybody' | 'some' | 'me'
  /** Whom it is for, told to whoever may say so. */
  grants: (Grant & { opens: Level | null })[] | null
}

function saved({ row, right, grants }: Known): SavedView[] {
  if (right === 'none') return []
  const isForAll = grants.some(g => g.to.kind === 'everybody')
  return [
    {
      id: row.id,
      name: row.name,
      icon: ICONS.find(i => i === row.icon) ?? 'bead',
      body: viewOf(parsed(row.body)),
      version: row.version,
      madeBy: row.made_by,
      right,
      for: isForAll ? 'everybody' : grants.length > 0 ? 'some' : 'me',
      grants: right === 'own' ? grants : null,
    },
  ]
}

/** Whoever only looks has nothing to open to others. */
const opensInVain = ({ role }: Member, grants: readonly SaidOfView[] = []): string | null =>
  role === 'reader' && grants.some(g => g.opens !== null)
    ? 'You look only: a view of yours opens nothing to others.'
    : null

const GONE = { status: 404 as const, reason: 'There is no such view.' }

export function viewRoutes(ctx: Context) {
  return new Hono<SignedIn>()
    .get('/', async c => {
      const views = await viewsFor(ctx.db, c.get('member'))
      return c.json({ views: views.flatMap(saved) })
    })
    .post('/', zValidator('json', Given), async c => {
      const { workspaceId, id: memberId } = c.get('member')
      const { name, icon, body, grants = [] } = c.req.valid('json')
      const id = randomUUID()
      const done = await withConsent(ctx, c.get('member'), {}, async sql => {
        if ((await viewsOfWorkspace(sql, { workspaceId })).length >= MOST_VIEWS)
          return `A workspace has no more than ${MOST_VIEWS} saved views. Remove some first.`
        const unknown = (await unknownAmong(sql, workspaceId, grants)) ?? opensInVain(c.get('member'), grants)
        if (unknown) return unknown
        await addView(sql, { id, workspaceId, memberId, name, icon, body: json(body) })
        await sayOfView(sql, { member: c.get('member'), at: ctx.now() }, { id, name, body }, grants)
        sql.tell(workspaceId, { topics: ['views'] })
        return null
      })
      const reason = 'asked' in done ? done.reason : done.did
      return reason === null ? c.json({ id }, 201) : c.json({ reason }, 422)
    })
    .put('/:id', zValidator('json', Given), async c => {
      const member = c.get('member')
      const { workspaceId } = member
      const { name, icon, body, grants, version = -1 } = c.req.valid('json')
      const id = c.req.param('id')
      const done = await withConsent(ctx, member, {}, async sql => {
        const [view] = await viewsFor(sql, member, id)
        if (!view) return GONE
        if (view.right === 'look')
          return { status: 409 as const, reason: 'This view is for you to look by. Save yours under a name.' }
        const isShared = grants !== undefined && JSON.stringify(grants) !== JSON.stringify(view.grants)
        if (isShared && view.right !== 'own')
          return { status: 409 as const, reason: 'Only whoever it belongs to says whom a view is for.' }
        const unknown =
          grants && ((await unknownAmong(sql, workspaceId, grants)) ?? opensInVain(member, grants))
        if (unknown) return { status: 409 as const, reason: unknown }
        if ((await changeView(sql, { id, workspaceId, name, icon, body: json(body), version })) === 0)
          return {
            status: 409 as const,
            reason:
              'Somebody else has changed this view meanwhile. Save yours under another name, or look at theirs first.',
          }
        await sayOfView(sql, { member, at: ctx.now() }, { id, name, body }, grants ?? null)
        sql.tell(workspaceId, { topics: ['views'] })
        return null
      })
      if ('asked' in done) return c.json({ reason: done.reason }, 422)
      return done.did ? c.json({ reason: done.did.reason }, done.did.status) : c.json({ id })
    })
    .delete('/:id', async c => {
      const member = c.get('member')
      const { workspaceId } = member
      const id = c.req.param('id')
      const done = await withConsent(ctx, member, {}, async sql => {
        const [view] = await viewsFor(sql, member, id)
        if (view?.right !== 'own') return false
        const { name, body } = view.row
        // What it opened is closed, and said to be so.
        await sayOfView(sql, { member, at: ctx.now() }, { id, name, body: viewOf(parsed(body)) }, [])
        sql.tell(workspaceId, { topics: ['views'] })
        return (await deleteView(sql, { id, workspaceId })) > 0
      })
      if ('asked' in done) return c.json({ reason: done.reason }, 422)
      return done.did ? c.json({ ok: true as const }) : c.json({ reason: GONE.reason }, 404)
    })
}
