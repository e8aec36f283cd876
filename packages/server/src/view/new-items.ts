import type { ClothItem } from '@loom/core'
import { sightIn } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import { daySeen, firstSeenSince, sawDay } from '../data/repositories/day-seen.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { DEFAULT_MINUTES } from './cloth.ts'
import { drawn, loadPairs, pairOf } from './pairs.ts'

/** What came to somebody since they looked last: tasks given to them, appointments of theirs, what is in their intake. */

export interface NewItem {
  key: string
  title: string
  kind: 'task' | 'event'
  /** When it was seen here first, epoch ms. */
  atMs: number
  place: ClothItem['place']
  due: ClothItem['due']
}

const MOST_READ = 400
const MOST_TOLD = 60

/** Nothing is new before the first time: from then on it counts. */
export async function newItemsFor(
  ctx: Context,
  member: Member,
): Promise<{ sinceMs: number; items: NewItem[]; more: number }> {
  const since = await daySeen(ctx.db, { memberId: member.id })
  if (since === null) {
    await sawNew(ctx, member, ctx.now())
    return { sinceMs: ctx.now(), items: [], more: 0 }
  }
  const found = await ctx.db.snapshot(async sql => {
    const rows = await firstSeenSince(sql, {
      workspaceId: member.workspaceId,
      memberId: member.id,
      since,
      most: MOST_READ,
    })
    if (rows.length === 0) return []
    const isNew = new Set(rows.map(r => r.id))
    const { pairs } = await loadPairs(sql, member, [...isNew])
    const sight = await sightIn(sql, member)
    const viewer = { zone: member.zone, defaultMinutes: DEFAULT_MINUTES, now: ctx.now() }
    const told = new Map<string, NewItem>()
    for (const { id, at } of rows) {
      const pair = pairOf(pairs, id)
      const item = pair && drawn(pair, viewer)
      if (!pair || !item || item.onlyBusy || item.of !== null || item.done || item.cancelled) continue
      // The counterpart that a rule makes of something old is nothing new.
      const halves = [pair.task, pair.event, ...pair.twins].filter(h => h !== null)
      if (!halves.every(h => isNew.has(h.id))) continue
      const isTheirs = item.people.includes(member.id)
      const isInTheirs = item.people.length === 0 && halves.some(h => sight.owns(h.collectionId))
      if (!isTheirs && !isInTheirs) continue
      const kind = pair.task ? 'task' : 'event'
      told.set(item.key, {
        key: item.key,
        title: item.title,
        kind,
        atMs: Number(at),
        place: item.place,
        due: item.due,
      })
    }
    return [...told.values()]
  })
  return { sinceMs: since, items: found.slice(0, MOST_TOLD), more: Math.max(0, found.length - MOST_TOLD) }
}

/** @param at what came later than that is new the next time; epoch ms */
export const sawNew = (ctx: Context, { id: memberId, workspaceId }: Member, at: number): Promise<void> =>
  ctx.db.commit(async sql => {
    await sawDay(sql, { memberId, workspaceId, at: Math.min(at, ctx.now()) })
  })
