import { placeOf, type Context } from '../../context/context.ts'
import type { RemoteItem } from '@loom/connectors'
import { type Item, observe, seriesDate, type Mirror, understoodOr } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import {
  type MirrorRow,
  mirrorOf,
  putMirrors,
  remoteItemOf,
  withOwnLayer,
} from '../../data/repositories/mirrors.ts'
import type { Job } from '../log/intents.ts'
import { unrollOne } from '../rules/series-dates.ts'
import { syncedAtOf } from '../../data/repositories/collections.ts'
import { isUnrolled } from '../../data/repositories/series.ts'
import type { ConnectionRow } from '../../data/repositories/connections.ts'

/** What a service shows of the item that a write of ours was about, and how that comes into its mirror. */

/** The mirror of what is read and written at the service: for a date, that of its series. */
export const objectOf = ({ mirror, series }: Pick<Job, 'mirror' | 'series'>): MirrorRow | null =>
  series ?? mirror

/** The item as the service shows it now, with our own layer; null where a series no longer has that date. */
export function shownOf({ mirror, series }: Job, { item, original }: RemoteItem): Item | null {
  if (!series || !mirror?.occurrence) return withOwnLayer(item, mirror)
  const { occurrence } = mirror
  return understoodOr(() => seriesDate(original, occurrence)?.event ?? null, null)
}

/** Where what is shown goes. */
interface Shown {
  conn: ConnectionRow
  /** The mirror as it was; null for what is new. */
  before: MirrorRow | null
  /** Of the mirror. */
  id: string
  collectionId: string
}

/** Stores the service's answer in the mirror; for a series, also in the mirrors of its dates. Returns the changes. */
export async function applyShown(
  ctx: Context,
  sql: Sql,
  { conn, before, id, collectionId }: Shown,
  item: RemoteItem,
): Promise<string[]> {
  const home = await syncedAtOf(sql, {
    collectionId,
  })
  const previous: Mirror | null = before ? { ...mirrorOf(before), item: remoteItemOf(before) } : null
  const looked = { before: home?.synced_at ?? 0, now: ctx.now(), skew: 0, hasBaseline: true }
  const result = observe(previous, { ...item, collectionId }, looked, id)
  if (result.kind !== 'same')
    await putMirrors(sql, placeOf(conn), [{ mirror: result.mirror, original: item.original }])
  const known = await isUnrolled(sql, { id })
  return known ? [id, ...(await unrollOne(ctx, sql, id))] : [id]
}
