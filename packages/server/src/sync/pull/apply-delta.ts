import { sameUids, type SameUid } from '../../data/repositories/reading.ts'
import { placeOf } from '../../context/context.ts'
import { setImmediate as turn } from 'node:timers/promises'
import { type Connector, type DeltaPage, emptyPage, type RemoteItem } from '@loom/connectors'
import { mayBeStale, mayHaveMovedHere, type Mirror, observe, returningAs, type Sighting } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { newId } from '../../data/ids.ts'
import {
  goneMirrorRows,
  type MirrorRow,
  mirrorOf,
  mirrorRows,
  putMirrors,
  remoteItemOf,
  setPresence,
} from '../../data/repositories/mirrors.ts'
import { harmInWords, harmsOnlyItself } from '../../data/harm.ts'
import { LeaseLost } from '../../data/leases.ts'
import type { Look } from './look.ts'
import { shareSettingsVersion, type ConnectionRow } from '../../data/repositories/connections.ts'

import { dropProblems, putProblems } from '../../data/repositories/problems.ts'
import {
  setImportProgress,
  setUnknownStatuses,
  type CollectionRow,
} from '../../data/repositories/collections.ts'
import { parsed, json } from '../../data/json.ts'

/** What a page of a listing brings, folded into the mirror. */

/** What we hold of an item, without our own layer, as the next sighting is compared with it. */
export const present = (row: MirrorRow): Mirror => ({ ...mirrorOf(row), item: remoteItemOf(row) })

/** Pages read under other settings, for a stopped import, or while somebody paused the connection are not stored. */
async function settingsHold(sql: Sql, row: ConnectionRow): Promise<void> {
  const now = await shareSettingsVersion(sql, { id: row.id })
  if (now?.settings_version !== row.settings_version) throw new LeaseLost('the settings have changed')
  if (now.paused === 1) throw new LeaseLost('it was paused')
}

/** What we held of items by their uids before this look began, wherever they are. */
async function heldByUid(
  sql: Sql,
  connectionId: string,
  uids: string[],
  before: number,
): Promise<Map<string, SameUid[]>> {
  const found = new Map<string, SameUid[]>()
  if (uids.length === 0) return found
  for (const { uid, ...held } of await sameUids(sql, { connectionId, uids, before }))
    found.set(uid, [...(found.get(uid) ?? []), held])
  return found
}

/** When its listing was asked for, and how far a first import has come with it. */
export interface PageTimes {
  startedAt: number
  imported: number | null
}

/**
 * Stores one page of a reading. If an item in it is refused, the page is halved until that item is alone; it is
 * listed with the reason, and the rest is stored. Returns the number of new or changed items.
 */
export async function applyDelta(
  look: Look,
  collection: CollectionRow,
  page: DeltaPage,
  times: PageTimes,
): Promise<number> {
  try {
    return await applyInOneCommit(look, collection, page, times)
  } catch (error) {
    const { items } = page
    if (!harmsOnlyItself(error) || items.length === 0) throw error
    const [only, ...more] = items
    if (only && more.length === 0) {
      look.ctx.log.warn(
        { err: error, connectionId: look.row.id, item: only.remoteId },
        'an item was set aside: it cannot be stored or worked with',
      )
      const { remoteId, revision, original } = only
      const problem = { remoteId, revision, original: original.slice(0, KEPT), reason: harmInWords(error) }
      const without = { ...page, items: [], problems: [...page.problems, problem] }
      return applyInOneCommit(look, collection, without, times)
    }
    const half = Math.ceil(items.length / 2)
    const first = { ...emptyPage(page.full), items: items.slice(0, half) }
    const before = await applyDelta(look, collection, first, { ...times, imported: null })
    return before + (await applyDelta(look, collection, { ...page, items: items.slice(half) }, times))
  }
}

/** As much of what was set aside is kept as a person needs to recognise it. */
const KEPT = 100_000

