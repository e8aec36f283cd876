import { commentsGoOver } from '../../data/repositories/comments.ts'
import { placeOf } from '../../context/context.ts'
import type { Connector, RemoteItem } from '@loom/connectors'
import { fateOf, type Namesake, observe, type Sighting } from '@loom/core'
import {
  mirrorOf,
  type MirrorRow,
  mirrorRows,
  putMirrors,
  remoteItemOf,
  setPresence,
  dropMirror,
  takeOverMirror,
} from '../../data/repositories/mirrors.ts'
import type { Sql } from '../../data/database.ts'
import { keepUnknown, present } from './apply-delta.ts'
import type { Look } from './look.ts'
import { dropProblem } from '../../data/repositories/problems.ts'
import { collectionAt, type CollectionRow } from '../../data/repositories/collections.ts'
import { takeOverTies } from '../../data/repositories/ties.ts'
import { lookAt, lookNow } from '../../data/repositories/connections.ts'
import { cameUpElsewhere, isTied, othersNotReadSince } from '../../data/repositories/reading.ts'

/** What a listing no longer names is not gone for that: it may have moved, or the listing may be wrong. */

/**
 * An item that a listing omitted: it is asked for by id, then looked for elsewhere, and only then considered gone.
 * It waits as long as some collections of the connection cannot be read.
 */
export async function judgeAbsence(
  look: Look,
  remoteId: string,
  collection: CollectionRow,
  allRead: boolean,
): Promise<boolean | 'waits'> {
  const { ctx, row, connector, lease } = look
  const startedAt = ctx.now()
  const [before] = await mirrorRows(ctx.db, row.id, [remoteId])
  if (!before) {
    await dropProblem(ctx.db, {
      id: collection.id,
      remoteId,
    })
    return false
  }
  if (before.presence === 'gone') return false
  const read = await connector.read(collection.remote_id, remoteId)
  if (before.presence === 'arriving') {
    // An item that left before it was ever planned is forgotten.
    if (read.kind === 'absent') await dropMirror(ctx.db, { id: before.id })
    return false
  }
  const found = read.kind === 'found' ? read.item : null
  const namesakes = read.kind === 'absent' ? await namesakesOf(ctx.db, connector, before) : []
  const fate = fateOf(read.kind === 'problem' ? 'unreadable' : found, namesakes)
  if (fate.kind === 'unclear') return false
  if (fate.kind === 'lives') {
    const seen = found ?? { ...fate.at, original: '' }
    return sightingElsewhere(look, before, seen, startedAt)
  }
  if (!allRead) return 'waits'
  const brought = await broughtElsewhere(look, before, startedAt)
  if (brought === 'unread') return 'waits'
  await ctx.db.commit(async sql => {
    await lease.check(sql)
    // It left what the rule looks at, and is not lost: that is another matter than a deletion.
    await setPresence(sql, [before.id], brought === 'there' ? 'outside' : 'gone')
    sql.tell(row.workspace_id, { topics: ['cloth'], exact: true }, [before.id])
  })
  return true
}

const OTHERS_READ_MS = 15_000
const BROUGHT_MS = 15 * 60_000
const AGAIN_MS = 1_000
const MOST_MISSED = 10_000

/**
 * Whether something tied was cut from here and pasted into a calendar of another account. Calendar programs keep its uid
 * (RFC 5545 §3.8.4.7). The other accounts are read first, for a little while at most.
 */
async function broughtElsewhere(
  { ctx, row }: Look,
  before: MirrorRow,
  now: number,
): Promise<'unread' | 'there' | 'nowhere'> {
  const { uid, kind } = remoteItemOf(before)
  if (row.kind !== 'caldav' || !(await isTied(ctx.db, { id: before.id }))) return 'nowhere'
  const since = ctx.missed.get(before.id) ?? now
  const where = { workspaceId: row.workspace_id, connectionId: row.id, kind }
  if (now - since < OTHERS_READ_MS) {
    // Also where it came up already: of one calendar that several accounts see, it is gone there as well.
    const unread = await othersNotReadSince(ctx.db, { ...where, protocol: row.kind, since })
    if (unread.length > 0) {
      if (ctx.missed.size >= MOST_MISSED) ctx.missed.clear()
      ctx.missed.set(before.id, since)
      for (const { id } of unread) await lookNow(ctx.db, { id })
      await lookAt(ctx.db, { id: row.id, at: Date.now() + AGAIN_MS })
      return 'unread'
    }
  }
  ctx.missed.delete(before.id)
  const came = await cameUpElsewhere(ctx.db, { ...where, uid, since: since - BROUGHT_MS })
  return came.length === 1 ? 'there' : 'nowhere'
}

/** What bears the uid of an item at other places of its service. */
export async function namesakesOf(sql: Sql, connector: Connector, of: MirrorRow): Promise<Namesake[]> {
  const found = await connector.locate(remoteItemOf(of).uid)
  const ids = found.map(f => f.remoteId)
  const held = new Map((await mirrorRows(sql, of.connection_id, ids)).map(r => [r.remote_id, mirrorOf(r)]))
  return found.map(at => ({ at, held: held.get(at.remoteId)?.presence ?? null }))
}

/** The item lives on, perhaps in another collection and under another id: its mirror and tie follow. */
async function sightingElsewhere(
  { ctx, row, lease, scopeFilter }: Look,
  before: MirrorRow,
  seen: RemoteItem,
  startedAt: number,
): Promise<boolean> {
  const judged = scopeFilter.judge(seen, present(before))
  const { item } = judged
  const home = await collectionAt(ctx.db, { id: row.id, remoteId: item.collectionId })
  const looked = {
    before: home?.synced_at ?? 0,
    now: startedAt,
    skew: scopeFilter.skew,
    hasBaseline: home?.baseline_at != null,
  }
  const sighting: Sighting = { ...item, collectionId: home?.id ?? before.collection_id }
  const result = observe(present(before), sighting, looked, before.id)
  if (result.kind === 'same') return false
  await ctx.db.commit(async sql => {
    await lease.check(sql)
    const [twin] = item.remoteId === before.remote_id ? [] : await mirrorRows(sql, row.id, [item.remoteId])
    // What was mirrored at the new place a moment ago is this same item: the older mirror, which ties
    // and our own layer hang on, takes its place.
    if (twin) await takeOver(sql, before.id, twin.id)
    const presence = judged.entry === 'in' ? ('present' as const) : ('outside' as const)
    if (home && seen.unknownStatus) await keepUnknown(sql, home, [seen.unknownStatus])
    await putMirrors(sql, placeOf(row), [{ mirror: { ...result.mirror, presence }, original: item.original }])
    sql.tell(row.workspace_id, { topics: ['cloth'] }, [before.id])
  })
  return true
}

/** Two mirrors are of one item: what hangs on the later one hangs on the earlier from now on. */
async function takeOver(sql: Sql, id: string, twin: string): Promise<void> {
  await takeOverTies(sql, { id, twin })
  await takeOverMirror(sql, { id, twin })
  await commentsGoOver(sql, { from: twin, to: id })
  await dropMirror(sql, { id: twin })
}
