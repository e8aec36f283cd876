import {
  type Around,
  type BatchTask,
  type BlockTime,
  clothItem,
  type ClothItem,
  dateKey,
  dayAt,
  type Event,
  factsBeside,
  type Item,
  type ItemSource,
  type Task,
  type Viewer,
} from '@loom/core'
import { type Asker, type Sight, sightIn } from '../access/sight.ts'
import type { Sql } from '../data/database.ts'
import { applyOpenEdits, openIntents } from './open-edits.ts'
import { type Circumstances, loadSources } from './sources.ts'
import { type Head, tiesOf, type TieLine } from '../data/repositories/cloth.ts'
import { sameUid, twinned } from './twins.ts'
import { lockMirrors } from '../data/repositories/mirrors.ts'
import { leftOutByMember } from '../data/repositories/left-out.ts'
import { sidesInConflict } from '../data/repositories/conflicts.ts'
import type { OpenIntent } from '../data/repositories/intents.ts'
import { parsed, json } from '../data/json.ts'

/** Items with what they are tied to, a person's own edits already applied to them. */

export interface Pair {
  task: ItemSource<Task> | null
  event: ItemSource<Event> | null
  around: Around
  /** The same in further lists or calendars, which rules keep in step with this. */
  twins: ItemSource<Item>[]
}

/** The pair that an item is part of, or stands for. */
export const pairOf = (pairs: readonly Pair[], id: string): Pair | undefined =>
  pairs.find(p => p.task?.id === id || p.event?.id === id || p.twins.some(t => t.id === id))

/** What was read, before anybody sees it. */
export interface Unseen {
  ties: readonly TieLine[]
  sources: ReadonlyMap<string, ItemSource<Item>>
  conflicts: ReadonlySet<string>
  /** Those sources as they were read, without open edits. */
  read: ReadonlyMap<string, ItemSource<Item>>
}

export interface Loaded {
  pairs: Pair[]
  sources: ReadonlyMap<string, ItemSource<Item>>
  /** What batches hold: by the event's id, or of one that repeats by the key of the date. */
  batches: Map<string, BatchTask[]>
}

/**
 * Locks an item and its tied items until this transaction ends. An edit is decided on the pair, and no write to
 * either side is confirmed between reading and deciding.
 */
export async function lockPair(sql: Sql, mirrorId: string): Promise<void> {
  const ties = await tiesOf(sql, [mirrorId])
  const ids = [...new Set([mirrorId, ...ties.flatMap(t => [t.a, t.b]).filter(id => id !== null)])]
  await lockMirrors(sql, { ids })
}

/** Items excluded from a member's plan, by mirror id. */
async function leftOutBy(sql: Sql, workspaceId: string, memberId: string): Promise<Set<string>> {
  const rows = await leftOutByMember(sql, { memberId, workspaceId })
  return new Set(rows.map(r => r.id))
}

/** Items by mirror id with their counterparts, as a member sees them, open edits applied. */
export async function loadPairs(
  sql: Sql,
  member: Asker & { workspaceId: string },
  mirrorIds: readonly string[],
): Promise<Loaded> {
  const [found, sight] = await Promise.all([
    loadUnseen(sql, member.workspaceId, member.id, mirrorIds),
    sightIn(sql, member),
  ])
  return pairedUp(found, sight)
}

/**
 * @param memberId who looks; null for what is the same to everybody
 * @param read what was read of them already
 */
export async function loadUnseen(
  sql: Sql,
  workspaceId: string,
  memberId: string | null,
  mirrorIds: readonly string[],
  read: {
    heads?: readonly Head[]
    ties?: readonly TieLine[]
    open?: readonly OpenIntent[]
    conflicts?: ReadonlySet<string>
    under?: Circumstances
    /** Those that are the same as when they were read before. */
    same?: ReadonlyMap<string, ItemSource<Item>>
  } = {},
): Promise<Unseen> {
  const [conflicts, out, open] = await Promise.all([
    read.conflicts ?? inConflict(sql, workspaceId),
    memberId === null ? null : leftOutBy(sql, workspaceId, memberId),
    read.open ?? openIntents(sql, workspaceId),
  ])
  const ids = new Set(mirrorIds)
  const ties = new Map((read.ties ?? []).map(t => [t.id, t]))
  // The ties of what was read are known already.
  const tied = new Set(read.ties ? (read.heads ?? []).map(h => h.id) : [])
  // The task of a block has blocks elsewhere; a batch holds tasks that are not in sight.
  for (let round = 0; round < 2; round++) {
    const further = [...ids].filter(id => !tied.has(id))
    for (const t of await tiesOf(sql, further)) ties.set(t.id, t)
    for (const id of further) tied.add(id)
    for (const t of ties.values()) for (const id of [t.a, t.b]) if (id) ids.add(id)
  }
  const loaded = await loadSources(sql, workspaceId, ids, read)
  const sources = new Map(loaded)
  if (out?.size)
    for (const s of sources.values())
      if (out.has(s.dateOf?.seriesId ?? s.id)) sources.set(s.id, { ...s, leftOut: true })
  applyOpenEdits(open, sources)
  return { ties: [...ties.values()], sources, conflicts, read: loaded }
}

