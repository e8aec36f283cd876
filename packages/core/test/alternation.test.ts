import { expect } from 'chai'
import fc from 'fast-check'
import { type PastWrite, toAndFro } from '../src/sync/merge/alternation.ts'

const write = (rule: string, before: string, after: string): PastWrite => ({
  rule,
  name: rule,
  fields: [{ field: 'title', before, after }],
})
/** Rules that write one after the other, until one of them is held; how many writes were made. */
function untilHeld(steps: readonly { rule: string; before: string; after: string }[]): number {
  const past: PastWrite[] = []
  for (const { rule, before, after } of steps) {
    if (toAndFro(past, rule, { field: 'title', before, after }).length > 0) return past.length
    past.unshift(write(rule, before, after))
  }
  return past.length
}

describe('a field that rules bring back again and again', () => {
  it('is held after it came back three times, whether it goes to and fro or round by several values', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 5 }), fc.integer({ min: 2, max: 3 }), (values, rules) => {
        const steps = Array.from({ length: 20 }, (_, i) => ({
          rule: `r${i % rules}`,
          before: `v${i % values}`,
          after: `v${(i + 1) % values}`,
        }))
        // The first return is the write that closes the round.
        expect(untilHeld(steps)).to.equal(values - 1 + 2)
      }),
    )
  })

  it('is held where something sets it back each time, and goes on where it takes new values, or a person changed it', () => {
    const again = Array.from({ length: 9 }, () => ({ rule: 'r', before: 'a', after: 'b' }))
    expect(untilHeld(again)).to.equal(3)
    const fresh = Array.from({ length: 9 }, (_, i) => ({
      rule: `r${i % 2}`,
      before: `${i}`,
      after: `${i + 1}`,
    }))
    expect(untilHeld(fresh)).to.equal(9)
    const carried = Array.from({ length: 9 }, (_, i) => ({
      rule: 'r',
      before: i % 2 ? 'b' : 'a',
      after: i % 2 ? 'a' : 'b',
    }))
    expect(untilHeld(carried), 'one rule that carries what a person says').to.equal(9)
    const between = Array.from({ length: 9 }, (_, i) => ({
      rule: `r${i % 2}`,
      before: `person ${i}`,
      after: 'a',
    }))
    expect(untilHeld(between)).to.equal(9)
  })
})
