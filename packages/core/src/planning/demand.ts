import { addDays, epochOf, MINUTE, type When } from '../time/when.ts'
import type { WorkingHours } from '../view/rows.ts'
import { type Demand, type Instance, lengthOf, type Span, weightOf } from './instance.ts'
import { placedBy, type Placed, type Trip } from './trips.ts'
import { admittedTo, type Axis, hoursOf, type Supply } from './supply.ts'

/** What of a task still needs time, from when on and until when; or why nothing of it can be planned. */

export interface TaskToPlan {
  id: string
  /** Minutes; null without one. */
  estimate: number | null
  /** Minutes that were worked, and that are held ahead. */
  taken: number
  reserved: number
  due: When | null
  /** Not before this day: put by until then, or any day of the week that begins with it. Never the planned start. */
  notBefore: string | null
  waitsFor: readonly Wait[]
  category: string
  /** 0 to 100. */
  pressure: number
  /** Work windows whose filter it passes, and whether one of them lets it spill. */
  windows: readonly string[]
  spills: boolean
  /** Its blocks that may be moved, while planned anew; epoch ms. */
  planned: readonly { fromMs: number; toMs: number }[]
  /** Where it can only be done; then it is in one piece. Absent for what is done anywhere. */
  trip?: Trip
}

/** It may begin only so many minutes after all of that (RFC 9253 FINISHTOSTART, GAP). */
export interface Wait {
  id: string
  gap: number
  /** When that is over, for what is no part of the draft; null where nobody knows. Epoch ms. */
  endsMs: number | null
}

export interface PlanTerms {
  /** Minutes of a task without an estimate. */
  defaultMinutes: number
  /** What needs so many minutes may be split, into pieces of at least so many. */
  splitFrom: number
  leastPiece: number
}

/** Why a task is listed and not placed. */
export type NotPlanned =
  | { id: string; because: 'takes no time' | 'is reserved already' | 'overrun' | 'in a circle' }
  | { id: string; because: 'waits'; for: string }

export interface Wanted {
  demands: Demand[]
  left: NotPlanned[]
  /** Those that count with the default. */
  withoutEstimate: string[]
  /** Of those that are done at a place: where they stand. */
  placed: Map<string, Placed & { minutes: number }>
}

/**
 * A date as deadline is the end of the last working hours of that day where it is done, midnight if there are none; a
 * date-time is that instant. Epoch ms.
 */
export function deadlineOf(due: When, hours: WorkingHours): number {
  if (due.kind !== 'date') return epochOf(due, hours.zone)
  return hoursOf(hours, due.date)?.toMs ?? epochOf({ kind: 'date', date: addDays(due.date, 1) }, hours.zone)
}

/** @param held when what of them is pinned is over, by task; epoch ms */
export function wantedOf(
  tasks: readonly TaskToPlan[],
  hours: WorkingHours,
  supply: Supply,
  terms: PlanTerms,
  held: ReadonlyMap<string, number> = new Map(),
): Wanted {
  const { axis } = supply
  const left: NotPlanned[] = []
  const open = new Map<string, TaskToPlan>()
  for (const task of tasks) {
    const because = nothingToPlace(task, terms)
    if (because) left.push({ id: task.id, because })
    else open.set(task.id, task)
  }
  const known = new Map(tasks.map(t => [t.id, t]))
  const circled = inCircles(tasks)
  for (const id of circled) if (open.delete(id)) left.push({ id, because: 'in a circle' })
  // What waits for something that is not placed waits as well.
  for (let before = -1; before !== open.size;) {
    before = open.size
    for (const task of open.values()) {
      const on = task.waitsFor.find(w => !open.has(w.id) && endOf(w, known.get(w.id)) === null)
      if (on && open.delete(task.id)) left.push({ id: task.id, because: 'waits', for: on.id })
    }
  }
  const placed: Wanted['placed'] = new Map()
  const demands = [...open.values()].map(task => {
    const demand = demandOf(task, hours, supply, terms, { open, held })
    if (!task.trip) return demand
    const there = placedBy(demand, task.trip, axis)
    placed.set(task.id, { ...there, minutes: demand.need * axis.grid })
    return there.demand
  })
  return {
    demands,
    placed,
    left,
    withoutEstimate: demands.flatMap(d => (open.get(d.id)?.estimate === null ? [d.id] : [])),
  }

  function endOf(wait: Wait, task: TaskToPlan | undefined): number | null {
    // What needs no more time is over when its blocks are, which whoever asks has said.
    const ends = held.get(wait.id) ?? wait.endsMs
    return task && circled.has(task.id) ? null : (ends ?? (task && isOver(task) ? axis.startMs : null))
  }
  function isOver(task: TaskToPlan): boolean {
    return nothingToPlace(task, terms) === 'takes no time'
  }
}

