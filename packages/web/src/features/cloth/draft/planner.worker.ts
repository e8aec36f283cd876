import {
  type AskedOf,
  type NotEarlierTold,
  type Remedy,
  TeamSearch,
  type TeamTold,
} from '@loom/core/planning'
import { expose } from 'comlink'

/** The planner, off the page's thread. What is asked later ends what was asked before. */

/** So long it goes on before it hears what is asked meanwhile. */
const BETWEEN_MS = 25
/** While a piece is being dragged: good enough to see what gives way. */
const QUICK_ROUNDS = 40

let turn = 0
let isEnough = false
let last: TeamSearch | null = null

const planner = {
  /**
   * The draft; null where something else was asked meanwhile.
   * @param first is told of what there is at once
   * @param progress is told how far it has come, 0 to 1
   */
  async draft(
    asked: readonly AskedOf[],
    { seed, quick }: { seed: number; quick: boolean },
    first: (so: TeamTold) => void,
    progress: (far: number) => void,
  ): Promise<TeamTold | null> {
    const mine = ++turn
    isEnough = false
    const search = new TeamSearch(asked, seed)
    const now = (): TeamTold => {
      last = search
      return search.told()
    }
    if (quick) {
      search.finish(QUICK_ROUNDS)
      return now()
    }
    first(now())
    let since = performance.now()
    while (!search.isDone && !isEnough) {
      search.step(8)
      if (performance.now() - since < BETWEEN_MS) continue
      progress(search.progress)
      await new Promise(resume => setTimeout(resume, 0))
      if (mine !== turn) return null
      since = performance.now()
    }
    // Whoever has had no turn yet is drafted for all the same.
    search.finish(0)
    return now()
  },

  /** What is asked is answered with what there is so far, which says that it is not finished. */
  enough(): void {
    isEnough = true
  },

  /** Nobody waits for what was asked any more. */
  drop(): void {
    turn++
  },

  /** What would give a task its time that has none, or not enough, in the draft that was told last. */
  remedies(person: string, id: string): Remedy[] {
    return last?.remedies(person, id) ?? []
  },

  /** Why a piece of the draft that was told last begins no earlier. */
  whyNotEarlier(person: string, id: string, fromMs: number): NotEarlierTold[] {
    return last?.whyNotEarlier(person, id, fromMs) ?? []
  },
}
export type Planner = typeof planner

expose(planner)
// Whatever is asked before may be lost: this module waits for others while it is loaded.
postMessage('ready')
