import { setImmediate as turn } from 'node:timers/promises'
import { type Connector, type DeltaPage, emptyPage, type RemoteItem, ServiceError } from '@loom/connectors'
import { type Mirror, observe, type Sighting } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { newId } from '../data/ids.ts'
import { type MirrorRow, MIRRORS, putMirrors, remoteItemOf, setPresence, mirrorOf } from '../data/mirrors.ts'
import { numberChange } from './changes.ts'
import type { ConnectionRow, Context } from './context.ts'
import { type Gate, gateOf } from './gate.ts'
import { type Lease, LeaseLost } from './leases.ts'

/**
 * Reads what is new at one service into the mirror, page by page. All collections of a connection are read
 * before any absence is judged: an item that left one may have arrived in another.
 */

export interface CollectionRow {
  id: string
  remote_id: string
  sync_token: string | null
  synced_at: number | null
  trouble: string | null
  import_cursor: string | null
  import_done: number
  unknown_statuses: string
  /** How many items of it were not understood when this look began. */
  problems: number
}

/** What we hold of an item, without our own layer, as the next sighting is compared with it. */
const present = (row: MirrorRow): Mirror => ({ ...mirrorOf(row), item: remoteItemOf(row) })

export async function collectionsOf(sql: Sql, connectionId: string): Promise<CollectionRow[]> {
  return sql.rows<CollectionRow>(
    `SELECT id, remote_id, sync_token, synced_at, trouble, import_cursor, import_done, unknown_statuses,
       (SELECT COUNT(*) FROM problems p WHERE p.collection_id = c.id) AS problems
     FROM collections c WHERE connection_id = :connectionId AND takes_part = 1`,
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

/** Which revisions we hold of present items, so that a listing need not fetch what is the same. */
async function revisionsOf(sql: Sql, collectionId: string): Promise<Map<string, string>> {
  const rows = await sql.rows<{ remote_id: string; revision: string }>(
    `SELECT remote_id, revision FROM mirrors WHERE collection_id = :collectionId AND presence = 'present'
     UNION ALL SELECT remote_id, revision FROM problems WHERE collection_id = :collectionId`,
    { collectionId },
  )
  return new Map(rows.map(r => [r.remote_id, r.revision]))
}

export interface Observed {
  changed: boolean
  /** How many items were seen new or changed. */
  items: number
  /** Whether `between` broke it off before its end. */
  stopped: boolean
}

/** Between two pages: other work of the connection; false ends the reading here, to go on another time. */
export type Between = () => Promise<boolean>

export async function observeConnection(
  ctx: Context,
  row: ConnectionRow,
  connector: Connector,
  lease: Lease,
  between: Between = async () => true,
): Promise<Observed> {
  const collections = await collectionsOf(ctx.db, row.id)
  const gate = await gateOf(ctx, row)
  const hinted = [...(ctx.hints.get(row.id) ?? [])]
  ctx.hints.delete(row.id)
  const seen = new Set<string>()
  const left: { remoteId: string; collection: CollectionRow }[] = []
  const ends: { collection: CollectionRow; token: string | null; startedAt: number }[] = []
  const out: Observed = { changed: false, items: 0, stopped: false }
  for (const collection of collections) {
    const startedAt = ctx.now()
    try {
      const read = await readCollection(ctx, row, connector, lease, collection, gate, startedAt, between, out)
      for (const id of read.seen) seen.add(id)
      if (read.token === undefined) return { ...out, stopped: true }
      for (const remoteId of read.left) left.push({ remoteId, collection })
      ends.push({ collection, token: read.token, startedAt })
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
  const judged = new Set<string>()
  const [anywhere] = collections
  if (anywhere) for (const remoteId of hinted) left.push({ remoteId, collection: anywhere })
  for (const { remoteId, collection } of left) {
    if (seen.has(remoteId) || judged.has(remoteId)) continue
    judged.add(remoteId)
    if (await judgeAbsence(ctx, row, connector, lease, remoteId, collection, gate)) {
      out.changed = true
      out.items++
    }
  }
  // Only now is the reading complete: a crash before this reads the same again.
  for (const { collection, token, startedAt } of ends)
    await ctx.db.run(
      // Settings that were changed meanwhile want a reading of their own.
      `UPDATE collections c JOIN connections n ON n.id = c.connection_id
       SET c.sync_token = :token, c.synced_at = :at, c.import_cursor = NULL
       WHERE c.id = :id AND n.settings_version = :version`,
      { id: collection.id, token, at: startedAt, version: row.settings_version },
    )
  if (ends.some(e => e.collection.synced_at === null)) {
    await ctx.db.transaction(sql => numberChange(sql, row.workspace_id, { topics: ['connections', 'rules'] }))
    ctx.feed.nudge()
  }
  return out
}

/** As many items are folded in one go: whoever else has something to do waits for no more. */
const PART = 200

/** Pages cut into parts; only the last of each page carries where to go on, so that a crash loses none. */
async function* inParts(
  pages: AsyncIterable<DeltaPage>,
  cursor: string | null,
): AsyncGenerator<DeltaPage & { last: boolean }> {
  let before = cursor
  for await (const page of pages) {
    const { items } = page
    let from = 0
    for (; from + PART < items.length; from += PART) {
      const part = items.slice(from, from + PART)
      yield { ...emptyPage(page.full), items: part, total: page.total, cursor: before, last: false }
    }
    yield { ...page, items: items.slice(from), last: true }
    before = page.cursor
  }
}

/** All pages of one collection. The token is undefined when `between` ended it early. */
async function readCollection(
  ctx: Context,
  row: ConnectionRow,
  connector: Connector,
  lease: Lease,
  collection: CollectionRow,
  gate: Gate,
  startedAt: number,
  between: Between,
  out: Observed,
): Promise<{ token: string | null | undefined; left: string[]; seen: Set<string> }> {
  const seen = new Set<string>()
  const left = new Set<string>()
  const first = collection.synced_at === null
  const { import_cursor: cursor } = collection
  let done = cursor === null ? 0 : collection.import_done
  let revisions: Promise<Map<string, string>> | null = null
  const pages = connector.delta(collection.remote_id, collection.sync_token, {
    cursor,
    revisions: () => (revisions ??= revisionsOf(ctx.db, collection.id)),
  })
  for await (const page of inParts(pages, cursor)) {
    done += page.items.length + page.problems.length + page.unchanged.length
    const folded = await fold(ctx, row, lease, collection, page, gate, startedAt, first ? done : null)
    out.changed ||= folded > 0
    out.items += folded
    for (const i of page.items) seen.add(i.remoteId)
    for (const p of page.problems) seen.add(p.remoteId)
    for (const id of page.unchanged) seen.add(id)
    for (const id of page.left) left.add(id)
    // Nothing is written between the parts of a page: what we wrote would be older in the next part.
    if (!page.last) continue
    if (page.cursor === null) {
      // A listing that was taken up again in the middle says nothing about what stood before that.
      if (page.full && cursor === null)
        for (const { remote_id } of await ctx.db.rows<{ remote_id: string }>(
          `SELECT remote_id FROM mirrors WHERE collection_id = :id AND presence <> 'gone'`,
          { id: collection.id },
        ))
          if (!seen.has(remote_id)) left.add(remote_id)
      return { token: page.token, left: [...left], seen }
    }
    if (!(await between())) return { token: undefined, left: [], seen }
  }
  return { token: collection.sync_token, left: [...left], seen }
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

/** What was asked for under other settings, or for an import that was stopped, no longer comes in. */
async function settingsHold(sql: Sql, row: ConnectionRow): Promise<void> {
  const now = await sql.one<{ settings_version: number }>(
    'SELECT settings_version FROM connections WHERE id = :id LOCK IN SHARE MODE',
    { id: row.id },
  )
  if (now?.settings_version !== row.settings_version) throw new LeaseLost('the settings have changed')
}

/** Folds one page into the mirror, in one transaction. Returns how many items are new or changed. */
async function fold(
  ctx: Context,
  row: ConnectionRow,
  lease: Lease,
  collection: CollectionRow,
  page: DeltaPage,
  gate: Gate,
  startedAt: number,
  imported: number | null,
): Promise<number> {
  const looked = { before: collection.synced_at ?? 0, now: startedAt, skew: gate.skew }
  const ids = page.items.map(i => i.remoteId)
  const known = new Map((await mirrorRows(ctx.db, row.id, ids)).map(r => [r.remote_id, r]))
  const put: { mirror: Mirror; original: string }[] = []
  const moved: string[] = []
  const unknown = new Set(JSON.parse(collection.unknown_statuses) as string[])
  const before = unknown.size
  for (const [n, item] of page.items.entries()) {
    if (n % 50 === 49) await turn()
    const row = known.get(item.remoteId)
    const held = row ? present(row) : null
    if (item.unknownStatus) unknown.add(item.unknownStatus)
    const judged = gate.judge(item, held)
    if (judged.entry === 'out') continue
    const sighting: Sighting = { ...judged.item, collectionId: collection.id }
    const result = observe(held, sighting, looked, held?.id ?? newId())
    if (judged.entry === 'leaves') {
      const mirror = result.kind === 'same' ? held : result.mirror
      if (!mirror) continue
      put.push({ mirror: { ...mirror, presence: 'outside' }, original: item.original })
      moved.push(mirror.id)
      continue
    }
    if (result.kind === 'same') continue
    put.push({ mirror: result.mirror, original: item.original })
    if (result.kind === 'changed') moved.push(result.mirror.id)
  }
  if (put.length === 0 && page.problems.length === 0 && unknown.size === before && imported === null) return 0
  await ctx.db.transaction(async sql => {
    await lease.check(sql)
    await settingsHold(sql, row)
    await putMirrors(sql, placeOf(row), put)
    if (page.problems.length > 0) await keepProblems(sql, row, collection, page, startedAt)
    if (ids.length > 0 && collection.problems > 0)
      await sql.run('DELETE FROM problems WHERE collection_id = :id AND remote_id IN (:ids)', {
        id: collection.id,
        ids,
      })
    if (unknown.size > before)
      await sql.run('UPDATE collections SET unknown_statuses = :unknown WHERE id = :id', {
        id: collection.id,
        unknown: JSON.stringify([...unknown].slice(0, 100)),
      })
    if (imported !== null)
      await sql.run(
        `UPDATE collections SET import_done = :done, import_total = IFNULL(:total, import_total), import_cursor = :cursor
         WHERE id = :id`,
        { id: collection.id, done: imported, total: page.total, cursor: page.cursor },
      )
    await numberChange(sql, row.workspace_id, { topics: ['cloth', 'connections'] }, moved)
  })
  collection.problems += page.problems.length
  ctx.feed.nudge()
  return moved.length
}

async function keepProblems(
  sql: Sql,
  row: ConnectionRow,
  collection: CollectionRow,
  page: DeltaPage,
  seenAt: number,
): Promise<void> {
  // What can no longer be understood is neither planned with nor drawn until it can be again.
  const held = await mirrorRows(
    sql,
    row.id,
    page.problems.map(p => p.remoteId),
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
      rows: page.problems.map(p => [
        collection.id,
        p.remoteId,
        row.workspace_id,
        p.revision,
        p.reason,
        p.original,
        seenAt,
      ]),
    },
  )
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
  gate: Gate,
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
  if (read.kind === 'found') return sightingElsewhere(ctx, row, lease, before, read.item, startedAt, gate)
  const uid = remoteItemOf(before).uid
  const [elsewhere, another] = await connector.locate(uid)
  if (elsewhere && !another)
    return sightingElsewhere(ctx, row, lease, before, { ...elsewhere, original: '' }, startedAt, gate)
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
  seen: RemoteItem,
  startedAt: number,
  gate: Gate,
): Promise<boolean> {
  const judged = gate.judge(seen, present(before))
  const { item } = judged
  const home = await ctx.db.one<{ id: string; synced_at: number | null }>(
    'SELECT id, synced_at FROM collections WHERE connection_id = :id AND remote_id = :remoteId',
    { id: row.id, remoteId: item.collectionId },
  )
  const looked = { before: home?.synced_at ?? 0, now: startedAt, skew: gate.skew }
  const sighting: Sighting = { ...item, collectionId: home?.id ?? before.collection_id }
  const result = observe(present(before), sighting, looked, before.id)
  if (result.kind === 'same') return false
  await ctx.db.transaction(async sql => {
    await lease.check(sql)
    const [twin] = item.remoteId === before.remote_id ? [] : await mirrorRows(sql, row.id, [item.remoteId])
    // What was mirrored at the new place a moment ago is this same item: the older mirror, which ties
    // and our own layer hang on, takes its place.
    if (twin) await sql.run('DELETE FROM mirrors WHERE id = :id', { id: twin.id })
    const presence = judged.entry === 'in' ? ('present' as const) : ('outside' as const)
    await putMirrors(sql, placeOf(row), [{ mirror: { ...result.mirror, presence }, original: item.original }])
    await numberChange(sql, row.workspace_id, { topics: ['cloth'] }, [before.id])
  })
  ctx.feed.nudge()
  return true
}
