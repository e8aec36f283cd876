import { type Asked, Plan, type Told } from './plan.ts'

/** What would give something its time that has none in a draft. Each was tried; that none is found proves nothing. */

export interface Remedy {
  kind: 'in parts' | 'outside its windows' | 'without breaks' | 'later'
  /** Where it would stand, by their beginning. */
  pieces: { fromMs: number; toMs: number }[]
}

/** Of what is to be in parts, minutes. */
const LEAST_PIECE = 15
const WEEKS_LATER = 2
/** Of so many days after those that are asked for, what is taken has to be known as well. */
export const SEARCHED_AFTER = 7 * WEEKS_LATER
const ROUNDS = 60

/**
 * Everything else stays where the draft has it, so nobody else loses.
 * @param id of a task that the draft has no place for, or not enough
 */
export function remediesFor(asked: Asked, told: Told, id: string): Remedy[] {
  const task = asked.tasks.find(t => t.id === id)
  if (!task) return []
  const others = told.pieces.filter(p => p.id !== id).map(p => ({ ...p, isWork: true }))
  const alone: Asked = {
    ...asked,
    tasks: [task],
    regulars: [],
    taken: [...asked.taken, ...others],
    pinned: asked.pinned.filter(p => p.id === id),
  }
  const whole = { ...asked.terms, splitFrom: LEAST_PIECE, leastPiece: LEAST_PIECE }
  const tries: [Remedy['kind'], Asked | null][] = [
    ['outside its windows', task.windows.length > 0 ? { ...alone, tasks: [{ ...task, windows: [] }] } : null],
    ['without breaks', asked.breaks ? { ...alone, breaks: null } : null],
    ['in parts', { ...alone, terms: whole }],
    ...Array.from({ length: WEEKS_LATER }, (_, n): [Remedy['kind'], Asked] => [
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
  return found
}

/** Null where not all of it finds a place. */
function placedWhole(trial: Asked): Remedy['pieces'] | null {
  const plan = new Plan(trial)
  const search = plan.search(1)
  search.step(ROUNDS)
  const { pieces, notPlaced, left } = plan.told(search.draft())
  if (notPlaced.length > 0 || left.length > 0) return null
  const fresh = pieces.filter(p => !p.isPinned)
  return fresh.length === 0 ? null : fresh.map(({ fromMs, toMs }) => ({ fromMs, toMs }))
}
