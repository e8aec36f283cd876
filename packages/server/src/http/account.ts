import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { isKnownZone } from '@loom/core'
import Bowser from 'bowser'
import { Hono } from 'hono'
import { z } from 'zod'
import { accountDeletion, deleteAccount } from '../team/deletion.ts'
import { personExport } from '../team/person-export.ts'
import { Passkeys, siteOf } from '../access/passkeys.ts'
import { hashPassword, passwordTrouble } from '../access/passwords.ts'
import type { Sessions } from '../access/sessions.ts'
import { ensureOwnOf } from '../connecting/own-lists.ts'
import type { Context } from '../context/context.ts'
import { addMember, membershipsOfUser } from '../data/repositories/members.ts'
import { proveSession, unproveWithout } from '../data/repositories/second-factor.ts'
import { dropPasskey, passkeysOfUser } from '../data/repositories/passkeys.ts'
import { moveSession, sessionsOfUser } from '../data/repositories/sessions.ts'
import { setPasswordHash } from '../data/repositories/users.ts'
import { addWorkspace } from '../data/repositories/workspaces.ts'
import { BY_NUMBER, inWords, type SessionTerms, type SignedIn } from './session.ts'

/** What is a user's own, whatever workspace they are in: password, sessions, workspaces. */

const NewPassword = z.object({ old: z.string().max(500), password: z.string().max(500) })
const Workspace = z.object({
  name: z.string().trim().min(1, 'Give the workspace a name.').max(200),
  zone: z.string().max(64).refine(isKnownZone, 'There is no such time zone.'),
})

const Made = z.object({
  name: z.string().trim().min(1, 'Give it a name.').max(100),
  response: z.custom<Parameters<Passkeys['make']>[3]>(
    given =>
      z
        .object({ id: z.string().max(1400), response: z.object({}).loose() })
        .loose()
        .safeParse(given).success,
  ),
})

/** What a browser says of itself, as people call it. */
function deviceInWords(userAgent: string): string {
  if (userAgent === '') return 'unknown'
  const { browser, os, platform } = Bowser.parse(userAgent)
  const on = [os.name, platform.type === 'mobile' ? 'telephone' : null].filter(Boolean).join(', ')
  return [browser.name ?? 'a program', on && `on ${on}`].filter(Boolean).join(' ')
}

