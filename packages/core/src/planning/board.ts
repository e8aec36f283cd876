import { COST, delayOf, extraOf, gainOf, lossOf, shared, stays } from './cost.ts'
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
 * A draft while it is made: what stands where, what that costs, and the best place for one more. Demands are told by
 * their index in the instance.
 */
export class Board {
  readonly pieces: Span[][]
  /** What everything costs as it stands. */
  total: number
  private readonly taken: Uint8Array
  private readonly drafted: Int32Array
  private readonly used: Int32Array
  private readonly grouped: Int32Array
  private readonly before: Int32Array
  private readonly stretchOf: Int32Array
  private readonly dayOf: Int32Array
  private readonly category: Int32Array
  private readonly categories: number
  private readonly group: Int32Array
  readonly index: ReadonlyMap<string, number>
  /** Those that wait for it, by index. */
  readonly followers: readonly number[][]
  private readonly leaders: readonly { of: number; gap: number }[][]
  private readonly worked: Int32Array
  private readonly works: Int32Array
  private readonly isCostly: boolean[]

  constructor(readonly instance: Instance) {
    const { demands, horizon, stretches, days, busy } = instance
    this.pieces = demands.map(() => [])
    this.taken = new Uint8Array(horizon)
    for (const b of busy) this.taken.fill(1, Math.max(0, b.from), Math.min(horizon, b.to))
    this.before = supplyBefore(instance)
    this.stretchOf = indexOfUnits(stretches, horizon)
    this.dayOf = indexOfUnits(days, horizon)
    this.drafted = new Int32Array(days.length)
    const names = [...new Set(demands.map(d => d.category))]
    this.categories = names.length
    this.category = Int32Array.from(demands, d => names.indexOf(d.category))
    this.used = new Int32Array(stretches.length * names.length)
    const groups = [...new Set(demands.flatMap(d => d.group ?? []))]
    this.group = Int32Array.from(demands, d => (d.group === null ? -1 : groups.indexOf(d.group)))
    this.grouped = new Int32Array(days.length * groups.length)
    this.index = new Map(demands.map((d, i) => [d.id, i]))
    this.leaders = demands.map(d =>
      d.after.flatMap(a => {
        const of = this.index.get(a.id)
        return of === undefined ? [] : [{ of, gap: a.gap }]
      }),
    )
    const followers: number[][] = demands.map(() => [])
    for (const [i, all] of this.leaders.entries()) for (const { of } of all) followers[of]?.push(i)
    this.followers = followers
    this.worked = new Int32Array(horizon + 1)
    this.works = new Int32Array(horizon + 1)
    this.isCostly = demands.map(d => new Set(d.admitted.map(a => a.extra)).size > 1)
    this.total = demands.reduce((sum, d) => sum + lossOf(d) + instance.moved * d.planned.length, 0)
  }

  demand(i: number): Demand {
    const demand = this.instance.demands[i]
    if (!demand) throw new Error('There is no such demand.')
    return demand
  }

  isComplete(i: number): boolean {
    const pieces = this.pieces[i] ?? []
    const { need, division } = this.demand(i)
    return pieces.length > 0 && (division.kind === 'shrink' || unitsOf(pieces) === need)
  }

  placement(): Placement {
    return new Map(this.instance.demands.map((d, i) => [d.id, [...(this.pieces[i] ?? [])]]))
  }

  /** Nothing of it may stand yet. */
  put(i: number, pieces: readonly Span[]): void {
    const demand = this.demand(i)
    this.pieces[i] = [...pieces]
    this.total -= gainOf(demand, pieces)
    for (const p of pieces) this.add(i, demand, p, 1)
    this.total -= this.instance.moved * demand.planned.filter(p => stays(p, pieces)).length
  }

  take(i: number): readonly Span[] {
    const demand = this.demand(i)
    const pieces = this.pieces[i] ?? []
    this.pieces[i] = []
    this.total += gainOf(demand, pieces)
    for (const p of pieces) this.add(i, demand, p, -1)
    this.total += this.instance.moved * demand.planned.filter(p => stays(p, pieces)).length
    return pieces
  }

