import type { ClothItem } from '../view/cloth-item.ts'
import type { WorkingHours } from '../view/rows.ts'
import { deadlineOf } from './demand.ts'
import { type Person, wantOf } from './from-cloth.ts'

/** Pieces that drafts have laid: whose they are now, and what has become of them. All times are epoch ms. */

export interface Stretch {
  fromMs: number
  toMs: number
}

/** A piece that the planner laid: a block of a task, or the task's own plan. */
export interface LaidPiece {
  id: string
  /** Of the item that it is. */
  key: string
  task: string
  wrote: Stretch
  /** Where it was before that; null where it was made there. */
  before: Stretch | null
  /** Where its service has confirmed it, which may have rounded it; null until then. */
  base: Stretch | null
  /** Moves that nobody asked for, the oldest first: when, and where it began before. */
  moves: readonly { atMs: number; fromMs: number }[]
  /** It stays, as long as there is this cause. */
  heldFor: Cause | null
  /** The deadline that it was laid for. */
  due: number | null
}

export type Cause =
  /** `on`: the item that came to lie there. */
  | { kind: 'landed' | 'overran'; on: string; title: string; at: Stretch }
  /** It would be done too late: its deadline has come nearer, or there is time for it before that by now. */
  | { kind: 'deadline' | 'room'; on: string; title: string; due: number }

/** The same for the same cause, another for another. */
export function causeKey(cause: Cause): string {
  switch (cause.kind) {
    case 'landed':
      return `landed ${cause.on} ${cause.at.fromMs} ${cause.at.toMs}`
    // It goes on for longer and longer.
    case 'overran':
      return `overran ${cause.on} ${cause.at.fromMs}`
    case 'deadline':
    case 'room':
      return `${cause.kind} ${cause.on} ${cause.due}`
  }
}

/** What there is now. */
export interface AsItIs {
  /** All that stands there, with the ways between. */
  items: readonly ClothItem[]
  laid: readonly LaidPiece[]
  person: Person
  hours: WorkingHours
  /** The task whose clock is running. */
  running: string | null
}

export type Standing = { is: 'free'; at: Stretch } | { is: 'on its way' } | { is: 'pinned' }

export const same = (one: Stretch, other: Stretch): boolean =>
  one.fromMs === other.fromMs && one.toMs === other.toMs
export const meet = (one: Stretch, other: Stretch): boolean =>
  one.fromMs < other.toMs && other.fromMs < one.toMs
export const stretchOf = ({ place }: ClothItem): Stretch | null =>
  place.kind === 'timed' && place.endMs > place.startMs ? { fromMs: place.startMs, toMs: place.endMs } : null

/**
 * Whose it is now. A service may round what was written, may refuse it, and may show for a while what was before: only
 * where it stands elsewhere than any of these, somebody has put it there.
 */
export function standing(piece: LaidPiece, item: ClothItem): Standing {
  const at = stretchOf(item)
  if (!at) return { is: 'pinned' }
  if (item.pending) return { is: same(at, piece.wrote) ? 'on its way' : 'pinned' }
  if (piece.base === null) {
    const isOld = piece.before !== null && same(at, piece.before) && !same(at, piece.wrote)
    return isOld ? { is: 'on its way' } : { is: 'free', at }
  }
  return same(at, piece.base) || same(at, piece.wrote) ? { is: 'free', at } : { is: 'pinned' }
}

/** The pieces with what was confirmed meanwhile, held no longer where there is no cause any more: those that differ. */
export function confirmedOf(k: AsItIs): LaidPiece[] {
  const known = new Map(k.items.map(i => [i.key, i]))
  return k.laid.flatMap(piece => {
    const item = known.get(piece.key)
    const now = item && standing(piece, item)
    const base = now?.is === 'free' ? now.at : piece.base
    const heldFor = piece.heldFor && isStill(k, piece.heldFor, known) ? piece.heldFor : null
    const isBase = base === piece.base || (base !== null && piece.base !== null && same(base, piece.base))
    return isBase && heldFor === piece.heldFor ? [] : [{ ...piece, base, heldFor }]
  })
}

function isStill(k: AsItIs, cause: Cause, known: ReadonlyMap<string, ClothItem>): boolean {
  const on = known.get(cause.on)
  const at = on && stretchOf(on)
  switch (cause.kind) {
    case 'landed':
      return !!at && same(at, cause.at)
    case 'overran':
      return k.running === cause.on || (!!at && at.fromMs === cause.at.fromMs)
    case 'deadline':
    case 'room':
      return on !== undefined && dueOf(k, on) === cause.due
  }
}

export const dueOf = (
  { hours, person }: Pick<AsItIs, 'hours' | 'person'>,
  task: ClothItem,
): number | null => {
  const { due } = wantOf(task, person)
  return due && deadlineOf(due, hours)
}
