import { randomUUID } from 'node:crypto'
import { type Connector, type Delta, type RemoteItem, ServiceError } from '@loom/connectors'
import { type Mirror, observe, type Sighting } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { type MirrorRow, MIRRORS, putMirrors, remoteItemOf, setPresence, mirrorOf } from '../data/mirrors.ts'
import { numberChange } from './changes.ts'
import type { ConnectionRow, Context } from './context.ts'
import type { Lease } from './leases.ts'

/**
 * Reads what is new at one service into the mirror. All collections of a connection are read before any
 * absence is judged: an item that left one may have arrived in another.
 */

export interface CollectionRow {
  id: string
  remote_id: string
  sync_token: string | null
  synced_at: number | null
  trouble: string | null
}

/** What we hold of an item, without our own layer, as the next sighting is compared with it. */
const present = (row: MirrorRow): Mirror => ({ ...mirrorOf(row), item: remoteItemOf(row) })

export async function collectionsOf(sql: Sql, connectionId: string): Promise<CollectionRow[]> {
  return sql.rows<CollectionRow>(
    'SELECT id, remote_id, sync_token, synced_at, trouble FROM collections WHERE connection_id = :connectionId AND takes_part = 1',
    { connectionId },
  )
}

export async function mirrorRows(sql: Sql, connectionId: string, remoteIds: string[]): Promise<MirrorRow[]> {
  const rows: MirrorRow[] = []
  for (let i = 0; i < remoteIds.length; i += 500)
    rows.push(
      ...(await sql.rows<MirrorRow>(
        `${MIRRORS} WHERE m.connection_id = :connectionId AND m.remote_id IN (:ids)`,
        {
          connectionId,
          ids: remoteIds.slice(i, i + 500),
        },
      )),
    )
  return rows
}

interface Read {
  collection: CollectionRow
  delta: Delta
  startedAt: number
}

/** Returns whether anything changed. */
export async function observeConnection(
  ctx: Context,
  row: ConnectionRow,
  connector: Connector,
  lease: Lease,
): Promise<boolean> {
  const collections = await collectionsOf(ctx.db, row.id)
  const reads: Read[] = []
  for (const collection of collections) {
    const startedAt = ctx.now()
    try {
      reads.push({
        collection,
        delta: await connector.delta(collection.remote_id, collection.sync_token),
        startedAt,
      })
      if (collection.trouble) await freeze(ctx, row, collection, null)
    } catch (error) {
      if (!(error instanceof ServiceError) || error.trouble !== 'missing') throw error
      // The list or calendar is not there now: what is tied in it waits, nothing is deleted for it.
      await freeze(
        ctx,
        row,
        collection,
        'It can no longer be found at the service. What is tied in it waits.',
      )
    }
  }
  const absent: { remoteId: string; collection: CollectionRow }[] = []
  let changed = false
  for (const read of reads) {
    const seen = await fold(ctx, row, lease, read)
    changed = seen.changed || changed
    for (const remoteId of seen.absent) absent.push({ remoteId, collection: read.collection })
  }
  for (const { remoteId, collection } of absent)
    changed = (await judgeAbsence(ctx, row, connector, lease, remoteId, collection)) || changed
  // Only now is the reading complete: a crash before this reads the same again.
  for (const { collection, delta, startedAt } of reads)
    await ctx.db.run('UPDATE collections SET sync_token = :token, synced_at = :at WHERE id = :id', {
      id: collection.id,
      token: delta.token,
      at: startedAt,
    })
  return changed
}

async function freeze(
  ctx: Context,
  row: ConnectionRow,
  collection: CollectionRow,
  trouble: string | null,
): Promise<void> {
  if (collection.trouble === trouble) return
  await ctx.db.transaction(async sql => {
    await sql.run('UPDATE collections SET trouble = :trouble WHERE id = :id', { id: collection.id, trouble })
    await numberChange(sql, row.workspace_id, { topics: ['connections', 'rules'] })
  })
}

