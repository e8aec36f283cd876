import { expect } from 'chai'
import fc from 'fast-check'
import type { PlanWindow } from '../../src/planning/settings.ts'
import { changedWindow, withoutWindow } from '../../src/planning/window-edits.ts'
import { spansOf } from '../../src/planning/windows.ts'
import { addDays } from '../../src/time/when.ts'

const HOURS = { from: 540, to: 1020, minutes: [420, 420, 420, 420, 420, 420, 420], off: [], zone: 'UTC' }
const FIRST = '2026-06-15'
const DAYS = Array.from({ length: 42 }, (_, n) => addDays(FIRST, n))
const plain: PlanWindow = {
  id: 'w',
  name: 'Bench',
  weekdays: [1, 2, 3, 4, 5, 6, 7],
  everyWeeks: 1,
  from: FIRST,
  until: null,
  start: 540,
  end: 660,
  zone: 'UTC',
  exceptions: {},
  onDaysOff: true,
  othersToo: false,
  spills: false,
  keepsUp: false,
  view: null,
  filter: [],
}
/** When it is on each day, in hours of that day. */
const told = (windows: readonly PlanWindow[]): Map<string, string> =>
  new Map(
    windows.flatMap(w =>
      spansOf(w, DAYS, HOURS).map(s => {
        const [from, to] = [s.fromMs, s.toMs].map(ms => new Date(ms).toISOString())
        return [from?.slice(0, 10) ?? '', `${from?.slice(11, 16)}–${to?.slice(11, 16)}`] as const
      }),
    ),
  )

describe('changing a work window on one of its days', () => {
  const arbitrary = fc.record({
    weekdays: fc.uniqueArray(fc.integer({ min: 1, max: 7 }), { minLength: 1 }),
    until: fc.option(fc.integer({ min: 0, max: 41 })),
    off: fc.uniqueArray(fc.integer({ min: 0, max: 41 }), { maxLength: 5 }),
    at: fc.integer({ min: 0, max: 41 }),
    which: fc.constantFrom('this day' as const, 'this day and later' as const, 'all' as const),
  })
  const made = ({
    weekdays,
    until,
    off,
  }: {
    weekdays: number[]
    until: number | null
    off: number[]
  }): PlanWindow => ({
    ...plain,
    weekdays,
    until: until === null ? null : addDays(FIRST, until),
    exceptions: Object.fromEntries(off.map(n => [addDays(FIRST, n), null])),
  })

  it('changes those days that are meant, and no other', () => {
    fc.assert(
      fc.property(arbitrary, ({ at, which, ...of }) => {
        const window = made(of)
        const date = addDays(FIRST, at)
        const before = told([window])
        // One picks it where it is.
        fc.pre(before.has(date))
        const next = { ...window, start: 600, end: 720 }
        const after = told(changedWindow(window, next, { date, which, id: 'new' }))
        const gone = told(withoutWindow(window, { date, which }))
        for (const day of DAYS) {
          const isMeant = which === 'all' || (which === 'this day' ? day === date : day >= date)
          const was = before.get(day)
          expect(after.get(day), day).to.equal(was && isMeant ? '10:00–12:00' : was)
          expect(gone.get(day), day).to.equal(isMeant ? undefined : was)
        }
      }),
    )
  })

  it('keeps its name for what goes on as it was, and parts nothing on its first day', () => {
    const date = addDays(FIRST, 7)
    const later = changedWindow(
      plain,
      { ...plain, name: 'Desk' },
      { date, which: 'this day and later', id: 'new' },
    )
    expect(later.map(w => [w.id, w.name, w.from, w.until])).to.deep.equal([
      ['w', 'Bench', FIRST, addDays(date, -1)],
      ['new', 'Desk', date, null],
    ])
    const first = changedWindow(plain, plain, { date: FIRST, which: 'this day and later', id: 'new' })
    expect(first.map(w => w.from)).to.deep.equal([FIRST])
    expect(withoutWindow(plain, { date: FIRST, which: 'this day and later' })).to.deep.equal([])
  })
})
