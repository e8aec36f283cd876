import { zValidator } from '@hono/zod-validator'
import { ConnectionInput, type Meanings, ServiceError, type Terms } from '@loom/connectors'
import { Meaning } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import { seal } from '../access/secrets.ts'
import { beginDraft, dropDraft, loadDraft } from '../connecting/drafts.ts'
import {
  DYES,
  membersOf,
  putCollection,
  putPeople,
  subscribe,
  tryService,
  withoutParts,
} from '../connecting/keep.ts'
import { countListing, searchListing } from '../connecting/listings.ts'
import { applySettings, connectorWith, effectOf } from '../connecting/settings.ts'
import { whereabouts } from '../connecting/whereabouts.ts'
import { OWN } from '../own/connector.ts'
import { numberChange } from '../sync/changes.ts'
import {
  type ConnectionRow,
  CONNECTIONS,
  connectorOf,
  type Context,
  inputOf,
  scopeOf,
} from '../sync/context.ts'
import type { Engine } from '../sync/engine.ts'
import { SLOT_MS } from '../sync/health.ts'
import { Asked, Chosen } from './connecting.ts'
import type { SignedIn } from './session.ts'

/** Connections that are there: how they fare, what comes in from them, and how they end. */

interface CollectionView {
  id: string
  connectionId: string
  remoteId: string
  name: string
  dye: string
  holds: 'task' | 'event'
  writable: boolean
  takesPart: boolean
  items: number
  outside: number
  problems: number
  trouble: string | null
  syncedAt: number | null
  whyNot: string | null
  parent: string | null
  unknownStatuses: string[]
  importDone: number
  importTotal: number | null
}

