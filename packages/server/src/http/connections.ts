import { zValidator } from '@hono/zod-validator'
import type { Terms } from '@loom/connectors'
import { ofOwn, Meaning, statusNames, type StatusTerm } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import { whereabouts } from '../connecting/whereabouts.ts'
import { haltedView } from './halted.ts'
import { OWN } from '../own/connector.ts'
import { type ConnectionRow, CONNECTIONS, type Context, descriptionOf, scopeOf } from '../context/context.ts'
import { compareInFull } from '../sync/engine/compare.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { SLOT_MS } from '../sync/log/health.ts'
import { connectionIn, GONE } from './one-connection.ts'
import type { SignedIn } from './session.ts'

/** Connections that are there: how they fare, and how they end. */

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
  /** The service's own words with what they mean here. */
  statuses: StatusTerm[]
  priorities: { id: string; name: string; means: number }[]
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
        type Raw = Omit<
          CollectionView,
          'writable' | 'takesPart' | 'unknownStatuses' | 'statuses' | 'priorities'
        > & {
          writable: number
          takesPart: number
          unknown: string
          terms: string
          meaning: string | null
        }
        const collections = await ctx.db.rows<Raw>(
          `SELECT k.id, k.connection_id AS connectionId, k.remote_id AS remoteId, k.name, k.dye, k.holds, k.writable,
           k.takes_part AS takesPart, k.trouble, k.synced_at AS syncedAt, k.why_not AS whyNot,
           k.parent_remote_id AS parent, k.unknown_statuses AS unknown, k.import_done AS importDone,
           k.import_total AS importTotal, k.terms, k.meaning,
           (SELECT COUNT(*) FROM mirrors m WHERE m.collection_id = k.id AND m.presence = 'present') AS items,
           (SELECT COUNT(*) FROM mirrors m WHERE m.collection_id = k.id AND m.presence = 'outside') AS outside,
           (SELECT COUNT(*) FROM problems p WHERE p.collection_id = k.id) AS problems
         FROM collections k WHERE k.workspace_id = :workspaceId ORDER BY k.name`,
          { workspaceId },
        )
        const shown = collections.map(({ unknown, terms, meaning, ...k }): CollectionView => {
          const words = JSON.parse(terms) as Terms
          const means = meaning === null ? null : Meaning.parse(JSON.parse(meaning))
          return {
            ...k,
            writable: k.writable === 1,
            takesPart: k.takesPart === 1,
            statuses: words.statuses.map(s => ({
              ...s,
              means: ofOwn(means?.statuses ?? {}, s.id) ?? s.means,
            })),
            priorities: words.priorities.map(p => ({
              ...p,
              means: ofOwn(means?.priorities ?? {}, p.id) ?? p.means,
            })),
            unknownStatuses: statusNames(words, JSON.parse(unknown) as string[]),
          }
        })
        return c.json({
          now: ctx.now(),
          halted: await haltedView(ctx, engine, workspaceId),
          connections: rows.map(r => ({
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
            told: r.subscribed_at !== null,
            collections: shown.filter(k => k.connectionId === r.id),
          })),
        })
      })
      /** Sync was stopped after crashes: somebody wants it to go on. */
      .post('/resume', c => {
        if (!engine.isHalted) return c.json({ reason: 'Sync is running.' }, 409)
        engine.resume()
        return c.json({ ok: true as const })
      })
      .get('/:id/day', async c => {
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member').workspaceId)
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
      .put('/:id/paused', zValidator('json', z.object({ paused: z.boolean() })), async c => {
        const { workspaceId } = c.get('member')
        const row = await connectionIn(ctx, c.req.param('id'), workspaceId)
        if (!row) return c.json(GONE, 404)
        await ctx.db.commit(async sql => {
          await sql.run('UPDATE connections SET paused = :paused WHERE id = :id', {
            id: row.id,
            paused: c.req.valid('json').paused ? 1 : 0,
          })
          sql.tell(workspaceId, { topics: ['connections', 'rules'] })
        })
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      /** Ends a first import that is under way: what came in of that list goes again, and it takes no part. */
      .post('/:id/cancel-import', async c => {
        const { workspaceId } = c.get('member')
        const row = await connectionIn(ctx, c.req.param('id'), workspaceId)
        if (!row) return c.json(GONE, 404)
        await ctx.db.commit(async sql => {
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
          sql.tell(workspaceId, { topics: ['connections', 'cloth', 'rules'] })
        })
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      .post('/:id/look', async c => {
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member').workspaceId)
        if (!row) return c.json(GONE, 404)
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      /** Compares everything it holds, whatever its notifications said. */
      .post('/:id/compare', async c => {
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member').workspaceId)
        if (!row) return c.json(GONE, 404)
        await compareInFull(ctx, row.id)
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      /** What a disconnection would take with it, in counts. */
      .get('/:id/leaving', async c => {
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member').workspaceId)
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
        const row = await connectionIn(ctx, c.req.param('id'), workspaceId)
        if (!row || row.kind === OWN) return c.json(GONE, 404)
        await ctx.db.commit(async sql => {
          await sql.run('DELETE FROM connections WHERE id = :id', { id: row.id })
          sql.tell(workspaceId, { topics: ['connections', 'cloth', 'rules'] })
        })
        ctx.connectors.delete(row.id)
        return c.json({ ok: true as const })
      })
      .get('/:id/whereabouts', async c => {
        const member = c.get('member')
        const row = await connectionIn(ctx, c.req.param('id'), member.workspaceId)
        return row ? c.json(await whereabouts(ctx, row, member.zone)) : c.json(GONE, 404)
      })
      .get('/:id/problems', async c => {
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member').workspaceId)
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
