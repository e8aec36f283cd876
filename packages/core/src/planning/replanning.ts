import { MINUTE } from '../time/when.ts'
import type { ClothItem } from '../view/cloth-item.ts'

/** Planning anew: what is planned already and may be moved, and what changes of it by a draft. */

export interface Planned {
  /** The block's; of a task's own plan, the task's. */
  key: string
  task: string
  kind: 'block' | 'plan'
  fromMs: number
  toMs: number
}

/**
 * Time of one person's tasks that has not begun, and that they may move. What an event of a rule says, what has more
 * than one date, and what is still on its way stays.
 * @param until epoch ms; what begins later stays as well
 */
export function plannedOf(
  items: readonly ClothItem[],
  { id, now }: { id: string; now: number },
  until: number,
): Planned[] {
  return items.flatMap((item): Planned[] => {
    const { place, key, kind } = item
    const isTheirs = item.people.length === 0 || item.people.includes(id)
    if (place.kind !== 'timed' || place.startMs <= now || place.startMs >= until || !isTheirs) return []
    if (!item.movable || item.done || item.pending || item.leftOut || item.onlyLook) return []
    // Of a series, and of what two have changed, a person decides.
    if (item.recurring || item.conflict) return []
    const span = { fromMs: place.startMs, toMs: place.endMs }
    if (kind === 'block') return item.of === null ? [] : [{ key, task: item.of, kind, ...span }]
    return kind === 'task' && !item.atDeadline ? [{ key, task: key, kind: 'plan', ...span }] : []
  })
}

export type Change =
  | { do: 'keep' | 'move'; planned: Planned; fromMs: number; toMs: number }
  | { do: 'add'; fromMs: number; toMs: number }
  | { do: 'remove'; planned: Planned }

interface Span {
  fromMs: number
  toMs: number
}
const lengthOf = ({ fromMs, toMs }: Span): number => toMs - fromMs

/**
 * How what is planned for one task becomes what is drafted for it: what stands there stays, then the nearest is moved,
 * and only the difference is added or removed. A plan of its own is never lengthened, as that would write an estimate.
 */
export function changesOf(drafted: readonly Span[], planned: readonly Planned[]): Change[] {
  const pieces = [...drafted]
  const left = [...planned]
  const changes: Change[] = []
  const take = <T>(from: T[], one: T): void => void from.splice(from.indexOf(one), 1)
  for (const p of planned) {
    const same = pieces.find(d => d.fromMs === p.fromMs && d.toMs === p.toMs)
    if (!same) continue
    changes.push({ do: 'keep', planned: p, fromMs: p.fromMs, toMs: p.toMs })
    take(pieces, same)
    take(left, p)
  }
  const pairs = left
    .flatMap(p => pieces.map(d => ({ p, d, far: Math.abs(p.fromMs - d.fromMs) })))
    .filter(({ p, d }) => p.kind === 'block' || lengthOf(p) === lengthOf(d))
    .sort((x, y) => x.far - y.far || x.d.fromMs - y.d.fromMs || (x.p.key < y.p.key ? -1 : 1))
  for (const { p, d } of pairs)
    if (left.includes(p) && pieces.includes(d)) {
      changes.push({ do: 'move', planned: p, fromMs: d.fromMs, toMs: d.toMs })
      take(pieces, d)
      take(left, p)
    }
  return [
    ...changes,
    ...pieces.map(({ fromMs, toMs }): Change => ({ do: 'add', fromMs, toMs })),
    ...left.map((p): Change => ({ do: 'remove', planned: p })),
  ]
}

/** Minutes that are planned for a task by blocks: those that its reserved time counts. */
export const blockMinutes = (planned: readonly Planned[], task: string): number =>
  planned.reduce((sum, p) => sum + (p.task === task && p.kind === 'block' ? lengthOf(p) / MINUTE : 0), 0)
