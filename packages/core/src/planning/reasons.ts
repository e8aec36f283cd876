import { Board } from './board.ts'
import { costOf } from './cost.ts'
import { type Demand, type Instance, lengthOf, type Placement, type Span, unitsOf } from './instance.ts'

/** Why something is not placed, or stands no earlier, as data: who tells it lowers it for whoever reads. */

export type WhyNot =
  /** Nowhere is there room for a piece of it, whatever else stands. */
  | { kind: 'no room' }
  /** There is room, and those days hold no more work. */
  | { kind: 'days full' }
  /** There is room, and there would be too much work without a rest. */
  | { kind: 'no rest' }
  /** By itself no more than so many units of it could be placed. */
  | { kind: 'too little'; most: number }
  | { kind: 'waits'; for: string }
  /** It would fit alone: these stand where it would. */
  | { kind: 'others came first'; whose: readonly string[] }

/** What keeps a piece from beginning in some units before it does. */
export type Blocker =
  | { kind: 'taken' }
  /** It is free, and not for this. */
  | { kind: 'not admitted' }
  | { kind: 'demand'; id: string }
  /** The day holds no more. */
  | { kind: 'day full'; day: number }
  /** There would be too much work without a rest. */
  | { kind: 'rest' }
  /** Another one of its kind, or another piece of it, stands on that day. */
  | { kind: 'once a day'; id: string }
  /** It may, and everything together would cost so much more. */
  | { kind: 'costs more'; by: number }

export interface NotEarlier extends Span {
  blocker: Blocker
}

const demandOf = (instance: Instance, id: string): Demand => {
  const demand = instance.demands.find(d => d.id === id)
  if (!demand) throw new Error(`There is no demand ${id}.`)
  return demand
}
const isComplete = ({ division, need }: Demand, pieces: readonly Span[]): boolean =>
  pieces.length > 0 && (division.kind === 'shrink' || unitsOf(pieces) === need)

/** Null where all of it is placed. */
export function whyNotPlaced(instance: Instance, placement: Placement, id: string): WhyNot | null {
  const demand = demandOf(instance, id)
  if (isComplete(demand, placement.get(id) ?? [])) return null
  const waits = demand.after.find(a => {
    const leader = instance.demands.find(d => d.id === a.id)
    return leader && !isComplete(leader, placement.get(a.id) ?? [])
  })
  if (waits) return { kind: 'waits', for: waits.id }
  const alone = insertedAlone(instance, placement, demand)
  if (alone.length === 0) {
    const unbroken = { ...instance, breaks: null }
    const endless = {
      ...unbroken,
      days: instance.days.map(d => ({ ...d, capacity: lengthOf(d.hours) })),
    }
    if (insertedAlone(unbroken, placement, demand).length > 0) return { kind: 'no rest' }
    return insertedAlone(endless, placement, demand).length > 0 ? { kind: 'days full' } : { kind: 'no room' }
  }
  if (!isComplete(demand, alone)) return { kind: 'too little', most: unitsOf(alone) }
  // On those days it would have stood: who stands there now.
  const days = instance.days.filter(d => alone.some(p => d.from <= p.from && p.from < d.to))
  const stand = (span: Span): string[] =>
    instance.demands.flatMap(d =>
      d.id !== id && (placement.get(d.id) ?? []).some(p => p.from < span.to && span.from < p.to)
        ? [d.id]
        : [],
    )
  const there = [...new Set(alone.flatMap(stand))]
  return { kind: 'others came first', whose: there.length > 0 ? there : [...new Set(days.flatMap(stand))] }
}

/** Where it would stand if nothing stood there but what it waits for. */
function insertedAlone(instance: Instance, placement: Placement, { id, after }: Demand): readonly Span[] {
  const isPresent = (of: string): boolean => of === id || after.some(a => a.id === of)
  const board = new Board({ ...instance, demands: instance.demands.filter(d => isPresent(d.id)) })
  for (const { id: of } of after) {
    const i = board.index.get(of)
    if (i !== undefined) board.put(i, placement.get(of) ?? [])
  }
  const i = board.index.get(id) ?? 0
  board.insert(i)
  return board.pieces[i] ?? []
}

