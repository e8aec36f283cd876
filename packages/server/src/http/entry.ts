import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { isKnownZone, PersonSettings, settingsOfPerson } from '@loom/core'
import { type Context as HonoContext, Hono } from 'hono'
import { z } from 'zod'
import { newEntryLink, putEntryLink } from '../access/entry-links.ts'
import { limitOf } from '../access/limits.ts'
import { Passkeys, siteOf } from '../access/passkeys.ts'
import { hashPassword, passwordTrouble } from '../access/passwords.ts'
import { hashOf } from '../access/secrets.ts'
import type { Entering, Sessions } from '../access/sessions.ts'
import { ensureOwnOf } from '../connecting/own-lists.ts'
import type { Context } from '../context/context.ts'
import type { Tx } from '../data/database.ts'
import { json } from '../data/json.ts'
import { entryLink, takeEntryLink } from '../data/repositories/entry-links.ts'
import { addMember, membershipsOfUser, putMemberSettings } from '../data/repositories/members.ts'
import { addUser, setPasswordHash, userWithId, userWithMail } from '../data/repositories/users.ts'
import { addWorkspace, anyWorkspace } from '../data/repositories/workspaces.ts'
import { resetLetter } from '../mail/entry-letters.ts'
import { trySending } from '../mail/mailer.ts'
import {
  BY_NUMBER,
  giveSession,
  inWords,
  NOWHERE,
  type SessionTerms,
  notTooOften,
  type SignedIn,
} from './session.ts'

/** How somebody enters who is not signed in: begins, accepts an invitation, or chooses a new password. */

const Token = z.string().regex(/^[0-9a-f]{64}$/)
const Name = z.string().trim().min(1, 'Say what you are called.').max(200)
const Zone = z.string().max(64).refine(isKnownZone, 'There is no such time zone.')
const Password = z.string().max(500)
const Mail = z.email('That is no mail address.').max(320)

const Begin = z.object({
  token: Token,
  name: Name,
  email: Mail,
  password: Password,
  workspace: z.string().trim().min(1, 'Give the workspace a name.').max(200),
  zone: Zone,
  hours: PersonSettings.shape.hours.optional(),
})
const Join = z.object({ token: Token, name: Name.optional(), password: Password, zone: Zone.optional() })

/** As the browser's library says it; what it holds, the verification looks at. */
export const Signed = z.custom<Parameters<Passkeys['userOf']>[1]>(
  given =>
    z
      .object({ id: z.string().max(1400), response: z.object({}).loose() })
      .loose()
      .safeParse(given).success,
)

/** One answer for whatever is wrong with a link: nobody learns which ones there are. */
const NO_LINK = {
  reason:
    'This address is not valid, or not any more. It can be used once, and not for ever. Ask for a new one.',
}

