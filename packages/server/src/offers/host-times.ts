import { addDays, type ClothItem, dayAt, daysBetween, epochOf, onDate } from '@loom/core'
import {
  held,
  type HostTime,
  offeredSpans,
  type OfferTerms,
  QUARTER_MINUTES,
  type Stretch,
} from '@loom/core/offers'
import { takenOf, yieldingOf } from '@loom/core/planning'
import { withTravel } from '@loom/core/view'
import { LRUCache } from 'lru-cache'
import type { Context } from '../context/context.ts'
import type { Database } from '../data/database.ts'
import { bookedStarts, eventsOfOtherHosts, heldQuarters } from '../data/repositories/bookings.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import type { HostRow, OpenOffer } from '../data/repositories/offers.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { planningFor } from '../planning/planning.ts'
import { clothSeenBy } from '../view/own-cloth.ts'
import { peopleOf } from '../view/people.ts'

/**
 * What takes the time of those who offer it: all that they see themselves, private or not, with the ways there. Of it
 * only times leave.
 */

/** What one person's time is taken by, as of a change in their workspace. */
const KEPT = { max: 200, ttl: 60_000 }
const caches = new WeakMap<Database, LRUCache<string, Promise<Taken[]>>>()
function cacheOf(db: Database): LRUCache<string, Promise<Taken[]>> {
  const known = caches.get(db)
  if (known) return known
  const fresh = new LRUCache<string, Promise<Taken[]>>(KEPT)
  caches.set(db, fresh)
  return fresh
}

export interface Taken extends Stretch {
  /** The item as the Cloth calls it; of a way, that of its appointment. */
  key: string
  /** Of the item, without its date; of a way, that of its appointment. */
  mirror: string
  /** How much it presses where it is movable work, which may give way; null where it stays. */
  presses: number | null
}

const QUARTER_MS = QUARTER_MINUTES * 60_000

/** Days of their own that are taken as a whole. */
function wholeDays(items: readonly ClothItem[], { id, zone }: Pick<Member, 'id' | 'zone'>): ClothItem[] {
  return items.flatMap(item => {
    const { place } = item
    const isTaken =
      place.kind === 'all-day' &&
      item.busy &&
      !item.cancelled &&
      !item.done &&
      !item.leftOut &&
      !item.atDeadline
    if (!isTaken || (item.people.length > 0 && !item.people.includes(id))) return []
    const to = place.to > place.from ? place.to : addDays(place.from, 1)
    const at = (date: string): number => epochOf(onDate(date), zone)
    return [{ ...item, place: { kind: 'timed' as const, startMs: at(place.from), endMs: at(to) } }]
  })
}

async function readTaken(
  ctx: Context,
  member: Member,
  span: { from: string; days: number },
): Promise<Taken[]> {
  const now = ctx.now()
  return ctx.db.snapshot(async sql => {
    const { items } = await clothSeenBy(sql, member, span, now)
    const { planning } = await planningFor(sql, member)
    const all = [...withTravel(items, planning.travel, member.id), ...wholeDays(items, member)]
    const person = { id: member.id, zone: member.zone, now }
    const { id: memberId, workspaceId } = member
    const others = new Set((await eventsOfOtherHosts(sql, { workspaceId, memberId })).map(e => e.key))
    const movable = yieldingOf(items, person, Number.MAX_SAFE_INTEGER)
    const presses = new Map(movable.map(y => [y.key, y.pressure]))
    const own = all.filter(item => !others.has(mirrorOfKey(item.key)))
    return own.flatMap(item =>
      takenOf([item], person).map(({ fromMs, toMs }) => ({
        fromMs,
        toMs,
        key: item.key,
        mirror: mirrorOfKey(item.key),
        presses: presses.get(item.key) ?? null,
      })),
    )
  })
}
const mirrorOfKey = (key: string): string => /[0-9a-f]{8}-[0-9a-f-]{27}/.exec(key)?.[0] ?? key

/**
 * Of all hosts that agreed, in their order.
 * @param but a booking that is to be elsewhere: its own time is free
 */
export async function hostTimes(
  ctx: Context,
  offer: OpenOffer,
  terms: OfferTerms,
  hosts: readonly HostRow[],
  but: { booking: string; mirrors: readonly string[] } = { booking: '', mirrors: [] },
): Promise<HostTime[]> {
  const now = ctx.now()
  const spans = offeredSpans(terms, now)
  const agreed = hosts.filter(h => h.agreed_at !== null)
  if (spans.length === 0 || agreed.length === 0) return []
  const first = Math.min(...spans.map(s => s.fromMs))
  const last = Math.max(...spans.map(s => s.toMs))
  const { workspace_id: workspaceId } = offer
  const team = await teamOfWorkspace(ctx.db, { workspaceId })
  const { people } = await peopleOf(ctx.db, workspaceId)
  const within = held(terms, { startMs: first, minutes: (last - first) / 60_000 })
  const ids = agreed.map(h => h.member_id)
  const quarters = await heldQuarters(ctx.db, { hosts: ids, ...within, but: but.booking })
  const booked = await bookedStarts(ctx.db, { offerId: offer.id, from: now, but: but.booking })
  const { givesWay: below = null } = terms
  const givesWay = (t: Taken): boolean => below !== null && t.presses !== null && t.presses < below
  const found: HostTime[] = []
  for (const id of ids) {
    const member = team.find(m => m.id === id)
    if (!member) continue
    const from = addDays(dayAt(first, member.zone), -1)
    const span = { from, days: daysBetween(from, dayAt(last, member.zone)) + 2 }
    const taken = await takenBy(ctx, { ...member, workspaceId, userId: '' }, span, offer.seq)
    const own = quarters.filter(q => q.member_id === id)
    const counts = new Map<string, number>()
    for (const b of booked)
      if (b.member_id === id) {
        const date = dayAt(Number(b.start_ms), terms.zone)
        counts.set(date, (counts.get(date) ?? 0) + 1)
      }
    found.push({
      id,
      busy: [
        ...taken.filter(t => !but.mirrors.includes(t.mirror) && !givesWay(t)),
        ...own.map(q => ({ fromMs: q.quarter * QUARTER_MS, toMs: (q.quarter + 1) * QUARTER_MS })),
      ],
      off: people.find(p => p.id === id)?.hours.off ?? [],
      booked: counts,
    })
  }
  return found
}

/** @param seq the last change in their workspace */
export function takenBy(
  ctx: Context,
  member: Member,
  span: { from: string; days: number },
  seq: number,
): Promise<Taken[]> {
  const cache = cacheOf(ctx.db)
  const key = `${member.id} ${seq} ${span.from} ${span.days} ${dayAt(ctx.now(), member.zone)}`
  const known = cache.get(key)
  if (known) return known
  const fresh = readTaken(ctx, member, span)
  cache.set(key, fresh)
  fresh.catch(() => cache.get(key) === fresh && cache.delete(key))
  return fresh
}
