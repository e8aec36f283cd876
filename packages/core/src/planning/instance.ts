/**
 * What is planned, closed: all times are whole grid units from the beginning of the horizon (grid 5 minutes; 15 in exact
 * trials). Who builds it has converted the wall clock, so that days of 23 or 25 hours are no special case here.
 */

/** Half open, in units. */
export interface Span {
  from: number
  to: number
}

/** Where a demand may stand, and what a unit there costs beside: spilled time, time on an open offer. */
export interface Admitted extends Span {
  extra: number
}

/** How it may be divided. One piece a day at most, whatever it is. */
export type Division =
  | { kind: 'whole' }
  /** Into pieces of at least so much, or all of it where that is less. */
  | { kind: 'split'; least: number }
  /** One piece, which may be shorter, at a cost for each unit. */
  | { kind: 'shrink'; least: number }

export interface Demand {
  /** Ties go by this. */
  id: string
  /** Units that are still to be placed; more than 0. */
  need: number
  /** 1 to 9, by its pressure. */
  weight: number
  division: Division
  earliest: number
  /** Where what is not done costs, in (0, horizon]; null without one, or where it is over or beyond. */
  deadline: number | null
  /** In order, not overlapping, within stretches. */
  admitted: readonly Admitted[]
  category: string
  /** All of these are complete before it begins, so many units before. Those that are no demand are minded by `earliest`. */
  after: readonly { id: string; gap: number }[]
  /** At most one a day of those with the same (a regular); null for none. */
  group: string | null
  /** Where it stands now, while it is planned anew. */
  planned: readonly Span[]
}

export interface Day extends Span {
  /** Working hours of it; what stands outside of them takes nothing of the capacity. */
  hours: Span
  /** Units that may still be drafted within them. */
  capacity: number
}

export interface Instance {
  horizon: number
  /** Free time of any kind: the longest spans without anything in between, in order. A piece lies within one. */
  stretches: readonly Span[]
  /** Each unit is of one day, in order. */
  days: readonly Day[]
  demands: readonly Demand[]
  /** What is taken and counts as work in one go, in order, not overlapping. */
  busy: readonly Span[]
  /** No more than `run` units of work without `rest` units of nothing. Binds only what holds a drafted piece. */
  breaks: { run: number; rest: number } | null
  /** What a planned piece costs that does not stay where it is. */
  moved: 20 | 200
}

/** By demand. */
export type Placement = ReadonlyMap<string, readonly Span[]>

export const lengthOf = ({ from, to }: Span): number => to - from
export const unitsOf = (spans: readonly Span[]): number => spans.reduce((sum, s) => sum + lengthOf(s), 0)

/** The units before each that are free: the measure in which waiting is told. `[horizon]` is all of them. */
export function supplyBefore({ horizon, stretches }: Pick<Instance, 'horizon' | 'stretches'>): Int32Array {
  const before = new Int32Array(horizon + 1)
  for (const s of stretches) for (let u = s.from; u < s.to; u++) before[u + 1] = 1
  for (let u = 0; u < horizon; u++) before[u + 1] = (before[u + 1] ?? 0) + (before[u] ?? 0)
  return before
}

/** Of each unit, the index of the span that it is in; -1 for none. */
export function indexOfUnits(spans: readonly Span[], horizon: number): Int32Array {
  const index = new Int32Array(horizon).fill(-1)
  for (const [i, s] of spans.entries()) index.fill(i, s.from, s.to)
  return index
}

/** How urgent a task counts while it is planned: 1 to 9. */
export const weightOf = (pressure: number): number => 1 + Math.floor(pressure / 12)
