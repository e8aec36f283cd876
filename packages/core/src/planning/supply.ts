import { addDays, DAY_MINUTES, dayAt, epochOf, MINUTE, zoned } from '../time/when.ts'
import { capacityOn, type WorkingHours } from '../view/rows.ts'
import type { Admitted, Day, Span } from './instance.ts'

/** Where a person has room: working hours and work windows, less what is taken; laid out by the wall clock. */

/** What stands already. Epoch ms. */
export interface Taken {
  fromMs: number
  toMs: number
  /** It counts as work done in one go. Lunch, for one, does not. */
  isWork: boolean
}

/** One span of a work window. Epoch ms. */
export interface WindowSpan {
  window: string
  fromMs: number
  toMs: number
  /** It takes other work as well. */
  othersToo: boolean
}

/** The grid: unit 0 begins at midnight of the first day, in the zone of whoever works. */
export interface Axis {
  startMs: number
  /** Minutes. */
  grid: number
  /** Of each day the units, by date. */
  dates: readonly string[]
  days: readonly Span[]
  horizon: number
  /** What is before is over. */
  now: number
}

export interface Supply {
  axis: Axis
  stretches: readonly Span[]
  days: readonly Day[]
  busy: readonly Span[]
  /** Time that no window keeps for itself, and that of each window. */
  plain: readonly Span[]
  windows: ReadonlyMap<string, readonly Span[]>
}

const unitAt = (ms: number, { startMs, grid }: Pick<Axis, 'startMs' | 'grid'>): number =>
  (ms - startMs) / (grid * MINUTE)
/** Whole units within; what is free is rounded inward. */
export const inward = (fromMs: number, toMs: number, axis: Axis): Span => ({
  from: Math.max(0, Math.ceil(unitAt(fromMs, axis))),
  to: Math.min(axis.horizon, Math.floor(unitAt(toMs, axis))),
})
/** All units that it touches. */
const outward = (fromMs: number, toMs: number, axis: Axis): Span => ({
  from: Math.max(0, Math.floor(unitAt(fromMs, axis))),
  to: Math.min(axis.horizon, Math.ceil(unitAt(toMs, axis))),
})
export const msOf = (unit: number, { startMs, grid }: Axis): number => startMs + unit * grid * MINUTE

/** @param nowMs from here on is planned; @param days how many, today among them */
export function axisOf(nowMs: number, days: number, zone: string, grid: number): Axis {
  const today = dayAt(nowMs, zone)
  const dates = Array.from({ length: days }, (_, n) => addDays(today, n))
  const midnight = (date: string): number => epochOf({ kind: 'date', date }, zone)
  const startMs = midnight(today)
  const at = (date: string): number => Math.round(unitAt(midnight(date), { startMs, grid }))
  const spans = dates.map(date => ({ from: at(date), to: at(addDays(date, 1)) }))
  return {
    startMs,
    grid,
    dates,
    days: spans,
    horizon: spans.at(-1)?.to ?? 0,
    now: Math.max(0, Math.ceil(unitAt(nowMs, { startMs, grid }))),
  }
}

/** The working hours of a day, in instants; null on a day without any. Epoch ms. */
export function hoursOf(hours: WorkingHours, date: string): { fromMs: number; toMs: number } | null {
  if (capacityOn(hours, date) === 0) return null
  const at = (minute: number): number => {
    if (minute >= DAY_MINUTES) return epochOf({ kind: 'date', date: addDays(date, 1) }, hours.zone)
    const [h, m] = [Math.floor(minute / 60), minute % 60].map(n => String(n).padStart(2, '0'))
    return epochOf(zoned(`${date}T${h}:${m}:00`, hours.zone), hours.zone)
  }
  return { fromMs: at(hours.from), toMs: at(hours.to) }
}

