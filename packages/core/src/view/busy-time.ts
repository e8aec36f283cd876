import type { Event, Item, Task } from '../items/items.ts'
import { addDays, epochOf } from '../time/when.ts'
import { type ClothItem, noBlocks, type Place } from './cloth-item.ts'

/** When somebody's time is taken, of what whoever looks may know nothing else: one piece where several touch. */

interface Span {
  startMs: number
  endMs: number
}

/** Whether it takes time at all: what is open or opaque, and neither done nor called off. */
export const takesTime = (item: Item): boolean => (item.kind === 'task' ? isOpen(item) : isOpaque(item))
const isOpen = ({ status }: Task): boolean => status === 'needs-action' || status === 'in-process'
const isOpaque = ({ status, transparency }: Event): boolean =>
  status !== 'cancelled' && transparency === 'opaque'

function spanOf(place: Place, zone: string): Span | null {
  if (place.kind === 'timed') return place
  if (place.kind !== 'all-day') return null
  const to = place.to > place.from ? place.to : addDays(place.from, 1)
  const at = (date: string): number => epochOf({ kind: 'date', date }, zone)
  return { startMs: at(place.from), endMs: at(to) }
}

/** Spans in order, those that touch made one, cut to what was asked for. */
export function merged(spans: readonly Span[], within: Span): Span[] {
  const found: Span[] = []
  const cut = spans
    .map(s => ({ startMs: Math.max(s.startMs, within.startMs), endMs: Math.min(s.endMs, within.endMs) }))
    .filter(s => s.endMs > s.startMs)
    .sort((x, y) => x.startMs - y.startMs)
  for (const span of cut) {
    const last = found.at(-1)
    if (last && span.startMs <= last.endMs) last.endMs = Math.max(last.endMs, span.endMs)
    else found.push({ ...span })
  }
  return found
}

/** Somebody's taken time, as it is to be merged; `person` null where it is nobody's. */
export interface Taken {
  person: string | null
  place: Place
}

/**
 * One item for each piece of each one's taken time.
 * @param zoneOf of a person, for their whole days
 */
export function busyItems(
  taken: readonly Taken[],
  within: Span,
  zoneOf: (person: string | null) => string,
): ClothItem[] {
  const rows = new Map<string | null, Span[]>()
  for (const { person, place } of taken) {
    const span = spanOf(place, zoneOf(person))
    if (!span) continue
    const known = rows.get(person)
    if (known) known.push(span)
    else rows.set(person, [span])
  }
  return [...rows].flatMap(([person, spans]) => merged(spans, within).map(span => busyItem(person, span)))
}

/** The same piece is the same object: from one drawing to the next, most are. */
function busyItem(person: string | null, span: Span): ClothItem {
  const name = `${person ?? ''} ${span.startMs} ${span.endMs}`
  const known = pieces.get(name)?.deref()
  if (known) return known
  const fresh = Object.freeze(pieceOf(person, span))
  if (pieces.size >= MOST_PIECES) pieces.clear()
  pieces.set(name, new WeakRef(fresh))
  return fresh
}
const pieces = new Map<string, WeakRef<ClothItem>>()
const MOST_PIECES = 50_000

const pieceOf = (person: string | null, { startMs, endMs }: Span): ClothItem => ({
  key: `busy ${person ?? ''} ${startMs}`,
  kind: 'event',
  onlyBusy: true,
  title: 'Busy',
  place: { kind: 'timed', startMs, endMs },
  done: false,
  cancelled: false,
  movable: false,
  fixedBecause: 'Only that this time is taken is shared with you.',
  onlyLook: true,
  movableByOthers: false,
  completable: false,
  sources: [],
  people: person === null ? [] : [person],
  due: null,
  dueAt: null,
  overdue: false,
  priority: 0,
  status: null,
  serviceStatus: '',
  categories: [],
  estimate: null,
  location: '',
  notes: '',
  busy: true,
  recurring: false,
  tooOften: null,
  eventKind: 'other',
  week: null,
  putBy: null,
  leftOut: false,
  slips: 0,
  planHere: null,
  atDeadline: false,
  blocks: noBlocks,
  partOf: null,
  of: null,
  batch: [],
  conflict: false,
  pending: false,
})