/**
 * Why a piece does not begin earlier: every unit from when on it might, up to where it does, with what is in the way.
 * Stretches with the same reason are told as one.
 */
export function whyNotEarlier(
  instance: Instance,
  placement: Placement,
  { id, piece }: { id: string; piece: Span },
): NotEarlier[] {
  const demand = demandOf(instance, id)
  const ready = demand.after.reduce((at, { id: of, gap }) => {
    const ends = (placement.get(of) ?? []).map(p => p.to + gap)
    return Math.max(at, ...ends)
  }, demand.earliest)
  const around = surroundings(instance, placement, { id, piece })
  const found: NotEarlier[] = []
  for (let from = ready; from < piece.from; from++) {
    const blocker = around(from)
    const last = found.at(-1)
    if (last && JSON.stringify(last.blocker) === JSON.stringify(blocker)) last.to = from + 1
    else found.push({ from, to: from + 1, blocker })
  }
  return found
}

/** What would be in the way of the piece if it began at another unit. */
function surroundings(
  instance: Instance,
  placement: Placement,
  { id, piece }: { id: string; piece: Span },
): (from: number) => Blocker {
  const demand = demandOf(instance, id)
  const length = lengthOf(piece)
  const now = costOf(instance, placement).total
  const owner = new Map<number, string>()
  const others = instance.demands.flatMap(d =>
    (placement.get(d.id) ?? []).flatMap(p => (d.id === id && p.from === piece.from ? [] : [{ d, p }])),
  )
  for (const { d, p } of others) for (let u = p.from; u < p.to; u++) owner.set(u, d.id)
  const dayOf = (unit: number): number => instance.days.findIndex(d => d.from <= unit && unit < d.to)
  const within = (s: Span, of: Span): number => Math.max(0, Math.min(s.to, of.to) - Math.max(s.from, of.from))
  const isWork = (unit: number): boolean =>
    owner.has(unit) || instance.busy.some(b => b.from <= unit && unit < b.to)

  return from => {
    const span = { from, to: from + length }
    const stretch = instance.stretches.find(s => s.from <= from && span.to <= s.to)
    for (let u = from; u < span.to; u++) {
      const whose = owner.get(u)
      if (whose !== undefined) return { kind: 'demand', id: whose }
      if (!stretch) return { kind: 'taken' }
      if (!demand.admitted.some(a => a.from <= u && u < a.to)) return { kind: 'not admitted' }
    }
    const day = dayOf(from)
    const of = instance.days[day]
    const drafted = others.reduce(
      (sum, { p }) => sum + (of && dayOf(p.from) === day ? within(p, of.hours) : 0),
      0,
    )
    if (of && drafted + within(span, of.hours) > of.capacity) return { kind: 'day full', day }
    const same = others.find(
      ({ d, p }) => dayOf(p.from) === day && (d.id === id || (d.group !== null && d.group === demand.group)),
    )
    if (same) return { kind: 'once a day', id: same.d.id }
    if (instance.breaks && workAround(span, isWork, instance.breaks) > instance.breaks.run)
      return { kind: 'rest' }
    const moved = new Map(placement)
    const rest = (placement.get(id) ?? []).filter(p => p.from !== piece.from)
    moved.set(id, [...rest, span])
    return { kind: 'costs more', by: costOf(instance, moved).total - now }
  }
}

function workAround(
  span: Span,
  isWork: (unit: number) => boolean,
  { run, rest }: NonNullable<Instance['breaks']>,
): number {
  let work = lengthOf(span)
  for (const step of [-1, 1]) {
    let gap = 0
    for (let u = step < 0 ? span.from - 1 : span.to; u >= 0 && gap < rest && work <= run; u += step) {
      if (isWork(u)) [work, gap] = [work + 1, 0]
      else gap++
    }
  }
  return work
}
