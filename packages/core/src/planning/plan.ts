import { dayAt, MINUTE } from '../time/when.ts'
import { COST } from './cost.ts'
import type { WorkingHours } from '../view/rows.ts'
import {
  instanceOf,
  type NotPlanned,
  type PlanTerms,
  type TaskToPlan,
  type Wanted,
  wantedOf,
} from './demand.ts'
import { type Demand, type Instance, type Placement, type Span, unitsOf } from './instance.ts'
import { type Blocker, whyNotEarlier, whyNotPlaced } from './reasons.ts'
import { demandsOfRegular, type Regular } from './regulars.ts'
import { type Draft, Search } from './search.ts'
import { type Axis, axisOf, dearerWithin, msOf, type Supply, supplyOf, type Taken } from './supply.ts'
import type { Stretch } from './laid-pieces.ts'
import { withItsWays } from './trips.ts'
import { spansOf, type WorkWindow } from './windows.ts'

/** What one person asks to have planned, and a draft told in epoch ms and by the ids that were asked with. */

export interface Asked {
  now: number
  zone: string
  /** Today and those after it. */
  days: number
  hours: WorkingHours
  tasks: readonly TaskToPlan[]
  taken: readonly Taken[]
  windows: readonly WorkWindow[]
  regulars: readonly Regular[]
  /** The dates on which each regular was done or is planned already, by its id. */
  had: Readonly<Record<string, readonly string[]>>
  terms: PlanTerms
  /** Minutes. */
  breaks: { after: number; rest: number } | null
  /** Pieces of this draft that stay where they were put. */
  pinned: readonly PinnedPiece[]
  /** What a planned piece costs that does not stay; 20 where a person asks. */
  moved?: Instance['moved']
  /** Time that is offered to guests: it is used where there is hardly any other. Epoch ms. */
  offered?: readonly Stretch[]
  /** What of the taken may give way to something that has no place, where a person takes that. */
  mayMove?: readonly MayMove[]
}

/** Something that stands and is theirs to move, by its key. Epoch ms. */
export interface MayMove {
  key: string
  fromMs: number
  toMs: number
}

export interface PinnedPiece {
  /** The task's; of a regular, its own. */
  id: string
  regular: string | null
  fromMs: number
  toMs: number
  /** No work to be placed: what stands already, by its key, and goes here. */
  givesWay?: true
}

export interface DraftPiece extends PinnedPiece {
  isPinned: boolean
}

export type WhyNotTold =
  | { kind: 'no room' | 'days full' | 'no rest' }
  /** Alone, no more than so many minutes of it could be placed. */
  | { kind: 'too little'; minutes: number }
  | { kind: 'waits'; for: string }
  | { kind: 'others came first'; whose: readonly string[] }

export interface Told {
  /** By their beginning. */
  pieces: DraftPiece[]
  /** `minutes`: what of it has no place. */
  notPlaced: { id: string; regular: string | null; minutes: number; why: WhyNotTold }[]
  /** What of it stands after its deadline, minutes. */
  late: { id: string; minutes: number }[]
  /** Asked for and no part of the draft. */
  left: NotPlanned[]
  /** Counted with the default. */
  withoutEstimate: string[]
  /** Of each work window's spans the minutes that are free for it, and those that the draft takes. */
  windows: { id: string; fromMs: number; toMs: number; free: number; drafted: number }[]
  isUnfinished: boolean
}

export type BlockerTold =
  | Exclude<Blocker, { kind: 'day full' }>
  /** `date` in the zone of whoever works. */
  | { kind: 'day full'; date: string }
  /** One would have to go there and back on purpose, or from another place. */
  | { kind: 'further ways' }
export interface NotEarlierTold {
  fromMs: number
  toMs: number
  blocker: BlockerTold
}

const GRID = 5
/** Reasons are sought for so many of those that are not placed. */
const MOST_REASONS = 100

