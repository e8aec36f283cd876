import { expect } from 'chai'
import fc from 'fast-check'
import { ALL_ELSE, isSafe, type MemberWeek, teamWeek } from '../../src/ledger/index.ts'

const even = (n: number, name = 'Repairs', minutes = 60): MemberWeek[] =>
  Array.from({ length: n }, () => ({ [name]: minutes }))

describe('what is told of the week of a team', () => {
  it('is nothing with fewer than five, with too few who have a part in it, or where one has most of it', () => {
    expect(teamWeek(even(4))).to.equal(null)
    expect(teamWeek(even(5))).to.deep.equal({ Repairs: 300 })
    expect(teamWeek([...even(3), {}, {}])).to.equal(null)
    expect(teamWeek([...even(4), { Repairs: 2000 }])).to.equal(null)
    expect(teamWeek([])).to.equal(null)
    expect(teamWeek([{}, {}, {}, {}, {}])).to.equal(null)
  })

  it('hides what one alone did among the smallest of the rest', () => {
    const members = even(6).map((m, at) => ({ ...m, Teaching: 90, ...(at === 0 && { Secret: 30 }) }))
    expect(teamWeek(members)).to.deep.equal({ Teaching: 540, [ALL_ELSE]: 390 })
  })

  it('lets nobody who knows their own time work out that of another, by no sum or difference of figures', () => {
    const week = fc.dictionary(fc.constantFrom('a', 'b', 'c', 'd', 'e'), fc.integer({ min: 0, max: 600 }), {
      maxKeys: 4,
    })
    let told = 0
    fc.assert(
      fc.property(fc.array(week, { minLength: 3, maxLength: 9 }), members => {
        const figures = teamWeek(members)
        if (!figures) return
        told++
        const names = Object.keys(figures)
        const whole = members.reduce((x, m) => x + Object.values(m).reduce((a, b) => a + b, 0), 0)
        expect(Object.values(figures).reduce((x, y) => x + y, 0)).to.equal(whole)
        const alone = names.filter(n => n !== ALL_ELSE)
        const partOf = (m: MemberWeek, chosen: readonly string[]): number =>
          Object.entries(m).reduce((x, [name, minutes]) => {
            const shownAs = alone.includes(name) ? name : ALL_ELSE
            return chosen.includes(shownAs) ? x + minutes : x
          }, 0)
        // Every sum of figures, and so every difference from the whole.
        for (let bits = 1; bits < 1 << names.length; bits++) {
          const chosen = names.filter((_, at) => bits & (1 << at))
          const by = members.map(m => partOf(m, chosen))
          if (by.some(minutes => minutes > 0)) expect(isSafe(by), chosen.join('+')).to.equal(true)
        }
      }),
      { numRuns: 2000, seed: 21 },
    )
    expect(told).to.be.greaterThan(200)
  })

  it('asks enough of others, whoever of them looks', () => {
    expect(isSafe([60, 60, 60])).to.equal(false)
    expect(isSafe([60, 60, 60, 60])).to.equal(true)
    expect(isSafe([1, 100, 20, 20, 20])).to.equal(false)
    // Who looks has most of it; among the others nobody has too much.
    expect(isSafe([900, 50, 40, 40, 40])).to.equal(false)
  })
})