  private add(i: number, demand: Demand, piece: Span, by: 1 | -1): void {
    this.taken.fill(by === 1 ? 1 : 0, piece.from, piece.to)
    const day = this.dayOf[piece.from] ?? 0
    this.drafted[day] = (this.drafted[day] ?? 0) + by * this.inHours(day, piece)
    const place = this.placeOf(i, piece.from)
    const uses = (this.used[place] ?? 0) + by
    this.used[place] = uses
    if (by === 1 ? uses === 1 : uses === 0) this.total += by * COST.place
    const group = this.group[i] ?? -1
    if (group >= 0) {
      const at = group * this.instance.days.length + day
      this.grouped[at] = (this.grouped[at] ?? 0) + by
    }
    this.total += by * (COST.piece + delayOf(demand, piece, this.before) + extraOf(demand, piece))
  }

  private placeOf = (i: number, unit: number): number =>
    (this.stretchOf[unit] ?? 0) * this.categories + (this.category[i] ?? 0)

  private inHours(day: number, piece: Span): number {
    const hours = this.instance.days[day]?.hours
    return hours ? shared(hours, piece) : 0
  }

  /** From when on it may begin as things stand; null where what it waits for is not complete. */
  private readyAt(i: number): number | null {
    let at = this.demand(i).earliest
    for (const { of, gap } of this.leaders[i] ?? []) {
      if (!this.isComplete(of)) return null
      for (const p of this.pieces[of] ?? []) at = Math.max(at, p.to + gap)
    }
    return at
  }

  /** How much work there is without a rest right before each unit, and right from it on. */
  private countWork(rest: number): void {
    const { horizon } = this.instance
    for (const [into, step] of [
      [this.worked, 1],
      [this.works, -1],
    ] as const) {
      let [work, gap] = [0, rest]
      for (let n = 0; n <= horizon; n++) {
        const at = step === 1 ? n : horizon - n
        into[at] = gap >= rest ? 0 : work
        const unit = step === 1 ? at : at - 1
        if (unit < 0 || unit >= horizon) continue
        if (this.taken[unit]) {
          work = gap >= rest ? 1 : work + 1
          gap = 0
        } else gap++
      }
    }
  }

  private isAllowed(i: number, day: number, piece: Span): boolean {
    const { breaks, days } = this.instance
    const { capacity = 0 } = days[day] ?? {}
    if ((this.drafted[day] ?? 0) + this.inHours(day, piece) > capacity) return false
    const group = this.group[i] ?? -1
    if (group >= 0 && (this.grouped[group * days.length + day] ?? 0) > 0) return false
    if (!breaks) return true
    return (this.worked[piece.from] ?? 0) + lengthOf(piece) + (this.works[piece.to] ?? 0) <= breaks.run
  }

  /** What one piece costs and spares, without what only all of them together spare. */
  private worth(i: number, demand: Demand, piece: Span): number {
    const { weight, deadline, division, need } = demand
    const length = lengthOf(piece)
    const isNew = (this.used[this.placeOf(i, piece.from)] ?? 0) === 0
    const inTime = deadline === null ? 0 : shared(piece, { from: 0, to: deadline })
    const unplaced =
      division.kind === 'shrink'
        ? COST.unplaced * need - COST.shortened * (need - length)
        : COST.unplaced * length
    return (
      COST.piece +
      (isNew ? COST.place : 0) +
      delayOf(demand, piece, this.before) +
      extraOf(demand, piece) -
      weight * (unplaced + COST.missed * inTime) -
      (demand.planned.length > 0 && stays(piece, demand.planned) ? this.instance.moved : 0)
    )
  }

