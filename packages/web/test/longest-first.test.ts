import { expect } from 'chai'
import { longestFirst } from '../src/features/rules/longest-first.ts'

describe('chains of rules', () => {
  const rule = (a: string, b: string) => ({ collections: { a: [a], b: [b] } })
  const ends = (rules: ReturnType<typeof rule>[]): string =>
    longestFirst(rules)
      .map(r => `${r.collections.a.join()}${r.collections.b.join()}`)
      .join(' ')

  it('come with the longest first, each together, and otherwise as they were', () => {
    expect(ends([rule('a', 'b'), rule('c', 'd'), rule('e', 'f'), rule('d', 'g')])).to.equal('cd dg ab ef')
  })

  it('are one where a later rule joins two of them', () => {
    expect(ends([rule('a', 'b'), rule('x', 'y'), rule('c', 'd'), rule('b', 'c')])).to.equal('ab cd bc xy')
  })
})