/** @param provider what the identity provider is called; null where there is none */
export function entryRoutes(ctx: Context, sessions: Sessions, terms: SessionTerms, provider: string | null) {
  const { db } = ctx
  const passkeys = new Passkeys(db)
  const guesses = limitOf(db, { name: 'entry-source', times: 60, seconds: 300 })
  const letters = limitOf(db, { name: 'reset-mail', times: 3, seconds: 3600 })
  const found = (token: string, purpose: 'begin' | 'invite' | 'reset') =>
    entryLink(db, { hash: hashOf(token), now: Date.now() }).then(l => (l?.purpose === purpose ? l : null))

  /** Takes the link and does what it is for, as one: null where it was taken meanwhile. */
  const once = (token: string, work: (sql: Tx) => Promise<Entering | null>): Promise<Entering | null> =>
    db.commit(async sql => {
      const taken = await takeEntryLink(sql, { hash: hashOf(token), now: Date.now() })
      return taken === 1 ? work(sql) : null
    })
  const enter = async (c: HonoContext, entering: Entering, by?: 'passkey') =>
    giveSession(
      c,
      terms,
      await sessions.begin(db, entering, { device: c.req.header('User-Agent') ?? '' }, by),
    )

  return (
    new Hono<SignedIn>()
      // Whoever guesses addresses is slowed down.
      .use(notTooOften(guesses, c => (c.req.method === 'GET' ? null : terms.addressOf(c))))
      .get('/', async c => c.json({ begins: !(await anyWorkspace(db)), provider }))
      .post('/passkey/options', async c => {
        const site = siteOf(c.req.url, ctx.publicUrl)
        if (!site) return c.json(BY_NUMBER, 422)
        return c.json(await passkeys.toUse(site))
      })
      .post('/passkey', zValidator('json', z.object({ response: Signed })), async c => {
        const site = siteOf(c.req.url, ctx.publicUrl)
        const userId = site && (await passkeys.userOf(site, c.req.valid('json').response))
        if (!userId)
          return c.json({ reason: 'That passkey is not known here, or did not answer in time.' }, 403)
        const [first] = await membershipsOfUser(db, { userId })
        if (!first) return c.json(NOWHERE, 403)
        await enter(c, { userId, memberId: first.id, workspaceId: first.workspaceId }, 'passkey')
        return c.json({ ok: true as const })
      })
      .post('/look', zValidator('json', z.object({ token: Token })), async c => {
        const link = await entryLink(db, { hash: hashOf(c.req.valid('json').token), now: Date.now() })
        if (!link || link.purpose === 'passkey') return c.json(NO_LINK, 404)
        const { purpose, workspace, by, email, role, zone } = link
        const known = email !== null && (await userWithMail(db, { email })) !== null
        return c.json({ purpose, workspace, by, email, role, zone, known })
      })
      .post('/begin', zValidator('json', Begin), async c => {
        const { token, name, email, password, workspace, zone, hours } = c.req.valid('json')
        if (!(await found(token, 'begin'))) return c.json(NO_LINK, 404)
        const trouble = passwordTrouble(password, [name, email, workspace])
        if (trouble) return c.json({ reason: trouble, field: 'password' }, 422)
        const [userId, memberId, workspaceId] = [randomUUID(), randomUUID(), randomUUID()]
        const passwordHash = await hashPassword(password)
        const mail = email.toLowerCase()
        const entering = await once(token, async sql => {
          if (await anyWorkspace(sql)) return null
          await addUser(sql, { id: userId, email: mail, passwordHash, now: Date.now() })
          await addWorkspace(sql, { id: workspaceId, name: workspace, zone })
          const role = 'coordinator' as const
          await addMember(sql, {
            id: memberId,
            workspaceId,
            userId,
            role,
            name,
            email: mail,
            zone,
            now: Date.now(),
          })
          const settings = settingsOfPerson(hours ? { hours } : {})
          await putMemberSettings(sql, { id: memberId, zone, summary: 0, settings: json(settings) })
          return { userId, memberId, workspaceId }
        })
        if (!entering) return c.json(NO_LINK, 404)
        await ensureOwnOf(ctx, workspaceId)
        await enter(c, entering)
        return c.json({ ok: true as const })
      })
      .post('/join', zValidator('json', Join), async c => {
        const { token, name, password, zone } = c.req.valid('json')
        const link = await found(token, 'invite')
        const { email, workspace_id: workspaceId, role } = link ?? {}
        if (!email || !workspaceId || !role) return c.json(NO_LINK, 404)
        const known = await userWithMail(db, { email })
        let userId: string
        let passwordHash: string | null = null
        if (known) {
          const verified = await sessions.verify(email, password, terms.addressOf(c))
          if (verified.kind === 'wait')
            return c.json({ reason: `Too many tries. Try again in ${inWords(verified.seconds)}.` }, 429)
          if (verified.kind === 'wrong')
            return c.json({ reason: 'That is not your password.', field: 'password' }, 403)
          userId = verified.userId
        } else {
          if (!name) return c.json({ reason: 'Say what you are called.', field: 'name' }, 422)
          const trouble = passwordTrouble(password, [name, email])
          if (trouble) return c.json({ reason: trouble, field: 'password' }, 422)
          userId = randomUUID()
          passwordHash = await hashPassword(password)
        }
        const fresh = randomUUID()
        const entering = await once(token, async sql => {
          const now = Date.now()
          if (passwordHash !== null) await addUser(sql, { id: userId, email, passwordHash, now })
          const [elsewhere] = await membershipsOfUser(sql, { userId })
          const called = name ?? elsewhere?.name ?? email
          const there = zone ?? link?.zone ?? 'UTC'
          await addMember(sql, {
            id: fresh,
            workspaceId,
            userId,
            role,
            name: called,
            email,
            zone: there,
            now,
          })
          const mine = (await membershipsOfUser(sql, { userId })).find(m => m.workspaceId === workspaceId)
          sql.tell(workspaceId, { topics: ['team', 'cloth', 'connections'] })
          return { userId, memberId: mine?.id ?? fresh, workspaceId }
        })
        if (!entering) return c.json(NO_LINK, 404)
        await ensureOwnOf(ctx, workspaceId)
        await enter(c, entering)
        return c.json({ ok: true as const })
      })
      /** The same answer for every address: nobody learns who is a user here. */
      .post('/forgot', zValidator('json', z.object({ email: Mail })), async c => {
        const email = c.req.valid('json').email.toLowerCase()
        const mailed = ctx.outgoingMail !== null
        const isMany = (await letters.count(hashOf(email).slice(0, 32))) !== null
        const user = mailed && !isMany ? await userWithMail(db, { email }) : null
        if (user) {
          const link = newEntryLink(ctx.publicUrl, { purpose: 'reset', userId: user.id })
          await db.commit(sql => putEntryLink(sql, link))
          // Whether there is such a user shows in no time that the answer takes.
          ctx.background.run('a letter for a new password', async () => {
            const letter = { to: { name: '', address: email }, ...resetLetter(link) }
            await trySending(ctx.outgoingMail, ctx.log, letter)
          })
        }
        return c.json({ mailed })
      })
      .post('/new-password', zValidator('json', z.object({ token: Token, password: Password })), async c => {
        const { token, password } = c.req.valid('json')
        const link = await found(token, 'reset')
        const user = link?.user_id ? await userWithId(db, { id: link.user_id }) : null
        if (!user) return c.json(NO_LINK, 404)
        const trouble = passwordTrouble(password, [user.email])
        if (trouble) return c.json({ reason: trouble, field: 'password' }, 422)
        const passwordHash = await hashPassword(password)
        const [first] = await membershipsOfUser(db, { userId: user.id })
        const entering = await once(token, async sql => {
          await setPasswordHash(sql, { id: user.id, passwordHash })
          return { userId: user.id, memberId: first?.id ?? '', workspaceId: first?.workspaceId ?? '' }
        })
        if (!entering) return c.json(NO_LINK, 404)
        // Whoever knew the old one is signed out.
        await sessions.endOf(user.id, {})
        if (first) await enter(c, entering)
        return c.json({ ok: true as const, isMember: first !== undefined })
      })
  )
}
