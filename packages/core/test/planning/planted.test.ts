import { expect } from 'chai'
import type { Demand, Instance } from '../../src/planning/instance.ts'
import { draftOf, seeded } from '../../src/planning/search.ts'
import { mustHold, priceOf } from './oracle.ts'
import { randomInstance } from './random-instance.ts'

/** Bugs, planted: a planner that takes the instance for another one, and an oracle that knows which it is. */

const each =
  (change: (d: Demand) => Partial<Demand>) =>
  (i: Instance): Instance => ({ ...i, demands: i.demands.map(d => ({ ...d, ...change(d) })) })

/** Stretches with what is taken between them, as if nothing were. */
function throughMeetings(i: Instance): Instance {
  const stretches = i.days.filter(d => d.hours.to > d.hours.from).map(d => d.hours)
  const beside = i.stretches.filter(s => !stretches.some(h => h.from <= s.from && s.to <= h.to))
  const all = [...stretches, ...beside].sort((x, y) => x.from - y.from)
  const admitted = all.map(s => ({ ...s, extra: 0 }))
  return { ...i, stretches: all, busy: [], demands: i.demands.map(d => ({ ...d, admitted })) }
}

const PLANTED: Record<string, (i: Instance) => Instance> = {
  'forgets breaks': i => ({ ...i, breaks: null }),
  'lets work go on a little too long': i => ({
    ...i,
    breaks: i.breaks && { ...i.breaks, run: i.breaks.run + 1 },
  }),
  'does not count meetings as work': i => ({ ...i, busy: [] }),
  'fills a day beyond what it holds': i => ({
    ...i,
    days: i.days.map(d => ({ ...d, capacity: d.capacity + 4 })),
  }),
  'counts an evening as working hours': i => ({
    ...i,
    days: i.days.map(d => ({ ...d, hours: { from: d.from, to: d.to } })),
    demands: i.demands.map(d => ({ ...d, earliest: Math.max(0, d.earliest - 8) })),
  }),
  'plans through meetings': throughMeetings,
  'has lunch twice': each(() => ({ group: null })),
  'waits for nothing': each(() => ({ after: [] })),
  'forgets the gap': each(d => ({ after: d.after.map(a => ({ ...a, gap: 0 })) })),
  'begins before its time': each(() => ({ earliest: 0 })),
  'puts anything into any window': i =>
    each(() => ({ admitted: i.stretches.map(s => ({ ...s, extra: 0 })) }))(i),
  'divides what is whole': each(d => ({
    division: d.division.kind === 'whole' ? { kind: 'split', least: 1 } : d.division,
  })),
  'cuts into crumbs': each(d => ({
    division: d.division.kind === 'split' ? { kind: 'split', least: 1 } : d.division,
  })),
  'shrinks to nothing': each(d => ({
    division: d.division.kind === 'shrink' ? { kind: 'shrink', least: 1 } : d.division,
  })),
  'divides what may only be shorter': each(d => ({
    division: d.division.kind === 'shrink' ? { kind: 'split', least: d.division.least } : d.division,
  })),
  'places more than is left': each(d => ({ need: d.need + 1 })),
  'takes two days for one': i => ({
    ...i,
    days: i.days.flatMap((d, n) =>
      n % 2 ? [] : [{ ...d, to: i.days[n + 1]?.to ?? d.to, capacity: d.capacity }],
    ),
  }),
  'minds no deadline': each(() => ({ deadline: null })),
  'is a unit late with deadlines': each(d => ({ deadline: d.deadline === null ? null : d.deadline + 1 })),
  'takes everything for as urgent': each(() => ({ weight: 5 })),
  'counts waiting from now, not from when it may begin': i => ({
    ...i,
    demands: i.demands.map(d => ({ ...d, earliest: d.after.length > 0 ? 0 : d.earliest })),
  }),
  'takes all spilled time for free': each(d => ({ admitted: d.admitted.map(a => ({ ...a, extra: 0 })) })),
  'takes all work for alike': each(() => ({ category: 'one' })),
  'moves what is planned for nothing': each(() => ({ planned: [] })),
  'takes moving for cheap': i => ({ ...i, moved: 20 }),
}

describe('a planner with a planted bug', function () {
  this.timeout(120_000)
  it('has at least 25 of them', () => expect(Object.keys(PLANTED).length).to.be.at.least(25))

  const instances = Array.from({ length: 300 }, (_, seed) =>
    randomInstance(seeded(seed), { days: 2 + (seed % 3), demands: 5 + (seed % 9), day: 96 }),
  )
  const isWrong = (truth: Instance, taken: Instance): boolean => {
    const { placement, cost } = draftOf(taken, 1, 0.02)
    try {
      mustHold(truth, placement)
      return cost.total !== priceOf(truth, placement)
    } catch {
      return true
    }
  }
  it('or without, is told from one another', () => {
    for (const i of instances.slice(0, 100)) expect(isWrong(i, i)).to.equal(false)
  })
  for (const [name, plant] of Object.entries(PLANTED))
    it(`is caught where it ${name}`, () => {
      expect(instances.some(i => isWrong(i, plant(i)))).to.equal(true)
    })
})