export function supplyOf(
  hours: WorkingHours,
  taken: readonly Taken[],
  windows: readonly WindowSpan[],
  axis: Axis,
): Supply {
  const { horizon } = axis
  const inHours = new Uint8Array(horizon)
  const free = new Uint8Array(horizon)
  const kept = new Uint8Array(horizon)
  const covered = new Uint8Array(horizon)
  const worked = new Uint8Array(horizon)
  const fill = (of: Uint8Array, { from, to }: Span, value: 0 | 1 = 1): void => {
    if (to > from) of.fill(value, from, to)
  }
  const hourSpans = axis.dates.map(date => {
    const span = hoursOf(hours, date)
    return span ? inward(span.fromMs, span.toMs, axis) : null
  })
  for (const span of hourSpans) if (span) fill(inHours, span)
  free.set(inHours)
  for (const w of windows) {
    const span = inward(w.fromMs, w.toMs, axis)
    fill(free, span)
    if (!w.othersToo) fill(kept, span)
  }
  for (const t of taken) {
    const span = outward(t.fromMs, t.toMs, axis)
    fill(covered, span)
    if (t.isWork) fill(worked, span)
  }
  fill(free, { from: 0, to: Math.min(axis.now, horizon) }, 0)
  for (let u = 0; u < horizon; u++) if (covered[u]) free[u] = 0
  const days = axis.days.map((span, n): Day => {
    const here = hourSpans[n] ?? { from: span.from, to: span.from }
    const most = Math.floor(capacityOn(hours, axis.dates[n] ?? '') / axis.grid)
    const committed = covered.slice(here.from, here.to).reduce((sum, u) => sum + u, 0)
    return { ...span, hours: here, capacity: Math.max(0, most - committed) }
  })
  const byWindow = new Map<string, Span[]>()
  for (const id of new Set(windows.map(w => w.window))) {
    const own = new Uint8Array(horizon)
    for (const w of windows) if (w.window === id) fill(own, inward(w.fromMs, w.toMs, axis))
    byWindow.set(
      id,
      spansWhere(horizon, u => own[u] === 1 && free[u] === 1),
    )
  }
  return {
    axis,
    stretches: spansWhere(horizon, u => free[u] === 1),
    days,
    busy: spansWhere(horizon, u => worked[u] === 1),
    plain: spansWhere(horizon, u => free[u] === 1 && kept[u] === 0),
    windows: byWindow,
  }
}

export const SPILLED = 5
/** For each place further down: far less than a point, so that it only parts what costs the same; exact in binary. */
export const FURTHER_DOWN = 1 / 4096

/**
 * Where something may stand that passes these windows; where it passes none, in time that no window keeps.
 * @param windows in their person's order
 */
export function admittedTo(supply: Supply, windows: readonly string[], spills: boolean): Admitted[] {
  const own = windows.filter(w => supply.windows.has(w))
  if (own.length === 0) return supply.plain.map(s => ({ ...s, extra: 0 }))
  const { horizon } = supply.axis
  const extra = new Float64Array(horizon).fill(-1)
  const fill = (spans: readonly Span[], cost: number): void => {
    for (const s of spans) extra.fill(cost, s.from, s.to)
  }
  if (spills) fill(supply.plain, SPILLED)
  // The first one last: where two have the same time, it is that of the first.
  const places = own.map((w, n) => ({ w, cost: n * FURTHER_DOWN })).reverse()
  for (const { w, cost } of places) fill(supply.windows.get(w) ?? [], cost)
  return [...places.map(p => p.cost), SPILLED]
    .flatMap(cost => spansWhere(horizon, u => extra[u] === cost).map(s => ({ ...s, extra: cost })))
    .sort((x, y) => x.from - y.from)
}

/** What stands where guests may book costs so much more a unit; a spot that is one place stays one. */
export function dearerWithin(
  admitted: readonly Admitted[],
  spans: readonly { fromMs: number; toMs: number }[],
  axis: Axis,
  { by, isSpots }: { by: number; isSpots: boolean },
): Admitted[] {
  const dear = new Uint8Array(axis.horizon)
  for (const s of spans) {
    const { from, to } = outward(s.fromMs, s.toMs, axis)
    if (to > from) dear.fill(1, from, to)
  }
  const isDear = (u: number): boolean => dear[u] === 1
  return admitted.flatMap(({ from, to, extra }): Admitted[] => {
    if (isSpots) return [{ from, to, extra: extra + (dear.subarray(from, to).includes(1) ? by : 0) }]
    const within = (is: (u: number) => boolean, more: number): Admitted[] =>
      spansWhere(to, u => u >= from && is(u)).map(s => ({ ...s, extra: extra + more }))
    return [...within(u => !isDear(u), 0), ...within(isDear, by)].sort((x, y) => x.from - y.from)
  })
}

function spansWhere(horizon: number, is: (unit: number) => boolean): Span[] {
  const spans: Span[] = []
  let from = -1
  for (let u = 0; u <= horizon; u++) {
    if (u < horizon && is(u)) {
      if (from < 0) from = u
    } else if (from >= 0) {
      spans.push({ from, to: u })
      from = -1
    }
  }
  return spans
}