async function fold(
  ctx: Context,
  row: ConnectionRow,
  lease: Lease,
  { collection, delta, startedAt }: Read,
): Promise<{ changed: boolean; absent: string[] }> {
  const looked = { before: collection.synced_at ?? 0, now: startedAt, skew: 0 }
  const known = new Map(
    (
      await mirrorRows(
        ctx.db,
        row.id,
        delta.items.map(i => i.remoteId),
      )
    ).map(r => [r.remote_id, r]),
  )
  const put: { mirror: Mirror; original: string }[] = []
  const moved: string[] = []
  for (const item of delta.items) {
    const before = known.get(item.remoteId)
    const sighting: Sighting = { ...item, collectionId: collection.id }
    const result = observe(before ? present(before) : null, sighting, looked, before?.id ?? randomUUID())
    if (result.kind === 'same') continue
    put.push({ mirror: result.mirror, original: item.original })
    if (result.kind === 'changed') moved.push(result.mirror.id)
  }
  const listed = new Set(delta.items.map(i => i.remoteId))
  const unlisted = delta.full
    ? (
        await ctx.db.rows<{ remote_id: string }>(
          `SELECT remote_id FROM mirrors WHERE collection_id = :id AND presence <> 'gone'`,
          { id: collection.id },
        )
      ).map(r => r.remote_id)
    : []
  const absent = [...new Set([...delta.left, ...unlisted])].filter(id => !listed.has(id))
  if (put.length === 0 && delta.problems.length === 0) return { changed: false, absent }
  await ctx.db.transaction(async sql => {
    await lease.check(sql)
    await putMirrors(sql, placeOf(row), put)
    if (delta.problems.length > 0) {
      // What can no longer be understood is neither planned with nor drawn until it can be again.
      const held = await mirrorRows(
        sql,
        row.id,
        delta.problems.map(p => p.remoteId),
      )
      await setPresence(
        sql,
        held.map(h => h.id),
        'missing',
      )
      await sql.insert(
        `INSERT INTO problems (collection_id, remote_id, workspace_id, revision, reason, original, seen_at) VALUES :rows
         ON DUPLICATE KEY UPDATE revision = VALUES(revision), reason = VALUES(reason), original = VALUES(original)`,
        {
          rows: delta.problems.map(p => [
            collection.id,
            p.remoteId,
            row.workspace_id,
            p.revision,
            p.reason,
            p.original,
            startedAt,
          ]),
        },
      )
    }
    if (listed.size > 0)
      await sql.run('DELETE FROM problems WHERE collection_id = :id AND remote_id IN (:listed)', {
        id: collection.id,
        listed: [...listed],
      })
    await numberChange(sql, row.workspace_id, { topics: ['cloth', 'connections'] }, moved)
  })
  ctx.feed.nudge()
  return { changed: moved.length > 0, absent }
}

export const placeOf = (row: ConnectionRow) => ({
  workspaceId: row.workspace_id,
  connectionId: row.id,
  zone: row.workspace_zone,
})

/** An item that a listing left out: asked for by id, then looked for elsewhere, and only then gone. */
async function judgeAbsence(
  ctx: Context,
  row: ConnectionRow,
  connector: Connector,
  lease: Lease,
  remoteId: string,
  collection: CollectionRow,
): Promise<boolean> {
  const startedAt = ctx.now()
  const [before] = await mirrorRows(ctx.db, row.id, [remoteId])
  if (!before) {
    await ctx.db.run('DELETE FROM problems WHERE collection_id = :id AND remote_id = :remoteId', {
      id: collection.id,
      remoteId,
    })
    return false
  }
  if (before.presence === 'gone') return false
  const read = await connector.read(collection.remote_id, remoteId)
  if (read.kind === 'problem') return false
  if (read.kind === 'found') return sightingElsewhere(ctx, row, lease, before, read.item, startedAt)
  const uid = remoteItemOf(before).uid
  const [elsewhere, another] = await connector.locate(uid)
  if (elsewhere && !another)
    return sightingElsewhere(ctx, row, lease, before, { ...elsewhere, original: '' }, startedAt)
  await ctx.db.transaction(async sql => {
    await lease.check(sql)
    await setPresence(sql, [before.id], 'gone')
    await numberChange(sql, row.workspace_id, { topics: ['cloth'] }, [before.id])
  })
  ctx.feed.nudge()
  return true
}

/** The item lives on, perhaps in another collection and under another id: its mirror and tie follow. */
async function sightingElsewhere(
  ctx: Context,
  row: ConnectionRow,
  lease: Lease,
  before: MirrorRow,
  item: RemoteItem,
  startedAt: number,
): Promise<boolean> {
  const home = await ctx.db.one<{ id: string; synced_at: number | null }>(
    'SELECT id, synced_at FROM collections WHERE connection_id = :id AND remote_id = :remoteId',
    { id: row.id, remoteId: item.collectionId },
  )
  const looked = { before: home?.synced_at ?? 0, now: startedAt, skew: 0 }
  const sighting: Sighting = { ...item, collectionId: home?.id ?? before.collection_id }
  const result = observe(present(before), sighting, looked, before.id)
  if (result.kind === 'same') return false
  await ctx.db.transaction(async sql => {
    await lease.check(sql)
    const [twin] = item.remoteId === before.remote_id ? [] : await mirrorRows(sql, row.id, [item.remoteId])
    // What was mirrored at the new place a moment ago is this same item: the older mirror, which ties
    // and our own layer hang on, takes its place.
    if (twin) await sql.run('DELETE FROM mirrors WHERE id = :id', { id: twin.id })
    await putMirrors(sql, placeOf(row), [{ mirror: result.mirror, original: item.original }])
    await numberChange(sql, row.workspace_id, { topics: ['cloth'] }, [before.id])
  })
  ctx.feed.nudge()
  return true
}
