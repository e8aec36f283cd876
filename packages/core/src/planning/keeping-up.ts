import { addDays, dayAt, epochOf, MINUTE, onDate } from '../time/when.ts'
import type { ClothItem } from '../view/cloth-item.ts'
import type { TaskToPlan, Wait } from './demand.ts'
import { isWay, wayOf } from '../view/travel.ts'
import { type Learned, type Person, takenOf, wantOf } from './from-cloth.ts'
import {
  type AsItIs,
  type Cause,
  causeKey,
  dueOf,
  type LaidPiece,
  meet,
  same,
  standing,
  type Stretch,
  stretchOf,
} from './laid-pieces.ts'
import { type Asked, Plan, type Told } from './plan.ts'
import { plannedOf } from './replanning.ts'
import type { PlanWindow } from './settings.ts'
import { spansOf } from './windows.ts'

/**
 * What a draft once laid into a work window, kept up by itself when a day turns out otherwise. It moves as little as it
 * can, and nothing that a person has put where it is. All times are epoch ms.
 */

export interface Kept {
  /** `cause` is null for what gave way to another of these. */
  moves: { piece: LaidPiece; from: Stretch; to: Stretch; cause: Cause | null }[]
  /** What a person has to decide. */
  asks: {
    piece: LaidPiece
    cause: Cause
    because: 'no room' | 'too late' | 'moved often' | 'back and forth'
  }[]
}

export interface KeepUp extends AsItIs {
  windows: readonly PlanWindow[]
  breaks: Asked['breaks']
  waits: Learned['waits']
  /** Events that nobody has answered, or that are tentative: they are no reason to move anything. */
  unsure: ReadonlySet<string>
}

/** What lies further ahead is kept up when it comes nearer. */
export const KEPT_UP_DAYS = 7
const SOON_MS = 120 * MINUTE
const MOST_A_DAY = 3
const MOST_ALTERNATIONS = 2
/** What is worked on and should be over runs on for so long at least. */
const RUNS_ON_MS = 15 * MINUTE
/** It is told that long before what follows begins. */
const TOLD_BEFORE_MS = 10 * MINUTE
const ROUNDS = 60
/** What is kept up at a time, at most, the nearest first; the rest when these are past. */
const MOST_PIECES = 60

interface Free {
  piece: LaidPiece
  item: ClothItem
  task: ClothItem
  at: Stretch
}
interface Disturbed extends Free {
  cause: Cause
}

export function keepUp(k: KeepUp): Kept {
  const free = freeOf(k)
  const kept: Kept = { moves: [], asks: [] }
  const disturbed: Disturbed[] = []
  for (const one of free) {
    const cause = disturbanceOf(k, one)
    if (!cause || isHeld(one.piece, cause) || (!isOverlap(cause) && isSoon(k, one))) continue
    if (movesToday(one.piece, k.person) < MOST_A_DAY) disturbed.push({ ...one, cause })
    else if (cause.kind !== 'room') kept.asks.push({ piece: one.piece, cause, because: 'moved often' })
  }
  if (disturbed.length === 0) return kept
  const resting = free.filter(f => !disturbed.some(d => d.piece === f.piece))
  const mayGiveWay = resting.filter(
    f => !isSoon(k, f) && f.piece.heldFor === null && movesToday(f.piece, k.person) < MOST_A_DAY,
  )
  // What waits for something that goes elsewhere may have to follow it; all else stays, if that is possible.
  const before = new Set(disturbed.map(d => d.task.key))
  const following = mayGiveWay.filter(f => follows(k, f.task.key, before))
  const narrow = solve(k, disturbed, staying(k, following))
  const wide = narrow.isWhole ? null : solve(k, disturbed, staying(k, mayGiveWay))
  const best = wide && wide.placed > narrow.placed && wide.isKept ? wide : narrow
  for (const d of disturbed) {
    const to = best.at.get(d.piece.id)
    if (!to || isTooLate(k, d, to)) {
      const because = to ? ('too late' as const) : ('no room' as const)
      if (d.cause.kind !== 'room') kept.asks.push({ piece: d.piece, cause: d.cause, because })
    } else if (alternationsWith(d.piece, d.at, to) >= MOST_ALTERNATIONS)
      kept.asks.push({ piece: d.piece, cause: d.cause, because: 'back and forth' })
    else if (!same(to, d.at)) kept.moves.push({ piece: d.piece, from: d.at, to, cause: d.cause })
  }
  // Where what it would make room for stays, nothing gives way.
  if (kept.moves.length > 0)
    for (const f of resting) {
      const to = best.at.get(f.piece.id)
      if (to && !same(to, f.at)) kept.moves.push({ piece: f.piece, from: f.at, to, cause: null })
    }
  return apart(free, kept)
}

