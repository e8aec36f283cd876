import { Board } from './board.ts'
import { type Cost, costOf, lossOf } from './cost.ts'
import type { Instance, Placement } from './instance.ts'

/**
 * Looks for a cheap draft: built in several orders, then some of it taken out and put in again, over and over. The same
 * instance and seed make the same draft; it ends after a number of rounds that follows from the size alone.
 */

export interface Draft {
  placement: Placement
  cost: Cost
  /** It was cancelled before its last round. */
  isUnfinished: boolean
}

export class Search {
  readonly rounds: number
  private done = 0
  private readonly board: Board
  private readonly random: () => number
  /** Numbers as from `random`, had more cheaply. */
  private readonly noise: Float64Array
  /** Where each counts to be while it stands nowhere. */
  private readonly rest: Int32Array
  private best: { pieces: Board['pieces']; total: number }
  /** Demands in an order in which each comes after all that it waits for. */
  private readonly order: readonly number[]

  /** @param effort how many times the usual number of rounds: more for trials, fewer for each of several people */
  constructor(instance: Instance, seed: number, effort = 1) {
    // What comes in another order is the same instance.
    const demands = [...instance.demands].sort((x, y) => (x.id < y.id ? -1 : 1))
    this.board = new Board({ ...instance, demands })
    this.random = seeded(seed)
    this.noise = Float64Array.from({ length: NOISE }, () => this.random())
    this.rest = Int32Array.from(demands, d => d.deadline ?? d.earliest)
    this.order = inOrder(this.board)
    this.rounds = Math.ceil(roundsFor(demands.length) * effort)
    this.best = { pieces: demands.map(() => []), total: this.board.total }
    this.build()
  }

  get isDone(): boolean {
    return this.done >= this.rounds
  }
  /** 0 to 1. */
  get progress(): number {
    return this.rounds === 0 ? 1 : this.done / this.rounds
  }

  draft(): Draft {
    const board = new Board(this.board.instance)
    for (const [i, pieces] of this.best.pieces.entries()) if (pieces.length > 0) board.put(i, pieces)
    settle(board, this.order)
    const placement = board.placement()
    return { placement, cost: costOf(board.instance, placement), isUnfinished: !this.isDone }
  }

  /** Goes on for so many rounds; what is best so far can be had after each call. */
  step(rounds: number): void {
    for (let n = 0; n < rounds && !this.isDone; n++) {
      if (this.done > 0 && this.done % this.perStart === 0) this.beginAnew()
      this.round()
      this.done++
    }
  }

  /** Small ones are begun several times, as one start may lead to where nothing better is near. */
  private get perStart(): number {
    return Math.ceil(this.rounds / (this.board.pieces.length < SMALL ? STARTS : 1))
  }
  private get progressOfStart(): number {
    return (this.done % this.perStart) / this.perStart
  }
  private beginAnew(): void {
    const { board } = this
    for (const i of this.order) board.take(i)
    for (const i of this.afterLeaders(this.shuffled(this.order))) board.insert(i, this.random)
    this.keep()
  }

  private keep(): void {
    if (this.board.total >= this.best.total) return
    this.best = { pieces: this.board.pieces.map(p => [...p]), total: this.board.total }
  }

  /** In several orders, of which the cheapest is where the search begins. */
  private build(): void {
    const { board } = this
    const all = [...this.order]
    const by = (key: (i: number) => number): number[] =>
      this.afterLeaders([...all].sort((x, y) => key(x) - key(y) || x - y))
    const far = board.instance.horizon + 1
    const demand = (i: number) => board.demand(i)
    const orders = [
      by(i => -this.worthOf(i)),
      by(i => -demand(i).weight),
      by(i => demand(i).deadline ?? far),
      by(i => (demand(i).deadline ?? far) / demand(i).weight),
      by(i => -demand(i).weight * demand(i).need),
      by(i => demand(i).need / demand(i).weight),
    ]
    for (const order of orders) {
      for (const i of order) board.insert(i)
      this.keep()
      for (const i of order) board.take(i)
    }
    this.restore()
  }

  private restore(): void {
    for (const i of this.order) if ((this.board.pieces[i] ?? []).length > 0) this.board.take(i)
    for (const [i, pieces] of this.best.pieces.entries()) if (pieces.length > 0) this.board.put(i, pieces)
  }

  /** The same order, but none before what it waits for. */
  private afterLeaders(order: readonly number[]): number[] {
    const waits = order.filter(i => this.board.demand(i).after.length > 0)
    if (waits.length === 0) return [...order]
    const out: number[] = []
    const put = new Set<number>()
    const add = (i: number): void => {
      if (put.has(i)) return
      put.add(i)
      for (const { id } of this.board.demand(i).after) {
        const of = this.board.index.get(id)
        if (of !== undefined) add(of)
      }
      out.push(i)
    }
    for (const i of order) add(i)
    return out
  }

  private round(): void {
    const { board } = this
    if (board.pieces.length === 0) return
    const out = this.chosen()
    const before = board.total
    const were = new Map(out.map(i => [i, board.take(i)] as const))
    for (const i of this.afterLeaders(this.shuffled(out))) if (were.has(i)) board.insert(i, this.random)
    // Now and then something worse is gone on from, less and less so.
    const heat = Math.max(30, (0.02 * this.best.total) / board.pieces.length) * 0.002 ** this.progressOfStart
    const isKept =
      board.total <= before || this.random() < Math.exp((before - board.total) / Math.max(1, heat))
    if (isKept) return this.keep()
    for (const i of out) board.take(i)
    for (const [i, pieces] of were) if (pieces.length > 0) board.put(i, pieces)
  }

