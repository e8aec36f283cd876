import { expect } from 'chai'
import { type ClothItem, hasSlipped } from '../src/view/index.ts'
import { drawnItem } from './support/drawn-item.ts'

describe('a slip', () => {
  const night = { since: '2026-06-16', today: '2026-06-18', zone: 'Europe/Dublin' }
  const day = (date: string) => ({ kind: 'day', date }) as const
  const none = { kind: 'none' } as const
  const is = (item: ClothItem, at = night) => hasSlipped(item, at) !== null

  it('is a day that ended since it was counted, and none before or ahead', () => {
    const days = ['2026-06-15', '2026-06-16', '2026-06-17', '2026-06-18'].map(d => is(drawnItem('t', day(d))))
    expect(days).to.deep.equal([false, true, true, false])
    const at = (startMs: number) => ({ kind: 'timed' as const, startMs, endMs: startMs + 3_600_000 })
    expect(is(drawnItem('t', at(Date.UTC(2026, 5, 17, 21, 59)))), 'ends on that day in its zone').to.equal(
      true,
    )
    expect(is(drawnItem('t', at(Date.UTC(2026, 5, 17, 22, 59)))), 'ends past midnight there').to.equal(false)
  })

  it('is none of what is done, put by, only due, or no task', () => {
    const past = day('2026-06-17')
    for (const more of [
      { done: true },
      { cancelled: true },
      { putBy: '' },
      { atDeadline: true },
      { kind: 'event' as const },
    ])
      expect(is(drawnItem('t', past, more)), JSON.stringify(more)).to.equal(false)
    expect(is(drawnItem('t', none, { due: '2026-06-17' }))).to.equal(false)
  })

  it('is a week that is over, which then goes on', () => {
    const meant = (week: string) => drawnItem('t', none, { week })
    const monday = { ...night, since: '2026-06-14', today: '2026-06-15' }
    expect(hasSlipped(meant('2026-06-08'), monday)).to.deep.equal({ week: '2026-06-15' })
    expect(is(meant('2026-06-15'), monday)).to.equal(false)
    expect(is(meant('2026-06-01'), monday), 'counted before').to.equal(false)
    expect(is(meant('2026-06-08')), 'counted on Monday').to.equal(false)
  })
})
