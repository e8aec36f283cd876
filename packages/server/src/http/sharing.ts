import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { becauseOf, type Because, Level, sightOf } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import { type Sharing, sharingOf } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import {
  deputiesOf,
  type DeputyRow,
  dropDeputy,
  dropGroup,
  groupsOf,
  listsToShare,
  logSharing,
  putDeputy,
  putGroup,
  sharingLines,
} from '../data/repositories/grants.ts'
import { linksOfWorkspace, listsOfLinks } from '../data/repositories/links.ts'
import { viewsOfWorkspace } from '../data/repositories/views.ts'
import { Changes, notToShare, ofMembers, peopleIn, type PersonOf, share } from '../team/share.ts'
import { asksFor, audienceIn, needsOf } from '../sync/rules/audience.ts'
import { carriedOnFrom, limitCarrying, withConsent } from '../team/agreement.ts'
import { asked } from './asked.ts'
import type { SignedIn } from './session.ts'

/** Who sees what: the lists and calendars that somebody owns or looks after, and what of them they grant to whom. */

const Id = z.string().min(1).max(36)
const Deputy = z
  .object({ deputy: Id, from: z.iso.date(), to: z.iso.date() })
  .refine(d => d.from <= d.to, 'It ends before it begins.')
const deputyView = (d: DeputyRow | undefined) =>
  d ? { deputy: d.deputy_id, from: d.from_day, to: d.to_day } : null
const GroupGiven = z.object({
  name: z.string().trim().min(1, 'Give the group a name.').max(100),
  members: z.array(Id).max(500),
})

/** Somebody's level on a list, and by which path. */
interface Reached {
  person: string
  level: Level
  because: Because
}

function reachedBy(sharing: Sharing, people: readonly PersonOf[], list: string): Reached[] {
  const shared = sharing.of(list)
  if (!shared) return []
  return people.map(p => {
    const who = sharing.onlooker(p)
    return { person: p.id, level: sightOf(who, shared).open, because: becauseOf(who, shared) }
  })
}

/** What changes would open and close, by person or link and list, in items that are there. */
export interface SharingEffect {
  person: string
  list: string
  from: Level
  to: Level
  items: number
}

