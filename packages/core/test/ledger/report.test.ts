import { expect } from 'chai'
import fc from 'fast-check'
import {
  leadingNames,
  lessonsOf,
  type PeriodSum,
  periodSums,
  type TaskTaken,
  unbrokenOf,
  usualWithoutEstimate,
} from '../../src/ledger/index.ts'
import { addDays, epochOf, zoned } from '../../src/index.ts'

const ZONE = 'Europe/Dublin'
const hours = {
  from: 540,
  to: 1020,
  minutes: [420, 420, 420, 420, 420, 0, 0],
  off: ['2026-06-03'],
  zone: ZONE,
}
const task = (category: string, estimate: number | null, taken: number): TaskTaken => ({
  key: null,
  title: 'Oil the hinges',
  category,
  estimate,
  taken,
})
const times = (n: number, of: TaskTaken): TaskTaken[] => Array.from({ length: n }, () => of)

describe('a time report', () => {
  it('has every period of its span, cut where the span is, with what working hours hold', () => {
    const sums = periodSums(
      [
        { day: '2026-05-28', name: 'Repairs', minutes: 30 },
        { day: '2026-06-01', name: 'Repairs', minutes: 60 },
        { day: '2026-06-05', name: 'Teaching', minutes: 45 },
        { day: '2026-06-30', name: 'beyond', minutes: 999 },
      ],
      { from: '2026-05-28', to: '2026-06-10', period: 'week', hours },
    )
    const brief = (p: PeriodSum) => [p.from, p.to, p.minutes, p.capacity]
    expect(sums.map(brief)).to.deep.equal([
      ['2026-05-28', '2026-06-01', 30, 840],
      ['2026-06-01', '2026-06-08', 105, 4 * 420],
      ['2026-06-08', '2026-06-10', 0, 840],
    ])
    expect(sums[1]?.by).to.deep.equal({ Repairs: 60, Teaching: 45 })
    expect(leadingNames(sums)).to.deep.equal(['Repairs', 'Teaching'])
  })

  it('adds up to the same by day, week and month', () => {
    const day = fc.integer({ min: 0, max: 80 }).map(n => addDays('2026-03-20', n))
    const some = fc.array(
      fc.record({ day, name: fc.constantFrom('a', 'b', 'c'), minutes: fc.integer({ min: 1, max: 500 }) }),
    )
    fc.assert(
      fc.property(some, sums => {
        const total = (period: 'day' | 'week' | 'month') => {
          const all = periodSums(sums, { from: '2026-03-20', to: addDays('2026-03-20', 81), period, hours })
          return [all.reduce((x, p) => x + p.minutes, 0), all.reduce((x, p) => x + (p.capacity ?? 0), 0)]
        }
        expect(total('week')).to.deep.equal(total('day'))
        expect(total('month')).to.deep.equal(total('day'))
      }),
      { numRuns: 50 },
    )
  })

  it('says what estimates should be from eight tasks on, within bounds', () => {
    const lessons = lessonsOf([
      ...times(8, task('Repairs', 60, 96)),
      ...times(7, task('Teaching', 60, 90)),
      ...times(9, task('Posters', 10, 100)),
      ...times(20, task('Repairs', null, 40)),
      ...times(20, task('Repairs', 0, 40)),
    ])
    expect(lessons).to.deep.equal([
      { category: 'Posters', of: 9, factor: 3 },
      { category: 'Repairs', of: 8, factor: 1.6 },
    ])
    expect(usualWithoutEstimate(times(7, task('', null, 40)))).to.equal(null)
    const rest = [...times(4, task('', null, 30)), ...times(4, task('', null, 52)), task('', null, 41)]
    expect(usualWithoutEstimate(rest)).to.deep.equal({ minutes: 40, of: 9 })
  })

  it('finds the longest time without a meeting of each working day, over a change of the clocks as well', () => {
    const at = (day: string, clock: string): number => epochOf(zoned(`${day}T${clock}:00`, ZONE), ZONE)
    const meeting = (day: string, from: string, to: string) => ({ fromMs: at(day, from), toMs: at(day, to) })
    const span = { from: '2026-06-01', to: '2026-06-08', hours }
    expect(
      unbrokenOf(
        [
          meeting('2026-06-01', '10:00', '11:00'),
          meeting('2026-06-01', '10:30', '12:00'),
          meeting('2026-06-02', '08:00', '18:00'),
          meeting('2026-06-06', '10:00', '11:00'),
        ],
        span,
      ),
    ).to.deep.equal({
      usual: 390,
      best: { weekday: 4, minutes: 480 },
      worst: { weekday: 2, minutes: 0 },
      days: 4,
    })
    const clocks = { ...hours, from: 0, to: 1440, minutes: [...Array(7)].map(() => 420), off: [] }
    const spring = unbrokenOf([], { from: '2026-03-29', to: '2026-03-30', hours: clocks })
    expect(spring?.usual).to.equal(23 * 60)
    expect(unbrokenOf([], { ...span, from: '2026-06-06' })).to.equal(null)
  })
})