export class Plan {
  readonly instance: Instance
  private readonly axis: Axis
  private readonly supply: Supply
  private readonly wanted: Wanted
  private readonly spans: ReturnType<typeof spansOf>

  constructor(private readonly asked: Asked) {
    const { hours, windows, regulars, pinned, terms, breaks, zone } = asked
    const axis = axisOf(asked.now, asked.days, zone, GRID)
    this.spans = windows.flatMap(w => spansOf(w, axis.dates, hours))
    const taken = [...asked.taken, ...pinned.flatMap(p => takenBy(p, asked.tasks))]
    const supply = supplyOf(hours, taken, this.spans, axis)
    const tasks = asked.tasks.map(t => ({ ...t, reserved: t.reserved + pinnedMinutes(pinned, t.id) }))
    this.wanted = wantedOf(tasks, hours, supply, terms, endsOf(pinned))
    const wantedAgain = regulars.flatMap(r => {
      const put = pinned.flatMap(p => (p.regular === r.id ? [dayAt(p.fromMs, zone)] : []))
      const stands = new Set([...(asked.had[r.id] ?? []), ...put])
      return demandsOfRegular(r, supply, zone, stands)
    })
    const units = (minutes: number): number => Math.ceil(minutes / axis.grid)
    this.axis = axis
    this.supply = supply
    this.instance = instanceOf(
      supply,
      { demands: this.besideOffers([...this.wanted.demands, ...wantedAgain]) },
      { breaks: breaks && { run: units(breaks.after), rest: units(breaks.rest) }, moved: asked.moved ?? 20 },
    )
  }

  private besideOffers(demands: readonly Demand[]): Demand[] {
    const { offered = [] } = this.asked
    if (offered.length === 0) return [...demands]
    return demands.map(d => {
      const terms = { by: COST.onOffer, isSpots: this.wanted.placed.has(d.id) }
      return { ...d, admitted: dearerWithin(d.admitted, offered, this.axis, terms) }
    })
  }

  search(seed: number, effort = 1): Search {
    return new Search(this.instance, seed, effort)
  }

  told({ placement, isUnfinished }: Draft): Told {
    const { asked, wanted } = this
    const pinned = asked.pinned.map(p => ({ ...p, isPinned: true }))
    const drafted = this.instance.demands.flatMap(({ id, group }) =>
      (placement.get(id) ?? []).map(p => ({ id, regular: group, ...this.standsAt(id, p), isPinned: false })),
    )
    const isPinned = new Set(pinned.map(p => p.id))
    let reasons = 0
    const notPlaced = this.instance.demands.flatMap(demand => {
      const minutes = this.lacks(demand, placement)
      if (minutes === 0) return []
      const why: WhyNotTold =
        ++reasons > MOST_REASONS
          ? { kind: 'others came first', whose: [] }
          : this.whyNot(placement, demand.id)
      return [{ id: demand.id, regular: demand.group, minutes, why }]
    })
    return {
      pieces: [...pinned, ...drafted].sort((x, y) => x.fromMs - y.fromMs || (x.id < y.id ? -1 : 1)),
      notPlaced,
      late: this.instance.demands.flatMap(d => {
        const minutes = lateUnits(d, placement.get(d.id) ?? []) * this.axis.grid
        return minutes > 0 ? [{ id: d.id, minutes }] : []
      }),
      left: wanted.left.filter(l => !(l.because === 'is reserved already' && isPinned.has(l.id))),
      withoutEstimate: wanted.withoutEstimate,
      windows: this.windowsTaken([...pinned, ...drafted]),
      isUnfinished,
    }
  }

