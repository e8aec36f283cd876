import {
  type ClothItem,
  type ItemSource,
  MINUTE,
  type Task,
  unplacedMinutes,
  type WaitsFor,
  onlyLooks,
} from '@loom/core'
import type { Context } from '../context/context.ts'
import type { Sql } from '../data/database.ts'
import type { Member } from '../data/repositories/sessions.ts'
import {
  keptWaits,
  putWaits,
  tasksWithListedParts,
  tasksWithUid,
  waitingTasks,
} from '../data/repositories/waits.ts'
import { DEFAULT_MINUTES } from './cloth.ts'
import { queue } from './edit.ts'
import { ownWay } from './own-way.ts'
import { drawn, loadPairs, lockPair, type Pair, pairOf } from './pairs.ts'

/** What waits for what, as whoever asks may see it; and saying so, at the service where it has room for it, else here. */

export interface WaitLine {
  /** Null where it is not to be seen by whoever asks, or not here. */
  key: string | null
  title: string
  /** Minutes. */
  gap: number
  done: boolean
  /** When it ends as it is planned, where all of it has a time; epoch ms. */
  endsMs: number | null
}
export interface WaitingItem {
  key: string
  for: WaitLine[]
}

const UNSEEN = 'Something that you do not see'

export async function waitsOf(sql: Sql, member: Member, now: number): Promise<WaitingItem[]> {
  const ids = (await waitingTasks(sql, { workspaceId: member.workspaceId })).map(w => w.id)
  if (ids.length === 0) return []
  const { pairs } = await loadPairs(sql, member, ids)
  const waiting = new Set(ids)
  const own = await ownWaits(sql, ids)
  const tasks = pairs.flatMap(({ task }) => (task && waiting.has(task.id) ? [task] : []))
  const wanted = new Map(tasks.map(t => [t.id, waitsIn(t, own)]))
  const uids = [...new Set([...wanted.values()].flat().map(w => w.uid))]
  if (uids.length === 0) return []
  const named = await tasksWithUid(sql, { workspaceId: member.workspaceId, uids })
  const before = await loadPairs(
    sql,
    member,
    named.map(n => n.id),
  )
  const viewer = { zone: member.zone, defaultMinutes: DEFAULT_MINUTES, now }
  const lineOf = ({ uid, gap }: WaitsFor): WaitLine[] => {
    const all = named.filter(n => n.uid === uid)
    // What is nowhere here keeps nothing from being begun.
    if (all.length === 0) return []
    const items = all.flatMap(n => {
      const pair = pairOf(before.pairs, n.id)
      const item = pair && drawn(pair, viewer)
      return item && !item.onlyBusy ? [item] : []
    })
    const [item] = items
    if (!item) return [{ key: null, title: UNSEEN, gap, done: false, endsMs: null }]
    const done = items.some(i => i.done || i.cancelled)
    return [{ key: item.key, title: item.title, gap, done, endsMs: endOf(item) }]
  }
  return [...wanted].flatMap(([key, waits]) => {
    const lines = waits.flatMap(lineOf)
    return lines.length > 0 ? [{ key, for: lines }] : []
  })
}

/** Where blocks hold the rest of it, only the Cloth knows when they end. */
function endOf(item: ClothItem): number | null {
  const { place, blocks, atDeadline } = item
  if (place.kind !== 'timed' || atDeadline || blocks.ahead > 0) return null
  const isWhole = (place.endMs - place.startMs) / MINUTE >= unplacedMinutes(item, DEFAULT_MINUTES)
  return isWhole ? place.endMs : null
}

/** Tasks whose parts stand inside them, as a rule keeps them: keys alone, which say nothing of them. */
export async function listedWholes(sql: Sql, { workspaceId }: Member): Promise<string[]> {
  const rows = await tasksWithListedParts(sql, { workspaceId })
  return [...new Set(rows.flatMap(r => (r.id === null ? [] : [r.id])))]
}

async function ownWaits(sql: Sql, ids: readonly string[]): Promise<Map<string, WaitsFor[]>> {
  const own = new Map<string, WaitsFor[]>()
  for (const { id, uid, gap } of await keptWaits(sql, { ids: ['', ...ids] }))
    own.set(id, [...(own.get(id) ?? []), { uid, gap }])
  return own
}

function waitsIn({ id, item }: ItemSource<Task>, own: ReadonlyMap<string, WaitsFor[]>): WaitsFor[] {
  const there = item.waitsFor ?? []
  return [...there, ...(own.get(id) ?? []).filter(o => !there.some(t => t.uid === o.uid))]
}

const MOST = 20

export type SaidWaits =
  | { ok: true; before: { key: string; gap: number }[]; connectionId: string | null }
  | { ok: false; reason: string }

/** From then on it waits for exactly these. Returns those it waited for that can be named again. */
export async function sayWaits(
  ctx: Context,
  member: Member,
  key: string,
  wanted: readonly { key: string; gap: number }[],
): Promise<SaidWaits> {
  if (wanted.length > MOST) return { ok: false, reason: `Nothing can wait for more than ${MOST} others.` }
  return ctx.db.commit(async sql => {
    await lockPair(sql, key)
    const { pairs } = await loadPairs(sql, member, [key, ...wanted.map(w => w.key)])
    const task = pairOf(pairs, key)?.task
    if (!task) return { ok: false, reason: 'Only a task can wait for another.' }
    if (onlyLooks(task)) return { ok: false, reason: 'You may look at this, and not change it.' }
    const waits: WaitsFor[] = []
    for (const { key: other, gap } of wanted) {
      const before: Pair | undefined = pairOf(pairs, other)
      if (!before?.task || !before.task.item.uid)
        return { ok: false, reason: 'What it should wait for is not there any more.' }
      if (before.task.item.uid === task.item.uid) return { ok: false, reason: 'Nothing can wait for itself.' }
      waits.push({ uid: before.task.item.uid, gap })
    }
    const own = await ownWaits(sql, [task.id])
    const was = waitsIn(task, own)
    const named = await tasksWithUid(sql, {
      workspaceId: member.workspaceId,
      uids: ['', ...was.map(w => w.uid)],
    })
    const before = was.flatMap(w => {
      const found = named.find(n => n.uid === w.uid)
      return found ? [{ key: found.id, gap: w.gap }] : []
    })
    const holds = task.writable && task.unsupported?.has('waitsFor') !== true
    await putWaits(sql, {
      mirrorId: task.id,
      workspaceId: member.workspaceId,
      waits: holds ? [] : waits.filter(w => !task.item.waitsFor?.some(t => t.uid === w.uid)),
    })
    let connectionId: string | null = null
    if (holds) {
      const body = {
        by: 'person' as const,
        patch: { waitsFor: waits },
        before: { waitsFor: task.item.waitsFor ?? [] },
      }
      const way = await ownWay(sql, member, task)
      connectionId = await queue(sql, member, way, body, 'person-waits', task.item.summary || 'Untitled')
    }
    sql.tell(member.workspaceId, { topics: ['cloth'], exact: true, lists: [task.collectionId] }, [task.id])
    return { ok: true, before, connectionId }
  })
}