/** What of it lies ahead in a window that is kept up, and was put there by nobody. */
function freeOf({ items, person, hours, windows, laid }: KeepUp): Free[] {
  const known = new Map(items.map(i => [i.key, i]))
  const until = epochOf(onDate(addDays(dayAt(person.now, person.zone), KEPT_UP_DAYS)), person.zone)
  // What takes a way is not moved by itself: its ways, and those beside it, would go elsewhere.
  const hasWays = new Set(items.flatMap(i => (isWay(i.key) ? [wayOf(i.key)] : [])))
  const planned = plannedOf(items, person, until).filter(p => !hasWays.has(p.key))
  const movable = new Set(planned.map(p => p.key))
  const dates = Array.from({ length: KEPT_UP_DAYS }, (_, n) => addDays(dayAt(person.now, person.zone), n))
  const spans = windows.filter(w => w.keepsUp).flatMap(w => spansOf(w, dates, hours))
  return laid
    .flatMap(piece => {
      const item = known.get(piece.key)
      const task = known.get(piece.task)
      const now = item && standing(piece, item)
      if (!item || !task || now?.is !== 'free' || !movable.has(piece.key)) return []
      return spans.some(s => meet(s, now.at)) ? [{ piece, item, task, at: now.at }] : []
    })
    .sort((x, y) => x.at.fromMs - y.at.fromMs || (x.piece.id < y.piece.id ? -1 : 1))
    .slice(0, MOST_PIECES)
}

function disturbanceOf(k: KeepUp, { task, at, piece }: Free): Cause | null {
  const on = k.items.find(i => isLanding(k, i, piece) && meet(stretchOf(i) ?? at, at))
  if (on) {
    const kind = on.kind === 'event' ? ('landed' as const) : ('overran' as const)
    return { kind, on: on.key, title: on.title, at: stretchOf(on) ?? at }
  }
  const over = overrunOf(k)
  if (over && over.task !== task.key && meet(over.at, at))
    return { kind: 'overran', on: over.task, title: over.title, at: over.at }
  const due = dueOf(k, task)
  if (due === null || at.toMs <= due) return null
  const kind = due === piece.due ? ('room' as const) : ('deadline' as const)
  return { kind, on: task.key, title: task.title, due }
}

/** An event that certainly takes place, or work that has begun and was made longer. */
function isLanding({ person, unsure }: KeepUp, item: ClothItem, { key }: LaidPiece): boolean {
  if (item.key === key || takenOf([item], person).length === 0 || item.pending) return false
  if (item.kind === 'event') return !unsure.has(item.key)
  const at = stretchOf(item)
  return at !== null && at.fromMs <= person.now
}

/** What is being worked on beyond the time that it was given. */
function overrunOf({ items, person, running }: KeepUp): { task: string; title: string; at: Stretch } | null {
  const task = running === null ? undefined : items.find(i => i.key === running)
  if (!task) return null
  const ends = items
    .filter(i => i.key === running || i.of === running)
    .flatMap(i => {
      const at = stretchOf(i)
      return at && at.fromMs <= person.now ? [at.toMs] : []
    })
  const end = Math.max(0, ...ends)
  if (end === 0 || end > person.now + TOLD_BEFORE_MS) return null
  const at = { fromMs: end, toMs: Math.max(end, person.now) + RUNS_ON_MS }
  return { task: task.key, title: task.title, at }
}

const isHeld = ({ heldFor }: LaidPiece, cause: Cause): boolean =>
  heldFor !== null && causeKey(heldFor) === causeKey(cause)

const isOverlap = ({ kind }: Cause): boolean => kind === 'landed' || kind === 'overran'
/** It is left alone, unless it cannot be where it is. */
const isSoon = ({ person }: KeepUp, { at }: Free): boolean => at.fromMs < person.now + SOON_MS

const movesToday = ({ moves }: LaidPiece, { now, zone }: Person): number =>
  moves.filter(m => dayAt(m.atMs, zone) === dayAt(now, zone)).length

/** How often it would have gone back to where it had just been. */
function alternationsWith({ moves }: LaidPiece, from: Stretch, to: Stretch): number {
  const been = [...moves.map(m => m.fromMs), from.fromMs, to.fromMs]
  return been.filter((at, n) => n >= 2 && at === been[n - 2]).length
}

/** Nothing goes beyond its deadline by itself; what is beyond it already may stay so, where it has to go. */
function isTooLate(k: KeepUp, { task, at, cause }: Disturbed, { toMs }: Stretch): boolean {
  const due = dueOf(k, task)
  return due !== null && toMs > due && (at.toMs <= due || !isOverlap(cause))
}

/** Whether it waits for one of these, by whatever way. */
function follows({ waits }: KeepUp, task: string, before: ReadonlySet<string>): boolean {
  const seen = new Set<string>()
  const next = [task]
  for (let id = next.pop(); id !== undefined; id = next.pop())
    for (const w of waits[id] ?? []) {
      if (before.has(w.id)) return true
      if (!seen.has(w.id)) next.push(w.id)
      seen.add(w.id)
    }
  return false
}

