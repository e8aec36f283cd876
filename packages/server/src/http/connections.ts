import { dropUnfinishedImports } from '../data/repositories/reading.ts'
import { type CollectionOverview, collectionsOverview } from '../data/repositories/collection-views.ts'
import { zValidator } from '@hono/zod-validator'
import { everything, ofOwn, Meaning, statusNames, type StatusTerm } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import { PLACES, whereabouts } from '../connecting/whereabouts.ts'
import { haltedView } from './halted.ts'
import { type Context, descriptionOf, scopeOf } from '../context/context.ts'
import { compareInFull } from '../sync/engine/compare.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { SLOT_MS } from '../sync/log/health.ts'
import { sightIn } from '../access/sight.ts'
import { connectionIn, GONE, tends } from './one-connection.ts'
import type { SignedIn } from './session.ts'
import {
  connectionsOverview,
  setPaused,
  raiseSettingsVersion,
  whatHangsOn,
  deleteConnection,
  OWN,
  type ConnectionRow,
} from '../data/repositories/connections.ts'
import { looksSince } from '../data/repositories/looks.ts'

import { leaveUnfinished } from '../data/repositories/collections.ts'
import { problemsOf } from '../data/repositories/problems.ts'
import { parsed } from '../data/json.ts'

/** Connections that are there: how they fare, and how they end. */

type CollectionView = Omit<CollectionOverview, 'writable' | 'takesPart' | 'unknown' | 'terms' | 'meaning'> & {
  writable: boolean
  takesPart: boolean
  unknownStatuses: string[]
  /** The service's own words with what they mean here. */
  statuses: StatusTerm[]
  priorities: { id: string; name: string; means: number }[]
}

/** What is looked for in a connection, and which of its places is shown whole. */
const WhereQuery = z.object({
  words: z.string().max(200).default(''),
  whole: z.enum(PLACES).optional(),
})