/** Each half is lowered for whoever looks, and only then are the two joined. */
export function pairedUp({ ties, sources: all, conflicts }: Unseen, sight: Sight): Loaded {
  if (sight.isWhole) return pairedOf(ties, all, conflicts)
  const sources = new Map<string, ItemSource<Item>>()
  const known = new Set<string>()
  for (const [id, source] of all) {
    const seen = sight.seen(source)
    if (!seen) continue
    sources.set(id, seen)
    if (seen.level !== 'title' && conflicts.has(id)) known.add(id)
  }
  return pairedOf(ties, sources, known)
}

function pairedOf(
  ties: readonly TieLine[],
  sources: ReadonlyMap<string, ItemSource<Item>>,
  conflicts: ReadonlySet<string>,
): Loaded {
  const batches = batchesOf(ties, sources)
  return { pairs: joined(ties, sources, batches, conflicts), sources, batches }
}

/** Items with an open conflict. */
export async function inConflict(sql: Sql, workspaceId: string): Promise<Set<string>> {
  const rows = await sidesInConflict(sql, { workspaceId })
  return new Set(rows.flatMap(r => [r.a, r.b]).filter(id => id !== null))
}

function batchesOf(
  ties: readonly TieLine[],
  sources: ReadonlyMap<string, ItemSource<Item>>,
): Map<string, BatchTask[]> {
  const found = new Map<string, { at: number; task: BatchTask }[]>()
  for (const t of ties) {
    const task = sources.get(t.a ?? '')
    if (t.role !== 'batch' || t.b === null || task?.item.kind !== 'task') continue
    const { place: at = 0, occurrence } = parsed(t.memory)
    const key = occurrence === undefined ? t.b : dateKey({ seriesId: t.b, occurrence })
    const { status, summary } = task.item
    const done = status === 'completed' || status === 'cancelled'
    const line = {
      key: task.id,
      title: summary || 'Untitled',
      done,
      completable: task.completes ?? task.writable,
    }
    found.set(key, [...(found.get(key) ?? []), { at, task: line }])
  }
  return new Map([...found].map(([key, held]) => [key, held.sort((x, y) => x.at - y.at).map(h => h.task)]))
}

/** Round most items there is nothing, which need not be written out to be compared. */
const NOTHING: Around = Object.freeze({})

