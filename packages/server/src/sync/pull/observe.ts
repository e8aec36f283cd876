import { holdsItems, idsIn, revisionsIn, remoteIdsIn } from '../../data/repositories/reading.ts'
import { type Connector, type DeltaPage, emptyPage, ServiceError } from '@loom/connectors'
import type { Sql } from '../../data/database.ts'
import { judgeAbsence } from './absence.ts'
import { admitArrivals } from './arrivals.ts'
import type { Context } from '../../context/context.ts'
import { applyDelta } from './apply-delta.ts'
import { readAhead } from './read-ahead.ts'
import { scopeFilterOf } from './scope-filter.ts'
import { harmsOnlyItself } from '../../data/harm.ts'
import type { Lease } from '../../data/leases.ts'
import type { Look } from './look.ts'
import {
  collectionsToRead,
  advanceSyncToken,
  setCollectionTrouble,
  type CollectionRow,
} from '../../data/repositories/collections.ts'

import type { ConnectionRow } from '../../data/repositories/connections.ts'

/**
 * Reads what is new at one service into the mirror, page by page. All collections of a connection are read
 * before any absence is judged: an item that left one may have arrived in another.
 */

export async function collectionsOf(sql: Sql, connectionId: string): Promise<CollectionRow[]> {
  return collectionsToRead(sql, { connectionId })
}

/** Which revisions we hold of present items, so that a listing need not fetch what is the same. */
async function revisionsOf(sql: Sql, collectionId: string): Promise<Map<string, string>> {
  const rows = await revisionsIn(sql, { collectionId })
  return new Map(rows.map(r => [r.remote_id, r.revision]))
}

export interface Observed {
  changed: boolean
  /** How many items were seen new or changed. */
  items: number
  /** Whether `between` broke it off before its end. */
  stopped: boolean
  /** Whether everything was read, and every absence judged. */
  complete: boolean
}

/** What a reading is about. */
interface Reading {
  ctx: Context
  row: ConnectionRow
  connector: Connector
  lease: Lease
  collections: readonly CollectionRow[]
  /** Remote ids of those that are known not to have moved since they were last read. */
  still: ReadonlySet<string>
  /** Told whenever something that has changed is stored, so that planning need not wait for the end of the look. */
  stored: () => void
}

/** Between two pages, and between two lists: other work of the connection; false ends the reading here, to go on another time. */
export type Between = () => Promise<boolean>

export async function observeConnection(
  { ctx, row, connector, lease, collections, still, stored }: Reading,
  between: Between = async () => true,
): Promise<Observed> {
  const from = ctx.now()
  const [scopeFilter, heldBefore] = await Promise.all([
    scopeFilterOf(ctx, row),
    holdsItems(ctx.db, { connectionId: row.id }),
  ])
  const look: Look = { ctx, row, connector, lease, scopeFilter, from, heldBefore }
  const hinted = [...(ctx.hints.get(row.id) ?? [])]
  ctx.hints.delete(row.id)
  const seen = new Set<string>()
  const left: { remoteId: string; collection: CollectionRow }[] = []
  const ends: { collection: CollectionRow; token: string | null; startedAt: number }[] = []
  const out: Observed = { changed: false, items: 0, stopped: false, complete: false }
  // Whether one that could not be found is back shows only by reading it; another server may have missed it.
  const moved = collections.filter(c => c.trouble !== null || !still.has(c.remote_id))
  for (const [n, collection] of moved.entries()) {
    if (n > 0 && !(await between())) return { ...out, stopped: true }
    const startedAt = ctx.now()
    try {
      const before = out.items
      const read = await readCollection(look, collection, startedAt, between, out)
      if (out.items > before) stored()
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
        'It can no longer be found at the service. What is tied in it waits, and so does what was deleted from the other lists of this account: it may have been moved there.',
      )
    }
  }
  const judged = new Set<string>()
  const allRead = ends.length === moved.length
  /** Those whose absences could not be settled: what they said is asked for again. */
  const undecided = new Set<string>()
  const [anywhere] = collections
  if (anywhere) for (const remoteId of hinted) left.push({ remoteId, collection: anywhere })
  for (const { remoteId, collection } of left) {
    if (seen.has(remoteId) || judged.has(remoteId)) continue
    judged.add(remoteId)
    const verdict = await judgeAbsence(look, remoteId, collection, allRead).catch((error: unknown) => {
      if (!harmsOnlyItself(error)) throw error
      ctx.log.warn({ err: error, connectionId: row.id, item: remoteId }, 'an absence could not be judged')
      return 'waits' as const
    })
    if (verdict === 'waits') undecided.add(collection.id)
    else if (verdict) {
      out.changed = true
      out.items++
      stored()
    }
  }
  if (anywhere && allRead && (await admitArrivals(look, anywhere))) {
    out.changed = true
    stored()
  }
  // Only now is the reading complete: a crash before this reads the same again.
  for (const { collection, token, startedAt } of ends.filter(e => !undecided.has(e.collection.id)))
    await advanceSyncToken(ctx.db, {
      id: collection.id,
      token,
      begun: collection.sync_token,
      at: startedAt,
      version: row.settings_version,
    })
  const lists = ends.flatMap(e => (e.collection.synced_at === null ? [e.collection.id] : []))
  if (lists.length > 0) {
    await ctx.db.commit(async sql =>
      sql.tell(row.workspace_id, { topics: ['connections', 'rules'], connection: row.id, lists }),
    )
  }
  return { ...out, complete: allRead && undecided.size === 0 }
}

