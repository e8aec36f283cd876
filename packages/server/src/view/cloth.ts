import {
  addDays,
  busyItems,
  type ClothItem,
  dateKey,
  dayAt,
  epochOf,
  type Event,
  type Item,
  type ItemSource,
  type Taken,
  takesTime,
  type Task,
  understoodOr,
  type Viewer,
} from '@loom/core'
import { type Sharing, type Sight, sharingOf } from '../access/sight.ts'
import type { Sql } from '../data/database.ts'
import { latestSeq } from '../data/number-changes.ts'
import { changedSince } from './changed-items.ts'
import { patchedRows, type Rows, wholeRows } from './cloth-rows.ts'
import { type Component, componentsOf } from './components.ts'
import { datesAsSeen, datesInSpan } from './dates-in-span.ts'
import { beingMade, openIntents } from './open-edits.ts'
import { drawn, inConflict, loadUnseen, pairedUp, type Unseen } from './pairs.ts'
import { type Circumstances, circumstancesOf } from './sources.ts'
import { leadsBefore } from './twins.ts'
import { type Instants, type Row, type TieLine, tiesIn } from '../data/repositories/cloth.ts'
import type { OpenIntent } from '../data/repositories/intents.ts'

/** What the Cloth shows of a workspace: tied pairs as one, and a person's own edits before they arrive. */

/** Minutes that a task without an estimate counts for. */
export const DEFAULT_MINUTES = 30

export interface Days {
  workspaceId: string
  /** `YYYY-MM-DD`, in the viewer's zone. */
  from: string
  days: number
}

/** Some days as they were at a change number, before anybody sees them. */
export interface Reading {
  id: number
  /** From earlier readings to this one, the latest step last; none where anything may have changed. */
  steps: readonly Step[]
  seq: number
  /** The change as of which that was read which it went on from; null where it was read anew. */
  since: number | null
  /** Those sources as they were read, without open edits. */
  read: Unseen['read']
  components: ReadonlyMap<string, Component<Drawn>>
  open: readonly OpenIntent[]
  rows: Rows
  bounded: boolean
  /** How many tasks on the shelf are not among the items: it holds only so many. */
  beyond: number
  under: Circumstances
  sharing: Sharing
}

/** From one reading to the next only these components have changed, or gone. */
export interface Step {
  after: number
  changed: ReadonlySet<string>
}
/** Whoever was given an earlier one gets everything again. */
const MOST_STEPS = 40

/** A component as somebody sees it. */
export interface Drawn {
  items: readonly ClothItem[]
  /** Time that is taken by what they may know nothing else of. */
  taken: readonly Taken[]
}

/**
 * The items of these days, and tasks without a time.
 * @param sql of a snapshot
 * @param before an earlier reading: only what changed since is read, unless all is to be read `anew`
 * @param only of these lists and calendars; null for all
 */
export async function readCloth(
  sql: Sql,
  { workspaceId, from, days }: Days,
  viewer: Viewer,
  before: Reading | null,
  { only = null, anew = false }: { only?: readonly string[] | null; anew?: boolean } = {},
): Promise<Reading> {
  const at = { ...instantsOf({ from, days }, viewer), only }
  // What does not wait for one another is asked for at once: each answer is a way there and back.
  const [changed, open, conflicts] = await Promise.all([
    before && !anew ? changedSince(sql, workspaceId, before.seq) : null,
    openIntents(sql, workspaceId),
    inConflict(sql, workspaceId),
  ])
  const { rows, bounded, beyond, under, sharing } =
    before && changed
      ? { ...before, rows: await patchedRows(sql, workspaceId, at, before.rows, changed.ids) }
      : {
          ...(await wholeRows(sql, workspaceId, at)),
          under: await circumstancesOf(sql, workspaceId),
          sharing: await sharingOf(sql, workspaceId),
        }
  const same = new Map(changed ? before?.read : [])
  for (const id of changed?.ids ?? []) same.delete(id)
  const { heads, ties } = headsIn(rows)
  const ids = heads.map(h => h.id)
  for (const { mirror_id } of open) if (mirror_id !== null) ids.push(mirror_id)
  const found = await loadUnseen(sql, workspaceId, null, ids, { open, conflicts, under, same, heads, ties })
  const repeating = heads.flatMap(({ id }) => {
    const source = found.sources.get(id)
    return source?.item.kind === 'event' && source.item.recurring ? [source as ItemSource<Event>] : []
  })
  const series = await datesInSpan(sql, repeating, at.fromMs, at.toMs, viewer)
  const seq = changed?.to ?? (await latestSeq(sql, workspaceId))
  const since = changed && before ? before.seq : null
  const shown = heads.map(h => h.id)
  const earlier: Reading['components'] = before?.components ?? new Map()
  const components = componentsOf(found, series, shown, earlier)
  const id = ++readings
  // What is the same object is drawn as it was, however it was read.
  const steps = before
    ? [...before.steps.slice(1 - MOST_STEPS), { after: before.id, changed: differing(earlier, components) }]
    : []
  const read = { read: found.read, components, open, rows, bounded, beyond, under, sharing }
  return { id, steps, seq, since, ...read }
}

let readings = 0

/** The names of those that are not the same objects in both. */
function differing<C>(one: ReadonlyMap<string, C>, other: ReadonlyMap<string, C>): Set<string> {
  const found = new Set<string>()
  for (const [key, component] of other) if (one.get(key) !== component) found.add(key)
  for (const key of one.keys()) if (!other.has(key)) found.add(key)
  return found
}

