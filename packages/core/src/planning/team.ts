import type { Wait } from './demand.ts'
import {
  type Asked,
  type DraftPiece,
  type NotEarlierTold,
  type PinnedPiece,
  Plan,
  type Told,
} from './plan.ts'
import { remediesFor, type Remedy } from './remedies.ts'
import type { Draft, Search } from './search.ts'

/**
 * A draft for several people: person by person, in the order of what waits for what. What may be done by any of
 * several is done by one. What keeps somebody waiting until another has their time is drafted once that is known.
 */

export interface AskedOf {
  person: string
  asked: Asked
}
export type PieceOf = DraftPiece & { person: string }
export type NotPlacedOf = Told['notPlaced'][number] & { person: string }
export interface TeamTold extends Omit<Told, 'pieces' | 'notPlaced'> {
  /** By their beginning. */
  pieces: PieceOf[]
  notPlaced: NotPlacedOf[]
}

/** One draft of one person; what was placed in an earlier one of theirs is pinned in it. */
interface Run {
  asked: Asked
  plan: Plan
  draft: Draft
  told: Told
}
interface Doer {
  person: string
  asked: Asked
  runs: Run[]
  /** Something may be placed now that could not when this was drafted last. */
  isStale: boolean
}

/** How often somebody is drafted again because something else has its time now: each time something more is placed. */
const MOST_RUNS = 8
const LEAST_EFFORT = 0.1

export class TeamSearch {
  private readonly doers: Doer[]
  /** Of what may be done by several: who does it, and who could not. */
  private readonly doerOf = new Map<string, string>()
  private readonly tried = new Map<string, Set<string>>()
  /** What had no room beside a stay where it is done: it takes its own ways. */
  private readonly carried = new Set<string>()
  private current: { doer: Doer; asked: Asked; plan: Plan; search: Search } | null = null
  private isCut = false
  /** Together they take little longer than one alone. */
  private readonly effort: number

  constructor(
    all: readonly AskedOf[],
    private readonly seed: number,
  ) {
    this.doers = inOrder(all).map(a => ({ ...a, runs: [], isStale: true }))
    this.effort = Math.max(LEAST_EFFORT, 1 / Math.max(1, all.length))
    this.share()
    this.next()
  }

  get isDone(): boolean {
    return this.current === null
  }
  /** 0 to 1. */
  get progress(): number {
    const done = this.doers.filter(d => d.runs.length > 0 && d !== this.current?.doer).length
    const all = Math.max(1, this.doers.length)
    return this.current ? Math.min(0.99, (done + this.current.search.progress) / all) : 1
  }

  step(rounds: number): void {
    if (!this.current) return
    this.current.search.step(rounds)
    if (this.current.search.isDone) this.settle()
  }

  /** All at once, each with so many rounds at most. */
  finish(rounds = Infinity): void {
    while (this.current) {
      this.current.search.step(Math.min(rounds, this.current.search.rounds))
      this.isCut ||= !this.current.search.isDone
      this.settle()
    }
  }

  told(): TeamTold {
    const all = this.doers.map(doer => ({ doer, runs: this.runsOf(doer) }))
    const each = <T>(of: (run: Run, doer: Doer) => readonly T[]): T[] =>
      all.flatMap(({ doer, runs }) => runs.flatMap(r => of(r, doer)))
    const last = <T>(of: (run: Run, doer: Doer) => readonly T[]): T[] =>
      all.flatMap(({ doer, runs }) => {
        const run = runs.at(-1)
        return run ? of(run, doer) : []
      })
    const late = new Map<string, number>()
    for (const l of each(r => r.told.late)) late.set(l.id, (late.get(l.id) ?? 0) + l.minutes)
    return {
      pieces: all
        .flatMap(({ doer, runs }) => piecesOf(doer, runs))
        .sort((x, y) => x.fromMs - y.fromMs || (x.id < y.id ? -1 : 1)),
      notPlaced: last((r, { person }) => r.told.notPlaced.map(n => ({ ...n, person }))),
      late: [...late].map(([id, minutes]) => ({ id, minutes })),
      left: last(r => r.told.left),
      withoutEstimate: [...new Set(each(r => r.told.withoutEstimate))],
      windows: last(r => r.told.windows),
      isUnfinished: this.isCut || this.current !== null,
    }
  }

