import { MINUTE } from '../time/when.ts'
import type { ClothItem } from '../view/cloth-item.ts'
import { placeOf, placeWords, staysOf, type Travel, travelled, type Way } from '../view/travel.ts'
import { type Person, takenOf } from './from-cloth.ts'
import type { Admitted, Demand, Span } from './instance.ts'
import type { Stretch } from './laid-pieces.ts'
import { type Axis, msOf } from './supply.ts'

/**
 * What can only be done at a place: it goes beside a stay there, and the way that the stay takes anyhow moves out by as
 * much; or it carries both ways. Either way it is placed as the free time that it takes, which is not where it stands.
 */

export interface Trip {
  /** One way from one's base, minutes. */
  minutes: number
  beside: readonly Beside[]
  /** While one is out already, by whatever way, one sets out from nowhere else. */
  out: readonly Stretch[]
}

/** One end of a stay there, and where the way on that side leaves time free; the same where there is no way. Epoch ms. */
export interface Beside {
  side: 'before' | 'after'
  stayMs: number
  freeMs: number
}

/**
 * @param items without what is planned anew
 * @returns for a task that is done at a known place, how that person gets there
 */
export function tripsAmong(
  items: readonly ClothItem[],
  travel: Travel,
  person: Person,
): (task: ClothItem) => Trip | null {
  if (travel.places.length === 0) return () => null
  const mine = items.filter(i => i.people.includes(person.id))
  const { ways } = travelled(mine, travel)
  const stays = staysOf(mine, travel)
  const taken = takenOf(items, person)
  // Where something else stands on the way, as it clashes already, the way cannot move out.
  const isWayAlone = ({ stayMs, freeMs }: Beside): boolean =>
    !taken.some(t => t.fromMs < Math.max(stayMs, freeMs) && Math.min(stayMs, freeMs) < t.toMs)
  const out = outOf(ways)
  return task => {
    const place = placeOf(placeWords(task), travel)
    if (!place) return null
    const ends = stays.flatMap((s): Beside[] => {
      if (s.place !== place) return []
      const to = ways.find(w => w.of === s.key && w.to !== null)
      const back = ways.find(w => w.of === s.key && w.to === null)
      return [
        { side: 'before', stayMs: s.fromMs, freeMs: to?.fromMs ?? s.fromMs },
        { side: 'after', stayMs: s.toMs, freeMs: back?.toMs ?? s.toMs },
      ]
    })
    return { minutes: place.minutes, beside: ends.filter(isWayAlone), out }
  }
}

/** From where one leaves one’s base to where one is back. */
function outOf(ways: readonly Way[]): Stretch[] {
  const all: Stretch[] = []
  let left: number | null = null
  for (const way of [...ways].sort((x, y) => x.fromMs - y.fromMs)) {
    left ??= way.fromMs
    if (way.to !== null) continue
    all.push({ fromMs: left, toMs: way.toMs })
    left = null
  }
  return all
}

/** A piece with the ways that it takes: all the time that it keeps from others. */
export function withItsWays({ fromMs, toMs }: Stretch, { minutes, beside }: Trip): Stretch {
  const after = beside.find(b => b.side === 'after' && b.stayMs === fromMs)
  if (after) return { fromMs, toMs: toMs + after.freeMs - after.stayMs }
  const before = beside.find(b => b.side === 'before' && b.stayMs === toMs)
  if (before) return { fromMs: fromMs - (before.stayMs - before.freeMs), toMs }
  return { fromMs: fromMs - minutes * MINUTE, toMs: toMs + minutes * MINUTE }
}

export interface Placed {
  demand: Demand
  isBeside: boolean
  /** Where a piece stands that takes this free time. */
  standsAt: (span: Span) => Stretch
}

/** @param demand as it would be without a place */
export function placedBy(demand: Demand, trip: Trip, axis: Axis): Placed {
  return besideStay(demand, trip, axis) ?? carrying(demand, trip, axis)
}

function carrying(demand: Demand, { minutes, out }: Trip, axis: Axis): Placed {
  const way = Math.ceil(minutes / axis.grid)
  const wider = ({ from, to }: Span): Span => ({ from: from - way, to: to + way })
  return {
    isBeside: false,
    standsAt: ({ from, to }) => ({ fromMs: msOf(from + way, axis), toMs: msOf(to - way, axis) }),
    demand: {
      ...demand,
      need: demand.need + 2 * way,
      // Each piece would take both ways.
      division: { kind: 'whole' },
      earliest: Math.max(axis.now, demand.earliest - way),
      // It is done before one is back.
      deadline: demand.deadline === null ? null : Math.min(axis.horizon, demand.deadline + way),
      planned: demand.planned.map(wider),
      admitted: out.reduce((left, o) => without(left, o, axis), demand.admitted),
    },
  }
}

function without(all: readonly Admitted[], { fromMs, toMs }: Stretch, axis: Axis): Admitted[] {
  const unit = (ms: number): number => (ms - axis.startMs) / (axis.grid * MINUTE)
  const [from, to] = [Math.floor(unit(fromMs)), Math.ceil(unit(toMs))]
  return all.flatMap(a =>
    [
      { ...a, to: Math.min(a.to, from) },
      { ...a, from: Math.max(a.from, to) },
    ].filter(s => s.to > s.from),
  )
}

/** Null where it fits beside none of them, alone and in time. */
function besideStay(demand: Demand, { beside }: Trip, axis: Axis): Placed | null {
  const { need, deadline, earliest, admitted } = demand
  const unit = (ms: number): number => (ms - axis.startMs) / (axis.grid * MINUTE)
  const length = need * axis.grid * MINUTE
  const spots = beside
    .map(({ side, stayMs, freeMs }) => {
      const from = side === 'after' ? Math.ceil(unit(freeMs)) : Math.floor(unit(freeMs)) - need
      const fromMs = side === 'after' ? stayMs : stayMs - length
      return { from, to: from + need, at: { fromMs, toMs: fromMs + length } }
    })
    .filter(s => unit(s.at.fromMs) >= earliest && s.from >= axis.now)
    .filter(s => deadline === null || unit(s.at.toMs) <= deadline)
    .sort((x, y) => x.from - y.from)
  const held: typeof spots = []
  const there: Admitted[] = []
  for (const spot of spots) {
    const parts = admitted.filter(a => a.from < spot.to && spot.from < a.to)
    const covered = parts.reduce((sum, a) => sum + Math.min(a.to, spot.to) - Math.max(a.from, spot.from), 0)
    const last = there.at(-1)
    // Two that touch would be taken for one long span.
    if (covered < need || (last && spot.from <= last.to)) continue
    held.push(spot)
    there.push({ from: spot.from, to: spot.to, extra: Math.max(...parts.map(a => a.extra)) })
  }
  if (held.length === 0) return null
  const standsAt = (span: Span): Stretch =>
    held.find(s => s.from === span.from)?.at ?? { fromMs: msOf(span.from, axis), toMs: msOf(span.to, axis) }
  return {
    isBeside: true,
    standsAt,
    demand: {
      ...demand,
      division: { kind: 'whole' },
      earliest: Math.min(earliest, ...held.map(s => s.from)),
      // Whatever is admitted is in time, and the free time that it takes may be after that.
      deadline: deadline === null ? null : Math.min(axis.horizon, Math.max(deadline, ...held.map(s => s.to))),
      admitted: there,
      planned: held.filter(s => demand.planned.some(p => unit(s.at.fromMs) === p.from)),
    },
  }
}
