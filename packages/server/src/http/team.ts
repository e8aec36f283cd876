import { sightIn } from '../access/sight.ts'
import { connectionsHolding } from '../data/repositories/connections.ts'
import { zValidator } from '@hono/zod-validator'
import { isKnownZone, mayChangeTeam, Role, type TeamAct } from '@loom/core'
import { Hono, type MiddlewareHandler } from 'hono'
import { z } from 'zod'
import { newEntryLink, putEntryLink } from '../access/entry-links.ts'
import { deleteWorkspace } from '../team/deletion.ts'
import { workspaceExport } from '../team/workspace-export.ts'
import type { Sessions } from '../access/sessions.ts'
import type { Context } from '../context/context.ts'
import {
  handOverConnections,
  ownedConnections,
  pauseConnectionsOf,
} from '../data/repositories/connections.ts'
import { countsOfWorkspace } from '../data/repositories/deletion.ts'
import { dropEntryLinks, openInvitations } from '../data/repositories/entry-links.ts'
import { dropDoorsOf } from '../data/repositories/doors.ts'
import { endMembership, lockTeam, setRole, teamOfWorkspace } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { membersWithout } from '../data/repositories/second-factor.ts'
import { renameWorkspace, setWantsSecond, workspaceInBrief } from '../data/repositories/workspaces.ts'
import { invitationLetter } from '../mail/entry-letters.ts'
import { trySending } from '../mail/mailer.ts'
import type { SignedIn } from './session.ts'

/** Who is in the workspace: invited, given a role, removed. */

const Invitation = z.object({ email: z.email('That is no mail address.').max(320), role: Role })
/** What becomes of the connections of whoever goes: the team's from now on, or paused. */
const Going = z.object({ connections: z.enum(['hand-over', 'pause']) })
const Workspace = z.object({
  name: z.string().trim().min(1, 'Give the workspace a name.').max(200),
  zone: z.string().max(64).refine(isKnownZone, 'There is no such time zone.'),
})

const coordinatorsOnly: MiddlewareHandler<SignedIn> = async (c, next) =>
  c.get('member').role === 'coordinator' ? next() : c.json({ reason: 'Only coordinators do that.' }, 403)