  /** Why a piece of theirs begins no earlier. */
  whyNotEarlier(person: string, id: string, fromMs: number): NotEarlierTold[] {
    for (const { plan, draft } of this.runsOfPerson(person)) {
      const why = plan.whyNotEarlier(draft, id, fromMs)
      if (why.length > 0) return why
    }
    return []
  }

  /** What would give a task its time with them. */
  remedies(person: string, id: string): Remedy[] {
    const last = this.runsOfPerson(person).at(-1)
    return last ? remediesFor(last.asked, last.told, id) : []
  }

  private runsOfPerson(person: string): Run[] {
    const doer = this.doers.find(d => d.person === person)
    return doer ? this.runsOf(doer) : []
  }
  /** With what there is so far of the one that is being drafted. */
  private runsOf(doer: Doer): Run[] {
    const { current } = this
    if (current?.doer !== doer) return doer.runs
    const draft = current.search.draft()
    return [...doer.runs, { ...current, draft, told: current.plan.told(draft) }]
  }

  private settle(): void {
    if (!this.current) return
    const { doer, asked, plan, search } = this.current
    const draft = search.draft()
    doer.runs.push({ asked, plan, draft, told: plan.told(draft) })
    this.next()
  }

  private next(): void {
    this.current = null
    if (!this.doers.some(d => d.isStale)) this.lookAgain()
    const doer = this.doers.find(d => d.isStale)
    if (!doer) return
    doer.isStale = false
    const asked = this.askedNow(doer)
    const plan = new Plan(asked)
    this.current = { doer, asked, plan, search: plan.search(this.seed, this.effort) }
  }

  /** Who is to be drafted once more, as what they wait for has its time now, or another cannot do it. */
  private lookAgain(): void {
    for (const doer of this.doers) {
      const last = doer.runs.at(-1)
      if (!last || doer.runs.length >= MOST_RUNS) continue
      for (const n of last.told.notPlaced) this.handOn(n.id, doer)
      for (const { id } of last.told.notPlaced)
        if (last.plan.isBeside(id)) {
          this.carried.add(id)
          doer.isStale = true
        }
      const waits = new Map(last.asked.tasks.map(t => [t.id, t.waitsFor]))
      const isKnownNow = (w: Wait): boolean => w.endsMs === null && this.endOf(w, doer.person) !== null
      if (last.told.left.some(l => l.because === 'waits' && waits.get(l.id)?.some(isKnownNow)))
        doer.isStale = true
    }
  }

  private handOn(id: string, from: Doer): void {
    const tried = this.tried.get(id)
    if (!tried || this.doerOf.get(id) !== from.person) return
    if (piecesOf(from, from.runs).some(p => p.id === id)) return
    tried.add(from.person)
    const to = this.doers.find(d => !tried.has(d.person) && d.asked.tasks.some(t => t.id === id))
    if (!to) return
    this.doerOf.set(id, to.person)
    to.isStale = from.isStale = true
  }

  /** What may be done by several is given to whoever has most room for it, what presses first. */
  private share(): void {
    const room = new Map(this.doers.map(d => [d.person, roomOf(d.asked)]))
    const several = new Map<string, { doers: Doer[]; pressure: number; minutes: number }>()
    for (const doer of this.doers)
      for (const { id, pressure, estimate } of doer.asked.tasks) {
        const minutes = estimate ?? doer.asked.terms.defaultMinutes
        const known = several.get(id) ?? { doers: [], pressure, minutes }
        known.doers.push(doer)
        several.set(id, known)
      }
    const spend = (doer: Doer, minutes: number): void =>
      void room.set(doer.person, (room.get(doer.person) ?? 0) - minutes)
    for (const { doers, minutes } of several.values())
      if (doers.length === 1 && doers[0]) spend(doers[0], minutes)
    const shared = [...several].filter(([, s]) => s.doers.length > 1)
    shared.sort(([x, a], [y, b]) => b.pressure - a.pressure || (x < y ? -1 : 1))
    for (const [id, { doers, minutes }] of shared) {
      const holds = doers.find(d => d.asked.pinned.some(p => p.id === id))
      const most = doers.reduce((best, d) =>
        (room.get(d.person) ?? 0) > (room.get(best.person) ?? 0) ? d : best,
      )
      const doer = holds ?? most
      this.doerOf.set(id, doer.person)
      this.tried.set(id, new Set())
      spend(doer, minutes)
    }
  }

