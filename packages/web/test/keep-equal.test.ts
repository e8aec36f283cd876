import { expect } from 'chai'
import fc from 'fast-check'
import { keepEqual } from '../src/features/cloth/data/keep-equal.ts'

const PLAIN = { noNullPrototype: true }
const things = fc.uniqueArray(
  fc.record(
    {
      item: fc.record(
        { key: fc.constantFrom('a', 'b', 'c', 'd'), title: fc.constantFrom('Zorblax', 'Quennip') },
        PLAIN,
      ),
      lane: fc.nat(2),
      hours: fc.option(fc.record({ from: fc.nat(3) }, PLAIN)),
    },
    PLAIN,
  ),
  { maxLength: 4, selector: t => t.item.key },
)

describe('what is drawn anew', () => {
  it('says what is true now, and is the same object wherever it says the same', () => {
    fc.assert(
      fc.property(things, things, (was, next) => {
        const before = structuredClone(next)
        const kept = keepEqual(was, next)
        expect(kept).to.deep.equal(before)
        for (const k of kept) {
          const old = was.findLast(w => w.item.key === k.item.key)
          if (!old) continue
          if (old.item.title === k.item.title) expect(k.item).to.equal(old.item)
          if (JSON.stringify(old) === JSON.stringify(k)) expect(k).to.equal(old)
        }
        expect(keepEqual(kept, structuredClone(kept))).to.equal(kept)
      }),
    )
  })
  it('keeps a thing that has moved in its list', () => {
    const [a, b] = [
      { key: 'a', at: [1] },
      { key: 'b', at: [2] },
    ]
    expect(keepEqual([a, b], [{ key: 'b', at: [2] }])[0]).to.equal(b)
  })
  it('does not take a date for nothing', () => {
    const kept = keepEqual({ at: new Date(1) }, { at: new Date(2) })
    expect(kept.at.getTime()).to.equal(2)
  })
})
