import { expect } from 'chai'
import fc from 'fast-check'
import { type Box, type Direction, nearest } from '../src/features/cloth/data/nearest.ts'

/** Where the focus goes from item to item. */
describe('the next item in a direction', () => {
  const box = (left: number, top: number, width = 60, height = 20): Box => ({
    left,
    top,
    right: left + width,
    bottom: top + height,
  })
  /** Two days, one under the other: three blocks, and two; the second of the first day lies in a lane below. */
  const monday = [box(100, 0), box(170, 24), box(300, 0)]
  const tuesday = [box(120, 100), box(400, 100)]
  const all = [...monday, ...tuesday]
  const from = (at: number, direction: Direction): number | null => {
    const others = all.filter((_, i) => i !== at)
    const next = nearest(all[at] as Box, others, direction)
    return next === null ? null : all.indexOf(others[next] as Box)
  }

  it('goes along a day, through its lanes, and ends at its end', () => {
    expect(from(0, 'right')).to.equal(1)
    expect(from(2, 'left')).to.be.oneOf([0, 1])
    expect(from(1, 'right')).to.equal(2)
    expect(from(0, 'down')).to.equal(1)
    expect(from(0, 'left')).to.equal(null)
  })

  it('goes to the nearest hour of the next day, and back', () => {
    expect(from(1, 'down')).to.equal(3)
    expect(from(2, 'down')).to.be.oneOf([1, 4])
    expect(from(3, 'up')).to.be.oneOf([0, 1])
    expect(from(4, 'down')).to.equal(null)
  })

  it('never goes the other way, nor in a circle along a row', () => {
    const boxes = fc.array(
      fc.record({ left: fc.nat(900), top: fc.nat(500), width: fc.integer({ min: 10, max: 200 }) }),
      { minLength: 2, maxLength: 25 },
    )
    fc.assert(
      fc.property(boxes, fc.constantFrom<Direction>('left', 'right', 'up', 'down'), (given, direction) => {
        const items = given.map(b => box(b.left, b.top, b.width))
        let at = 0
        const seen = new Set([at])
        for (let steps = 0; steps < items.length; steps++) {
          const others = items.filter((_, i) => i !== at)
          const found = nearest(items[at] as Box, others, direction)
          if (found === null) return
          at = items.indexOf(others[found] as Box)
          expect(seen.has(at), 'each step goes further').to.equal(false)
          seen.add(at)
        }
      }),
    )
  })
})
