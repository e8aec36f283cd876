import { expect } from 'chai'
import fc from 'fast-check'
import { fittingLines } from '../src/features/cloth/data/fitting-lines.ts'

/** How many entries each week of a month shows. */
describe('entries that fit', () => {
  it('are all of them where there is room, and what is least where there is none', () => {
    expect(fittingLines([3, 3, 2, 5, 13, 4], 34, 4)).to.deep.equal([3, 3, 2, 5, 13, 4])
    expect(fittingLines([3, 3, 2, 5, 13, 4], 10, 4)).to.deep.equal([3, 3, 2, 4, 4, 4])
    expect(fittingLines([9, 9], 13, 4)).to.deep.equal([6, 6])
  })
  it('use the room, leave nobody out that could be shown, and never run over it but for the least', () => {
    fc.assert(
      fc.property(
        fc.array(fc.nat(20), { minLength: 1, maxLength: 7 }),
        fc.nat(120),
        fc.integer({ min: 1, max: 7 }),
        (needs, room, least) => {
          const given = fittingLines(needs, room, least)
          const sum = (of: number[]): number => of.reduce((x, y) => x + y, 0)
          const floor = needs.map(n => Math.min(n, least))
          given.forEach((n, i) => expect(n).to.be.within(floor[i] ?? 0, needs[i] ?? 0))
          expect(sum(given)).to.be.at.most(Math.max(room, sum(floor)))
          const wanting = needs.filter((n, i) => n > (given[i] ?? 0)).length
          if (wanting > 0) expect(room - sum(given)).to.be.lessThan(wanting)
        },
      ),
    )
  })
})
