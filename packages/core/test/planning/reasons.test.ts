import { expect } from 'chai'
import fc from 'fast-check'
import { type Instance, type Placement, type Span, unitsOf } from '../../src/planning/instance.ts'
import { type Blocker, whyNotEarlier, whyNotPlaced } from '../../src/planning/reasons.ts'
import { draftOf, seeded } from '../../src/planning/search.ts'
import { mustHold, priceOf } from './oracle.ts'
import { randomInstance } from './random-instance.ts'

/** Each reason is proved again, by trying what it says is not to be had. */

const holds = (instance: Instance, placement: Placement): boolean => {
  try {
    mustHold(instance, placement)
    return true
  } catch {
    return false
  }
}
const some = fc.record({ seed: fc.integer({ min: 0, max: 2 ** 31 - 1 }), n: fc.integer({ min: 2, max: 14 }) })
const drafted = ({ seed, n }: { seed: number; n: number }) => {
  const instance = randomInstance(seeded(seed), { days: 1 + (seed % 3), demands: n, day: 96 })
  return { instance, placement: draftOf(instance, 1, 0.05).placement }
}

describe('reasons', function () {
  this.timeout(60_000)

  it('why a piece stands no earlier name what is in the way, or what it would cost', () => {
    fc.assert(
      fc.property(some, at => {
        const { instance, placement } = drafted(at)
        for (const d of instance.demands)
          for (const piece of placement.get(d.id) ?? []) {
            const reasons = whyNotEarlier(instance, placement, { id: d.id, piece })
            for (const r of reasons)
              for (const from of [r.from, r.to - 1]) {
                const rest = (placement.get(d.id) ?? []).filter(p => p.from !== piece.from)
                const there = [...rest, { from, to: from + piece.to - piece.from }]
                const moved: Placement = new Map([...placement, [d.id, there]])
                const more = priceOf(instance, moved) - priceOf(instance, placement)
                if (r.blocker.kind === 'costs more') {
                  expect(holds(instance, moved), 'it may').to.equal(true)
                  expect(more).to.equal(r.blocker.by)
                  // Of what is one piece, no single move gains anything.
                  if (d.division.kind === 'whole') expect(more).to.be.at.least(0)
                } else {
                  expect(holds(instance, moved), `${d.id} at ${from}: ${JSON.stringify(r)}`).to.equal(false)
                  isTrue(instance, placement, { id: d.id, piece }, from, r.blocker)
                }
              }
          }
      }),
      { numRuns: 60 },
    )
  })

  /** That what is named is in the way indeed. */
  function isTrue(
    instance: Instance,
    placement: Placement,
    { id, piece }: { id: string; piece: Span },
    from: number,
    blocker: Blocker,
  ): void {
    const span = { from, to: from + piece.to - piece.from }
    const dayOf = (unit: number): number => instance.days.findIndex(d => d.from <= unit && unit < d.to)
    const meets = (p: Span): boolean => p.from < span.to && span.from < p.to
    const rest = (of: string): Span[] =>
      (placement.get(of) ?? []).filter(p => of !== id || p.from !== piece.from)
    if (blocker.kind === 'demand') expect(rest(blocker.id).some(meets)).to.equal(true)
    if (blocker.kind === 'once a day') {
      expect(rest(blocker.id).some(p => dayOf(p.from) === dayOf(from))).to.equal(true)
      const [one, other] = [id, blocker.id].map(of => instance.demands.find(d => d.id === of))
      expect(one === other || (one?.group !== null && one?.group === other?.group)).to.equal(true)
    }
    if (blocker.kind === 'taken') {
      const { admitted = [] } = instance.demands.find(d => d.id === id) ?? {}
      const isIn = (of: readonly Span[], u: number): boolean => of.some(s => s.from <= u && u < s.to)
      const units = Array.from({ length: span.to - span.from }, (_, n) => from + n)
      const one = instance.stretches.some(s => s.from <= span.from && span.to <= s.to)
      expect(one && units.every(u => isIn(admitted, u))).to.equal(false)
    }
    if (blocker.kind === 'day full') {
      const { hours = span, capacity = 0 } = instance.days[blocker.day] ?? {}
      const inHours = (p: Span): number =>
        Math.max(0, Math.min(p.to, hours.to) - Math.max(p.from, hours.from))
      const drafted = instance.demands
        .flatMap(d => rest(d.id))
        .filter(p => dayOf(p.from) === blocker.day)
        .reduce((sum, p) => sum + inHours(p), 0)
      expect(drafted + inHours(span)).to.be.above(capacity)
    }
    if (blocker.kind === 'rest') {
      const moved: Placement = new Map([...placement, [id, [...rest(id), span]]])
      expect(holds({ ...instance, breaks: null }, moved)).to.equal(true)
    }
  }

  it('why something is not placed hold when it is tried', () => {
    fc.assert(
      fc.property(some, at => {
        const { instance, placement } = drafted(at)
        for (const d of instance.demands) {
          const why = whyNotPlaced(instance, placement, d.id)
          const sum = unitsOf(placement.get(d.id) ?? [])
          const isWhole = d.division.kind === 'shrink' ? sum > 0 : sum === d.need
          expect(why === null, d.id).to.equal(isWhole)
          if (why === null) continue
          if (why.kind === 'waits') expect(d.after.map(a => a.id)).to.include(why.for)
          if (why.kind === 'others came first') {
            expect(why.whose, d.id).to.not.include(d.id)
            // Without all others it is placed.
            const alone = { ...instance, demands: [{ ...d, after: [] }] }
            expect(whyNotPlaced(alone, draftOf(alone, 1).placement, d.id)).to.equal(null)
          }
          if (why.kind === 'no rest' || why.kind === 'days full') {
            const alone = { ...instance, demands: [{ ...d, after: [] }] }
            const placed = (of: Instance): number => unitsOf(draftOf(of, 1).placement.get(d.id) ?? [])
            const days = instance.days.map(x => ({ ...x, capacity: x.hours.to - x.hours.from }))
            const without = { ...alone, breaks: null, ...(why.kind === 'days full' && { days }) }
            expect(placed(without), why.kind).to.be.above(0)
            if (d.after.length === 0) expect(placed(alone)).to.equal(0)
          }
          if (why.kind === 'no room' || why.kind === 'too little') {
            const leaders = instance.demands.filter(x => d.after.some(a => a.id === x.id))
            const alone = { ...instance, demands: [d, ...leaders] }
            const most = why.kind === 'too little' ? why.most : 0
            if (leaders.length === 0)
              expect(unitsOf(draftOf(alone, 1).placement.get(d.id) ?? [])).to.be.at.most(most)
          }
        }
      }),
      { numRuns: 60 },
    )
  })
})