export function accountRoutes(ctx: Context, sessions: Sessions, terms: SessionTerms) {
  const { db } = ctx
  const passkeys = new Passkeys(db)
  return (
    new Hono<SignedIn>()
      .get('/', async c => {
        const { userId, workspaceId } = c.get('member')
        const open = await sessionsOfUser(db, { userId, now: Date.now() })
        return c.json({
          workspaces: (await membershipsOfUser(db, { userId })).map(m => ({
            id: m.workspaceId,
            name: m.workspace,
            role: m.role,
            here: m.workspaceId === workspaceId,
          })),
          byName: siteOf(c.req.url, ctx.publicUrl) !== null,
          passkeys: (await passkeysOfUser(db, { userId })).map(k => ({
            id: k.id,
            name: k.name,
            madeAt: k.made_at,
            usedAt: k.used_at,
          })),
          sessions: open.map(s => ({
            id: s.id,
            device: deviceInWords(s.device),
            madeAt: s.made_at,
            usedAt: s.used_at,
            here: s.token_hash === c.get('session'),
          })),
        })
      })
      /** Everything that is kept about whoever asks, as a file. */
      .get('/export', async c => {
        const { userId, email } = c.get('member')
        c.header('Content-Disposition', 'attachment; filename="amber-loom-account.json"')
        return c.json(await personExport(ctx, { id: userId, email }))
      })
      /** What would go with the account, and what stays. */
      .get('/deletion', async c => c.json(await accountDeletion(ctx, c.get('member').userId)))
      .post('/delete', zValidator('json', z.object({ password: z.string().max(500) })), async c => {
        const { userId, email } = c.get('member')
        const verified = await sessions.verify(email, c.req.valid('json').password, terms.addressOf(c))
        if (verified.kind === 'wait')
          return c.json({ reason: `Too many tries. Try again in ${inWords(verified.seconds)}.` }, 429)
        if (verified.kind === 'wrong' || verified.userId !== userId)
          return c.json({ reason: 'That is not your password.' }, 403)
        const [stuck] = (await deleteAccount(ctx, sessions, userId)).stuck
        if (stuck)
          return c.json(
            { reason: `Nobody else could look after ${stuck}. Make somebody a coordinator first.` },
            409,
          )
        return c.json({ ok: true as const })
      })
      .post('/passkeys/options', async c => {
        const site = siteOf(c.req.url, ctx.publicUrl)
        if (!site) return c.json(BY_NUMBER, 422)
        const { userId, email, name } = c.get('member')
        const options = await passkeys.toMake(site, { id: userId, email, name })
        if (!options) return c.json({ reason: 'You have very many passkeys. Remove one first.' }, 409)
        return c.json(options)
      })
      .post('/passkeys', zValidator('json', Made), async c => {
        const site = siteOf(c.req.url, ctx.publicUrl)
        const { name, response } = c.req.valid('json')
        if (!site || !(await passkeys.make(site, c.get('member').userId, name, response)))
          return c.json({ reason: 'The passkey could not be verified. Nothing was kept; try again.' }, 422)
        await proveSession(db, { hash: c.get('session') })
        return c.json({ ok: true as const })
      })
      .delete('/passkeys/:id', async c => {
        const gone = await dropPasskey(db, { id: c.req.param('id'), userId: c.get('member').userId })
        if (gone === 0) return c.json({ reason: 'That passkey is gone already.' }, 404)
        await unproveWithout(db, { userId: c.get('member').userId })
        return c.json({ ok: true as const })
      })
      .put('/password', zValidator('json', NewPassword), async c => {
        const { userId, email, name } = c.get('member')
        const { old, password } = c.req.valid('json')
        const verified = await sessions.verify(email, old, terms.addressOf(c))
        if (verified.kind === 'wait')
          return c.json({ reason: `Too many tries. Try again in ${inWords(verified.seconds)}.` }, 429)
        if (verified.kind === 'wrong' || verified.userId !== userId)
          return c.json({ reason: 'That is not your present password.' }, 403)
        const trouble = passwordTrouble(password, [name, email])
        if (trouble) return c.json({ reason: trouble }, 422)
        await setPasswordHash(db, { id: userId, passwordHash: await hashPassword(password) })
        // Whoever knew the old one is signed out.
        const ended = await sessions.endOf(userId, { but: c.get('session') })
        return c.json({ ended })
      })
      .delete('/sessions/:id', async c => {
        const ended = await sessions.endOf(c.get('member').userId, { ids: [c.req.param('id')] })
        if (ended === 0) return c.json({ reason: 'That session has ended already.' }, 404)
        return c.json({ ok: true as const })
      })
      .delete('/sessions', async c => {
        const ended = await sessions.endOf(c.get('member').userId, { but: c.get('session') })
        return c.json({ ended })
      })
      .post('/workspaces', zValidator('json', Workspace), async c => {
        const { userId, name: called, email } = c.get('member')
        const { name, zone } = c.req.valid('json')
        const [workspaceId, memberId] = [randomUUID(), randomUUID()]
        await db.commit(async sql => {
          await addWorkspace(sql, { id: workspaceId, name, zone })
          const role = 'coordinator' as const
          const now = Date.now()
          await addMember(sql, { id: memberId, workspaceId, userId, role, name: called, email, zone, now })
        })
        await ensureOwnOf(ctx, workspaceId)
        await moveSession(db, { hash: c.get('session'), workspaceId, memberId })
        sessions.streams.end(c.get('session'))
        return c.json({ id: workspaceId })
      })
      /** The session goes on in another workspace; its page begins anew. */
      .put('/workspace', zValidator('json', z.object({ id: z.string().max(36) })), async c => {
        const { userId } = c.get('member')
        const there = (await membershipsOfUser(db, { userId })).find(
          m => m.workspaceId === c.req.valid('json').id,
        )
        if (!there) return c.json({ reason: 'You are not in that workspace, or not any more.' }, 404)
        await moveSession(db, { hash: c.get('session'), workspaceId: there.workspaceId, memberId: there.id })
        sessions.streams.end(c.get('session'))
        return c.json({ ok: true as const })
      })
  )
}