/** Items applied in one turn of the event loop, so that others do not wait long. */
const PART = 500

/** Pages cut into parts; the last of each page carries all that is not an item. */
async function* inParts(pages: AsyncIterable<DeltaPage>): AsyncGenerator<DeltaPage & { last: boolean }> {
  for await (const page of pages) {
    const { items } = page
    let from = 0
    for (; from + PART < items.length; from += PART) {
      const part = items.slice(from, from + PART)
      yield { ...emptyPage(page.full), items: part, last: false }
    }
    yield { ...page, items: items.slice(from), last: true }
  }
}

/** All pages of one collection. The token is undefined when `between` ended it early. */
async function readCollection(
  look: Look,
  collection: CollectionRow,
  startedAt: number,
  between: Between,
  out: Observed,
): Promise<{ token: string | null | undefined; left: string[]; seen: Set<string> }> {
  const { ctx, connector } = look
  const seen = new Set<string>()
  const left = new Set<string>()
  const first = collection.synced_at === null
  const { import_cursor: cursor } = collection
  // What a listing that is begun again finds unchanged was counted before it broke off.
  let done = cursor === null ? 0 : collection.import_done
  let revisions: Promise<Map<string, string>> | null = null
  const pages = connector.delta(collection.remote_id, collection.sync_token, {
    cursor,
    revisions: () => (revisions ??= revisionsOf(ctx.db, collection.id)),
  })
  for await (const listed of inParts(first ? readAhead(pages) : pages)) {
    // A page that was asked for ahead may be older than what we wrote since to an item of the page before it.
    const page = first ? { ...listed, items: listed.items.filter(i => !seen.has(i.remoteId)) } : listed
    done += page.items.length + page.problems.length + (cursor === null ? page.unchanged.length : 0)
    // How far it has come is kept together with where it would go on.
    const imported = first && page.last ? done : null
    const applied = await applyDelta(look, collection, page, { startedAt, imported })
    out.changed ||= applied > 0
    out.items += applied
    for (const i of page.items) seen.add(i.remoteId)
    for (const p of page.problems) seen.add(p.remoteId)
    for (const id of page.unchanged) seen.add(id)
    for (const id of page.left) left.add(id)
    // Nothing is written between the parts of a page: what we wrote would be older in the next part.
    if (!page.last) continue
    if (page.cursor === null) {
      // A listing that was taken up again in the middle says nothing about what stood before that.
      if (page.full && cursor === null)
        for (const { remote_id } of await remoteIdsIn(ctx.db, { id: collection.id }))
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
  await ctx.db.commit(async sql => {
    await setCollectionTrouble(sql, { id: collection.id, trouble })
    // What waited in it is planned again.
    const waited = trouble === null ? await idsIn(sql, { id: collection.id }) : []
    sql.tell(
      row.workspace_id,
      { topics: ['connections', 'rules'], connection: row.id, lists: [collection.id] },
      waited.map(m => m.id),
    )
  })
}
