import {
  addDays,
  busyItems,
  type ClothItem,
  dayAt,
  daysBetween,
  epochOf,
  isKnownZone,
  onDate,
  shownIn,
  slim,
  type SlimItem,
  viewOf,
  whole as read,
} from '@loom/core'
import { z } from 'zod'
import { type Sharing, type Sight, sightOfLink } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import { listsOfLink, type OpenLink, type ShownList } from '../data/repositories/links.ts'
import { DEFAULT_MINUTES } from './cloth.ts'
import { type Around, sharedCloth, sourcesSeen } from './shared-cloth.ts'

/** What a secret address shows of some days. */

export const GuestSpan = z.object({
  from: z.iso.date(),
  days: z.coerce.number().int().min(1).max(42),
  zone: z.string().max(64).refine(isKnownZone, 'There is no such time zone.'),
})

/** What a link says of itself, before it has an address as well. */
export type LinkTerms = Pick<
  OpenLink,
  'name' | 'opens' | 'weeks' | 'made_by' | 'view' | 'workspace_id' | 'workspace' | 'maker' | 'role' | 'seq'
>

interface Shown {
  today: string
  /** The last day that there is anything of. */
  last: string
  from: string
  days: number
  items: ClothItem[]
  around: Around
  sight: Sight
}

/** With what has no day, which is nowhere on a page of days. */
export async function shownByLink(
  ctx: Context,
  link: LinkTerms,
  lists: readonly ShownList[],
  { zone, from: asked, days }: z.infer<typeof GuestSpan>,
): Promise<Shown> {
  const { db } = ctx
  const now = ctx.now()
  const today = dayAt(now, zone)
  const last = addDays(today, link.weeks * 7 - 1)
  // Beyond its days there is nothing, and nothing is said of them.
  const from = asked < today ? today : asked > last ? last : asked
  const span = { from, days: Math.min(days, daysBetween(from, last) + 1) }
  const whole = lists.map(({ id }) => ({ id, level: 'everything' as const }))
  const viewer = { zone, defaultMinutes: DEFAULT_MINUTES, now }
  const asMaker = (sharing: Sharing): Sight => sharing.sightOf({ id: link.made_by, role: link.role })
  const shownOf = (shown: readonly ShownList[]) => (sharing: Sharing) => sightOfLink(asMaker(sharing), shown)
  const lookBy = async (sightIn: (sharing: Sharing) => Sight) => {
    const looking = {
      workspaceId: link.workspace_id,
      seq: link.seq,
      memberId: null,
      sightIn,
    }
    const given = await sharedCloth(db, looking, span, viewer, { check: ctx.checks })
    const found = JSON.parse(Buffer.from(given.items.lines).toString('utf8')) as SlimItem[]
    return { ...given, found: found.map(read) }
  }
  const { found: all, around, sight } = await lookBy(shownOf(lists))
  const within = {
    startMs: epochOf(onDate(from), zone),
    endMs: epochOf(onDate(addDays(from, span.days)), zone),
  }
  // What is left over from before its first day is on its maker's days.
  const told = all.filter(i => !isBefore(i, from, within.startMs))
  const shown = { today, last, ...span, around, sight }
  const view = link.view && parsed(link.view)
  if (!view) return { ...shown, items: told }
  // A view may choose by what the guest does not see: whether it shows an item is asked of the item as its maker sees it.
  const isOwnTime = link.opens === 'availability'
  const { found } = await lookBy(isOwnTime ? asMaker : shownOf(whole))
  const chosen = shownIn(viewOf(view.body), found, { now, zone }).filter(i => !i.onlyBusy)
  if (isOwnTime) {
    const isThere = (i: ClothItem): boolean => lists.some(l => i.sources.includes(l.id))
    const taken = chosen.flatMap(i =>
      isThere(i) && takesTimeOf(i) ? [{ person: null, place: i.place }] : [],
    )
    return { ...shown, items: busyItems(taken, within, () => zone) }
  }
  const keys = new Set(chosen.map(i => i.key))
  return { ...shown, items: told.filter(i => keys.has(i.key)) }
}

const takesTimeOf = (i: ClothItem): boolean => i.busy && !i.done && !i.cancelled && !i.atDeadline

function isBefore({ place }: ClothItem, date: string, ms: number): boolean {
  switch (place.kind) {
    case 'timed':
      return Math.max(place.endMs, place.startMs + 1) <= ms
    case 'all-day':
      return place.to <= date && place.from < date
    case 'day':
      return place.date < date
    case 'none':
      return false
  }
}

export async function guestDays(
  ctx: Context,
  link: LinkTerms & { id?: string },
  query: z.infer<typeof GuestSpan>,
  lists?: readonly ShownList[],
) {
  const shownLists = lists ?? (await listsOfLink(ctx.db, { id: link.id ?? '' }))
  const { items, around, sight, ...span } = await shownByLink(ctx, link, shownLists, query)
  // Tasks without a day are a matter of those who plan, and so is what is left over from before.
  const placed = items.filter(i => i.place.kind !== 'none')
  const named = new Set(placed.flatMap(i => i.people))
  return {
    name: link.name,
    workspace: link.workspace,
    maker: link.maker,
    nowMs: ctx.now(),
    ...span,
    items: placed.map(slim),
    sources: sourcesSeen(around, sight).map(({ id, name, dye }) => ({ id, name, dye })),
    people: around.people.flatMap(p => (named.has(p.id) ? [{ id: p.id, name: p.name }] : [])),
  }
}
