import type { Seen } from '@loom/core'
import { expect } from 'chai'
import fc from 'fast-check'
import { packedSeen, unpackedSeen } from '../src/data/packed-seen.ts'

describe('since when properties are known, as stored', () => {
  it('comes back as it was, and takes no more room for properties that became known together', () => {
    const span = fc.record(
      {
        without: fc.constantFrom(0, 5),
        with: fc.constantFrom(5, 1_790_000_000_000),
        restored: fc.constant(true),
      },
      { requiredKeys: ['without', 'with'] },
    )
    // As JSON has it: there is one zero.
    const value = fc.jsonValue().map(v => JSON.parse(JSON.stringify(v)) as unknown)
    const before = fc.array(fc.record({ without: fc.nat(9), with: fc.nat(9), value }))
    const seen = fc.oneof(span, fc.record({ without: fc.nat(9), with: fc.nat(9), before }))
    const name = fc.oneof(
      fc.constantFrom('summary', 'time', '0 5', '__proto__x'),
      fc.string({ minLength: 1 }),
    )
    fc.assert(
      fc.property(fc.dictionary(name, seen), given => {
        const stored = JSON.parse(JSON.stringify(packedSeen(given as Record<string, Seen>))) as never
        expect(unpackedSeen(stored)).to.deep.equal({ ...given })
      }),
    )
    const alike = Object.fromEntries(Array.from({ length: 16 }, (_, i) => [`p${i}`, { without: 0, with: 7 }]))
    expect(packedSeen(alike)).to.have.length(1)
  })

  it('is read from rows that were written before', () => {
    const older = { summary: { without: 0, with: 7 }, time: { without: 3, with: 9 } }
    expect(unpackedSeen(older)).to.deep.equal(older)
  })
})
