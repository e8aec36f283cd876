import { randomUUID } from 'node:crypto'
import { Hono } from 'hono'
import { deleteCookie, getCookie, setCookie } from 'hono/cookie'
import { type Identified, type IdentityProvider, Underway } from '../access/identity-provider.ts'
import { hashPassword } from '../access/passwords.ts'
import { limitOf } from '../access/limits.ts'
import { hashOf, newToken, seal, unseal } from '../access/secrets.ts'
import type { Entering, Sessions } from '../access/sessions.ts'
import { ensureOwnOf } from '../connecting/own-lists.ts'
import type { Context } from '../context/context.ts'
import type { Tx } from '../data/database.ts'
import { dropEntryLinks } from '../data/repositories/entry-links.ts'
import { invitationsFor, keepIdentity, userOfIdentity } from '../data/repositories/identities.ts'
import { addMember, membershipsOfUser } from '../data/repositories/members.ts'
import { addUser, userWithMail } from '../data/repositories/users.ts'
import { workspacesToJoin } from '../data/repositories/workspaces.ts'
import { giveSession, type SessionTerms } from './session.ts'

/**
 * Signing in by an identity provider: there, and back with who it says one is. A user is found by who they are there,
 * and the first time by a mail address that the provider has verified; nobody else gets in who is not invited.
 */

const COOKIE = 'loom_entry'
const MINUTES = 10

/** Told on the page for signing in, by name: nothing that comes from outside is shown there. */
export type NoEntry = 'refused' | 'not-verified' | 'not-invited' | 'no-answer'

export function entryProviderRoutes(
  ctx: Context,
  sessions: Sessions,
  terms: SessionTerms,
  provider: IdentityProvider | null,
) {
  const { db } = ctx
  /** Of a password that nobody knows. */
  const unknown = hashPassword(newToken())
  const tries = limitOf(db, { name: 'entry-provider', times: 60, seconds: 300 })

  /** Who it is here, made a member where they are invited; the reason where they may not enter. */
  async function admit(sql: Tx, who: Identified, domains: readonly string[]): Promise<Entering | NoEntry> {
    const hash = hashOf(`${who.issuer} ${who.subject}`)
    const now = Date.now()
    const known = await userOfIdentity(sql, { hash })
    if (!known && who.email === null) return 'not-verified'
    const byMail = who.email === null ? null : await userWithMail(sql, { email: who.email })
    const invitations = who.email === null ? [] : await invitationsFor(sql, { email: who.email, now })
    const isOfDomain = who.email !== null && domains.includes(who.email.split('@').at(-1) ?? '')
    const open = isOfDomain && !known && !byMail ? await workspacesToJoin(sql) : []
    // A domain says that somebody may come in, and not where, once there are several workspaces.
    const joins = [
      ...invitations.map(i => ({
        workspaceId: i.workspace_id ?? '',
        role: i.role ?? ('member' as const),
        zone: i.zone,
      })),
      ...(invitations.length === 0 && open.length === 1
        ? open.map(w => ({ workspaceId: w.id, role: 'member' as const, zone: w.zone }))
        : []),
    ]
    let userId = known?.id ?? byMail?.id
    if (userId === undefined) {
      if (joins.length === 0 || who.email === null) return 'not-invited'
      userId = randomUUID()
      // A password that nobody knows: by mail, a known one can be set.
      await addUser(sql, { id: userId, email: who.email, passwordHash: await unknown, now })
    }
    await keepIdentity(sql, { hash, userId, now })
    for (const { workspaceId, role, zone } of joins) {
      const name = who.name ?? who.email ?? 'Somebody'
      const email = who.email ?? ''
      await addMember(sql, { id: randomUUID(), workspaceId, userId, role, name, email, zone, now })
      await dropEntryLinks(sql, { purpose: 'invite', workspace_id: workspaceId, email })
      sql.tell(workspaceId, { topics: ['team', 'cloth', 'connections'] })
    }
    const [first] = await membershipsOfUser(sql, { userId })
    return first ? { userId, memberId: first.id, workspaceId: first.workspaceId } : 'not-invited'
  }

  return new Hono()
    .get('/', async c => {
      if (!provider) return c.json({ reason: 'There is no such address.' }, 404)
      if ((await tries.count(terms.addressOf(c))) !== null) return c.redirect('/sign-in?no=no-answer')
      try {
        const { url, underway } = await provider.begin()
        setCookie(c, COOKIE, seal(underway, ctx.secret), {
          httpOnly: true,
          sameSite: 'Lax',
          path: '/api/entry/provider',
          maxAge: MINUTES * 60,
          secure: terms.secure,
        })
        return c.redirect(url)
      } catch (error) {
        ctx.log.warn({ err: error }, 'the identity provider does not answer')
        return c.redirect('/sign-in?no=no-answer')
      }
    })
    .get('/back', async c => {
      if (!provider) return c.json({ reason: 'There is no such address.' }, 404)
      const no = (why: NoEntry) => c.redirect(`/sign-in?no=${why}`)
      const kept = getCookie(c, COOKIE)
      deleteCookie(c, COOKIE, { path: '/api/entry/provider' })
      const underway = kept ? opened(ctx, kept) : null
      if (!underway || (await tries.count(terms.addressOf(c))) !== null) return no('refused')
      let who: Identified | null
      try {
        who = await provider.back(new URL(c.req.url).searchParams, underway)
      } catch (error) {
        ctx.log.warn({ err: error }, 'the identity provider does not answer')
        return no('no-answer')
      }
      if (!who) return no('refused')
      const found = who
      const entering = await db.commit(sql => admit(sql, found, provider.terms.domains))
      if (typeof entering === 'string') return no(entering)
      await ensureOwnOf(ctx, entering.workspaceId)
      const device = c.req.header('User-Agent') ?? ''
      giveSession(c, terms, await sessions.begin(db, entering, { device }))
      return c.redirect('/cloth')
    })
}

function opened(ctx: Context, kept: string): Underway | null {
  try {
    return Underway.parse(unseal(kept, ctx.secret))
  } catch {
    // Somebody else's, or of another day's key: as good as none.
    return null
  }
}
