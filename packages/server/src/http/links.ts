import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { Level, viewOf } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import { hashOf, newToken } from '../access/secrets.ts'
import { sightIn } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import { json, parsed } from '../data/json.ts'
import { logSharing } from '../data/repositories/grants.ts'
import { addLink, dropLink, linksOfWorkspace, listsOfLinks, openLinkOf } from '../data/repositories/links.ts'
import { memberNames } from '../data/repositories/members.ts'
import { guestDays, GuestSpan } from '../view/guest-days.ts'
import { withConsent } from '../team/agreement.ts'
import type { SignedIn } from './session.ts'
import { viewsFor } from '../team/views-for.ts'

/** Addresses for people without an account: made for lists that are one's to share, shown once, ended at any time. */

const Given = z.object({
  name: z.string().trim().min(1, 'Say whom it is for.').max(100),
  lists: z.array(z.string().max(36)).min(1).max(100),
  level: Level.extract(['busy', 'title', 'everything']),
  weeks: z.number().int().min(1).max(26),
  /** Only what this saved view shows of them. */
  view: z.string().max(36).nullable().default(null),
  /** In so many days it ends by itself. */
  expires: z.number().int().min(1).max(3650).nullable(),
})
const MOST_LINKS = 200
const DAY_MS = 86_400_000

export function linkRoutes(ctx: Context) {
  const { db } = ctx
  return (
    new Hono<SignedIn>()
      .get('/', async c => {
        const member = c.get('member')
        const { workspaceId } = member
        const sight = await sightIn(db, member)
        const lists = await listsOfLinks(db, { workspaceId })
        const names = new Map((await memberNames(db, { workspaceId })).map(m => [m.id, m.name]))
        const all = (await linksOfWorkspace(db, { workspaceId })).map(({ made_by: by, view, ...l }) => ({
          ...l,
          view: view && parsed(view).name,
          maker: names.get(by) ?? '',
          isMine: by === member.id,
          lists: lists.flatMap(({ link_id: link, collection_id: list, level }) =>
            link === l.id && sight.tends(list) ? [{ id: list, level }] : [],
          ),
        }))
        // One's own, and those that show what one owns or looks after.
        return c.json({ links: all.filter(l => l.isMine || l.lists.length > 0) })
      })
      /** As the guest sees it, for whoever made it: others may see less of its lists. */
      .get('/:id/look', zValidator('query', GuestSpan), async c => {
        const { workspaceId, id: me } = c.get('member')
        const link = await openLinkOf(db, { id: c.req.param('id'), workspaceId, now: Date.now() })
        if (link?.made_by !== me) return c.json({ reason: 'There is no such address.' }, 404)
        return c.json(await guestDays(ctx, link, c.req.valid('query')))
      })
      .post('/', zValidator('json', Given), async c => {
        const member = c.get('member')
        const { workspaceId, id: memberId } = member
        const { name, lists, level, weeks, expires, view: viewId } = c.req.valid('json')
        const [id, token, now] = [randomUUID(), newToken(), Date.now()]
        const done = await withConsent(ctx, member, {}, async sql => {
          const sight = await sightIn(sql, member)
          if (!lists.every(sight.tends))
            return 'One of these lists is not yours to share, or not there any more.'
          if (viewId !== null && level === 'busy')
            return 'Busy time is that of whole lists. Choose titles or everything with a view.'
          const [view] = viewId === null ? [] : await viewsFor(sql, member, viewId)
          if (viewId !== null && !view) return 'This view is not there any more.'
          if ((await linksOfWorkspace(sql, { workspaceId })).length >= MOST_LINKS)
            return `A workspace has no more than ${MOST_LINKS} of them. End some first.`
          await addLink(sql, {
            id,
            hash: hashOf(token),
            workspaceId,
            made_by: memberId,
            name,
            weeks,
            made_at: now,
            expires_at: expires === null ? null : now + expires * DAY_MS,
            view: view ? json({ name: view.row.name, body: viewOf(parsed(view.row.body)) }) : null,
            lists: [...new Set(lists)].map(list => ({ id: list, level })),
          })
          const act = { do: 'link' as const, name, level, isEnded: false }
          const collectionId = lists[0] ?? null
          await logSharing(sql, { workspaceId, at: ctx.now(), memberId, collectionId, act })
          sql.tell(workspaceId, { topics: ['team'] })
          return null
        })
        const refused = 'asked' in done ? done.reason : done.did
        if (refused !== null) return c.json({ reason: refused }, 422)
        return c.json({ id, link: `${ctx.publicUrl}/guest#${token}` }, 201)
      })
      .delete('/:id', async c => {
        const member = c.get('member')
        const { workspaceId, id: memberId } = member
        const id = c.req.param('id')
        const isGone = await db.commit(async sql => {
          const sight = await sightIn(sql, member)
          const link = (await linksOfWorkspace(sql, { workspaceId })).find(l => l.id === id)
          const lists = (await listsOfLinks(sql, { workspaceId })).filter(l => l.link_id === id)
          const theirs = lists.find(l => sight.tends(l.collection_id))
          if (!link || (link.made_by !== memberId && !theirs)) return false
          await dropLink(sql, { id, workspaceId })
          const act = {
            do: 'link' as const,
            name: link.name,
            level: theirs?.level ?? 'nothing',
            isEnded: true,
          }
          const collectionId = theirs?.collection_id ?? null
          await logSharing(sql, { workspaceId, at: ctx.now(), memberId, collectionId, act })
          sql.tell(workspaceId, { topics: ['team'] })
          return true
        })
        return isGone ? c.json({ ok: true as const }) : c.json({ reason: 'There is no such address.' }, 404)
      })
  )
}