  private askedNow({ person, asked, runs }: Doer): Asked {
    const placed = piecesOf({ person, asked }, runs).filter(p => !p.isPinned)
    const tasks = asked.tasks
      .filter(t => (this.doerOf.get(t.id) ?? person) === person)
      .map(t => ({
        ...t,
        ...(t.trip && this.carried.has(t.id) && { trip: { ...t.trip, beside: [] } }),
        waitsFor: t.waitsFor.map(w => ({ ...w, endsMs: this.endOf(w, person) ?? w.endsMs })),
      }))
    return { ...asked, tasks, pinned: [...asked.pinned, ...placed.map(heldStill)] }
  }

  /** When what another does is over, where all of it has its time; what is one’s own is minded by the draft itself. */
  private endOf({ id }: Wait, but: string): number | null {
    for (const doer of this.doers) {
      if (doer.person === but) continue
      const last = doer.runs.at(-1)
      const own = piecesOf(doer, doer.runs).filter(p => p.id === id)
      if (!last || own.length === 0 || last.told.notPlaced.some(n => n.id === id)) continue
      return Math.max(...own.map(p => p.toMs))
    }
    return null
  }
}

const KEPT = ' kept'
/** A regular's name tells which of the week it is; one that is held leaves that to those still to be placed. */
const heldStill = ({ id, regular, fromMs, toMs }: DraftPiece): PinnedPiece => ({
  id: regular === null ? id : `${id}${KEPT}`,
  regular,
  fromMs,
  toMs,
})

/** All that is placed of theirs: what a later draft holds still is told as it was drafted. */
function piecesOf({ person, asked }: Pick<Doer, 'person' | 'asked'>, runs: readonly Run[]): PieceOf[] {
  const last = runs.at(-1)
  if (!last) return []
  const isPinned = (p: DraftPiece): boolean =>
    p.isPinned && asked.pinned.some(o => o.id === p.id && o.fromMs === p.fromMs && o.toMs === p.toMs)
  return last.told.pieces.map(p => ({ ...p, isPinned: isPinned(p), person }))
}

/** Minutes that may be drafted. */
const roomOf = (asked: Asked): number => {
  const { days } = new Plan({ ...asked, tasks: [], regulars: [] }).instance
  return days.reduce((sum, d) => sum + d.capacity, 0) * UNIT_MINUTES
}
const UNIT_MINUTES = 5

/** Whoever others wait for comes first; where they wait for one another, whoever waits for fewest. */
function inOrder(all: readonly AskedOf[]): AskedOf[] {
  const owner = new Map(all.flatMap(({ person, asked }) => asked.tasks.map(t => [t.id, person] as const)))
  const left = new Map(all.map(a => [a.person, a]))
  const waitsFor = ({ person, asked }: AskedOf): number =>
    new Set(
      asked.tasks.flatMap(t =>
        t.waitsFor.flatMap(w => {
          const other = w.endsMs === null ? owner.get(w.id) : undefined
          return other !== undefined && other !== person && left.has(other) ? [other] : []
        }),
      ),
    ).size
  const order: AskedOf[] = []
  while (left.size > 0) {
    const [first] = [...left.values()].sort(
      (x, y) => waitsFor(x) - waitsFor(y) || (x.person < y.person ? -1 : 1),
    )
    if (!first) break
    order.push(first)
    left.delete(first.person)
  }
  return order
}
