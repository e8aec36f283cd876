import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { type Account, CAPABILITIES, connect, ConnectionInput, ServiceError } from '@loom/connectors'
import { Hono } from 'hono'
import { z } from 'zod'
import { newToken, seal } from '../access/secrets.ts'
import type { Sql } from '../data/database.ts'
import { numberChange } from '../sync/changes.ts'
import { type ConnectionRow, CONNECTIONS, connectorOf, type Context } from '../sync/context.ts'
import type { Engine } from '../sync/engine.ts'
import type { SignedIn } from './session.ts'

/** Trying a service must come to an end while somebody waits for it. */
const TRY_MS = 9_000

const DYES = ['#4E6B35', '#1C6C77', '#75498A', '#8C6A00', '#A43E2A', '#44566C', '#A23B66']

const Named = z.object({ name: z.string().trim().min(1).max(100) })
const Chosen = z.object({ takesPart: z.array(z.string().max(500)).max(500) })
const NewConnection = z.object({ input: ConnectionInput, ...Named.shape, ...Chosen.shape })

/** Tests an address and its credentials; nothing is kept. */
export async function tryService(ctx: Context, input: ConnectionInput): Promise<Account> {
  const signal = AbortSignal.timeout(TRY_MS)
  try {
    return await connect(input, { http: ctx.http, now: ctx.now, zone: null, signal }).discover()
  } catch (error) {
    if (signal.aborted) throw new ServiceError('timeout', 'The service did not answer in time.')
    throw error
  }
}

/** Keeps a connection and all collections found; only the chosen ones take part. */
export async function keepConnection(
  ctx: Context,
  sql: Sql,
  workspaceId: string,
  { input, name, takesPart }: z.infer<typeof NewConnection>,
  account: Account,
): Promise<string> {
  const id = randomUUID()
  await sql.insert(
    `INSERT INTO connections (id, workspace_id, kind, name, address, credentials, account_name, zone, hook_secret)
     VALUES (:id, :workspaceId, :kind, :name, :address, :credentials, :account, :zone, :hookSecret)`,
    {
      id,
      workspaceId,
      kind: input.kind,
      name,
      address: input.address,
      credentials: seal(input.credentials, ctx.secret),
      account: account.name,
      zone: account.zone,
      hookSecret: CAPABILITIES[input.kind].notifications ? newToken() : null,
    },
  )
  for (const [i, found] of account.collections.entries())
    await sql.insert(
      `INSERT INTO collections (id, workspace_id, connection_id, remote_id, name, dye, holds, writable, takes_part)
       VALUES (:id, :workspaceId, :connection, :remoteId, :name, :dye, :holds, :writable, :takesPart)`,
      {
        id: randomUUID(),
        workspaceId,
        connection: id,
        remoteId: found.remoteId,
        name: found.name,
        dye: DYES.find(d => d === found.colour) ?? DYES[i % DYES.length],
        holds: found.holds,
        writable: found.writable ? 1 : 0,
        takesPart: takesPart.includes(found.remoteId) ? 1 : 0,
      },
    )
  await numberChange(sql, workspaceId, { topics: ['connections', 'cloth'] })
  return id
}

/** Asks the service to tell us of changes; without it we ask, only less promptly. */
export async function subscribe(ctx: Context, connectionId: string): Promise<void> {
  const row = await ctx.db.one<ConnectionRow>(`${CONNECTIONS} WHERE c.id = :id`, { id: connectionId })
  if (!row?.hook_secret) return
  try {
    await connectorOf(ctx, row).subscribe?.(`${ctx.publicUrl}/hooks/${row.id}`, row.hook_secret)
  } catch (error) {
    ctx.log.warn(
      { connectionId, trouble: error instanceof ServiceError ? error.trouble : 'unknown' },
      'no notifications',
    )
  }
}

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
  problems: number
  trouble: string | null
  syncedAt: number | null
}

