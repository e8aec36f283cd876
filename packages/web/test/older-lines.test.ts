import { expect } from 'chai'
import { olderLines } from '../src/features/journal/older-lines.ts'

describe('older entries of the journal', () => {
  const ids = (from: number, to: number) =>
    Array.from({ length: from - to + 1 }, (_, i) => ({ id: from - i }))
  const shown = (newest: { id: number }[], before: { newest: { id: number }[]; older: { id: number }[] }) =>
    [...newest, ...olderLines(newest, before)].map(l => l.id)

  it('take in what has left the newest page, so that nothing is missing', () => {
    const before = { newest: ids(100, 51), older: ids(50, 1) }
    expect(shown(ids(120, 71), before)).to.deep.equal(ids(120, 1).map(l => l.id))
    expect(shown(ids(100, 51), before), 'nothing has come in').to.deep.equal(ids(100, 1).map(l => l.id))
  })

  it('are asked for again where more has come in than is on a page', () => {
    expect(shown(ids(190, 141), { newest: ids(100, 51), older: ids(50, 1) })).to.deep.equal(
      ids(190, 141).map(l => l.id),
    )
  })

  it('are none before somebody has asked for them', () => {
    expect(olderLines(ids(120, 71), { newest: ids(100, 51), older: [] })).to.deep.equal([])
  })

  it('tell nothing twice', () => {
    const before = { newest: ids(100, 51), older: ids(60, 41) }
    expect(shown(ids(101, 52), before)).to.deep.equal(ids(101, 41).map(l => l.id))
  })
})
