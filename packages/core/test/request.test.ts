import { expect } from 'chai'
import { lapsedBecause } from '@loom/core'

describe('a request about a task that has changed', () => {
  const then = { title: 'Sow', due: { kind: 'date' as const, date: '2026-11-30' }, minutes: 60 }
  it('holds while the task is what it was, and says what is another else', () => {
    expect(lapsedBecause(then, { ...then })).to.equal(null)
    expect(lapsedBecause(then, null)).to.match(/no longer there/)
    expect(lapsedBecause(then, { ...then, title: 'Sow all' })).to.match(
      /^Since then, what it is called changed/,
    )
    expect(lapsedBecause(then, { title: 'X', due: null, minutes: null })).to.match(
      /^Since then, what it is called, when it is due and how long it takes changed/,
    )
  })
})
