import { MINUTE } from '../time/when.ts'
import type { TaskToPlan } from './demand.ts'
import { type Asked, type MayMove, Plan, takenBy, type Told } from './plan.ts'

/** What would give something its time that has none in a draft. Each was tried; that none is found proves nothing. */

type Costless = 'in parts' | 'outside its windows' | 'without breaks' | 'later'
export type Remedy = {
  /** Where it would stand, by their beginning. */
  pieces: { fromMs: number; toMs: number }[]
} & (
  | { kind: Costless }
  /** That goes there instead, as long as it is. */
  | { kind: 'moving'; what: MayMove }
  /** At the price of another one, of which so many minutes have no place then. */
  | { kind: 'instead of'; of: string; minutes: number }
)

/** Of what is to be in parts, minutes. */
const LEAST_PIECE = 15
const WEEKS_LATER = 2
/** Of so many days after those that are asked for, what is taken has to be known as well. */
export const SEARCHED_AFTER = 7 * WEEKS_LATER
const ROUNDS = 60
/** So many of a kind are tried. */
const MOST_MOVED = 5
const MOST_PRICED = 3
/** What gives way may go to one of so many days after those that are drafted. */
const DAYS_LATER = 7

/**
 * Everything else stays where the draft has it, so nobody else loses; only where nothing of that kind is found, what
 * another one would lose by it.
 * @param id of a task that the draft has no place for, or not enough
 */
export function remediesFor(asked: Asked, told: Told, id: string): Remedy[] {
  const task = asked.tasks.find(t => t.id === id)
  if (!task) return []
  const others = told.pieces.filter(p => p.id !== id).flatMap(p => takenBy(p, asked.tasks))
  const alone: Asked = {
    ...asked,
    tasks: [task],
    regulars: [],
    taken: [...asked.taken, ...others],
    pinned: asked.pinned.filter(p => p.id === id),
  }
  const whole = { ...asked.terms, splitFrom: LEAST_PIECE, leastPiece: LEAST_PIECE }
  const tries: [Costless, Asked | null][] = [
    ['outside its windows', task.windows.length > 0 ? { ...alone, tasks: [{ ...task, windows: [] }] } : null],
    ['without breaks', asked.breaks ? { ...alone, breaks: null } : null],
    ['in parts', { ...alone, terms: whole }],
    ...Array.from({ length: WEEKS_LATER }, (_, n): [Costless, Asked] => [
      'later',
      { ...alone, days: asked.days + 7 * (n + 1) },
    ]),
  ]
  const found: Remedy[] = []
  for (const [kind, trial] of tries) {
    if (!trial || found.some(r => r.kind === kind)) continue
    const pieces = placedWhole(trial)
    if (pieces && !found.some(r => JSON.stringify(r.pieces) === JSON.stringify(pieces)))
      found.push({ kind, pieces })
  }
  found.push(...moving(alone, task))
  return found.length > 0 ? found : insteadOf(alone, told, task, asked.tasks)
}

/** What stands and is theirs to move, nearest to it in length: one of them at a time. */
function moving(alone: Asked, { estimate }: TaskToPlan): Remedy[] {
  const need = (estimate ?? alone.terms.defaultMinutes) * MINUTE
  const far = (m: MayMove): number => Math.abs(m.toMs - m.fromMs - need)
  const candidates = (alone.mayMove ?? [])
    .filter(m => m.fromMs >= alone.now)
    .sort((x, y) => far(x) - far(y) || x.fromMs - y.fromMs || (x.key < y.key ? -1 : 1))
    .slice(0, MOST_MOVED)
  const found: Remedy[] = []
  for (const m of candidates) {
    const at = alone.taken.findIndex(t => t.fromMs === m.fromMs && t.toMs === m.toMs)
    const [it] = alone.taken.slice(at, at + 1)
    if (!it) continue
    const freed = { ...alone, taken: alone.taken.filter(t => t !== it) }
    const pieces = placedWhole(freed)
    if (!pieces) continue
    const length = m.toMs - m.fromMs
    const [spot, ...more] =
      placedWhole({
        ...freed,
        days: alone.days + DAYS_LATER,
        tasks: [asTask(m, length)],
        taken: [
          ...freed.taken,
          ...pieces.flatMap(p => takenBy({ ...p, id: alone.tasks[0]?.id ?? '' }, alone.tasks)),
        ],
        pinned: [],
        terms: { ...alone.terms, splitFrom: Number.MAX_SAFE_INTEGER },
      }) ?? []
    if (!spot || more.length > 0) continue
    found.push({ kind: 'moving', pieces, what: { ...m, fromMs: spot.fromMs, toMs: spot.fromMs + length } })
  }
  return found
}
const asTask = ({ key }: MayMove, length: number): TaskToPlan => ({
  id: key,
  estimate: length / MINUTE,
  taken: 0,
  reserved: 0,
  due: null,
  notBefore: null,
  waitsFor: [],
  category: '',
  pressure: 0,
  windows: [],
  spills: false,
  planned: [],
})

/** Of those that stand where it would, what presses least first. */
function insteadOf(alone: Asked, told: Told, task: TaskToPlan, all: readonly TaskToPlan[]): Remedy[] {
  const why = told.notPlaced.find(n => n.id === task.id)?.why
  const whose = why?.kind === 'others came first' ? why.whose : []
  const candidates = all
    .filter(t => whose.includes(t.id) && told.pieces.some(p => p.id === t.id && !p.isPinned))
    .sort((x, y) => x.pressure - y.pressure || (x.id < y.id ? -1 : 1))
    .slice(0, MOST_PRICED)
  return candidates.flatMap((other): Remedy[] => {
    const theirs = told.pieces.filter(p => p.id === other.id)
    const takes = theirs.flatMap(p => takenBy(p, all))
    const isTheirs = (t: { fromMs: number; toMs: number }): boolean =>
      takes.some(p => p.fromMs === t.fromMs && p.toMs === t.toMs)
    const freed = { ...alone, taken: alone.taken.filter(t => !isTheirs(t)) }
    const pieces = placedWhole(freed)
    if (!pieces) return []
    const rest = {
      ...freed,
      tasks: [other],
      pinned: [],
      taken: [...freed.taken, ...pieces.flatMap(p => takenBy({ ...p, id: task.id }, [task]))],
    }
    const lost = toldOf(rest).notPlaced.reduce((sum, n) => sum + n.minutes, 0)
    return [{ kind: 'instead of', pieces, of: other.id, minutes: lost }]
  })
}

function toldOf(trial: Asked): Told {
  const plan = new Plan(trial)
  const search = plan.search(1)
  search.step(ROUNDS)
  return plan.told(search.draft())
}

/** Null where not all of it finds a place. */
function placedWhole(trial: Asked): Remedy['pieces'] | null {
  const { pieces, notPlaced, left } = toldOf(trial)
  if (notPlaced.length > 0 || left.length > 0) return null
  const fresh = pieces.filter(p => !p.isPinned)
  return fresh.length === 0 ? null : fresh.map(({ fromMs, toMs }) => ({ fromMs, toMs }))
}