export function teamRoutes(ctx: Context, sessions: Sessions) {
  const { db } = ctx
  async function invite(by: Member, email: string, role: Role) {
    const { workspaceId } = by
    const link = newEntryLink(ctx.publicUrl, { purpose: 'invite', workspaceId, email, role, by: by.id })
    await db.commit(async sql => {
      await putEntryLink(sql, link)
      sql.tell(workspaceId, { topics: ['team'] })
    })
    const workspace = (await workspaceInBrief(db, { workspaceId }))?.name ?? ''
    const letter = invitationLetter({ workspace, by: by.name, url: link.url })
    const mailed = await trySending(ctx.outgoingMail, ctx.log, {
      to: { name: '', address: email },
      ...letter,
    })
    return { id: link.row.id, link: link.url, mailed }
  }
  /** Does it where it may be done: the team is looked at and changed in one commit. */
  async function act(by: Member, what: TeamAct, after: 'hand-over' | 'pause' | null) {
    const { workspaceId, id } = by
    const now = ctx.now()
    return db.commit(async sql => {
      const verdict = mayChangeTeam(await lockTeam(sql, { workspaceId }), id, what)
      if (verdict.kind !== 'may') return verdict
      if (what.do === 'role') await setRole(sql, { id: what.of, role: what.role })
      else {
        await endMembership(sql, { id: what.of, now })
        await dropDoorsOf(sql, { memberId: what.of })
        if (after === 'pause') await pauseConnectionsOf(sql, { memberId: what.of, workspaceId })
        else await handOverConnections(sql, { memberId: what.of, workspaceId })
      }
      sql.tell(workspaceId, { topics: ['team', 'cloth', 'connections'] })
      return verdict
    })
  }
  const end = async (by: Member, of: string, connections: 'hand-over' | 'pause') => {
    const verdict = await act(by, { do: 'end', of }, connections)
    if (verdict.kind === 'may') await sessions.endOfMember(of)
    return verdict
  }
  const NOBODY = { reason: 'That person is not in this workspace, or not any more.' }

  return (
    new Hono<SignedIn>()
      .get('/', async c => {
        const { workspaceId, id, role } = c.get('member')
        const team = await teamOfWorkspace(db, { workspaceId })
        const seen = (await sightIn(db, c.get('member'))).withAtLeast('title')
        const shared = await connectionsHolding(db, { workspaceId, lists: seen })
        const owned = (await ownedConnections(db, { workspaceId })).filter(
          o => o.ownerId === id || shared.has(o.id),
        )
        const looksAfter = role === 'coordinator'
        const workspace = await workspaceInBrief(db, { workspaceId })
        const without = looksAfter ? await membersWithout(db, { workspaceId }) : []
        return c.json({
          workspace: workspace && {
            name: workspace.name,
            zone: workspace.zone,
            wantsSecond: workspace.wants_second === 1,
          },
          /** Those who have neither a passkey nor codes, told to coordinators. */
          without: without.map(m => m.id),
          me: id,
          looksAfter,
          mails: ctx.outgoingMail !== null,
          members: team.map(m => ({
            id: m.id,
            name: m.name,
            email: m.email,
            role: m.role,
            zone: m.zone,
            joinedAt: m.joined_at,
            connections: owned.filter(o => o.ownerId === m.id).map(o => o.name),
          })),
          invitations: looksAfter
            ? (await openInvitations(db, { workspaceId, now: Date.now() })).map(i => ({
                id: i.id,
                email: i.email ?? '',
                role: i.role ?? ('member' as const),
                expiresAt: i.expires_at,
              }))
            : [],
        })
      })
      .put('/', coordinatorsOnly, zValidator('json', Workspace), async c => {
        const { workspaceId } = c.get('member')
        await db.commit(async sql => {
          await renameWorkspace(sql, { workspaceId, ...c.req.valid('json') })
          sql.tell(workspaceId, { topics: ['team', 'cloth'] })
        })
        return c.json({ ok: true as const })
      })
      /** All of it that a coordinator sees, as a file. */
      .get('/export', coordinatorsOnly, async c => {
        c.header('Content-Disposition', 'attachment; filename="amber-loom-workspace.json"')
        return c.json(await workspaceExport(ctx, c.get('member')))
      })
      /** Whether a passkey or one-time codes are wanted of everybody here. */
      .put('/second', coordinatorsOnly, zValidator('json', z.object({ wants: z.boolean() })), async c => {
        const { workspaceId, id } = c.get('member')
        const { wants } = c.req.valid('json')
        const isWithout = (await membersWithout(db, { workspaceId })).some(m => m.id === id)
        if (wants && isWithout)
          return c.json({ reason: 'Set up a passkey or codes for yourself first, under My settings.' }, 409)
        await db.commit(async sql => {
          await setWantsSecond(sql, { workspaceId, wants: wants ? 1 : 0 })
          sql.tell(workspaceId, { topics: ['team'] })
        })
        return c.json({ ok: true as const })
      })
      /** What would go with the workspace. */
      .get('/deletion', coordinatorsOnly, async c => {
        const { workspaceId } = c.get('member')
        return c.json(await countsOfWorkspace(db, { workspaceId }))
      })
      .post(
        '/delete',
        coordinatorsOnly,
        zValidator('json', z.object({ name: z.string().max(200) })),
        async c => {
          const { workspaceId } = c.get('member')
          const called = (await workspaceInBrief(db, { workspaceId }))?.name
          if (called !== c.req.valid('json').name.trim())
            return c.json({ reason: 'That is not the name of this workspace.' }, 422)
          await deleteWorkspace(ctx, sessions, workspaceId)
          return c.json({ ok: true as const })
        },
      )
      .post('/invitations', coordinatorsOnly, zValidator('json', Invitation), async c => {
        const by = c.get('member')
        const { role } = c.req.valid('json')
        const email = c.req.valid('json').email.toLowerCase()
        const team = await teamOfWorkspace(db, { workspaceId: by.workspaceId })
        const known = team.find(m => m.email.toLowerCase() === email)
        if (known) return c.json({ reason: `${known.name} is in this workspace already.` }, 409)
        return c.json(await invite(by, email, role))
      })
      .post('/invitations/:id/renew', coordinatorsOnly, async c => {
        const by = c.get('member')
        const { workspaceId } = by
        const open = await openInvitations(db, { workspaceId, now: Date.now() })
        const one = open.find(i => i.id === c.req.param('id'))
        if (!one?.email || !one.role) return c.json({ reason: 'That invitation is not open any more.' }, 404)
        return c.json(await invite(by, one.email, one.role))
      })
      .delete('/invitations/:id', coordinatorsOnly, async c => {
        const { workspaceId } = c.get('member')
        const gone = await db.commit(async sql => {
          sql.tell(workspaceId, { topics: ['team'] })
          return dropEntryLinks(sql, { id: c.req.param('id'), purpose: 'invite', workspace_id: workspaceId })
        })
        if (gone === 0) return c.json({ reason: 'That invitation is not open any more.' }, 404)
        return c.json({ ok: true as const })
      })
      .put('/members/:id/role', zValidator('json', z.object({ role: Role })), async c => {
        const { role } = c.req.valid('json')
        const verdict = await act(c.get('member'), { do: 'role', of: c.req.param('id'), role }, null)
        if (verdict.kind === 'nobody') return c.json(NOBODY, 404)
        if (verdict.kind === 'may-not') return c.json({ reason: verdict.reason }, 403)
        return c.json({ ok: true as const })
      })
      // What somebody connected with their own sign-in is not handed to whoever removes them.
      .post('/members/:id/remove', async c => {
        const verdict = await end(c.get('member'), c.req.param('id'), 'pause')
        if (verdict.kind === 'nobody') return c.json(NOBODY, 404)
        if (verdict.kind === 'may-not') return c.json({ reason: verdict.reason }, 403)
        return c.json({ ok: true as const })
      })
      .post('/leave', zValidator('json', Going), async c => {
        const member = c.get('member')
        const verdict = await end(member, member.id, c.req.valid('json').connections)
        if (verdict.kind !== 'may')
          return c.json({ reason: verdict.kind === 'may-not' ? verdict.reason : NOBODY.reason }, 403)
        return c.json({ ok: true as const })
      })
  )
}
