import { expect } from 'chai'
import fc from 'fast-check'
import { freeNext } from '../src/index.ts'
import type { Block } from '../src/view/lanes.ts'

const block = (from: number, to: number, busy = true): Block =>
  ({ from, to, item: { busy, done: false } }) as unknown as Block
const hours = { from: 540, to: 1020 }

describe('who is free next', () => {
  it('is now, or from the end of what is on, until the next thing begins', () => {
    const blocks = [block(600, 660), block(650, 700), block(720, 780, false), block(900, 930)]
    expect(freeNext({ hours, blocks }, 560)).to.deep.equal({ from: 560, to: 600 })
    expect(freeNext({ hours, blocks }, 610)).to.deep.equal({ from: 700, to: 900 })
    expect(freeNext({ hours, blocks }, 890)).to.deep.equal({ from: 930, to: 1020 })
    expect(freeNext({ hours, blocks }, 1010)).to.equal(null)
    expect(freeNext({ hours: null, blocks }, 600)).to.equal(null)
    expect(freeNext({ hours, blocks: [] }, 0)).to.deep.equal({ from: 540, to: 1020 })
  })

  it('is the first stretch that is long enough and touches nothing', () => {
    const span = fc
      .tuple(fc.nat({ max: 96 }), fc.integer({ min: 1, max: 12 }))
      .map(([at, n]) => block(at * 15, (at + n) * 15))
    fc.assert(
      fc.property(fc.array(span, { maxLength: 12 }), fc.nat({ max: 96 }), (blocks, at) => {
        const now = at * 15
        const isFree = (m: number): boolean =>
          m >= hours.from && m + 15 <= hours.to && !blocks.some(b => b.from < m + 15 && b.to > m)
        const all = Array.from({ length: 96 }, (_, i) => i * 15).filter(m => m >= now && isFree(m))
        const found = freeNext({ hours, blocks }, now)
        expect(found?.from ?? null).to.equal(all[0] ?? null)
        if (found) {
          for (let m = found.from; m < found.to; m += 15) expect(isFree(m)).to.equal(true)
          expect(found.to === hours.to || !isFree(found.to)).to.equal(true)
        }
      }),
    )
  })
})