async function applyInOneCommit(
  look: Look,
  collection: CollectionRow,
  page: DeltaPage,
  { startedAt, imported }: PageTimes,
): Promise<number> {
  const { ctx, row, connector, lease, scopeFilter } = look
  const looked = {
    before: collection.synced_at ?? 0,
    now: startedAt,
    skew: scopeFilter.skew,
    hasBaseline: collection.baseline_at !== null,
  }
  const ids = page.items.map(i => i.remoteId)
  const known = new Map((await mirrorRows(ctx.db, row.id, ids)).map(r => [r.remote_id, r]))
  const put: { mirror: Mirror; original: string }[] = []
  const moved: string[] = []
  const unknown = new Set(parsed(collection.unknown_statuses))
  const before = unknown.size
  const unheld = page.items.filter(i => known.get(i.remoteId)?.presence !== 'present')
  const uids = look.heldBefore ? [...new Set(unheld.map(i => i.item.uid))] : []
  const sameUid = await heldByUid(ctx.db, row.id, uids, look.from)
  const gone = await goneMirrorRows(ctx.db, row.id, uids)
  for (const [n, listed] of page.items.entries()) {
    if (n % 50 === 49) await turn()
    const { uid } = listed.item
    const back = returningAs(gone.get(uid) ?? [], sameUid.get(uid) ?? [])
    gone.delete(uid)
    const row = known.get(listed.remoteId) ?? back
    const held = row ? present(row) : null
    const item = await asItIs(connector, collection, listed, held)
    if (!item) continue
    if (item.unknownStatus) unknown.add(item.unknownStatus)
    const judged = scopeFilter.judge(item, held)
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
    const arrives =
      held?.presence !== 'present' && mayHaveMovedHere(sighting, sameUid.get(item.item.uid) ?? [])
    const { mirror } = result
    put.push({ mirror: arrives ? { ...mirror, presence: 'arriving' } : mirror, original: item.original })
    // Of a series, what changed may be one of its dates, of which the series itself says nothing.
    const { item: said } = result.mirror
    if (result.kind === 'changed' || (said.kind === 'event' && said.recurring)) moved.push(result.mirror.id)
  }
  if (put.length === 0 && page.problems.length === 0 && unknown.size === before && imported === null) return 0
  await ctx.db.commit(async sql => {
    await lease.check(sql)
    await settingsHold(sql, row)
    if (page.problems.length > 0) await keepProblems(sql, row, collection, page, startedAt)
    if (ids.length > 0 && collection.problems > 0)
      await dropProblems(sql, {
        id: collection.id,
        ids,
      })
    if (unknown.size > before) await keepUnknown(sql, collection, unknown)
    if (imported !== null)
      await setImportProgress(sql, {
        id: collection.id,
        done: imported,
        total: page.total,
        cursor: page.cursor,
      })
    // What is all new is written with its number: to number ten thousand afterwards takes as long as to write them.
    const isNew = collection.synced_at === null && put.length > 0
    const seq = isNew ? await sql.numberAhead(row.workspace_id) : 0
    await putMirrors(sql, placeOf(row), put, seq)
    const exact = page.problems.length === 0 ? { exact: true as const } : {}
    sql.tell(
      row.workspace_id,
      { topics: ['cloth', 'connections'], ...exact, connection: row.id },
      isNew ? [] : moved,
    )
  })
  collection.problems += page.problems.length
  return moved.length
}

/** What a listing shows as older than we know it is asked for by id; null when it is not there. */
async function asItIs(
  connector: Connector,
  collection: CollectionRow,
  listed: RemoteItem,
  held: Mirror | null,
): Promise<RemoteItem | null> {
  if (connector.capabilities.listing === 'as-it-is' || !mayBeStale(held, listed)) return listed
  const read = await connector.read(collection.remote_id, listed.remoteId)
  return read.kind === 'found' && read.item.collectionId === collection.remote_id ? read.item : null
}

/** Stores statuses without a meaning, so that a person can assign one. */
export async function keepUnknown(
  sql: Sql,
  { id, unknown_statuses: known }: Pick<CollectionRow, 'id' | 'unknown_statuses'>,
  words: Iterable<string>,
): Promise<void> {
  const unknown = [...new Set([...parsed(known), ...words])].slice(0, 100)
  await setUnknownStatuses(sql, {
    id,
    unknown: json(unknown),
  })
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
  await putProblems(sql, {
    rows: page.problems.map(p => [
      collection.id,
      p.remoteId,
      row.workspace_id,
      p.revision,
      p.reason,
      p.original,
      seenAt,
    ]),
  })
}
