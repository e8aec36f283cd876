import { dayAt, MINUTE } from '../time/when.ts'
import type { ClothItem } from '../view/cloth-item.ts'
import type { WorkingHours } from '../view/rows.ts'
import type { Wait } from './demand.ts'
import { type Person, takenOf, wantOf } from './from-cloth.ts'
import type { Stretch } from './laid-pieces.ts'
import { Plan } from './plan.ts'
import { type Planned, plannedOf } from './replanning.ts'
import { draftOf } from './search.ts'
import type { Planning } from './settings.ts'

/** Planned work that makes room for something that was agreed with others: what of it may, and where it goes. */

export interface Yielding extends Planned {
  title: string
  /** How much its task presses, 0 to 100. */
  pressure: number
}

/** What is movable and has not begun; a series, and what two have changed, is not among it. */
export function yieldingOf(items: readonly ClothItem[], person: Person, until: number): Yielding[] {
  const known = new Map(items.map(i => [i.key, i]))
  return plannedOf(items, person, until).map(p => {
    const of = known.get(p.task) ?? known.get(p.key)
    return { ...p, title: of?.title ?? '', pressure: of ? wantOf(of, person).pressure : 100 }
  })
}

export interface GivesWay {
  piece: Yielding
  /** Where it goes; null where there is no time for it: to the shelf. */
  to: Stretch | null
}

interface Around {
  items: readonly ClothItem[]
  person: Person
  hours: WorkingHours
  planning: Pick<Planning, 'windows' | 'sentence'>
  waits: Readonly<Record<string, readonly Wait[]>>
  /** Today and those after it. */
  days: number
}

/** @param taken from now on, for whatever it makes room for */
export function givingWay(
  { items, person, hours, planning, waits, days }: Around,
  pieces: readonly Yielding[],
  taken: Stretch,
): GivesWay[] {
  if (pieces.length === 0) return []
  const known = new Map(items.map(i => [i.key, i]))
  const goes = new Set(pieces.map(p => p.key))
  const tasks = pieces.flatMap(p => {
    const of = known.get(p.task) ?? known.get(p.key)
    if (!of) return []
    const estimate = Math.round((p.toMs - p.fromMs) / MINUTE)
    const want = wantOf(of, person, planning.windows)
    // What was meant for a day is not wanted on an earlier one.
    const day = dayAt(p.fromMs, person.zone)
    const notBefore = want.notBefore !== null && want.notBefore > day ? want.notBefore : day
    return [
      {
        ...want,
        notBefore,
        id: p.key,
        estimate,
        taken: 0,
        reserved: 0,
        waitsFor: waits[of.key] ?? [],
        planned: [],
      },
    ]
  })
  const plan = new Plan({
    now: person.now,
    zone: person.zone,
    days,
    hours,
    tasks,
    taken: [...takenOf(items, person, goes), { ...taken, isWork: true }],
    windows: planning.windows,
    regulars: [],
    had: {},
    // A piece stays one piece.
    terms: { defaultMinutes: 30, splitFrom: Number.MAX_SAFE_INTEGER, leastPiece: 15 },
    breaks: planning.sentence.breaks,
    pinned: [],
  })
  const told = plan.told(draftOf(plan.instance, 1))
  const placed = new Map(told.pieces.map(p => [p.id, { fromMs: p.fromMs, toMs: p.toMs }]))
  return pieces.map(piece => ({ piece, to: placed.get(piece.key) ?? null }))
}