/** Whether something of it is to be placed, as far as it tells by itself. */
export const needsTime = (task: TaskToPlan, terms: PlanTerms): boolean => nothingToPlace(task, terms) === null

const remainingOf = ({ estimate, taken, reserved }: TaskToPlan, { defaultMinutes }: PlanTerms): number =>
  (estimate ?? defaultMinutes) - taken - reserved

function nothingToPlace(
  task: TaskToPlan,
  terms: PlanTerms,
): 'takes no time' | 'is reserved already' | 'overrun' | null {
  if (task.estimate === 0) return 'takes no time'
  if (task.taken >= (task.estimate ?? terms.defaultMinutes)) return 'overrun'
  return remainingOf(task, terms) <= 0 ? 'is reserved already' : null
}

function demandOf(
  task: TaskToPlan,
  hours: WorkingHours,
  supply: Supply,
  terms: PlanTerms,
  { open, held }: { open: ReadonlyMap<string, TaskToPlan>; held: ReadonlyMap<string, number> },
): Demand {
  const { axis } = supply
  const units = (minutes: number): number => Math.ceil(minutes / axis.grid)
  const need = units(remainingOf(task, terms))
  const day = task.notBefore === null ? -1 : axis.dates.findIndex(date => date >= (task.notBefore ?? ''))
  const beyond = task.notBefore !== null && day < 0
  const starts = [axis.now, beyond ? axis.horizon : (axis.days[day]?.from ?? 0)]
  for (const w of task.waitsFor) {
    const ends = held.get(w.id) ?? (open.has(w.id) ? null : w.endsMs)
    if (ends !== null) starts.push(unitFrom(ends + w.gap * MINUTE, axis))
  }
  return {
    id: task.id,
    need,
    weight: weightOf(task.pressure),
    division:
      need >= units(terms.splitFrom) ? { kind: 'split', least: units(terms.leastPiece) } : { kind: 'whole' },
    earliest: Math.min(axis.horizon, Math.max(...starts)),
    deadline: task.due && deadlineUnit(deadlineOf(task.due, hours), axis),
    admitted: admittedTo(supply, task.windows, task.spills),
    category: task.category,
    after: task.waitsFor.flatMap(w => (open.has(w.id) ? [{ id: w.id, gap: units(w.gap) }] : [])),
    group: null,
    planned: task.planned.flatMap(p => wholeUnits(p, axis)),
  }
}

const unitFrom = (ms: number, { startMs, grid }: Axis): number =>
  Math.max(0, Math.ceil((ms - startMs) / (grid * MINUTE)))

/** Null where it is over, or beyond what is planned: then nothing is lost by when it is done. */
function deadlineUnit(ms: number, axis: Axis): number | null {
  const unit = Math.floor((ms - axis.startMs) / (axis.grid * MINUTE))
  return unit > axis.now && unit <= axis.horizon ? unit : null
}

function wholeUnits({ fromMs, toMs }: { fromMs: number; toMs: number }, axis: Axis): Span[] {
  const [from, to] = [fromMs, toMs].map(ms => (ms - axis.startMs) / (axis.grid * MINUTE))
  const span = { from: from ?? 0, to: to ?? 0 }
  const isWhole = Number.isInteger(span.from) && Number.isInteger(span.to) && lengthOf(span) > 0
  return isWhole && span.from >= axis.now && span.to <= axis.horizon ? [span] : []
}

/** All that waits for itself, by whatever way. What only waits for such waits, and is in no circle. */
function inCircles(tasks: readonly TaskToPlan[]): ReadonlySet<string> {
  const waiting = new Map(tasks.map(t => [t.id, new Set(t.waitsFor.map(w => w.id))]))
  for (let before = -1; before !== waiting.size;) {
    before = waiting.size
    for (const [id, on] of waiting) if (![...on].some(other => waiting.has(other))) waiting.delete(id)
  }
  const comesBack = (start: string): boolean => {
    const seen = new Set<string>()
    const next = [...(waiting.get(start) ?? [])]
    for (let id = next.pop(); id !== undefined; id = next.pop()) {
      if (id === start) return true
      if (seen.has(id)) continue
      seen.add(id)
      next.push(...(waiting.get(id) ?? []))
    }
    return false
  }
  return new Set([...waiting.keys()].filter(comesBack))
}

/** Supply and demand as one closed instance. */
export const instanceOf = (
  supply: Supply,
  { demands }: Pick<Wanted, 'demands'>,
  more: Pick<Instance, 'breaks' | 'moved'>,
): Instance => ({
  horizon: supply.axis.horizon,
  stretches: supply.stretches,
  days: supply.days,
  busy: supply.busy,
  demands,
  ...more,
})
