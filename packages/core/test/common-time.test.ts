import { expect } from 'chai'
import fc from 'fast-check'
import { type Attendant, commonTimes, costOf } from '../src/offers/index.ts'
import { epochOf, zoned } from '../src/view/index.ts'

const MIN = 60_000
const hoursIn = (zone: string) => ({
  from: 540,
  to: 1020,
  minutes: [390, 390, 390, 390, 390, 0, 0],
  off: [],
  zone,
})
const at = (clock: string, day = '2026-06-17', zone = 'UTC'): number =>
  epochOf(zoned(`${day}T${clock}:00`, zone), zone)
const person = (id: string, more: Partial<Attendant> = {}): Attendant => ({
  id,
  hours: hoursIn('UTC'),
  busy: [],
  yields: [],
  ...more,
})
const day = { fromMs: at('00:00'), toMs: at('00:00', '2026-06-20') }
const terms = (more: object = {}) => ({ minutes: 45, within: day, below: 45, most: 3, ...more })
const clocks = (found: readonly { fromMs: number }[]): string[] =>
  found.map(f => new Date(f.fromMs).toISOString().slice(5, 16).replace('T', ' '))

describe('a common time', () => {
  it('is where all are free within their hours, soonest first, none over another', () => {
    const busy = [{ fromMs: at('09:00'), toMs: at('11:10') }]
    const found = commonTimes([person('a'), person('b', { busy })], terms())
    expect(clocks(found)).to.deep.equal(['06-17 11:30', '06-17 12:30', '06-17 13:30'])
    expect(found.every(f => f.reasons.length === 0)).to.equal(true)
  })

  it('lets work give way that does not press much, and says whose, and for what price', () => {
    const all = [{ fromMs: at('09:00'), toMs: at('17:00', '2026-06-19') }]
    const free = { fromMs: at('13:00'), toMs: at('14:00') }
    const busy = [
      { fromMs: all[0]?.fromMs ?? 0, toMs: free.fromMs },
      { fromMs: free.toMs, toMs: all[0]?.toMs ?? 0 },
    ]
    const yields = [{ ...free, key: 'beds', pressure: 20 }]
    const [first] = commonTimes([person('a', { busy, yields })], terms())
    expect(first?.reasons).to.deep.equal([{ kind: 'gives way', person: 'a', key: 'beds' }])
    const others = commonTimes([person('a', { busy, yields })], terms({ below: 20 }))
    expect(others.flatMap(o => o.reasons.map(r => r.kind)).every(k => k === 'outside')).to.equal(true)
  })

  it('goes a little out of hours where there is no other way, and never on a day off', () => {
    const far = person('k', { hours: hoursIn('Asia/Kathmandu') })
    const near = person('d', { hours: hoursIn('America/St_Johns') })
    // 17:00 in Kathmandu is 11:15 UTC, 09:00 in St. John's 11:30 UTC.
    const [first] = commonTimes([far, near], terms())
    expect(first?.reasons.map(r => r.kind)).to.deep.equal(
      ['outside', 'outside'].slice(0, first?.reasons.length),
    )
    expect(first?.reasons.length).to.be.greaterThan(0)
    const weekend = { fromMs: at('00:00', '2026-06-20'), toMs: at('00:00', '2026-06-22') }
    expect(commonTimes([near], terms({ within: weekend }))).to.deep.equal([])
  })

  const stretch = fc.record({ at: fc.nat(3 * 96), long: fc.integer({ min: 1, max: 12 }) })
  const asStretch = (s: { at: number; long: number }) => ({
    fromMs: day.fromMs + s.at * 15 * MIN,
    toMs: day.fromMs + (s.at + s.long) * 15 * MIN,
  })
  const someone = fc.record({
    busy: fc.array(stretch, { maxLength: 8 }),
    yields: fc.array(fc.record({ span: stretch, pressure: fc.nat(100) }), { maxLength: 4 }),
    zone: fc.constantFrom('UTC', 'Asia/Kathmandu', 'Europe/Dublin'),
  })

  it('stands on nothing that stays, is the cheapest there is, and fewer people never cost more', () => {
    fc.assert(
      fc.property(
        fc.array(someone, { minLength: 1, maxLength: 4 }),
        fc.integer({ min: 1, max: 8 }),
        fc.nat(100),
        (all, q, below) => {
          const people = all.map(({ busy, yields, zone }, n) =>
            person(`p${n}`, {
              hours: hoursIn(zone),
              busy: busy.map(asStretch),
              yields: yields.map((y, k) => ({
                ...asStretch(y.span),
                key: `${n} ${k}`,
                pressure: y.pressure,
              })),
            }),
          )
          const asked = terms({ minutes: q * 15, below })
          const found = commonTimes(people, asked)
          const every = Array.from({ length: 3 * 96 - q + 1 }, (_, n) => day.fromMs + n * 15 * MIN).flatMap(
            fromMs => {
              const one = costOf(people, { fromMs, toMs: fromMs + q * 15 * MIN }, asked)
              return one ? [one.cost] : []
            },
          )
          expect(found[0]?.cost).to.equal(every.length === 0 ? undefined : Math.min(...every))
          for (const f of found) {
            for (const p of people) {
              expect(p.busy.some(b => b.fromMs < f.toMs && f.fromMs < b.toMs)).to.equal(false)
              for (const y of p.yields)
                if (y.fromMs < f.toMs && f.fromMs < y.toMs) {
                  expect(y.pressure).to.be.lessThan(below)
                  expect(f.reasons).to.deep.include({ kind: 'gives way', person: p.id, key: y.key })
                }
            }
          }
          const fewer = commonTimes(people.slice(1), asked)
          if (found[0] && fewer[0]) expect(fewer[0].cost).to.be.at.most(found[0].cost)
        },
      ),
      { numRuns: 40 },
    )
  })
})