  /** Some demands that have to do with one another, with all that wait for them. */
  private chosen(): number[] {
    const { board } = this
    const n = board.pieces.length
    const count = Math.min(n, 2 + Math.floor(this.random() * 7))
    const first = Math.floor(this.random() * n)
    const kind = this.random()
    const seed = kind < 0.35 ? this.lostAfter(first) : first
    const away = this.distance(seed, kind)
    // The nearest, the furthest of them last.
    const near: number[] = []
    const far: number[] = []
    for (let i = 0; i < n; i++) {
      const distance = i === seed ? -1 : away(i)
      if (near.length === count && distance >= (far[count - 1] ?? 0)) continue
      let at = Math.min(near.length, count - 1)
      while (at > 0 && distance < (far[at - 1] ?? 0)) {
        far[at] = far[at - 1] ?? 0
        near[at] = near[at - 1] ?? 0
        at--
      }
      far[at] = distance
      near[at] = i
    }
    const all = new Set<number>()
    const add = (i: number): void => {
      if (all.has(i)) return
      all.add(i)
      for (const f of board.followers[i] ?? []) add(f)
    }
    for (const i of near) add(i)
    return [...all]
  }

  /** The next one, from there on, that is not placed as a whole; else that one itself. */
  private lostAfter(first: number): number {
    const n = this.board.pieces.length
    for (let k = 0; k < n; k++) if (!this.board.isComplete((first + k) % n)) return (first + k) % n
    return first
  }

  private distance(seed: number, kind: number): (i: number) => number {
    const { board } = this
    const own = board.demand(seed)
    const shift = Math.floor(this.random() * NOISE)
    const noise = (i: number): number => this.noise[(i * 7 + shift) % NOISE] ?? 0
    const at = (i: number): number => board.pieces[i]?.[0]?.from ?? this.rest[i] ?? 0
    if (kind < 0.35) {
      // Those that stand where it could: what it might be exchanged with.
      const end = own.deadline ?? board.instance.horizon
      const target = own.earliest + Math.floor(this.random() * Math.max(1, end - own.earliest))
      return i => (board.pieces[i]?.length ? Math.abs(at(i) - target) + 12 * noise(i) : 1e6 * noise(i))
    }
    if (kind < 0.65) {
      const from = at(seed)
      return i => Math.abs(at(i) - from) + 12 * noise(i)
    }
    if (kind < 0.8) return i => (board.demand(i).category === own.category ? 0 : 1000) + 12 * noise(i)
    return noise
  }

  private shuffled(out: readonly number[]): number[] {
    const kind = this.random()
    const { board } = this
    const key = new Map(
      out.map(i => {
        const { weight, need, deadline } = board.demand(i)
        const about = 0.7 + 0.6 * this.random()
        if (kind < 0.35) return [i, about]
        if (kind < 0.7) return [i, -this.worthOf(i) * about]
        return [i, (kind < 0.85 ? (deadline ?? board.instance.horizon) / weight : -need) * about]
      }),
    )
    return [...out].sort((x, y) => (key.get(x) ?? 0) - (key.get(y) ?? 0) || x - y)
  }

  /** What a unit of it spares. */
  private worthOf(i: number): number {
    const demand = this.board.demand(i)
    return lossOf(demand) / demand.need
  }
}

/** Each by itself where it is best as all others stand, until none gains: so that there is a reason for each place. */
function settle(board: Board, order: readonly number[]): void {
  for (let before = Infinity; board.total < before;) {
    before = board.total
    for (const i of order) {
      const total = board.total
      const were = board.take(i)
      board.insert(i)
      const pieces = board.pieces[i] ?? []
      if (board.total < total && pieces.every(p => isBeforeFollowers(board, i, p.to))) continue
      board.take(i)
      if (were.length > 0) board.put(i, were)
    }
  }
}

function isBeforeFollowers(board: Board, i: number, end: number): boolean {
  const { id } = board.demand(i)
  return (board.followers[i] ?? []).every(f => {
    const gap = board.demand(f).after.find(a => a.id === id)?.gap ?? 0
    const pieces = board.pieces[f] ?? []
    return pieces.every(p => p.from >= end + gap) && (pieces.length === 0 || board.isComplete(i))
  })
}

/** Each after all that it waits for; what goes round in a circle stays where it is, and is never ready. */
function inOrder(board: Board): number[] {
  const out: number[] = []
  const seen = new Set<number>()
  const add = (i: number): void => {
    if (seen.has(i)) return
    seen.add(i)
    for (const { id } of board.demand(i).after) {
      const of = board.index.get(id)
      if (of !== undefined) add(of)
    }
    out.push(i)
  }
  for (let i = 0; i < board.pieces.length; i++) add(i)
  return out
}

const NOISE = 4093
const SMALL = 14
const STARTS = 5

const roundsFor = (demands: number): number =>
  demands < SMALL ? Math.min(4000, 500 * demands) : Math.min(4000, 1000 + 10 * demands)

/** Numbers from 0 to below 1 that follow from the seed (mulberry32). */
export function seeded(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let t = state
    t = Math.imul(t ^ (t >>> 15), t | 1)
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61)
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296
  }
}

/** From beginning to end. */
export function draftOf(instance: Instance, seed: number, effort = 1): Draft {
  const search = new Search(instance, seed, effort)
  search.step(search.rounds)
  return search.draft()
}
