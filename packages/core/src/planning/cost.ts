import {
  type Demand,
  indexOfUnits,
  type Instance,
  lengthOf,
  type Placement,
  type Span,
  supplyBefore,
  unitsOf,
} from './instance.ts'

/**
 * What a draft costs, in points, whole but for the order of work windows: the version is stored with every draft and
 * every certificate.
 */
export const COST_VERSION = 1

export const COST = {
  /** For each unit, by weight. */
  missed: 1000,
  unplaced: 100,
  shortened: 50,
  /** Once, by weight. */
  incomplete: 150,
  /** By weight and length, over all of the supply. */
  delay: 30,
  piece: 25,
  /** For each free stretch and category that is used. */
  place: 15,
  spilled: 5,
  onOffer: 10,
} as const

export interface Cost {
  missed: number
  unplaced: number
  delay: number
  pieces: number
  places: number
  extra: number
  moved: number
  total: number
}

/** What waiting costs: `before` the supply before each unit, of which `all` is the last. */
export const delayOf = (
  { weight, earliest }: Pick<Demand, 'weight' | 'earliest'>,
  piece: Span,
  before: Int32Array,
): number => {
  const all = before[before.length - 1] ?? 0
  const waited = Math.max(0, (before[piece.from] ?? 0) - (before[earliest] ?? 0))
  return all === 0 ? 0 : Math.floor((COST.delay * weight * lengthOf(piece) * waited) / all)
}

export const extraOf = ({ admitted }: Pick<Demand, 'admitted'>, piece: Span): number =>
  admitted.reduce((sum, a) => sum + a.extra * shared(a, piece), 0)

/** Units that two spans have in common. */
export const shared = (one: Span, other: Span): number =>
  Math.max(0, Math.min(one.to, other.to) - Math.max(one.from, other.from))

/** What is lost where nothing of it is placed. */
export const lossOf = ({ need, weight, deadline }: Demand): number =>
  weight * (need * (COST.unplaced + (deadline === null ? 0 : COST.missed)) + COST.incomplete)

/** What placing these pieces spares of that. */
export function gainOf(demand: Demand, pieces: readonly Span[]): number {
  const { need, weight, deadline, division } = demand
  const placed = unitsOf(pieces)
  if (placed === 0) return 0
  const inTime =
    deadline === null ? 0 : pieces.reduce((sum, p) => sum + shared(p, { from: 0, to: deadline }), 0)
  // A regular that is shortened is kept, for a price.
  const isKept = division.kind === 'shrink' || placed === need
  const unplaced =
    division.kind === 'shrink'
      ? COST.unplaced * need - COST.shortened * (need - placed)
      : COST.unplaced * placed
  return weight * (unplaced + COST.missed * inTime + (isKept ? COST.incomplete : 0))
}

export function costOf(instance: Instance, placement: Placement): Cost {
  const before = supplyBefore(instance)
  const stretchOf = indexOfUnits(instance.stretches, instance.horizon)
  const places = new Set<string>()
  const cost: Cost = { missed: 0, unplaced: 0, delay: 0, pieces: 0, places: 0, extra: 0, moved: 0, total: 0 }
  for (const demand of instance.demands) {
    const pieces = placement.get(demand.id) ?? []
    const { deadline, weight, need } = demand
    const inTime = pieces.reduce((sum, p) => sum + shared(p, { from: 0, to: deadline ?? 0 }), 0)
    if (deadline !== null) cost.missed += COST.missed * weight * (need - inTime)
    cost.unplaced += lossOf({ ...demand, deadline: null }) - gainOf({ ...demand, deadline: null }, pieces)
    for (const p of pieces) {
      cost.delay += delayOf(demand, p, before)
      cost.extra += extraOf(demand, p)
      cost.pieces += COST.piece
      places.add(`${stretchOf[p.from] ?? -1} ${demand.category}`)
    }
    cost.moved += instance.moved * demand.planned.filter(p => !stays(p, pieces)).length
  }
  cost.places = COST.place * places.size
  cost.total = cost.missed + cost.unplaced + cost.delay + cost.pieces + cost.places + cost.extra + cost.moved
  return cost
}

export const stays = (planned: Span, pieces: readonly Span[]): boolean =>
  pieces.some(p => p.from === planned.from && p.to === planned.to)
