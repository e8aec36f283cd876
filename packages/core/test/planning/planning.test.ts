import { expect } from 'chai'
import fc from 'fast-check'
import { costOf } from '../../src/planning/cost.ts'
import { draftOf, Search, seeded } from '../../src/planning/search.ts'
import { optimumOf } from './exact.ts'
import { mustHold, priceOf } from './oracle.ts'
import { randomInstance } from './random-instance.ts'

const seeds = fc.integer({ min: 0, max: 2 ** 31 - 1 })

describe('a draft', function () {
  this.timeout(120_000)

  it('keeps every rule, and costs what the oracle says', () => {
    fc.assert(
      fc.property(seeds, fc.integer({ min: 0, max: 25 }), (seed, demands) => {
        const instance = randomInstance(seeded(seed), { days: 1 + (seed % 6), demands, day: 96 })
        const draft = draftOf(instance, seed, 0.2)
        mustHold(instance, draft.placement)
        expect(draft.cost.total).to.equal(priceOf(instance, draft.placement))
        expect(costOf(instance, draft.placement)).to.deep.equal(draft.cost)
      }),
      { numRuns: 150 },
    )
  })

  it('is the same for the same instance and seed, whatever order its demands come in', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const instance = randomInstance(seeded(seed), { days: 3, demands: 12, day: 96 })
        const other = { ...instance, demands: [...instance.demands].reverse() }
        expect(draftOf(other, 7, 0.2)).to.deep.equal(draftOf(instance, 7, 0.2))
      }),
      { numRuns: 20 },
    )
  })

  it('is had at any moment, whole, and only gets cheaper', () => {
    const instance = randomInstance(seeded(11), { days: 5, demands: 40, day: 96 })
    const search = new Search(instance, 1)
    let last = Infinity
    while (!search.isDone) {
      search.step(50)
      const draft = search.draft()
      mustHold(instance, draft.placement)
      expect(draft.cost.total).to.be.at.most(last)
      last = draft.cost.total
    }
    expect(search.draft().isUnfinished).to.equal(false)
  })

  it('is near the cheapest that there is', async () => {
    const gaps: number[] = []
    const seed0 = Date.now() % 1_000_000
    for (let n = 0; n < 20; n++) {
      const instance = randomInstance(seeded(seed0 + n), { days: 2 + (n % 2), demands: 4 + (n % 6), day: 96 })
      const best = await optimumOf(instance)
      if (!best) continue
      mustHold(instance, best.placement)
      expect(priceOf(instance, best.placement), `seed ${seed0 + n}`).to.equal(best.price)
      const { cost } = draftOf(instance, 1)
      expect(cost.total, `seed ${seed0 + n} beats the optimum`).to.be.at.least(best.price)
      gaps.push((cost.total - best.price) / Math.max(1, best.price))
    }
    gaps.sort((x, y) => x - y)
    console.log(
      `    ${gaps.length} small instances from seed ${seed0}: gaps ${gaps.map(g => (100 * g).toFixed(2)).join(' ')} %`,
    )
    expect(gaps[Math.floor(gaps.length / 2)] ?? 0).to.be.at.most(0.005)
  })
})