function joined(
  ties: readonly TieLine[],
  sources: ReadonlyMap<string, ItemSource<Item>>,
  batches: ReadonlyMap<string, BatchTask[]>,
  conflicts: ReadonlySet<string>,
): Pair[] {
  const taskOf = (id: string | null) => sources.get(id ?? '') as ItemSource<Task> | undefined
  const eventOf = (id: string | null) => sources.get(id ?? '') as ItemSource<Event> | undefined
  const blocks = new Map<string, BlockTime>()
  const blockOf = new Map<string, ItemSource<Task>>()
  for (const t of ties) {
    const [task, event] = [taskOf(t.a), eventOf(t.b)]
    if (t.role !== 'block' || task?.item.kind !== 'task' || event?.item.kind !== 'event') continue
    blockOf.set(event.id, task)
    const so = blocks.get(task.id) ?? { ahead: 0, spent: 0 }
    const { minutes } = event.item.time
    blocks.set(
      task.id,
      event.own?.spent ? { ...so, spent: so.spent + minutes } : { ...so, ahead: so.ahead + minutes },
    )
  }
  const around = (id: string): Around => {
    const batch = batches.get(id)
    const [of, time] = [blockOf.get(id), blocks.get(id)]
    if (!batch && !of && !time && !conflicts.has(id)) return NOTHING
    return {
      ...(time && { blocks: time }),
      ...(of && { blockOf: of }),
      ...(batch && { batch }),
      ...(conflicts.has(id) && { conflict: true }),
    }
  }
  const { leadOf, twinsOf } = twinned(ties, sources)
  const parentOf = parentsIn(sources)
  const pairOfBoth = (task: ItemSource<Task> | null, event: ItemSource<Event> | null, id: string): Pair => {
    const twins = [task, event].flatMap(s => (s ? twinsOf(s.id) : []))
    const others = [...twins, ...(event ? [event] : [])]
    const facts = task && others.length > 0 ? factsBeside(task, others) : null
    const partOf = task && parentOf(task)
    const own = partOf ? { ...around(id), partOf } : around(id)
    const known = facts ? { ...own, facts } : own
    if (twins.length === 0) return { task, event, twins, around: known }
    const also = twins.map(t => t.collectionId)
    // A meeting concerns everybody in whose calendar it is.
    const meet = task ? [] : twins.flatMap(t => (sameUid(t, event) ? (t.people ?? []) : []))
    return { task, event, twins, around: { ...known, also, meet } }
  }
  const tied = new Set<string>()
  const pairs: Pair[] = []
  const both = new Map<string, { task: ItemSource<Task>; events: Map<string, ItemSource<Event>> }>()
  for (const t of ties) {
    const [task, event] = [taskOf(leadOf(t.a)), eventOf(leadOf(t.b))]
    if (t.role !== 'mirror' || task?.item.kind !== 'task' || event?.item.kind !== 'event') continue
    if (tied.has(event.id)) continue
    tied.add(task.id).add(event.id)
    const known = both.get(task.id) ?? { task, events: new Map<string, ItemSource<Event>>() }
    both.set(task.id, { task, events: known.events.set(t.id, event) })
  }
  for (const { task, events } of both.values()) {
    // Several rules may keep an event of one task: the first made is drawn, the others are copies of it.
    const [first = '', ...copies] = events.size > 1 ? [...events.keys()].sort() : [...events.keys()]
    const pair = pairOfBoth(task, events.get(first) ?? null, task.id)
    pairs.push(
      copies.length > 0
        ? withCopies(
            pair,
            copies.map(id => events.get(id)).filter(e => !!e),
          )
        : pair,
    )
  }
  for (const s of sources.values()) {
    if (tied.has(s.id) || leadOf(s.id) !== s.id) continue
    if (s.item.kind === 'task') pairs.push(pairOfBoth(s as ItemSource<Task>, null, s.id))
    else pairs.push(pairOfBoth(null, s as ItemSource<Event>, s.id))
  }
  return pairs
}

/** A task's parent, where that is among the items. */
function parentsIn(
  sources: ReadonlyMap<string, ItemSource<Item>>,
): (task: ItemSource<Task>) => { key: string; title: string } | null {
  const parents = new Set<string>()
  const nameOf = (collectionId: string, uid: string): string => `${collectionId} ${uid}`
  for (const { item, collectionId } of sources.values())
    if (item.kind === 'task' && item.parent) parents.add(nameOf(collectionId, item.parent))
  if (parents.size === 0) return () => null
  const found = new Map<string, { key: string; title: string }>()
  for (const { id, item, collectionId } of sources.values()) {
    const name = nameOf(collectionId, item.uid)
    if (item.kind === 'task' && parents.has(name))
      found.set(name, { key: id, title: item.summary || 'Untitled' })
  }
  return ({ item, collectionId }) => (item.parent && found.get(nameOf(collectionId, item.parent))) || null
}

const withCopies = (pair: Pair, copies: readonly ItemSource<Event>[]): Pair => ({
  ...pair,
  twins: [...pair.twins, ...copies],
  around: { ...pair.around, also: [...(pair.around.also ?? []), ...copies.map(c => c.collectionId)] },
})

/** A cache of drawn items by what they were drawn from: the same input gives the same object. */
const drawnBefore = new WeakMap<
  ItemSource<Item>,
  { by: string; around: string; event: Pair['event']; item: ClothItem | null }[]
>()
/** As many ways of seeing one item are kept. */
const MOST_WAYS = 12

export function drawn({ task, event, around }: Pair, viewer: Viewer): ClothItem | null {
  const lead = task ?? event
  if (!lead) return null
  const by = seenBy(viewer)
  const text = around === NOTHING ? '' : json(around)
  const ways = drawnBefore.get(lead) ?? []
  const before = ways.find(w => w.event === event && w.around === text && w.by === by)
  if (before) return before.item
  const item = clothItem(task, event, viewer, around)
  drawnBefore.set(
    lead,
    [{ by, around: text, event, item: item && Object.freeze(item) }, ...ways].slice(0, MOST_WAYS),
  )
  return item
}

const viewers = new WeakMap<Viewer, string>()
function seenBy(viewer: Viewer): string {
  const known = viewers.get(viewer)
  if (known !== undefined) return known
  const text = `${viewer.zone} ${viewer.defaultMinutes} ${dayAt(viewer.now, viewer.zone)}`
  viewers.set(viewer, text)
  return text
}
