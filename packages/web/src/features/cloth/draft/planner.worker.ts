import { type Asked, type NotEarlierTold, Plan, type Told } from '@loom/core/planning'
import { expose } from 'comlink'

/** The planner, off the page's thread. What is asked later ends what was asked before. */

const BETWEEN_MS = 12
/** While a piece is being dragged: good enough to see what gives way. */
const QUICK_ROUNDS = 40

let turn = 0
let last: { plan: Plan; draft: Parameters<Plan['told']>[0] } | null = null

const planner = {
  /**
   * The draft; null where something else was asked meanwhile.
   * @param told is told of what there is so far, and how far it has come, 0 to 1
   */
  async draft(
    asked: Asked,
    { seed, quick }: { seed: number; quick: boolean },
    told: (so: Told, progress: number) => void,
  ): Promise<Told | null> {
    const mine = ++turn
    const plan = new Plan(asked)
    const search = plan.search(seed)
    const now = (): Told => {
      const draft = search.draft()
      last = { plan, draft }
      return plan.told(draft)
    }
    told(now(), search.progress)
    if (quick) {
      search.step(QUICK_ROUNDS)
      return now()
    }
    let since = performance.now()
    while (!search.isDone) {
      search.step(8)
      if (performance.now() - since < BETWEEN_MS) continue
      // A question that came meanwhile is heard here.
      await new Promise(resume => setTimeout(resume, 0))
      if (mine !== turn) return null
      since = performance.now()
      told(now(), search.progress)
    }
    return now()
  },

  /** What was asked last is left as it is. */
  cancel(): void {
    turn++
  },

  /** Why a piece of the draft that was told last begins no earlier. */
  whyNotEarlier(id: string, fromMs: number): NotEarlierTold[] {
    return last ? last.plan.whyNotEarlier(last.draft, id, fromMs) : []
  },
}
export type Planner = typeof planner

expose(planner)
// Whatever is asked before may be lost: this module waits for others while it is loaded.
postMessage('ready')
