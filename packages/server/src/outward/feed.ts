import { createHash, createHmac } from 'node:crypto'
import { promisify } from 'node:util'
import { gzip } from 'node:zlib'
import { addDays, dayAt, epochOf, onDate, publishedBusy, publishedCalendar } from '@loom/core'
import { LRUCache } from 'lru-cache'
import type { Context } from '../context/context.ts'
import type { Database } from '../data/database.ts'
import { listsOfLink, type OpenLink } from '../data/repositories/links.ts'
import { shownByLink } from '../view/guest-days.ts'

/** What a secret address tells to calendar programs, which ask for it again and again. */

export interface Feed {
  /** Of what is told: another one as soon as a byte of it is. */
  etag: string
  plain: Buffer
  zipped: Buffer
}

/** As of a change of its workspace, on a day. */
interface Kept {
  as: string
  feed: Promise<Feed>
}
/** Bytes of all that is kept; what nobody has asked for the longest goes first. */
const MOST_KEPT = 64_000_000
const MOST_FEEDS = 2_000
const REFRESH_MINUTES = 60
const zipped = promisify(gzip)

interface OfDatabase {
  asked: LRUCache<string, Kept>
  made: LRUCache<string, Feed>
}
const databases = new WeakMap<Database, OfDatabase>()
function keptOf(db: Database): OfDatabase {
  const known = databases.get(db)
  if (known) return known
  const asked = new LRUCache<string, Kept>({ max: MOST_FEEDS })
  const made = new LRUCache<string, Feed>({
    max: MOST_FEEDS,
    maxSize: MOST_KEPT,
    sizeCalculation: f => f.plain.length + f.zipped.length,
    dispose: (_, id, why) => void (why === 'evict' && asked.delete(id)),
  })
  const fresh = { asked, made }
  databases.set(db, fresh)
  return fresh
}

/** Made once for all who ask until something changes or the day does; whoever else asks meanwhile waits for it. */
export function feedOf(ctx: Context, link: OpenLink): Promise<Feed> {
  const { asked, made } = keptOf(ctx.db)
  const as = `${link.seq} ${dayAt(ctx.now(), link.zone)}`
  const known = asked.get(link.id)
  // Asked for just now, as long as it is kept.
  made.get(link.id)
  if (known?.as === as) return known.feed
  const feed = make(ctx, link)
  asked.set(link.id, { as, feed })
  feed.then(
    told => void made.set(link.id, told),
    // Whoever asked is told; the next one tries again.
    () => void (asked.get(link.id)?.feed === feed && asked.delete(link.id)),
  )
  return feed
}

async function make(ctx: Context, link: OpenLink): Promise<Feed> {
  const { zone } = link
  const today = dayAt(ctx.now(), zone)
  const days = link.weeks * 7
  const lists = await listsOfLink(ctx.db, { id: link.id })
  const { items, around } = await shownByLink(ctx, link, lists, { zone, from: today, days })
  const names = new Map(around.people.map(p => [p.id, p.name]))
  const host = new URL(ctx.publicUrl).hostname
  const at = (date: string): number => epochOf(onDate(date), zone)
  const publication = {
    name: link.name,
    zone,
    stampMs: at(today),
    refresh: REFRESH_MINUTES,
    // No reader knows the link’s id, so that no two of them find out that they were told of the same.
    uidOf: (key: string) => `${createHmac('sha256', link.id).update(key).digest('hex').slice(0, 32)}@${host}`,
    nameOf: (id: string) => names.get(id) ?? '',
  }
  const text =
    link.opens === 'availability'
      ? publishedBusy(items, { startMs: at(today), endMs: at(addDays(today, days)) }, publication)
      : publishedCalendar(items, link.tasks_as, publication)
  const plain = Buffer.from(text)
  const etag = `W/"${createHash('sha256').update(plain).digest('base64url').slice(0, 27)}"`
  return { etag, plain, zipped: await zipped(plain) }
}
