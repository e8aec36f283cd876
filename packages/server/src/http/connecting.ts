import { tends } from './one-connection.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { Level } from '@loom/core'
import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { conform, connect, type Meanings, Pace, readDescription, ServiceError } from '@loom/connectors'
import { Filter, Meaning, Scope } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import {
  beginDraft,
  concludeConsent,
  connectorOfDraft,
  type Draft,
  dropDraft,
  inputFrom,
  loadDraft,
} from '../connecting/drafts.ts'
import {
  areMembers,
  connectService,
  matchOf,
  membersOf,
  subscribe,
  withoutParts,
} from '../connecting/connect-service.ts'
import { countListing, forgetListing, searchListing } from '../connecting/listings.ts'
import { bringService, serviceChoices } from '../connecting/services.ts'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { AlsoAt } from './one-connection.ts'
import type { SignedIn } from './session.ts'
import { sameAccount } from '../data/repositories/connections.ts'
import { deleteService } from '../data/repositories/services.ts'

/** From choosing a service to its first import. */

const Ids = z.array(z.string().max(500)).max(500)
const SignInGiven = z.object({
  service: z.string().max(64),
  address: z.string().trim().min(1).max(500),
  user: z.string().trim().max(200).optional(),
  password: z.string().max(500).optional(),
  key: z.string().trim().max(500).optional(),
  alsoAt: AlsoAt,
})
export const Asked = z.object({
  takesPart: Ids,
  filter: Filter,
  meanings: z.record(z.string().max(500), Meaning).default({}),
})
export const Chosen = z.object({
  takesPart: Ids,
  scope: Scope,
  meanings: z.record(z.string().max(500), Meaning),
  people: z.record(z.string().max(255), z.string().max(36).nullable()),
  picks: Ids,
})
export const Kept = Chosen.extend({
  name: z.string().trim().min(1).max(100),
  ownerId: z.string().max(36).nullable(),
  /** What everybody in the workspace sees of it; later lists are asked for by themselves. */
  colleagues: Level.optional(),
  dyes: z.record(z.string().max(500), z.string().regex(/^#[0-9a-fA-F]{6}$/)),
})
const Search = z.object({ takesPart: Ids, words: z.string().max(200) })
const Trial = SignInGiven.omit({ service: true }).extend({
  description: z.string().max(500_000),
  list: z.string().max(500).nullable(),
})

export const NO_MEMBER = { reason: 'One of these is no member here.' }
const NO_DRAFT = { reason: 'This connection was not finished in time. Begin it again.' }

export function connectingRoutes(ctx: Context, engine: Engine) {
  /** What a person sees of a draft: nothing that opens the service. */
  const shown = async (draft: Draft, member: Member) => {
    const { workspaceId } = member
    const members = await membersOf(ctx.db, workspaceId)
    const already = await sameAccount(ctx.db, {
      workspaceId,
      subject: draft.account?.subject ?? '',
    })
    return {
      id: draft.id,
      /** The same account, connected before: a second time would show everything twice. */
      already: already && tends(member, already) ? already.name : null,
      service: draft.service,
      serviceName: draft.input.kind === 'http-json' ? draft.input.description.name : draft.service,
      host: new URL(draft.input.address.replace(/^(?![a-z]+:)/i, 'https://')).host,
      account: draft.account && {
        name: draft.account.name,
        collections: draft.account.collections,
        people: draft.account.people.map(p => ({ ...p, memberId: matchOf(p, members) })),
      },
      members: members.map(({ id, name }) => ({ id, name })),
      me: member.id,
    }
  }
  const terms = (draft: Draft, zone: string) => ({
    me: draft.account?.people.find(p => p.me)?.id ?? null,
    now: ctx.now(),
    zone,
  })

  return (
    new Hono<SignedIn>()
      .get('/services', async c =>
        c.json({ services: await serviceChoices(ctx.db, c.get('member').workspaceId) }),
      )
      .post('/services', zValidator('json', z.object({ description: z.string().max(500_000) })), async c => {
        const { workspaceId } = c.get('member')
        const brought = await bringService(ctx.db, workspaceId, c.req.valid('json').description, ctx.now())
        return brought.ok
          ? c.json({ id: brought.id }, 201)
          : c.json({ reason: 'This description is not right yet.', errors: brought.errors }, 422)
      })
      .delete('/services/:id', async c => {
        await deleteService(ctx.db, {
          id: c.req.param('id'),
          workspaceId: c.get('member').workspaceId,
        })
        return c.json({ ok: true as const })
      })
      /** Tries a description against its service, and says what works. */
      .post('/services/trial', zValidator('json', Trial), async c => {
        const { description: text, list, address, ...credentials } = c.req.valid('json')
        const read = readDescription(text)
        if (!read.ok)
          return c.json({ reason: 'This description is not right yet.', errors: read.errors }, 422)
        const { description } = read
        if (description.signIn.kind === 'oauth2')
          return c.json(
            { reason: 'A service with a consent page is tried by connecting it.', errors: [] },
            422,
          )
        const { limits } = description
        const connector = connect(
          { kind: 'http-json', address, description, credentials },
          {
            http: ctx.http,
            now: ctx.now,
            zone: null,
            pace: limits ? new Pace(limits.requests, limits.perSeconds) : null,
            signal: AbortSignal.timeout(30_000),
          },
        )
        return c.json(await conform(connector, list, randomUUID()))
      })
      .post('/drafts', zValidator('json', SignInGiven), async c => {
        const member = c.get('member')
        const given = c.req.valid('json')
        const input = await inputFrom(ctx, member.workspaceId, given)
        if (!input)
          return c.json({ reason: 'Something is missing to sign in with.', trouble: 'missing' }, 422)
        try {
          const begun = await beginDraft(ctx, member, given.service, input)
          return c.json({ draft: begun.draft, consent: begun.kind === 'consent' ? begun.url : null }, 201)
        } catch (error) {
          if (error instanceof ServiceError)
            return c.json({ reason: error.message, trouble: error.trouble, alsoAt: error.origin }, 422)
          throw error
        }
      })
      .get('/drafts/:id', async c => {
        const member = c.get('member')
        const draft = await loadDraft(ctx, member, c.req.param('id'))
        return draft ? c.json(await shown(draft, member)) : c.json(NO_DRAFT, 404)
      })
      .post('/drafts/:id/count', zValidator('json', Asked), async c => {
        const member = c.get('member')
        const draft = await loadDraft(ctx, member, c.req.param('id'))
        if (!draft) return c.json(NO_DRAFT, 404)
        const { takesPart, filter, meanings } = c.req.valid('json')
        const connector = connectorOfDraft(ctx, draft, meanings as Meanings)
        return c.json(
          countListing(
            { key: draft.id, background: ctx.background },
            connector,
            withoutParts(takesPart),
            filter,
            terms(draft, member.zone),
          ),
        )
      })
      .post('/drafts/:id/search', zValidator('json', Search), async c => {
        const draft = await loadDraft(ctx, c.get('member'), c.req.param('id'))
        if (!draft) return c.json(NO_DRAFT, 404)
        const { takesPart, words } = c.req.valid('json')
        return c.json(
          searchListing(
            { key: draft.id, background: ctx.background },
            connectorOfDraft(ctx, draft, {}),
            withoutParts(takesPart),
            words,
          ),
        )
      })
      .post('/drafts/:id/keep', zValidator('json', Kept), async c => {
        const member = c.get('member')
        const draft = await loadDraft(ctx, member, c.req.param('id'))
        if (!draft?.account) return c.json(NO_DRAFT, 404)
        const { account, input } = draft
        const wanted = c.req.valid('json')
        if (!(await areMembers(ctx.db, member.workspaceId, wanted))) return c.json(NO_MEMBER, 422)
        const id = await ctx.db.commit(sql =>
          // Without a word, only that time is taken is shared; the team's is everybody's.
          connectService(ctx, sql, member.workspaceId, input, account, {
            ...wanted,
            colleagues: wanted.colleagues ?? (wanted.ownerId === null ? 'change' : 'busy'),
          }),
        )
        await dropDraft(ctx, draft.id)
        forgetListing(draft.id)
        await subscribe(ctx, id)
        engine.kick(id)
        return c.json({ id }, 201)
      })
      .delete('/drafts/:id', async c => {
        const draft = await loadDraft(ctx, c.get('member'), c.req.param('id'))
        if (draft) await dropDraft(ctx, draft.id)
        return c.json({ ok: true as const })
      })
  )
}

/** Where a consent page sends people back to; they go on where they were. */
export function consentRoute(ctx: Context) {
  return new Hono<SignedIn>().get('/', async c => {
    const done = await concludeConsent(ctx, c.get('member'), new URL(c.req.url).searchParams)
    if (!done) return c.redirect('/connections/new?lost=1')
    const query = new URLSearchParams({ draft: done.draft, ...(done.reason && { reason: done.reason }) })
    return c.redirect(`/connections/new?${query.toString()}`)
  })
}
