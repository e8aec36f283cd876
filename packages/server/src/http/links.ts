import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { Hono } from 'hono'
import { z } from 'zod'
import { hashOf, newToken } from '../access/secrets.ts'
import { sightIn } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import { logSharing } from '../data/repositories/grants.ts'
import {
  addLink,
  dropLink,
  linksOfWorkspace,
  listsOfLinks,
  openLinkOf,
  placeOfMember,
} from '../data/repositories/links.ts'
import { memberNames } from '../data/repositories/members.ts'
import { guestDays, GuestSpan } from '../view/guest-days.ts'
import { withConsent } from '../team/agreement.ts'
import type { SignedIn } from './session.ts'
import { LinkAsked, shownBy } from '../team/link-terms.ts'

/** Addresses for people without an account: made for lists that are one's to share, shown once, ended at any time. */

const Given = LinkAsked.extend({ name: z.string().trim().min(1, 'Say whom it is for.').max(100) })
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
      /** What a reader of such an address would be told, before there is one. */
      .post(
        '/look',
        zValidator('json', LinkAsked.omit({ expires: true }).extend({ span: GuestSpan })),
        async c => {
          const member = c.get('member')
          const { span, ...terms } = c.req.valid('json')
          const draft = await shownBy(db, member, terms)
          if ('reason' in draft) return c.json(draft, 422)
          const of = await placeOfMember(db, { memberId: member.id })
          if (!of) return c.json({ reason: 'You are in no workspace any more.' }, 404)
          const link = {
            ...of,
            name: '',
            opens: terms.opens,
            weeks: terms.weeks,
            made_by: member.id,
            view: draft.view,
          }
          return c.json(await guestDays(ctx, link, span, draft.lists))
        },
      )
      .post('/', zValidator('json', Given), async c => {
        const member = c.get('member')
        const { workspaceId, id: memberId } = member
        const { name, expires, ...terms } = c.req.valid('json')
        const { opens, tasksAs: tasks_as, weeks, level } = terms
        const [id, token, now] = [randomUUID(), newToken(), Date.now()]
        const done = await withConsent(ctx, member, {}, async sql => {
          const shown = await shownBy(sql, member, terms)
          if ('reason' in shown) return shown.reason
          if ((await linksOfWorkspace(sql, { workspaceId })).length >= MOST_LINKS)
            return `A workspace has no more than ${MOST_LINKS} of them. End some first.`
          const expires_at = expires === null ? null : now + expires * DAY_MS
          const link = { id, hash: hashOf(token), workspaceId, made_by: memberId, made_at: now, expires_at }
          await addLink(sql, { ...link, ...shown, name, opens, tasks_as, weeks })
          const act = { do: 'link' as const, name, level, isEnded: false }
          const collectionId = shown.lists[0]?.id ?? null
          await logSharing(sql, { workspaceId, at: ctx.now(), memberId, collectionId, act })
          sql.tell(workspaceId, { topics: ['team'] })
          return null
        })
        const refused = 'asked' in done ? done.reason : done.did
        if (refused !== null) return c.json({ reason: refused }, 422)
        const at = {
          page: `guest#${token}`,
          feed: `feed/${token}.ics`,
          availability: `feed/${token}.ics`,
          caldav: 'dav/',
        }
        const password = opens === 'caldav' ? token : null
        return c.json({ id, link: `${ctx.publicUrl}/${at[opens]}`, password }, 201)
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