/** A feed's whole address may be a secret; its host is not. */
const placeOf = (row: ConnectionRow): string =>
  row.kind === OWN
    ? ''
    : row.kind === 'ics-feed'
      ? (row.address.replace(/^[a-z]+:\/\//i, '').split('/')[0] ?? '')
      : row.address

/** Of a list that is another's: no counts, and nothing of how it is read. */
const NOT_TOLD = {
  items: 0,
  outside: 0,
  problems: 0,
  trouble: null,
  unknownStatuses: [],
  importDone: 0,
  importTotal: null,
}
const NOT_THEIRS = {
  place: '',
  accountName: '',
  people: 0,
  unmatched: 0,
  trouble: null,
  scope: { ...everything, future: false },
}

/** How one signs in again. */
function signInOf(row: ConnectionRow): 'password' | 'key' | 'consent' | 'none' {
  if (row.kind === 'caldav') return 'password'
  if (row.kind !== 'http-json') return 'none'
  const { kind } = descriptionOf(row).signIn
  return kind === 'basic' ? 'password' : kind === 'oauth2' ? 'consent' : 'key'
}

export function connectionRoutes(ctx: Context, engine: Engine) {
  return (
    new Hono<SignedIn>()
      .get('/', async c => {
        const { workspaceId } = c.get('member')
        const member = c.get('member')
        const sight = await sightIn(ctx.db, member)
        const all = await collectionsOverview(ctx.db, { workspaceId })
        // Of what is not theirs to look after, those see the lists that are shared with them.
        const collections = all.filter(
          k => sight.tends(k.id) || (k.takesPart === 1 && sight.sees(k.id, 'title')),
        )
        const rows = (await connectionsOverview(ctx.db, { workspaceId })).filter(
          r => tends(member, r) || collections.some(k => k.connectionId === r.id),
        )
        const shown = collections.map(({ unknown, terms, meaning, ...k }): CollectionView => {
          const words = parsed(terms)
          const means = meaning === null ? null : Meaning.parse(parsed(meaning))
          return {
            ...k,
            writable: k.writable === 1 && sight.sees(k.id, 'change'),
            ...(!sight.tends(k.id) && NOT_TOLD),
            takesPart: k.takesPart === 1,
            statuses: words.statuses.map(s => ({
              ...s,
              means: ofOwn(means?.statuses ?? {}, s.id) ?? s.means,
            })),
            priorities: words.priorities.map(p => ({
              ...p,
              means: ofOwn(means?.priorities ?? {}, p.id) ?? p.means,
            })),
            unknownStatuses: statusNames(words, parsed(unknown)),
          }
        })
        return c.json({
          now: ctx.now(),
          halted: await haltedView(ctx, engine, workspaceId),
          connections: rows.map(r => ({
            /** Whether it is theirs to look after; else only what is shared of it is told. */
            tends: tends(member, r),
            id: r.id,
            kind: r.kind,
            name: r.name,
            place: placeOf(r),
            accountName: r.account_name,
            owner: r.owner,
            people: r.people,
            unmatched: r.unmatched,
            signIn: signInOf(r),
            paused: r.paused === 1,
            scope: scopeOf(r),
            state: r.state,
            trouble: r.trouble,
            failingSince: r.failing_since,
            nextTryAt: r.state === 'ok' ? null : ctx.now() + (r.next_look_at - Date.now()),
            lastOkAt: r.last_ok_at,
            subscribed: r.subscribed_at !== null,
            collections: shown.filter(k => k.connectionId === r.id),
            ...(!tends(member, r) && NOT_THEIRS),
          })),
        })
      })
      /** Resumes sync that was stopped after crashes. */
      .post('/resume', c => {
        if (!engine.isHalted) return c.json({ reason: 'Sync is running.' }, 409)
        engine.resume()
        return c.json({ ok: true as const })
      })
      .get('/:id/day', async c => {
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
        if (!row) return c.json(GONE, 404)
        const slots = await looksSince(ctx.db, { id: row.id, since: ctx.now() - 86_400_000 })
        return c.json({ now: ctx.now(), slotMs: SLOT_MS, slots })
      })
      .put('/:id/paused', zValidator('json', z.object({ paused: z.boolean() })), async c => {
        const { workspaceId } = c.get('member')
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
        if (!row) return c.json(GONE, 404)
        await ctx.db.commit(async sql => {
          await setPaused(sql, {
            id: row.id,
            paused: c.req.valid('json').paused ? 1 : 0,
          })
          sql.tell(workspaceId, { topics: ['connections', 'rules'], connection: row.id })
        })
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      /** Ends a first import that is under way: what came in of that list goes again, and it takes no part. */
      .post('/:id/cancel-import', async c => {
        const { workspaceId } = c.get('member')
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
        if (!row) return c.json(GONE, 404)
        await ctx.db.commit(async sql => {
          await dropUnfinishedImports(sql, { id: row.id })
          await leaveUnfinished(sql, { id: row.id })
          await raiseSettingsVersion(sql, {
            id: row.id,
          })
          sql.tell(workspaceId, { topics: ['connections', 'cloth', 'rules'] })
        })
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      .post('/:id/look', async c => {
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
        if (!row) return c.json(GONE, 404)
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      /** Compares everything it holds, whatever its notifications said. */
      .post('/:id/compare', async c => {
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
        if (!row) return c.json(GONE, 404)
        await compareInFull(ctx, row.id)
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      /** What a disconnection would take with it, in counts. */
      .get('/:id/leaving', async c => {
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
        if (!row) return c.json(GONE, 404)
        const counts = await whatHangsOn(ctx.db, { id: row.id })
        return c.json(counts ?? { items: 0, rules: 0, ties: 0, waiting: 0, estimates: 0 })
      })
      .delete('/:id', async c => {
        const { workspaceId } = c.get('member')
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
        if (!row || row.kind === OWN) return c.json(GONE, 404)
        await ctx.db.commit(async sql => {
          await deleteConnection(sql, { id: row.id })
          sql.tell(workspaceId, { topics: ['connections', 'cloth', 'rules'] })
        })
        ctx.connectors.delete(row.id)
        return c.json({ ok: true as const })
      })
      .get('/:id/whereabouts', zValidator('query', WhereQuery), async c => {
        const member = c.get('member')
        const row = await connectionIn(ctx, c.req.param('id'), member)
        if (!row) return c.json(GONE, 404)
        const { words, whole } = c.req.valid('query')
        return c.json(await whereabouts(ctx, row, member.zone, { words, whole: whole ?? null }))
      })
      .get('/:id/problems', async c => {
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
        if (!row) return c.json(GONE, 404)
        const problems = await problemsOf(ctx.db, { id: row.id })
        return c.json({ problems })
      })
  )
}