interface Solved {
  /** By piece. */
  at: Map<string, Stretch>
  /** Of those that are disturbed, in time. */
  placed: number
  isWhole: boolean
  /** What was not disturbed has a place, and none of it is late that was not. */
  isKept: boolean
}

/** What would go elsewhere for reasons of its own is left where it is. */
function staying(k: KeepUp, all: readonly Free[]): Free[] {
  if (all.length === 0) return []
  const { at } = solve(k, [], all)
  return all.filter(f => same(at.get(f.piece.id) ?? { fromMs: 0, toMs: 0 }, f.at))
}

/** Each piece keeps its length, so that what a task has reserved stays what it is. */
function solve(k: KeepUp, disturbed: readonly Disturbed[], givingWay: readonly Free[]): Solved {
  const { person, items, hours, windows, breaks } = k
  const all = [...disturbed, ...givingWay]
  const moved = new Set(all.map(f => f.piece.key))
  const over = overrunOf(k)
  const runsOn = over ? [{ ...over.at, isWork: true }] : []
  const underneath = new Set<Free>(disturbed.filter(d => isOverlap(d.cause)))
  const tasks = all.map(f => taskOf(k, f, all, !underneath.has(f)))
  const told = draft({
    now: Math.ceil(person.now / GRID_MS) * GRID_MS,
    zone: person.zone,
    days: KEPT_UP_DAYS,
    hours: { ...hours, off: [...hours.off] },
    tasks,
    taken: [...takenOf(items, person, moved), ...runsOn],
    windows,
    regulars: [],
    had: {},
    terms: { defaultMinutes: 30, splitFrom: Number.MAX_SAFE_INTEGER, leastPiece: 15 },
    breaks,
    pinned: [],
    moved: 200,
  })
  const at = new Map(told.pieces.map(({ id, fromMs, toMs }) => [id, { fromMs, toMs }]))
  const placed = disturbed.filter(d => {
    const to = at.get(d.piece.id)
    return to !== undefined && !isTooLate(k, d, to)
  }).length
  const isKept = givingWay.every(f => at.has(f.piece.id)) && told.late.every(l => wasLate(k, l.id, all))
  return { at, placed, isWhole: placed === disturbed.length, isKept }
}
const GRID_MS = 5 * MINUTE

function draft(asked: Asked): Told {
  const plan = new Plan(asked)
  const search = plan.search(1)
  search.step(ROUNDS)
  return plan.told(search.draft())
}

function wasLate(k: KeepUp, id: string, all: readonly Free[]): boolean {
  const one = all.find(f => f.piece.id === id)
  const due = one ? dueOf(k, one.task) : null
  return one !== undefined && due !== null && one.at.toMs > due
}

/** A piece as something to plan: whole, in its own length. What could stay where it is comes no nearer than it may. */
function taskOf(k: KeepUp, { piece, at, task }: Free, all: readonly Free[], couldStay: boolean): TaskToPlan {
  const { person, windows, waits } = k
  const soon: Wait[] = couldStay ? [{ id: 'soon', gap: 0, endsMs: person.now + SOON_MS }] : []
  const before = (waits[task.key] ?? []).flatMap((w): Wait[] => {
    const moving = all.filter(f => f.task.key === w.id && f.piece !== piece)
    const ends = k.items.flatMap(i => {
      const isOf = (i.of === w.id || i.key === w.id) && !moving.some(f => f.piece.key === i.key)
      const there = isOf ? stretchOf(i) : null
      return there ? [there.toMs] : []
    })
    // What stands nowhere here says itself when it is over, if anybody knows.
    if (ends.length === 0 && moving.length === 0) return [w]
    return [
      ...moving.map(f => ({ id: f.piece.id, gap: w.gap, endsMs: null })),
      ...ends.map(endsMs => ({ id: w.id, gap: w.gap, endsMs })),
    ]
  })
  return {
    ...wantOf(task, person, windows),
    id: piece.id,
    estimate: (at.toMs - at.fromMs) / MINUTE,
    taken: 0,
    reserved: 0,
    waitsFor: [...before, ...soon],
    planned: [at],
  }
}

/**
 * What would go where something stays after all stays as well, and so what would have gone where that is. Nothing makes
 * room in vain.
 */
function apart(free: readonly Free[], { moves, asks }: Kept): Kept {
  const goes = new Set(moves.map(m => m.piece))
  const stands = free.flatMap(f => (goes.has(f.piece) ? [] : [f.at]))
  let left = moves
  for (let before = -1; before !== left.length;) {
    before = left.length
    const stay = new Set(left.filter(m => stands.some(s => meet(s, m.to))))
    stands.push(...[...stay].map(m => m.from))
    left = left.filter(m => !stay.has(m))
  }
  const isWhole = left.length === moves.length || left.every(m => m.cause !== null)
  return isWhole ? { moves: left, asks } : apart(free, { moves: left.filter(m => m.cause !== null), asks })
}
