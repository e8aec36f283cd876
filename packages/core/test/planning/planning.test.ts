import { expect } from 'chai'
import fc from 'fast-check'
import { COST_VERSION, costOf } from '../../src/planning/cost.ts'
import type { Instance } from '../../src/planning/instance.ts'
import { draftOf, Search, seeded } from '../../src/planning/search.ts'
import { certificates, hashOf, smallInstance } from './certificates.ts'
import { optimumOf } from './exact.ts'
import { lostOf, mustHold, priceOf } from './oracle.ts'
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

  it('is near the cheapest that there is, on small instances that nobody has seen', async () => {
    const seed0 = Date.now() % 1_000_000
    const found: Compared[] = []
    let same = 0
    for (let n = 0; n < (isSoak ? 200 : 20); n++) {
      const instance = smallInstance(seed0 + n, 8)
      const best = await optimumOf(instance)
      if (!best) continue
      mustHold(instance, best.placement)
      expect(priceOf(instance, best.placement), `seed ${seed0 + n}`).to.equal(best.price)
      found.push(compared(seed0 + n, instance, best.price))
      same += Number(lostOf(instance, draftOf(instance, 1).placement) === lostOf(instance, best.placement))
    }
    console.log(`    missed and unplaced as at the optimum: ${same} of ${found.length}`)
    // Of all that were counted it is so in 97 of 100; of twenty, four others are no surprise.
    expect(same, 'missed and unplaced').to.be.at.least(Math.floor(0.8 * found.length))
    tell(`${found.length} fresh small instances from seed ${seed0}`, found)
    expect(found.length).to.be.at.least(15)
  })

  it('is near the cheapest of instances whose optimum is certified', () => {
    const { costVersion, of } = certificates()
    expect(costVersion, 'to be certified anew').to.equal(COST_VERSION)
    const found = of
      .filter((_, n) => isSoak || n % 4 === 0)
      .map(({ seed, hash, price }) => {
        const instance = smallInstance(seed)
        expect(hashOf(instance), `the instance of seed ${seed}`).to.equal(hash)
        return compared(seed, instance, price)
      })
    tell(`${found.length} certified instances`, found)
    const gaps = found.map(f => f.gap).sort((x, y) => x - y)
    expect(gaps[Math.floor(gaps.length / 2)], 'median').to.be.at.most(0.005)
    expect(gaps[Math.floor(gaps.length * 0.99) - 1], 'of 99 %').to.be.at.most(0.03)
  })
})

const isSoak = process.env.PLANNER_SOAK !== undefined

interface Compared {
  seed: number
  gap: number
}

function compared(seed: number, instance: Instance, price: number): Compared {
  const { cost } = draftOf(instance, 1)
  expect(cost.total, `seed ${seed} beats the optimum`).to.be.at.least(price)
  return { seed, gap: (cost.total - price) / Math.max(1, price) }
}

function tell(what: string, found: readonly Compared[]): void {
  const off = found.filter(f => f.gap > 0)
  const worst = off.map(f => `${(100 * f.gap).toFixed(2)} % (${f.seed})`)
  console.log(`    ${what}: ${found.length - off.length} at the optimum; else ${worst.join(', ') || 'none'}`)
}
