import { COST, delayOf, gainOf, lossOf, shared, stays } from './cost.ts'
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
  private readonly pulls: readonly Pull[][]
  private readonly leaders: readonly { of: number; gap: number }[][]
  /** Of each stretch the longest run that is free; -1 where it has to be looked for. */
  private readonly longest: Int32Array
  private readonly supply: number
  /** By demand: the least that a unit costs beside; and what all before each unit cost, where that differs. */
  private readonly extra: readonly number[]
  private readonly extras: readonly (Float64Array | null)[]

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
    this.pulls = pullsOf(demands, followers, horizon)
    this.longest = new Int32Array(stretches.length).fill(-1)
    this.supply = Math.max(1, this.before[horizon] ?? 0)
    this.extra = demands.map(d => d.admitted.reduce((least, a) => Math.min(least, a.extra), Infinity))
    this.extras = extrasOf(demands, horizon)
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
    this.longest[this.stretchOf[piece.from] ?? 0] = -1
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
    this.total +=
      by * (COST.piece + delayOf(demand, piece, this.before) + this.extraAt(i, piece.from, piece.to))
  }

  private extraAt(i: number, from: number, to: number): number {
    const extras = this.extras[i]
    return extras ? (extras[to] ?? 0) - (extras[from] ?? 0) : (this.extra[i] ?? 0) * (to - from)
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

  /** How much work there is in one go right beside a unit, on one side; counted no further than matters. */
  private workBeside(unit: number, step: 1 | -1, { run, rest }: NonNullable<Instance['breaks']>): number {
    let [work, gap] = [0, 0]
    for (let u = step === 1 ? unit : unit - 1; u >= 0 && u < this.taken.length; u += step) {
      if (this.taken[u]) {
        work++
        gap = 0
        if (work > run) break
      } else if (++gap >= rest) break
    }
    return work
  }

  private isAllowed(i: number, day: number, from: number, to: number): boolean {
    const { breaks, days } = this.instance
    const of = days[day]
    if (!of) return false
    const inHours = Math.max(0, Math.min(to, of.hours.to) - Math.max(from, of.hours.from))
    if ((this.drafted[day] ?? 0) + inHours > of.capacity) return false
    const group = this.group[i] ?? -1
    if (group >= 0 && (this.grouped[group * days.length + day] ?? 0) > 0) return false
    if (!breaks) return true
    const left = breaks.run - (to - from) - this.workBeside(from, -1, breaks)
    return left >= 0 && this.workBeside(to, 1, breaks) <= left
  }

  /** What one piece costs and spares, without what only all of them together spare. */
  private worth(i: number, of: Scan, from: number, to: number): number {
    const { demand } = of
    const { planned } = demand
    const isNew = (this.used[this.placeOf(i, from)] ?? 0) === 0
    const extra = this.extraAt(i, from, to)
    const isKept = planned.length > 0 && planned.some(p => p.from === from && p.to === to)
    return (
      this.leastWorth(of, from, to - from) +
      extra -
      of.extra * (to - from) +
      (isNew ? COST.place : 0) -
      (isKept ? this.instance.moved : 0)
    )
  }

  /** No piece of this length that begins then or later is worth more, but that it stays where it was. */
  private leastWorth({ demand, extra }: Scan, from: number, length: number): number {
    const { weight, deadline, division, need, earliest } = demand
    const inTime = deadline === null ? 0 : Math.min(length, Math.max(0, deadline - from))
    const unplaced =
      division.kind === 'shrink'
        ? COST.unplaced * need - COST.shortened * (need - length)
        : COST.unplaced * length
    const waited = Math.max(0, (this.before[from] ?? 0) - (this.before[earliest] ?? 0))
    return (
      COST.piece +
      Math.floor((COST.delay * weight * length * waited) / this.supply) +
      extra * length -
      weight * (unplaced + COST.missed * inTime)
    )
  }

  /** What those that wait for it would lose where it ends then. */
  private pullOn(i: number, to: number): number {
    let lost = 0
    for (const { room, before, need, shift, each } of this.pulls[i] ?? []) {
      const left = before - (room[Math.min(to + shift, room.length - 1)] ?? 0)
      if (left < need) lost += each * (need - Math.max(0, left))
    }
    return lost
  }

  private random: (() => number) | null = null
  private passesOver = (): boolean => this.random !== null && this.random() < PASSED_OVER
  /** Now and then it is given less than it might have. */
  private lengthsFor(least: number, most: number): number {
    if (this.random === null || most <= least || this.random() >= CUT_SHORT) return most
    return least + Math.floor(this.random() * (most - least))
  }

  private scan(i: number): Scan | null {
    const ready = this.readyAt(i)
    if (ready === null) return null
    return { demand: this.demand(i), ready, extra: this.extra[i] ?? 0, extras: this.extras[i] ?? null }
  }

  /** The longest run that is free in a stretch. */
  private longestIn(stretch: number): number {
    const known = this.longest[stretch] ?? -1
    if (known >= 0) return known
    const { from, to } = this.instance.stretches[stretch] ?? { from: 0, to: 0 }
    let [run, most] = [0, 0]
    for (let u = from; u < to; u++) {
      run = this.taken[u] ? 0 : run + 1
      if (run > most) most = run
    }
    this.longest[stretch] = most
    return most
  }

  /** Where nothing stands and it may, in one stretch, each as long as it goes and no shorter than that; in order. */
  private freeRuns({ demand, ready }: Scan, least: number): Span[] {
    const runs: Span[] = []
    const { taken, stretchOf } = this
    let [from, to] = [-1, -1]
    for (const a of demand.admitted) {
      if (a.to <= ready || this.longestIn(stretchOf[a.from] ?? 0) < least) continue
      const begin = Math.max(a.from, ready)
      // What goes on where the last one ended, in the same stretch, is one with it.
      if (from >= 0 && !(begin === to && stretchOf[begin] === stretchOf[from])) {
        if (to - from >= least) runs.push({ from, to })
        from = -1
      }
      for (let u = begin; u < a.to; u++) {
        if (!taken[u]) {
          if (from < 0) from = u
          to = u + 1
        } else if (from >= 0) {
          if (to - from >= least) runs.push({ from, to })
          from = -1
        }
      }
    }
    if (from >= 0 && to - from >= least) runs.push({ from, to })
    return runs
  }

  /**
   * Puts it where that costs least, as things stand, if that pays.
   * @param random now and then what would be best is passed over, so that others find room; null: never
   */
  insert(i: number, random: (() => number) | null = null): void {
    this.random = random
    const of = this.scan(i)
    if (!of) return
    if (of.demand.division.kind === 'split') {
      // What is not placed as a whole helps none of those that wait for it.
      const early = this.divided(i, of, true)
      const isEnough = (this.pulls[i] ?? []).length === 0 || unitsOf(early) === of.demand.need
      this.put(i, isEnough ? early : this.divided(i, of, false))
    } else {
      const piece = this.single(i, of)
      if (piece) this.put(i, [piece])
    }
  }

  /** The best single piece, where it pays. */
  private single(i: number, of: Scan): Span | null {
    const { need, division, weight, planned } = of.demand
    const least = division.kind === 'whole' ? need : Math.min(division.least, need)
    let choice: Span | null = null
    // What it spares by itself has to pay, whatever waits for it.
    const most = weight * COST.incomplete
    let best = Infinity
    const consider = (from: number, to: number): void => {
      const worth = this.worth(i, of, from, to)
      const score = worth + this.pullOn(i, to)
      if (worth < most && score < best) [best, choice] = [score, { from, to }]
    }
    for (const p of planned) {
      const isLong = lengthOf(p) >= least && lengthOf(p) <= need
      if (
        isLong &&
        p.from >= of.ready &&
        this.isFree(of, p) &&
        this.isAllowed(i, this.dayOf[p.from] ?? 0, p.from, p.to)
      )
        consider(p.from, p.to)
    }
    const cut = this.lengthsFor(least, need)
    for (const run of this.freeRuns(of, least)) {
      if (this.leastWorth(of, run.from, need) >= Math.min(best, most)) break
      if (this.passesOver()) continue
      const late = this.passesOver()
      for (let length = Math.min(cut, lengthOf(run), this.roomOn(run)); length >= least; length--) {
        let last = -1
        // At its end, once in a while, so that what is before it stays whole.
        for (let from = late ? run.to - length : run.from; from + length <= run.to; from++) {
          const day = this.dayOf[from] ?? 0
          // Within one day the first that is allowed waits the least.
          if (day === last) continue
          if (this.leastWorth(of, from, length) >= Math.min(best, most)) break
          if (!this.isAllowed(i, day, from, from + length)) continue
          consider(from, from + length)
          if (!of.extras) last = day
        }
      }
    }
    return choice
  }

  /** As much as the day of a run still holds, where all of it is within that day’s working hours. */
  private roomOn({ from, to }: Span): number {
    const n = this.dayOf[from] ?? 0
    const day = this.instance.days[n]
    if (!day || from < day.hours.from || to > day.hours.to) return to - from
    return day.capacity - (this.drafted[n] ?? 0)
  }

  private isFree({ demand }: Scan, { from, to }: Span): boolean {
    for (let u = from; u < to; u++) {
      if (this.taken[u] || this.stretchOf[u] !== this.stretchOf[from]) return false
      if (!demand.admitted.some(a => a.from <= u && u < a.to)) return false
    }
    return (this.stretchOf[from] ?? -1) >= 0
  }

  /** The best piece of each length on each day, until there is room enough for twice what it needs. */
  private byDay(i: number, of: Scan, isPulled: boolean): Map<number, (Choice | undefined)[]> {
    const { need, division, planned } = of.demand
    const least = division.kind === 'split' ? Math.min(division.least, need) : need
    const found = new Map<number, (Choice | undefined)[]>()
    const consider = (day: number, from: number, to: number): boolean => {
      if (!this.isAllowed(i, day, from, to)) return false
      const worth = this.worth(i, of, from, to) + (isPulled ? this.pullOn(i, to) : 0)
      let choices = found.get(day)
      if (!choices) found.set(day, (choices = []))
      const known = choices[to - from]
      if (!known || worth < known.worth) choices[to - from] = { worth, piece: { from, to } }
      return true
    }
    for (const run of this.freeRuns(of, least)) {
      // Later days are not looked at where earlier ones have room for twice as much, and cost no more.
      if (!of.extras && !found.has(this.dayOf[run.from] ?? 0) && roomIn(found) >= 2 * need) break
      if (this.passesOver()) continue
      const late = this.passesOver()
      const cut = this.lengthsFor(least, Math.min(need, lengthOf(run), this.roomOn(run)))
      for (let length = cut; length >= least; length--) {
        let last = -1
        for (let from = late ? run.to - length : run.from; from + length <= run.to; from++) {
          const day = this.dayOf[from] ?? 0
          if (day === last) continue
          if (consider(day, from, from + length) && !of.extras) last = day
        }
      }
    }
    for (const p of planned)
      if (lengthOf(p) >= least && lengthOf(p) <= need && p.from >= of.ready && this.isFree(of, p))
        consider(this.dayOf[p.from] ?? 0, p.from, p.to)
    return found
  }

  /** Over the days, how much on each: the cheapest for each sum, then the best sum. */
  private divided(i: number, of: Scan, isPulled: boolean): Span[] {
    const { need, weight } = of.demand
    const best = this.byDay(i, of, isPulled)
    const days = [...best.keys()].sort((x, y) => x - y)
    let costs = new Float64Array(need + 1).fill(Infinity)
    costs[0] = 0
    const chosen: Int32Array[] = []
    for (const day of days) {
      const next = costs.slice()
      const choice = new Int32Array(need + 1)
      const choices = best.get(day) ?? []
      for (let length = 1; length < choices.length; length++) {
        const worth = choices[length]?.worth
        if (worth === undefined) continue
        for (let sum = length; sum <= need; sum++) {
          const cost = (costs[sum - length] ?? Infinity) + worth
          if (cost < (next[sum] ?? Infinity)) {
            next[sum] = cost
            choice[sum] = length
          }
        }
      }
      chosen.push(choice)
      costs = next
    }
    let [sum, least] = [0, 0]
    for (let n = 1; n <= need; n++) {
      const cost = (costs[n] ?? Infinity) - (n === need ? weight * COST.incomplete : 0)
      if (cost < least) [sum, least] = [n, cost]
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

/** A demand that is looked at: from when on it is ready, and what a unit costs beside, at least and up to each unit. */
interface Scan {
  demand: Demand
  ready: number
  extra: number
  /** Null where it is the same everywhere. */
  extras: Float64Array | null
}

/** How often a place is passed over, or a length cut short. */
const PASSED_OVER = 0.04
const CUT_SHORT = 0.12

interface Choice {
  worth: number
  piece: Span
}

/** As much as could be placed, with the longest piece on each day. */
const roomIn = (found: ReadonlyMap<number, readonly (Choice | undefined)[]>): number =>
  [...found.values()].reduce((sum, choices) => sum + choices.length - 1, 0)

/** Something waits for it, with a deadline: what room there is for that, before each unit and before its deadline. */
interface Pull {
  room: Int32Array
  before: number
  need: number
  /** So much later than this ends, that begins. */
  shift: number
  each: number
}

/** By demand, also by what waits for what waits for it. */
function pullsOf(
  demands: readonly Demand[],
  followers: readonly (readonly number[])[],
  horizon: number,
): Pull[][] {
  const known: (Pull[] | undefined)[] = demands.map(() => undefined)
  const of = (i: number): Pull[] => {
    const before = known[i]
    if (before) return before
    // What goes round in a circle pulls nothing.
    known[i] = []
    const pulls = (followers[i] ?? []).flatMap((f): Pull[] => {
      const follower = demands[f]
      if (!follower) return []
      const { need, weight, deadline, division, after, admitted } = follower
      const shift = after.find(a => a.id === demands[i]?.id)?.gap ?? 0
      const room = supplyBefore({ horizon, stretches: admitted })
      const own =
        deadline === null
          ? []
          : [{ room, before: room[deadline] ?? 0, need, shift, each: COST.missed * weight }]
      const least = division.kind === 'shrink' ? Math.min(division.least, need) : need
      return [...own, ...of(f).map(p => ({ ...p, shift: p.shift + least + shift }))]
    })
    return (known[i] = pulls.slice(0, MOST_PULLS))
  }
  return demands.map((_, i) => of(i))
}
const MOST_PULLS = 16

/** Demands that may stand in the same places share one. */
function extrasOf(demands: readonly Demand[], horizon: number): (Float64Array | null)[] {
  const known = new Map<string, Float64Array>()
  return demands.map(({ admitted }) => {
    if (new Set(admitted.map(a => a.extra)).size <= 1) return null
    const key = JSON.stringify(admitted)
    const before = known.get(key)
    if (before) return before
    const extras = new Float64Array(horizon + 1)
    for (const a of admitted) for (let u = a.from; u < a.to; u++) extras[u + 1] = a.extra
    for (let u = 0; u < horizon; u++) extras[u + 1] = (extras[u + 1] ?? 0) + (extras[u] ?? 0)
    known.set(key, extras)
    return extras
  })
}