export function connectionRoutes(ctx: Context, engine: Engine) {
  const own = (id: string, workspaceId: string) =>
    ctx.db.one<ConnectionRow>(`${CONNECTIONS} WHERE c.id = :id AND c.workspace_id = :workspaceId`, {
      id,
      workspaceId,
    })

  return new Hono<SignedIn>()
    .get('/', async c => {
      const { workspaceId } = c.get('member')
      const rows = await ctx.db.rows<ConnectionRow>(
        `${CONNECTIONS} WHERE c.workspace_id = :workspaceId ORDER BY c.name`,
        {
          workspaceId,
        },
      )
      const collections = await ctx.db.rows<
        Omit<CollectionView, 'writable' | 'takesPart'> & { writable: number; takesPart: number }
      >(
        `SELECT k.id, k.connection_id AS connectionId, k.remote_id AS remoteId, k.name, k.dye, k.holds, k.writable,
           k.takes_part AS takesPart, k.trouble, k.synced_at AS syncedAt,
           (SELECT COUNT(*) FROM mirrors m WHERE m.collection_id = k.id AND m.presence = 'present') AS items,
           (SELECT COUNT(*) FROM problems p WHERE p.collection_id = k.id) AS problems
         FROM collections k WHERE k.workspace_id = :workspaceId ORDER BY k.name`,
        { workspaceId },
      )
      const shown = collections.map((k): CollectionView => ({
        ...k,
        writable: k.writable === 1,
        takesPart: k.takesPart === 1,
      }))
      return c.json({
        now: ctx.now(),
        connections: rows.map(r => ({
          id: r.id,
          kind: r.kind,
          name: r.name,
          address: r.address,
          accountName: r.account_name,
          state: r.state,
          trouble: r.trouble,
          failingSince: r.failing_since,
          lastOkAt: r.last_ok_at,
          collections: shown.filter(k => k.connectionId === r.id),
        })),
      })
    })
    .post('/try', zValidator('json', ConnectionInput), async c => {
      try {
        return c.json(await tryService(ctx, c.req.valid('json')))
      } catch (error) {
        if (error instanceof ServiceError)
          return c.json({ reason: error.message, trouble: error.trouble }, 422)
        throw error
      }
    })
    .post('/', zValidator('json', NewConnection), async c => {
      const given = c.req.valid('json')
      const { workspaceId } = c.get('member')
      try {
        const account = await tryService(ctx, given.input)
        const id = await ctx.db.transaction(sql => keepConnection(ctx, sql, workspaceId, given, account))
        await subscribe(ctx, id)
        ctx.feed.nudge()
        engine.kick(id)
        return c.json({ id }, 201)
      } catch (error) {
        if (error instanceof ServiceError)
          return c.json({ reason: error.message, trouble: error.trouble }, 422)
        throw error
      }
    })
    .put('/:id/collections', zValidator('json', Chosen), async c => {
      const { workspaceId } = c.get('member')
      const row = await own(c.req.param('id'), workspaceId)
      if (!row) return c.json({ reason: 'There is no such connection.' }, 404)
      const { takesPart } = c.req.valid('json')
      await ctx.db.transaction(async sql => {
        await sql.run(
          'UPDATE collections SET takes_part = remote_id IN (:chosen) WHERE connection_id = :id',
          {
            id: row.id,
            chosen: takesPart.length > 0 ? takesPart : [''],
          },
        )
        await numberChange(sql, workspaceId, { topics: ['connections', 'cloth'] })
      })
      await engine.look(row.id)
      return c.json({ ok: true as const })
    })
    .put('/:id/credentials', zValidator('json', ConnectionInput), async c => {
      const row = await own(c.req.param('id'), c.get('member').workspaceId)
      const input = c.req.valid('json')
      if (!row || input.kind !== row.kind) return c.json({ reason: 'There is no such connection.' }, 404)
      try {
        await tryService(ctx, input)
      } catch (error) {
        if (error instanceof ServiceError)
          return c.json({ reason: error.message, trouble: error.trouble }, 422)
        throw error
      }
      await ctx.db.run(
        'UPDATE connections SET credentials = :credentials, address = :address WHERE id = :id',
        {
          id: row.id,
          credentials: seal(input.credentials, ctx.secret),
          address: input.address,
        },
      )
      await engine.look(row.id)
      return c.json({ ok: true as const })
    })
    .post('/:id/look', async c => {
      const row = await own(c.req.param('id'), c.get('member').workspaceId)
      if (!row) return c.json({ reason: 'There is no such connection.' }, 404)
      await engine.look(row.id)
      return c.json({ ok: true as const })
    })
    .delete('/:id', async c => {
      const { workspaceId } = c.get('member')
      const row = await own(c.req.param('id'), workspaceId)
      if (!row) return c.json({ reason: 'There is no such connection.' }, 404)
      await ctx.db.transaction(async sql => {
        await sql.run('DELETE FROM connections WHERE id = :id', { id: row.id })
        await numberChange(sql, workspaceId, { topics: ['connections', 'cloth', 'rules'] })
      })
      ctx.feed.nudge()
      return c.json({ ok: true as const })
    })
    .get('/:id/problems', async c => {
      const row = await own(c.req.param('id'), c.get('member').workspaceId)
      if (!row) return c.json({ reason: 'There is no such connection.' }, 404)
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
}