/** A feed's whole address may be a secret; its host is not. */
const placeOf = (row: ConnectionRow): string =>
  row.kind === OWN
    ? ''
    : row.kind === 'ics-feed'
      ? (row.address.replace(/^[a-z]+:\/\//i, '').split('/')[0] ?? '')
      : row.address

const GONE = { reason: 'There is no such connection.' }

export function connectionRoutes(ctx: Context, engine: Engine) {
  const own = (id: string, workspaceId: string) =>
    ctx.db.one<ConnectionRow>(`${CONNECTIONS} WHERE c.id = :id AND c.workspace_id = :workspaceId`, {
      id,
      workspaceId,
    })
  const ask = async <T>(
    work: () => Promise<T>,
  ): Promise<{ ok: true; value: T } | { ok: false; reason: string; trouble: string }> => {
    try {
      return { ok: true, value: await work() }
    } catch (error) {
      if (error instanceof ServiceError) return { ok: false, reason: error.message, trouble: error.trouble }
      throw error
    }
  }

  return (
    new Hono<SignedIn>()
      .get('/', async c => {
        const { workspaceId } = c.get('member')
        const rows = await ctx.db.rows<
          ConnectionRow & { owner: string | null; people: number; unmatched: number }
        >(
          CONNECTIONS.replace(
            'SELECT',
            `SELECT (SELECT name FROM members o WHERE o.id = c.owner_id) AS owner,
             (SELECT COUNT(*) FROM people p WHERE p.connection_id = c.id) AS people,
             (SELECT COUNT(*) FROM people p WHERE p.connection_id = c.id AND p.member_id IS NULL) AS unmatched,`,
          ) + ` WHERE c.workspace_id = :workspaceId ORDER BY c.kind = '${OWN}', c.name`,
          { workspaceId },
        )
        type Raw = Omit<CollectionView, 'writable' | 'takesPart' | 'unknownStatuses'> & {
          writable: number
          takesPart: number
          unknown: string
          terms: string
        }
        const collections = await ctx.db.rows<Raw>(
          `SELECT k.id, k.connection_id AS connectionId, k.remote_id AS remoteId, k.name, k.dye, k.holds, k.writable,
           k.takes_part AS takesPart, k.trouble, k.synced_at AS syncedAt, k.why_not AS whyNot,
           k.parent_remote_id AS parent, k.unknown_statuses AS unknown, k.import_done AS importDone,
           k.import_total AS importTotal, k.terms,
           (SELECT COUNT(*) FROM mirrors m WHERE m.collection_id = k.id AND m.presence = 'present') AS items,
           (SELECT COUNT(*) FROM mirrors m WHERE m.collection_id = k.id AND m.presence = 'outside') AS outside,
           (SELECT COUNT(*) FROM problems p WHERE p.collection_id = k.id) AS problems
         FROM collections k WHERE k.workspace_id = :workspaceId ORDER BY k.name`,
          { workspaceId },
        )
        const shown = collections.map(({ unknown, terms, ...k }): CollectionView => {
          const names = new Map((JSON.parse(terms) as Terms).statuses.map(s => [s.id, s.name]))
          return {
            ...k,
            writable: k.writable === 1,
            takesPart: k.takesPart === 1,
            unknownStatuses: (JSON.parse(unknown) as string[]).map(id => names.get(id) ?? id),
          }
        })
        return c.json({
          now: ctx.now(),
          connections: rows.map(r => ({
            id: r.id,
            kind: r.kind,
            name: r.name,
            place: placeOf(r),
            accountName: r.account_name,
            owner: r.owner,
            people: r.people,
            unmatched: r.unmatched,
            paused: r.paused === 1,
            scope: scopeOf(r),
            state: r.state,
            trouble: r.trouble,
            failingSince: r.failing_since,
            nextTryAt: r.state === 'ok' ? null : ctx.now() + (r.next_look_at - Date.now()),
            lastOkAt: r.last_ok_at,
            told: r.subscribed_at !== null,
            collections: shown.filter(k => k.connectionId === r.id),
          })),
        })
      })
      .get('/:id/day', async c => {
        const row = await own(c.req.param('id'), c.get('member').workspaceId)
        if (!row) return c.json(GONE, 404)
        const slots = await ctx.db.rows<{
          slot: number
          passes: number
          items: number
          writes: number
          errors: number
          slowestMs: number
          delayMs: number
        }>(
          `SELECT slot, passes, items, writes, errors, slowest_ms AS slowestMs, delay_ms AS delayMs FROM looks
         WHERE connection_id = :id AND slot > :since ORDER BY slot`,
          { id: row.id, since: ctx.now() - 86_400_000 },
        )
        return c.json({ now: ctx.now(), slotMs: SLOT_MS, slots })
      })
      .get('/:id/settings', async c => {
        const { workspaceId } = c.get('member')
        const row = await own(c.req.param('id'), workspaceId)
        if (!row) return c.json(GONE, 404)
        const collections = await ctx.db.rows<{
          remoteId: string
          name: string
          holds: 'task' | 'event'
          takesPart: number
          parent: string | null
          whyNot: string | null
          dye: string
          terms: string
          meaning: string | null
          unknown: string
        }>(
          `SELECT remote_id AS remoteId, name, holds, takes_part AS takesPart, parent_remote_id AS parent, why_not AS whyNot,
           dye, terms, meaning, unknown_statuses AS unknown FROM collections WHERE connection_id = :id ORDER BY name`,
          { id: row.id },
        )
        const people = await ctx.db.rows<{
          id: string
          name: string
          email: string | null
          me: number
          memberId: string | null
        }>(
          `SELECT remote_id AS id, name, email, is_me AS me, member_id AS memberId FROM people
         WHERE connection_id = :id ORDER BY is_me DESC, name LIMIT 2000`,
          { id: row.id },
        )
        const picks = await ctx.db.rows<{ remoteId: string }>(
          'SELECT remote_id AS remoteId FROM picks WHERE connection_id = :id',
          { id: row.id },
        )
        const members = await membersOf(ctx.db, workspaceId)
        return c.json({
          name: row.name,
          scope: scopeOf(row),
          collections: collections.map(({ takesPart, terms, meaning, unknown, ...k }) => ({
            ...k,
            takesPart: takesPart === 1,
            terms: JSON.parse(terms) as Terms,
            meaning: meaning ? Meaning.parse(JSON.parse(meaning)) : null,
            unknown: JSON.parse(unknown) as string[],
          })),
          people: people.map(p => ({ ...p, me: p.me === 1 })),
          picks: picks.map(p => p.remoteId),
          members: members.map(({ id, name }) => ({ id, name })),
        })
      })
      .post('/:id/settings/count', zValidator('json', Asked), async c => {
        const member = c.get('member')
        const row = await own(c.req.param('id'), member.workspaceId)
        if (!row) return c.json(GONE, 404)
        const { takesPart, filter, meanings } = c.req.valid('json')
        const me = await ctx.db.one<{ id: string }>(
          'SELECT remote_id AS id FROM people WHERE connection_id = :id AND is_me = 1',
          { id: row.id },
        )
        const connector = await connectorWith(ctx, row, meanings as Meanings)
        const terms = { me: me?.id ?? null, now: ctx.now(), zone: member.zone }
        return c.json(countListing(row.id, connector, withoutParts(takesPart), filter, terms))
      })
      .post(
        '/:id/settings/search',
        zValidator('json', z.object({ takesPart: z.array(z.string()), words: z.string().max(200) })),
        async c => {
          const row = await own(c.req.param('id'), c.get('member').workspaceId)
          if (!row) return c.json(GONE, 404)
          const { takesPart, words } = c.req.valid('json')
          return c.json(searchListing(row.id, await connectorOf(ctx, row), withoutParts(takesPart), words))
        },
      )
      .post('/:id/settings/effect', zValidator('json', Chosen), async c => {
        const row = await own(c.req.param('id'), c.get('member').workspaceId)
        return row ? c.json(await effectOf(ctx, row, c.req.valid('json'))) : c.json(GONE, 404)
      })
      .put('/:id/settings', zValidator('json', Chosen), async c => {
        const row = await own(c.req.param('id'), c.get('member').workspaceId)
        if (!row) return c.json(GONE, 404)
        await applySettings(ctx, row, c.req.valid('json'))
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      .put(
        '/:id/collections',
        zValidator('json', z.object({ takesPart: z.array(z.string().max(500)).max(500) })),
        async c => {
          const { workspaceId } = c.get('member')
          const row = await own(c.req.param('id'), workspaceId)
          if (!row) return c.json(GONE, 404)
          const takesPart = withoutParts(c.req.valid('json').takesPart)
          await ctx.db.transaction(async sql => {
            await sql.run(
              `UPDATE collections SET sync_token = IF(takes_part = 1, sync_token, NULL),
             takes_part = (remote_id IN (:chosen) AND why_not IS NULL) WHERE connection_id = :id`,
              { id: row.id, chosen: takesPart.length > 0 ? takesPart : [''] },
            )
            await numberChange(sql, workspaceId, { topics: ['connections', 'cloth', 'rules'] })
          })
          await engine.look(row.id)
          return c.json({ ok: true as const })
        },
      )
      /** A new calendar or list at the service, which takes part at once. */
      .post(
        '/:id/collections',
        zValidator('json', z.object({ name: z.string().trim().min(1).max(100) })),
        async c => {
          const { workspaceId } = c.get('member')
          const row = await own(c.req.param('id'), workspaceId)
          if (!row) return c.json(GONE, 404)
          const connector = await connectorOf(ctx, row)
          const { makeCollection } = connector
          if (!makeCollection)
            return c.json({ reason: `${row.name} makes no calendars or lists for us.` }, 409)
          const used = await ctx.db.one<{ n: number }>(
            'SELECT COUNT(*) AS n FROM collections WHERE connection_id = :id',
            { id: row.id },
          )
          const dye = DYES[(used?.n ?? 0) % DYES.length] ?? '#44566C'
          const made = await ask(() => makeCollection(c.req.valid('json').name, dye))
          if (!made.ok) return c.json({ reason: made.reason, trouble: made.trouble }, 422)
          await ctx.db.transaction(async sql => {
            const at = { workspaceId, connectionId: row.id }
            await putCollection(sql, at, made.value, { takesPart: true, dye, meaning: null })
            await numberChange(sql, workspaceId, { topics: ['connections'] })
          })
          await engine.look(row.id)
          return c.json({ ok: true as const }, 201)
        },
      )
      /** Asks the service anew which lists, people and statuses it has. */
      .post('/:id/refresh', async c => {
        const { workspaceId } = c.get('member')
        const row = await own(c.req.param('id'), workspaceId)
        if (!row) return c.json(GONE, 404)
        const connector = await connectorOf(ctx, row)
        const found = await ask(() => connector.discover())
        if (!found.ok) return c.json({ reason: found.reason, trouble: found.trouble }, 422)
        const before = await ctx.db.rows<{ remote_id: string }>(
          'SELECT remote_id FROM collections WHERE connection_id = :id',
          { id: row.id },
        )
        const known = new Set(before.map(k => k.remote_id))
        const { future } = scopeOf(row)
        await ctx.db.transaction(async sql => {
          for (const [i, k] of found.value.collections.entries())
            await putCollection(sql, { workspaceId, connectionId: row.id }, k, {
              takesPart: future && !k.remoteId.includes('#'),
              dye: DYES[(known.size + i) % DYES.length] ?? '#44566C',
              meaning: null,
            })
          await putPeople(sql, workspaceId, row.id, found.value, {})
          await numberChange(sql, workspaceId, { topics: ['connections'] })
        })
        await engine.look(row.id)
        return c.json({ found: found.value.collections.filter(k => !known.has(k.remoteId)).map(k => k.name) })
      })
      .put(
        '/:id/credentials',
        zValidator(
          'json',
          z.object({
            user: z.string().max(200).optional(),
            password: z.string().max(500).optional(),
            key: z.string().max(500).optional(),
          }),
        ),
        async c => {
          const member = c.get('member')
          const row = await own(c.req.param('id'), member.workspaceId)
          if (!row || row.kind === OWN) return c.json(GONE, 404)
          const known = inputOf(row, ctx.secret)
          if (known.kind === 'http-json' && known.description.signIn.kind === 'oauth2') {
            const begun = await beginDraft(ctx, member, `again:${row.id}`, known)
            return c.json({ consent: begun.kind === 'consent' ? begun.url : null })
          }
          const input = ConnectionInput.safeParse({ ...known, credentials: c.req.valid('json') })
          if (!input.success)
            return c.json({ reason: 'Something is missing to sign in with.', trouble: 'missing' }, 422)
          const tried = await ask(() => tryService(ctx, input.data))
          if (!tried.ok) return c.json({ reason: tried.reason, trouble: tried.trouble }, 422)
          await ctx.db.run('UPDATE connections SET credentials = :credentials WHERE id = :id', {
            id: row.id,
            credentials: seal(input.data.credentials, ctx.secret),
          })
          await engine.look(row.id)
          return c.json({ consent: null })
        },
      )
      /** Back from the consent page of a connection that was signed out. */
      .post('/:id/consented/:draft', async c => {
        const member = c.get('member')
        const row = await own(c.req.param('id'), member.workspaceId)
        const draft = await loadDraft(ctx, member, c.req.param('draft'))
        if (!row || draft?.service !== `again:${row.id}` || !draft.account) return c.json(GONE, 404)
        await ctx.db.run('UPDATE connections SET credentials = :credentials WHERE id = :id', {
          id: row.id,
          credentials: seal(draft.input.credentials, ctx.secret),
        })
        await dropDraft(ctx, draft.id)
        await subscribe(ctx, row.id)
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      .put('/:id/paused', zValidator('json', z.object({ paused: z.boolean() })), async c => {
        const { workspaceId } = c.get('member')
        const row = await own(c.req.param('id'), workspaceId)
        if (!row) return c.json(GONE, 404)
        await ctx.db.transaction(async sql => {
          await sql.run('UPDATE connections SET paused = :paused WHERE id = :id', {
            id: row.id,
            paused: c.req.valid('json').paused ? 1 : 0,
          })
          await numberChange(sql, workspaceId, { topics: ['connections', 'rules'] })
        })
        ctx.feed.nudge()
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      /** Ends a first import that is under way: what came in of that list goes again, and it takes no part. */
      .post('/:id/cancel-import', async c => {
        const { workspaceId } = c.get('member')
        const row = await own(c.req.param('id'), workspaceId)
        if (!row) return c.json(GONE, 404)
        await ctx.db.transaction(async sql => {
          await sql.run(
            'DELETE FROM mirrors WHERE collection_id IN (SELECT id FROM collections WHERE connection_id = :id AND synced_at IS NULL)',
            { id: row.id },
          )
          await sql.run(
            `UPDATE collections SET takes_part = 0, import_done = 0, import_total = NULL, import_cursor = NULL
           WHERE connection_id = :id AND synced_at IS NULL`,
            { id: row.id },
          )
          await sql.run('UPDATE connections SET settings_version = settings_version + 1 WHERE id = :id', {
            id: row.id,
          })
          await numberChange(sql, workspaceId, { topics: ['connections', 'cloth', 'rules'] })
        })
        ctx.feed.nudge()
        return c.json({ ok: true as const })
      })
      .post('/:id/look', async c => {
        const row = await own(c.req.param('id'), c.get('member').workspaceId)
        if (!row) return c.json(GONE, 404)
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      /** What a disconnection would take with it, in counts. */
      .get('/:id/leaving', async c => {
        const row = await own(c.req.param('id'), c.get('member').workspaceId)
        if (!row) return c.json(GONE, 404)
        const counts = await ctx.db.one<{
          items: number
          rules: number
          ties: number
          waiting: number
          estimates: number
        }>(
          `SELECT (SELECT COUNT(*) FROM mirrors WHERE connection_id = :id AND presence = 'present') AS items,
           (SELECT COUNT(*) FROM rules r WHERE EXISTS (SELECT 1 FROM collections k WHERE k.connection_id = :id
              AND k.id IN (r.a_collection, r.b_collection))) AS rules,
           (SELECT COUNT(DISTINCT t.id) FROM mirrors m JOIN ties t ON t.a_mirror = m.id OR t.b_mirror = m.id
              WHERE m.connection_id = :id AND t.released IS NULL) AS ties,
           (SELECT COUNT(*) FROM intents WHERE connection_id = :id AND state IN ('open', 'waiting')) AS waiting,
           (SELECT COUNT(*) FROM own_layer o JOIN mirrors m ON m.id = o.mirror_id WHERE m.connection_id = :id) AS estimates`,
          { id: row.id },
        )
        return c.json(counts ?? { items: 0, rules: 0, ties: 0, waiting: 0, estimates: 0 })
      })
      .delete('/:id', async c => {
        const { workspaceId } = c.get('member')
        const row = await own(c.req.param('id'), workspaceId)
        if (!row || row.kind === OWN) return c.json(GONE, 404)
        await ctx.db.transaction(async sql => {
          await sql.run('DELETE FROM connections WHERE id = :id', { id: row.id })
          await numberChange(sql, workspaceId, { topics: ['connections', 'cloth', 'rules'] })
        })
        ctx.connectors.delete(row.id)
        ctx.feed.nudge()
        return c.json({ ok: true as const })
      })
      .get('/:id/whereabouts', async c => {
        const member = c.get('member')
        const row = await own(c.req.param('id'), member.workspaceId)
        return row ? c.json(await whereabouts(ctx, row, member.zone)) : c.json(GONE, 404)
      })
      .get('/:id/problems', async c => {
        const row = await own(c.req.param('id'), c.get('member').workspaceId)
        if (!row) return c.json(GONE, 404)
        const problems = await ctx.db.rows<{
          collection: string
          remoteId: string
          reason: string
          original: string
          seenAt: number
        }>(
          `SELECT k.name AS collection, p.remote_id AS remoteId, p.reason, LEFT(p.original, 2000) AS original, p.seen_at AS seenAt
         FROM problems p JOIN collections k ON k.id = p.collection_id
         WHERE k.connection_id = :id ORDER BY p.seen_at DESC LIMIT 200`,
          { id: row.id },
        )
        return c.json({ problems })
      })
  )
}
