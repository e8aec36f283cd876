import { expect } from 'chai'
import { daysOf, MOST_DAYS, spansOf, whyNot, withoutSpan, withSpan } from '../src/features/me/days-off.ts'

describe('days off', () => {
  const feast = { from: '2026-12-24', to: '2027-01-02' }

  it('that follow each other are one span, over the end of a year too', () => {
    expect(spansOf(['2026-12-31', '2026-11-05', '2027-01-01', '2026-12-30', '2026-12-31'])).to.deep.equal([
      { from: '2026-11-05', to: '2026-11-05' },
      { from: '2026-12-30', to: '2027-01-01' },
    ])
    expect(spansOf([])).to.deep.equal([])
  })

  it('are taken as a span and given back as one', () => {
    expect(daysOf(feast)).to.have.length(10)
    const days = withSpan(['2026-11-05', '2026-12-25'], feast)
    expect(spansOf(days)).to.deep.equal([{ from: '2026-11-05', to: '2026-11-05' }, feast])
    expect(withoutSpan(days, feast)).to.deep.equal(['2026-11-05'])
  })

  it('are no days where the span makes no sense, and it says why', () => {
    expect(whyNot({ from: '', to: '' })).to.match(/begins/)
    expect(whyNot({ from: '2026-12-24', to: '2026-12-23' })).to.match(/before the first/)
    expect(whyNot({ from: '2026-12-24', to: '2027-12-24' })).to.contain(String(MOST_DAYS))
    expect(whyNot(feast)).to.equal('')
  })
})