function instantsOf({ from, days }: Pick<Days, 'from' | 'days'>, viewer: Viewer): Instants {
  const startOf = (date: string): number => epochOf({ kind: 'date', date }, viewer.zone)
  return {
    fromMs: startOf(from),
    toMs: startOf(addDays(from, days)),
    today: startOf(dayAt(viewer.now, viewer.zone)),
  }
}

/** In loops: of each change, all this is gone through again. */
function headsIn(rows: Rows): { heads: Row[]; ties: TieLine[] } {
  const heads: Row[] = []
  const all: Row[] = []
  for (const held of rows.values()) {
    if (held[0]) heads.push(held[0])
    all.push(...held)
  }
  return { heads, ties: tiesIn(all) }
}

/**
 * What of a reading somebody sees, drawn for their zone: each item as far as they may, and merged, by person, the time
 * that is taken by what they may not.
 * @param zoneOf of a person, for their whole days
 */
export function clothOf(
  reading: Pick<Reading, 'components' | 'open'>,
  sight: Sight,
  span: Pick<Days, 'from' | 'days'>,
  viewer: Viewer,
  zoneOf: (person: string | null) => string,
): ClothItem[] {
  const parts = [...reading.components.values()].map(c => drawnFor(c, sight, viewer))
  return [
    ...makingOf(reading, sight, viewer),
    ...parts.flatMap(p => p.items),
    ...busyOf(parts, span, viewer, zoneOf),
  ]
}

export const makingOf = ({ open }: Pick<Reading, 'open'>, sight: Sight, viewer: Viewer): ClothItem[] =>
  beingMade(open, sight, viewer)

/** Taken time of all components, by person. */
export function busyOf(
  parts: Iterable<Drawn>,
  span: Pick<Days, 'from' | 'days'>,
  viewer: Viewer,
  zoneOf: (person: string | null) => string,
): ClothItem[] {
  const taken: Taken[] = []
  for (const part of parts) for (const one of part.taken) taken.push(one)
  if (taken.length === 0) return []
  const { fromMs, toMs } = instantsOf(span, viewer)
  return busyItems(taken, { startMs: fromMs, endMs: toMs }, zoneOf)
}

/** A component for one sight, as it was drawn before where it was. */
export function drawnFor(component: Component<Drawn>, sight: Sight, viewer: Viewer): Drawn {
  const known = component.drawn.get(sight.epoch)
  if (known) return known
  if (component.drawn.size >= MOST_SIGHTS) component.drawn.clear()
  const fresh = drawComponent(component, sight, viewer)
  component.drawn.set(sight.epoch, fresh)
  return fresh
}
/** So many ways of seeing one component are kept. */
const MOST_SIGHTS = 300

function drawComponent(component: Component<Drawn>, sight: Sight, viewer: Viewer): Drawn {
  const { pairs, sources, batches } = pairedUp(component, sight)
  const items: ClothItem[] = []
  /** Dates of series that are tied to something are drawn with it. */
  const tied = new Set<string>()
  for (const pair of pairs) {
    if (pair.event?.dateOf) tied.add(dateKey(pair.event.dateOf))
    // One that cannot be drawn, as kept by an earlier version say, is read again soon; the others are there.
    const item = pair.event?.item.recurring ? null : understoodOr(() => drawn(pair, viewer), null)
    if (item) items.push(item)
  }
  const meetings = new Map<string, ClothItem>()
  const seen = component.series.flatMap(([whole, all]) => {
    const source = sources.get(whole.id) as ItemSource<Event> | undefined
    return source ? [{ whole, all, source }] : []
  })
  // Which of several leads is not left to the order in which they were read.
  for (const { whole, all, source } of seen.sort((x, y) => (leadsBefore(x.source, y.source) ? -1 : 1))) {
    for (const date of datesAsSeen(source, whole, all, viewer)) {
      if (tied.has(date.key)) continue
      const batch = batches.get(date.key) ?? batches.get(source.id)
      const item = batch ? { ...date, batch } : date
      // The same meeting in the calendars of several is drawn once, and concerns them all.
      const name = `${source.item.uid} ${date.key.split('@')[1] ?? ''} ${JSON.stringify(date.place)}`
      const other = meetings.get(name)
      meetings.set(name, other ? metBy(other, item) : item)
    }
  }
  items.push(...meetings.values())
  return { items, taken: sight.isWhole ? [] : takenIn(component, sight, viewer) }
}

/** Time that is taken by what whoever looks may know nothing else of. */
function takenIn(component: Component<Drawn>, sight: Sight, viewer: Viewer): Taken[] {
  const dates = new Map(component.series.map(([source, all]) => [source.id, all]))
  return component.shown.flatMap((id): Taken[] => {
    const source = component.sources.get(id)
    if (!source || sight.levelOf(source) !== 'busy' || !takesTime(source.item)) return []
    const { people = [] } = source
    const places = dates.get(id)?.map(d => d.place) ?? placeOf(source, viewer)
    const whose = people.length === 0 ? [null] : people
    return places.flatMap(place => whose.map((person): Taken => ({ person, place })))
  })
}

function placeOf(source: ItemSource<Item>, viewer: Viewer): ClothItem['place'][] {
  const pair = { around: {}, twins: [] }
  const item = understoodOr(
    () =>
      source.item.kind === 'task'
        ? drawn({ ...pair, task: source as ItemSource<Task>, event: null }, viewer)
        : drawn({ ...pair, task: null, event: source as ItemSource<Event> }, viewer),
    null,
  )
  return item ? [item.place] : []
}

const metBy = (one: ClothItem, other: ClothItem): ClothItem => ({
  ...one,
  sources: [...new Set([...one.sources, ...other.sources])],
  people: [...new Set([...one.people, ...other.people])],
})
