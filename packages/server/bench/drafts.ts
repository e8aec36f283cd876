import { randomInstance } from '../../core/test/planning/random-instance.ts'
import { Search, seeded } from '../../core/src/planning/search.ts'

/** What drafting a span of days takes, by one thread: demands of every kind, far more than there is room for. */
export function drafting(demands: number, days: number): { first: number; done: number; better: number } {
  const times = [1, 2, 3, 4, 5].map(seed => {
    const instance = randomInstance(seeded(seed), { days, demands, day: 288 })
    const began = performance.now()
    const search = new Search(instance, 1)
    const first = search.draft().cost.total
    const shown = performance.now() - began
    search.step(search.rounds)
    const { cost } = search.draft()
    return { first: shown, done: performance.now() - began, better: 1 - cost.total / first }
  })
  const median = (of: (t: (typeof times)[number]) => number): number =>
    times.map(of).sort((x, y) => x - y)[2] ?? 0
  return { first: median(t => t.first), done: median(t => t.done), better: median(t => t.better) }
}