export function sharingRoutes(ctx: Context) {
  const { db } = ctx

  return (
    new Hono<SignedIn>()
      .get('/', async c => {
        const member = c.get('member')
        const { workspaceId } = member
        return c.json(
          await db.snapshot(async sql => {
            const sharing = await sharingOf(sql, workspaceId)
            const people = await peopleIn(sql, workspaceId)
            const sight = sharing.sightOf(member)
            const passed = new Set(sight.passable())
            const mine = [...sight.tended(), ...passed]
            const lists = await listsToShare(sql, { workspaceId, lists: mine })
            const shown = await listsOfLinks(sql, { workspaceId })
            const viewNames = new Map((await viewsOfWorkspace(sql, { workspaceId })).map(v => [v.id, v.name]))
            const links = (await linksOfWorkspace(sql, { workspaceId })).filter(
              l =>
                l.made_by === member.id ||
                shown.some(s => s.link_id === l.id && sight.tends(s.collection_id)),
            )
            return {
              me: member.id,
              mayGroup: member.role === 'coordinator',
              people: people.map(({ id, name, role }) => ({ id, name, role })),
              deputy: deputyView(
                (await deputiesOf(sql, { workspaceId })).find(d => d.member_id === member.id),
              ),
              standsFor: sharing.onlooker(member).standsFor ?? [],
              groups: (await groupsOf(sql, { workspaceId })).map(g => ({
                ...g,
                members: people.flatMap(p => (sharing.groupsOf(p.id).includes(g.id) ? [p.id] : [])),
              })),
              links: links.map(({ id, name, weeks, view, made_by: by }) => ({
                id,
                name,
                weeks,
                ofView: view !== null,
                isMine: by === member.id,
              })),
              lists: lists.map(l => ({
                ...l,
                // How much there is of it is for those who look after it to know.
                ...(passed.has(l.id) && { items: 0, classed: 0 }),
                shownBy: shown.flatMap(s =>
                  s.collection_id === l.id && !passed.has(l.id) ? [{ link: s.link_id, level: s.level }] : [],
                ),
                own: l.own === 1,
                isMine: sharing.of(l.id)?.owner === member.id,
                // Of what was passed on to them, as much as they see.
                upTo: passed.has(l.id) ? sight.level(l.id) : null,
                asBefore: sharing.of(l.id)?.asBefore ?? false,
                grants: sharing.of(l.id)?.grants ?? [],
                // By whose views something of it comes into sight is for whoever looks after it to know.
                opened: passed.has(l.id)
                  ? []
                  : sharing.openings(l.id).map(o => ({ ...o, view: viewNames.get(o.view) ?? '' })),
                reached: reachedBy(sharing, people, l.id),
              })),
            }
          }),
        )
      })
      /** One list or calendar, for whoever sees its titles: whose it is, what they see of it and why; and who else, for whoever says so. */
      .get('/lists/:id', async c => {
        const member = c.get('member')
        const { workspaceId } = member
        const id = c.req.param('id')
        return db.snapshot(async sql => {
          const sharing = await sharingOf(sql, workspaceId)
          const sight = sharing.sightOf(member)
          const [list] = sight.sees(id, 'title') ? await listsToShare(sql, { workspaceId, lists: [id] }) : []
          if (!list) return c.json({ reason: 'There is no such list or calendar.' }, 404)
          const people = await peopleIn(sql, workspaceId)
          const reached = reachedBy(sharing, people, id)
          const isMineToSay = sight.tends(id)
          const showing = new Map(
            (await listsOfLinks(sql, { workspaceId })).flatMap(l =>
              l.collection_id === id ? [[l.link_id, l.level] as const] : [],
            ),
          )
          const links = await linksOfWorkspace(sql, { workspaceId })
          return c.json({
            ...list,
            own: list.own === 1,
            owner: people.find(p => p.id === sharing.of(id)?.owner)?.name ?? null,
            asBefore: sharing.of(id)?.asBefore ?? false,
            mine: reached.find(r => r.person === member.id) ?? null,
            reached: isMineToSay ? reached : null,
            carriedOn: await carriedOnFrom(sql, member, id),
            links: isMineToSay
              ? links.flatMap(({ id: link, name, weeks }) => {
                  const level = showing.get(link)
                  return level ? [{ id: link, name, level, weeks }] : []
                })
              : null,
          })
        })
      })
      /** How much rules may show of a list of mine where they carry it; those that show more stop. */
      .put(
        '/lists/:id/carried/:target',
        zValidator('json', z.object({ level: Level.exclude(['change']) })),
        async c => {
          const who = c.get('member')
          const of = {
            list: c.req.param('id'),
            target: c.req.param('target'),
            level: c.req.valid('json').level,
          }
          const done = await db.commit(sql => limitCarrying(sql, { who, at: ctx.now() }, of))
          return done.ok ? c.json({ stopped: done.stopped }) : c.json({ reason: done.reason }, 404)
        },
      )
      /** What it would open and close, and whose agreement that needs; nothing is changed. */
      .post('/effect', zValidator('json', Changes), async c => {
        const member = c.get('member')
        const { changes } = c.req.valid('json')
        const { workspaceId } = member
        return db.snapshot(async sql => {
          const sharing = await sharingOf(sql, workspaceId)
          const reason = await notToShare(sql, member, sharing, changes)
          if (reason) return c.json({ reason }, 422)
          const people = await peopleIn(sql, workspaceId)
          const ids = [...new Set(changes.map(ch => ch.list))]
          const after = sharing.with(ofMembers(changes))
          const effects: SharingEffect[] = []
          const { tends } = sharing.sightOf(member)
          const counted = (await listsToShare(sql, { workspaceId, lists: ids })).map(l =>
            tends(l.id) ? l : { ...l, items: 0, classed: 0 },
          )
          for (const { id, items, classed } of counted) {
            const then = new Map(reachedBy(after, people, id).map(r => [r.person, r.level]))
            for (const { person, level: from } of reachedBy(sharing, people, id)) {
              const to = then.get(person) ?? 'nothing'
              if (to !== from) effects.push({ person, list: id, from, to, items: items - classed })
            }
          }
          const links = await listsOfLinks(sql, { workspaceId })
          for (const { list, to, level } of changes) {
            if (to.kind !== 'link') continue
            const from = links.find(l => l.link_id === to.id && l.collection_id === list)?.level ?? 'nothing'
            const { items = 0, classed = 0 } = counted.find(l => l.id === list) ?? {}
            if ((level ?? 'nothing') !== from)
              effects.push({ person: to.id, list, from, to: level ?? 'nothing', items: items - classed })
          }
          // Private ones were seen by all until somebody chose.
          const chosen = new Set(ofMembers(changes).map(ch => ch.list))
          const closes = counted
            .filter(l => tends(l.id) && chosen.has(l.id) && sharing.of(l.id)?.asBefore === true)
            .reduce((n, l) => n + l.classed, 0)
          // Whose list is carried there by a rule is asked first.
          const isSaid = (l: { link_id: string; collection_id: string }): boolean =>
            changes.some(ch => ch.to.kind === 'link' && ch.to.id === l.link_id && ch.list === l.collection_id)
          const said = changes.flatMap(({ list, to, level }) =>
            to.kind === 'link' && level ? [{ link_id: to.id, collection_id: list, level }] : [],
          )
          const shown = [...links.filter(l => !isSaid(l)), ...said]
          const before = await audienceIn(sql, workspaceId)
          const needs = await needsOf(sql, member, {
            before,
            after: await audienceIn(sql, workspaceId, {
              granted: { sharing: after, shown },
              known: before.channels,
            }),
          })
          return c.json({ effects, closes, asks: await asksFor(sql, member, needs) })
        })
      })
      .put('/', zValidator('json', Changes), async c => {
        const member = c.get('member')
        const given = c.req.valid('json')
        const done = await withConsent(ctx, member, { then: { do: 'share', given } }, sql =>
          share(sql, { member, at: ctx.now() }, given),
        )
        if ('asked' in done) return asked(c, done)
        return done.did.ok
          ? c.json({ ...done.did.before, asked: [] })
          : c.json({ reason: done.did.reason }, 422)
      })
      /** Who shared what with whom, newest first. */
      .get('/log', zValidator('query', z.object({ before: z.coerce.number().int().optional() })), async c => {
        const member = c.get('member')
        const { workspaceId, id: memberId, role } = member
        const sight = (await sharingOf(db, workspaceId)).sightOf(member)
        const lists = sight.tended()
        const before = c.req.valid('query').before ?? null
        const groups = role === 'coordinator'
        const lines = await sharingLines(db, { workspaceId, lists, memberId, groups, before })
        const told = lines.flatMap(({ isMine, ...line }) => {
          const body = parsed(line.body)
          // A rule is known to whoever may change both its sides, and to whoever did it.
          const isKnown =
            body.do !== 'rule' || isMine === 1 || body.lists.every(id => sight.sees(id, 'change'))
          return isKnown ? [{ ...line, body }] : []
        })
        return c.json({ lines: told, more: lines.length === 100 })
      })
      /** Who looks after what one owns while one is away; null ends it. */
      .put('/deputy', zValidator('json', Deputy.nullable()), async c => {
        const member = c.get('member')
        const { workspaceId, id: memberId } = member
        const given = c.req.valid('json')
        const refused = await db.commit(async sql => {
          const whom = given && (await peopleIn(sql, workspaceId)).find(p => p.id === given.deputy)
          if (given && (!whom || whom.id === memberId || whom.role === 'reader'))
            return 'Choose a member of the team other than yourself, who may change things.'
          if (given && whom)
            await putDeputy(sql, {
              member_id: memberId,
              deputy_id: whom.id,
              from_day: given.from,
              to_day: given.to,
              workspaceId,
            })
          else await dropDeputy(sql, { memberId })
          const act = {
            do: 'deputy' as const,
            whom: whom?.name ?? null,
            from: given?.from ?? '',
            to: given?.to ?? '',
          }
          await logSharing(sql, { workspaceId, at: ctx.now(), memberId, collectionId: null, act })
          sql.tell(workspaceId, { topics: ['team', 'cloth', 'connections', 'rules', 'journal'] })
          return null
        })
        return refused === null ? c.json({ ok: true as const }) : c.json({ reason: refused }, 422)
      })
      .put('/groups/:id', zValidator('json', GroupGiven), async c => {
        const member = c.get('member')
        const { workspaceId } = member
        if (member.role !== 'coordinator') return c.json({ reason: 'Only coordinators do that.' }, 403)
        const { name, members } = c.req.valid('json')
        const named = c.req.param('id')
        const id = named === 'new' ? randomUUID() : named
        const done = await withConsent(ctx, member, {}, async sql => {
          const groups = await groupsOf(sql, { workspaceId })
          if (named !== 'new' && !groups.some(g => g.id === id)) return 'There is no such group.'
          if (groups.length >= MOST_GROUPS && named === 'new')
            return `A workspace has no more than ${MOST_GROUPS} groups.`
          if (groups.some(g => g.id !== id && g.name.toLowerCase() === name.toLowerCase()))
            return 'Another group has that name.'
          const people = new Set((await peopleIn(sql, workspaceId)).map(p => p.id))
          const inIt = [...new Set(members)].filter(m => people.has(m))
          await putGroup(sql, { id, workspaceId, name, members: inIt })
          const act = { do: 'group' as const, name, members: inIt.length }
          await logSharing(sql, { workspaceId, at: ctx.now(), memberId: member.id, collectionId: null, act })
          sql.tell(workspaceId, { topics: ['team', 'cloth', 'connections', 'rules', 'journal'] })
          return null
        })
        if ('asked' in done) return c.json({ reason: done.reason }, 422)
        return done.did === null ? c.json({ id }) : c.json({ reason: done.did }, 422)
      })
      .delete('/groups/:id', async c => {
        const member = c.get('member')
        const { workspaceId } = member
        if (member.role !== 'coordinator') return c.json({ reason: 'Only coordinators do that.' }, 403)
        const id = c.req.param('id')
        const gone = await withConsent(ctx, member, {}, async sql => {
          const name = (await groupsOf(sql, { workspaceId })).find(g => g.id === id)?.name
          if (name === undefined || (await dropGroup(sql, { id, workspaceId })) === 0) return false
          const act = { do: 'group' as const, name, members: null }
          await logSharing(sql, { workspaceId, at: ctx.now(), memberId: member.id, collectionId: null, act })
          sql.tell(workspaceId, { topics: ['team', 'cloth', 'connections', 'rules', 'journal'] })
          return true
        })
        if ('asked' in gone) return c.json({ reason: gone.reason }, 422)
        return gone.did ? c.json({ ok: true as const }) : c.json({ reason: 'There is no such group.' }, 404)
      })
  )
}

const MOST_GROUPS = 100