  /** Why a piece begins no earlier: from when on it might, up to where it does. */
  whyNotEarlier({ placement }: Pick<Draft, 'placement'>, id: string, fromMs: number): NotEarlierTold[] {
    const piece = (placement.get(id) ?? []).find(p => this.standsAt(id, p).fromMs === fromMs)
    if (!piece) return []
    const later = fromMs - msOf(piece.from, this.axis)
    const there = this.wanted.placed.get(id)
    return whyNotEarlier(this.instance, placement, { id, piece }).map(({ from, to, blocker }) => {
      const at = this.inTime({ from, to })
      // What goes there anyhow is told for the time in which it would stand, not for that of its way.
      const span = there?.isBeside ? at : { fromMs: at.fromMs + later, toMs: at.toMs + later }
      if (there && blocker.kind === 'not admitted') return { ...span, blocker: { kind: 'further ways' } }
      if (blocker.kind !== 'day full') return { ...span, blocker }
      return { ...span, blocker: { kind: 'day full', date: this.axis.dates[blocker.day] ?? '' } }
    })
  }

  /** It was tried beside a stay only. */
  isBeside(id: string): boolean {
    return this.wanted.placed.get(id)?.isBeside ?? false
  }
  private standsAt(id: string, span: Span): Stretch {
    return this.wanted.placed.get(id)?.standsAt(span) ?? this.inTime(span)
  }

  private whyNot(placement: Placement, id: string): WhyNotTold {
    const why = whyNotPlaced(this.instance, placement, id)
    if (why === null) return { kind: 'no room' }
    return why.kind === 'too little' ? { kind: 'too little', minutes: why.most * this.axis.grid } : why
  }

  private lacks({ id, need, division }: Demand, placement: Placement): number {
    const placed = unitsOf(placement.get(id) ?? [])
    const there = this.wanted.placed.get(id)
    if (there) return placed === 0 ? there.minutes : 0
    return division.kind === 'shrink' && placed > 0 ? 0 : (need - placed) * this.axis.grid
  }

  private windowsTaken(pieces: readonly { fromMs: number; toMs: number }[]): Told['windows'] {
    return this.spans.flatMap(span => {
      if (span.toMs <= this.asked.now) return []
      const within = (all: readonly { fromMs: number; toMs: number }[]): number =>
        all.reduce((sum, p) => sum + sharedMinutes(p, span), 0)
      const free = within((this.supply.windows.get(span.window) ?? []).map(s => this.inTime(s)))
      const held = this.asked.pinned.reduce((sum, p) => sum + sharedMinutes(p, span), 0)
      return [
        { id: span.window, fromMs: span.fromMs, toMs: span.toMs, free: free + held, drafted: within(pieces) },
      ]
    })
  }

  private inTime({ from, to }: Span): { fromMs: number; toMs: number } {
    return { fromMs: msOf(from, this.axis), toMs: msOf(to, this.axis) }
  }
}

/** All that a piece takes: itself, and the ways to where it is done and back. */
export function takenBy(
  { id, fromMs, toMs }: Pick<PinnedPiece, 'id' | 'fromMs' | 'toMs'>,
  tasks: readonly TaskToPlan[],
): Taken[] {
  const trip = tasks.find(t => t.id === id)?.trip
  const all = trip ? [{ ...withItsWays({ fromMs, toMs }, trip), isWork: false }] : []
  return [...all, { fromMs, toMs, isWork: true }]
}

const sharedMinutes = (
  one: { fromMs: number; toMs: number },
  other: { fromMs: number; toMs: number },
): number => Math.max(0, Math.min(one.toMs, other.toMs) - Math.max(one.fromMs, other.fromMs)) / MINUTE

const endsOf = (pinned: readonly PinnedPiece[]): ReadonlyMap<string, number> =>
  new Map(pinned.map(({ id }) => [id, Math.max(...pinned.map(p => (p.id === id ? p.toMs : 0)))]))

const pinnedMinutes = (pinned: readonly PinnedPiece[], id: string): number =>
  pinned.reduce((sum, p) => sum + (p.id === id ? (p.toMs - p.fromMs) / MINUTE : 0), 0)

const lateUnits = ({ deadline }: Demand, pieces: readonly Span[]): number =>
  deadline === null ? 0 : pieces.reduce((sum, p) => sum + Math.max(0, p.to - Math.max(p.from, deadline)), 0)
