import type { Item } from '../../items/items.ts'
import { checklistIn } from '../lenses/checklist.ts'
import { sameValue } from '../lenses/lens.ts'
import type { Mirror, Seen, SeenSpan } from '../model/types.ts'
import { earlierStamps, goesBackwards } from './restored.ts'

/** What a service showed of one item. */
export interface Sighting {
  remoteId: string
  collectionId: string
  revision: string
  item: Item
}

export interface Looked {
  /** When the collection was last read in full or up to date before this, epoch ms; 0 for never. */
  before: number
  /** When this reading was begun, epoch ms: what it shows is at least as old. */
  now: number
  /** The service's clock minus ours, ms. */
  skew: number
  /** Whether the first complete reading under the present settings has ended. Items that appear later are new. */
  hasBaseline: boolean
}

/** Set by services on every write; their change says nothing of what was edited. */
export const BOOKKEEPING: ReadonlySet<string> = new Set([
  'lastModified',
  'created',
  'url',
  'serviceStatus',
  'completed',
])

/** Whether fields share it: an event's title and its mark are both in its summary, and its parts in its notes. */
const isShared = (prop: string, { kind, description: was }: Item, { description: now }: Item): boolean =>
  kind === 'event' &&
  (prop === 'summary' || (prop === 'description' && [was, now].some(text => checklistIn(text) !== '')))
/**
 * The number of earlier values kept. For anything that changed more often, the start of its present value is
 * unknown.
 */
const MOST_BEFORE = 4

export type Observed =
  | { kind: 'same' }
  /** Only the revision is new: an echo, or an edit of something we do not read. */
  | { kind: 'revision'; mirror: Mirror }
  | { kind: 'changed'; mirror: Mirror }

/**
 * Takes what a reading shows of an item into its mirror. The service's modification time narrows the span in which
 * a change was made, if it lies between the last reading and this one.
 */
export function observe(present: Mirror | null, sighting: Sighting, looked: Looked, id: string): Observed {
  // What moved may have kept its revision.
  const here = present?.remoteId === sighting.remoteId && present.collectionId === sighting.collectionId
  if (here && present.revision === sighting.revision && present.presence === 'present')
    return { kind: 'same' }
  const { item } = sighting
  const stamp = item.lastModified ? Date.parse(item.lastModified) - looked.skew + 1000 : Infinity
  const known = present?.item.lastModified ? Date.parse(present.item.lastModified) - looked.skew : 0
  // An item from another list cannot have been seen in this one before.
  const before = present && present.collectionId !== sighting.collectionId ? known : looked.before
  const knownSince = Math.min(known, before)
  const isOther = present !== null && present.remoteId !== sighting.remoteId
  const isThere = present?.presence === 'present' || (isOther && present.presence === 'missing')
  const isRestored = isThere && goesBackwards(present, item.lastModified, isOther)
  const span: SeenSpan = {
    // A listing may be late: what the service dates before our last look came about before it, and after the
    // version that we knew.
    without: stamp > before ? before : knownSince,
    with: stamp > before ? Math.min(stamp, looked.now) : looked.now,
    ...(isRestored && { restored: true as const }),
  }
  const alike = present?.item.kind === item.kind ? present : null
  const was: Record<string, unknown> | null = alike?.item ?? null
  const now: Record<string, unknown> = item
  const seen: Record<string, Seen> = { ...present?.seen }
  let isEdited = false
  // In a loop without lists: of a first import, it is gone through for each property of each item.
  for (const prop in now) {
    if (BOOKKEEPING.has(prop) || (was && sameValue(now[prop], was[prop]))) continue
    isEdited = true
    seen[prop] =
      alike && isShared(prop, alike.item, item) ? { ...span, before: beforeThat(alike, prop) } : span
  }
  if (present) Object.assign(seen, stamps(present, item.lastModified, span))
  const mirror: Mirror = {
    id,
    collectionId: sighting.collectionId,
    remoteId: sighting.remoteId,
    revision: sighting.revision,
    item,
    presence: 'present',
    seen,
    firstSeenAt: present?.firstSeenAt ?? looked.now,
    arrivedAt: arrivalOf(present, sighting, looked),
  }
  const kept = present?.presence === 'present' && present.collectionId === mirror.collectionId
  return { kind: kept && !isEdited ? 'revision' : 'changed', mirror }
}

/** Kept where it has had more than one. */
function stamps(present: Mirror, stamp: string | null, span: SeenSpan): Record<string, Seen> {
  const before = earlierStamps(present, stamp)
  return before && before.length > 0
    ? { lastModified: { without: span.without, with: span.with, before } }
    : {}
}

/** CREATED says nothing here: what was moved or imported keeps an old one. */
function arrivalOf(present: Mirror | null, { collectionId, item }: Sighting, looked: Looked): number {
  if (present?.collectionId === collectionId) return present.arrivedAt
  const isInvitation = item.kind === 'event' && item.attendees > 0
  return looked.hasBaseline && !isInvitation ? looked.now : 0
}

function beforeThat({ item, seen, firstSeenAt }: Mirror, prop: string): Seen['before'] {
  const { before = [], ...last }: Seen = seen[prop] ?? { without: 0, with: firstSeenAt }
  const value = (item as unknown as Record<string, unknown>)[prop]
  const all = [{ ...last, value }, ...before]
  const kept = all.slice(0, MOST_BEFORE)
  return all.length > MOST_BEFORE
    ? kept.map((b, i) => (i === MOST_BEFORE - 1 ? { ...b, without: 0 } : b))
    : kept
}