  /** The best piece of each length on each day: what it costs less what it spares, and where. */
  private best(i: number, lengths: { least: number; most: number }): Map<number, (Choice | undefined)[]> {
    const demand = this.demand(i)
    const found = new Map<number, (Choice | undefined)[]>()
    const ready = this.readyAt(i)
    if (ready === null) return found
    const { breaks } = this.instance
    if (breaks) this.countWork(breaks.rest)
    const consider = (day: number, piece: Span): boolean => {
      if (!this.isAllowed(i, day, piece)) return false
      const worth = this.worth(i, demand, piece)
      const of = found.get(day) ?? []
      found.set(day, of)
      const known = of[lengthOf(piece)]
      if (!known || worth < known.worth) of[lengthOf(piece)] = { worth, piece }
      return true
    }
    for (const run of this.freeRuns(demand, ready)) {
      for (let length = lengths.least; length <= Math.min(lengths.most, lengthOf(run)); length++) {
        let last = -1
        for (let from = run.from; from + length <= run.to; from++) {
          const day = this.dayOf[from] ?? 0
          // Within one day the first that is allowed waits the least.
          if (day === last) continue
          if (consider(day, { from, to: from + length }) && !this.isCostly[i]) last = day
        }
      }
      for (const p of demand.planned)
        if (
          p.from >= run.from &&
          p.to <= run.to &&
          lengthOf(p) >= lengths.least &&
          lengthOf(p) <= lengths.most
        )
          consider(this.dayOf[p.from] ?? 0, p)
    }
    return found
  }

  /** Where nothing stands and it may, in one stretch, each as long as it goes. */
  private *freeRuns({ admitted }: Demand, ready: number): Generator<Span> {
    let from = -1
    let to = -1
    for (const a of admitted) {
      for (let u = Math.max(a.from, ready); u < a.to; u++) {
        if (this.taken[u]) continue
        if (from >= 0 && u === to && this.stretchOf[u] === this.stretchOf[from]) to = u + 1
        else {
          if (from >= 0) yield { from, to }
          ;[from, to] = [u, u + 1]
        }
      }
    }
    if (from >= 0) yield { from, to }
  }

  /** Puts it where that costs least, as things stand, if that pays. */
  insert(i: number): void {
    const { need, division, weight } = this.demand(i)
    if (division.kind !== 'split') {
      const least = division.kind === 'whole' ? need : Math.min(division.least, need)
      let choice: Choice | null = null
      for (const of of this.best(i, { least, most: need }).values())
        for (const c of of) if (c && (!choice || c.worth < choice.worth)) choice = c
      if (choice && choice.worth - weight * COST.incomplete < 0) this.put(i, [choice.piece])
      return
    }
    this.put(i, this.divided(i, { least: Math.min(division.least, need), need, weight }))
  }

  /** Over the days, how much on each: the cheapest for each sum, then the best sum. */
  private divided(
    i: number,
    { least, need, weight }: { least: number; need: number; weight: number },
  ): Span[] {
    const best = this.best(i, { least, most: need })
    const days = [...best.keys()].sort((x, y) => x - y)
    let costs = new Float64Array(need + 1).fill(Infinity)
    costs[0] = 0
    const chosen: Int32Array[] = []
    for (const day of days) {
      const next = costs.slice()
      const choice = new Int32Array(need + 1)
      for (const [length, c] of (best.get(day) ?? []).entries()) {
        if (!c) continue
        for (let sum = length; sum <= need; sum++) {
          const cost = (costs[sum - length] ?? Infinity) + c.worth
          if (cost < (next[sum] ?? Infinity)) {
            next[sum] = cost
            choice[sum] = length
          }
        }
      }
      chosen.push(choice)
      costs = next
    }
    let [sum, least0] = [0, 0]
    for (let n = 1; n <= need; n++) {
      const cost = (costs[n] ?? Infinity) - (n === need ? weight * COST.incomplete : 0)
      if (cost < least0) [sum, least0] = [n, cost]
    }
    const pieces: Span[] = []
    for (let d = days.length - 1; d >= 0 && sum > 0; d--) {
      const length = chosen[d]?.[sum] ?? 0
      if (length === 0) continue
      const piece = best.get(days[d] ?? 0)?.[length]?.piece
      if (piece) pieces.unshift(piece)
      sum -= length
    }
    return pieces
  }
}

interface Choice {
  worth: number
  piece: Span
}
