import { createHash, createHmac } from 'node:crypto'
import { addDays, type ClothItem, dayAt, epochOf, onDate, publishedCalendar } from '@loom/core'
import { LRUCache } from 'lru-cache'
import type { Context } from '../../context/context.ts'
import type { Database } from '../../data/database.ts'
import { listsOfLink, type OpenLink, type ShownList } from '../../data/repositories/links.ts'
import { shownByLink } from '../../view/guest-days.ts'
import { sourcesSeen } from '../../view/shared-cloth.ts'

/** The lists of a secret address as calendars of objects, each with an ETag and a token of its state. */

export interface CalendarObject {
  /** The last part of its address. */
  name: string
  component: 'VEVENT' | 'VTODO'
  text: string
  etag: string
  /** When it takes place, epoch ms; null for a to-do without a day. */
  span: { fromMs: number; toMs: number } | null
}

export interface PublishedList {
  id: string
  name: string
  objects: ReadonlyMap<string, CalendarObject>
  /** Of all that is in it: another one as soon as something is otherwise. */
  token: string
}

/** Bytes of what is told; and names in the states that are remembered. What nobody asks for the longest goes first. */
const MOST_KEPT = 64_000_000
const MOST_NAMES = 500_000

interface Kept {
  made: LRUCache<string, Promise<PublishedList[]>>
  /** What there was, by the token that was told for it. */
  states: LRUCache<string, ReadonlyMap<string, string>>
}
const databases = new WeakMap<Database, Kept>()
function keptOf(db: Database): Kept {
  const known = databases.get(db)
  if (known) return known
  const fresh: Kept = {
    made: new LRUCache({ max: 200, maxSize: MOST_KEPT }),
    states: new LRUCache({ max: 2_000, maxSize: MOST_NAMES }),
  }
  databases.set(db, fresh)
  return fresh
}

/** Made once for all who ask until something changes or the day does. */
export function calendarsOf(ctx: Context, link: OpenLink): Promise<PublishedList[]> {
  const { made } = keptOf(ctx.db)
  const key = `${link.id} ${link.seq} ${dayAt(ctx.now(), link.zone)}`
  const known = made.get(key)
  if (known) return known
  const fresh = make(ctx, link)
  made.set(key, fresh, { size: 1 })
  fresh.then(
    // Told its size once that is known.
    calendars => made.get(key) === fresh && made.set(key, fresh, { size: 1 + sizeOf(calendars) }),
    // Whoever asked is told; the next one tries again.
    () => made.get(key) === fresh && made.delete(key),
  )
  return fresh
}

async function make(ctx: Context, link: OpenLink): Promise<PublishedList[]> {
  const lists = await listsOfLink(ctx.db, { id: link.id })
  const calendars: PublishedList[] = []
  for (const list of lists) calendars.push(await calendarOf(ctx, link, list))
  const { states } = keptOf(ctx.db)
  for (const { token, objects } of calendars)
    states.set(token, new Map([...objects.values()].map(o => [o.name, o.etag])), { size: 1 + objects.size })
  return calendars
}

const sizeOf = (calendars: readonly PublishedList[]): number =>
  calendars.reduce((sum, c) => sum + [...c.objects.values()].reduce((n, o) => n + o.text.length, 0), 0)

const isTask = ({ kind }: ClothItem): boolean => kind === 'task' || kind === 'tied'

async function calendarOf(ctx: Context, link: OpenLink, list: ShownList): Promise<PublishedList> {
  const { zone } = link
  const today = dayAt(ctx.now(), zone)
  const { items, around, sight } = await shownByLink(ctx, link, [list], {
    zone,
    from: today,
    days: link.weeks * 7,
  })
  const names = new Map(around.people.map(p => [p.id, p.name]))
  const host = new URL(ctx.publicUrl).hostname
  const midnight = (date: string): number => epochOf(onDate(date), zone)
  // The list as well: the same item may be seen in two.
  const idOf = (key: string): string =>
    createHmac('sha256', `${link.id} ${list.id}`).update(key).digest('hex').slice(0, 32)
  const publication = {
    name: '',
    zone,
    // Always the same: an object is another one only when what is told of it is.
    stampMs: link.made_at,
    refresh: 60,
    uidOf: (key: string) => `${idOf(key)}@${host}`,
    nameOf: (id: string) => names.get(id) ?? '',
  }
  const objects = new Map<string, CalendarObject>()
  for (const item of items) {
    const isTodo = isTask(item) && link.tasks_as === 'to-dos' && !item.onlyBusy
    if (!isTodo && item.place.kind === 'none') continue
    const text = publishedCalendar([item], link.tasks_as, publication)
    const name = `${idOf(item.key)}.ics`
    objects.set(name, {
      name,
      component: isTodo ? 'VTODO' : 'VEVENT',
      text,
      etag: `"${createHash('sha256').update(text).digest('base64url').slice(0, 27)}"`,
      span: spanOf(item, midnight),
    })
  }
  const state = [...objects.values()].map(o => `${o.name} ${o.etag}`).sort()
  const digest = createHash('sha256')
    .update([link.id, list.id, ...state].join('\n'))
    .digest('base64url')
  return {
    id: list.id,
    // Of a list that only tells when, not even its name is told.
    name: sourcesSeen(around, sight).find(s => s.id === list.id)?.name ?? 'Busy',
    objects,
    token: `data:,${digest.slice(0, 27)}`,
  }
}

function spanOf(
  { place, due, dueAt }: ClothItem,
  midnight: (date: string) => number,
): CalendarObject['span'] {
  switch (place.kind) {
    case 'timed':
      return { fromMs: place.startMs, toMs: Math.max(place.endMs, place.startMs + 1) }
    case 'all-day':
      return {
        fromMs: midnight(place.from),
        toMs: midnight(place.to > place.from ? place.to : addDays(place.from, 1)),
      }
    case 'day':
      return { fromMs: midnight(place.date), toMs: midnight(addDays(place.date, 1)) }
    case 'none': {
      if (dueAt !== null) return { fromMs: dueAt, toMs: dueAt + 1 }
      return due === null ? null : { fromMs: midnight(due), toMs: midnight(addDays(due, 1)) }
    }
  }
}

/**
 * What is otherwise since a token; null where nothing is known of it any more, for example after a restart: then the
 * reader begins anew (RFC 6578 §3.3).
 */
export function changesSince(
  db: Database,
  { objects }: PublishedList,
  token: string,
): { changed: CalendarObject[]; gone: string[] } | null {
  if (token === '') return { changed: [...objects.values()], gone: [] }
  const before = keptOf(db).states.get(token)
  if (!before) return null
  return {
    changed: [...objects.values()].filter(o => before.get(o.name) !== o.etag),
    gone: [...before.keys()].filter(name => !objects.has(name)),
  }
}
