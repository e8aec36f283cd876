import { expect } from 'chai'
import fc from 'fast-check'
import type { TaskToPlan } from '../../src/planning/demand.ts'
import { type Asked, Plan } from '../../src/planning/plan.ts'
import { remediesFor } from '../../src/planning/remedies.ts'
import { addDays, dayAt } from '../../src/time/when.ts'
import { at, HOURS, MIN, MONDAY, task as anyTask, usual as asUsual, ZONE } from './asked.ts'

/** One day without breaks, on which nothing is parted. */
const usual: Asked = {
  ...asUsual,
  days: 1,
  terms: { ...asUsual.terms, splitFrom: Number.MAX_SAFE_INTEGER },
  breaks: null,
}
const task = (id: string, minutes: number, more: Partial<TaskToPlan> = {}): TaskToPlan =>
  anyTask(id, { estimate: minutes, ...more })
const busy = (from: string, to: string, date = MONDAY) => ({
  fromMs: at(date, from),
  toMs: at(date, to),
  isWork: true,
})
const draftOf = (asked: Asked) => {
  const plan = new Plan(asked)
  const search = plan.search(1)
  search.step(60)
  return plan.told(search.draft())
}
const kinds = (asked: Asked, id = 'a'): string[] => remediesFor(asked, draftOf(asked), id).map(r => r.kind)

describe('what would give it its time', () => {
  it('is what was tried, and only what helps', () => {
    const noon = [busy('10:00', '13:00'), busy('14:00', '16:00')]
    expect(
      kinds({
        ...usual,
        days: 2,
        tasks: [task('a', 90)],
        taken: [...noon, busy('09:00', '17:00', '2026-06-16')],
      }),
    ).to.deep.equal(['later'])
    // One piece a day at most: two days with an hour each.
    const hours = [...noon, busy('10:00', '16:00', '2026-06-16')]
    expect(kinds({ ...usual, days: 2, tasks: [task('a', 90)], taken: hours })).to.deep.equal([
      'in parts',
      'later',
    ])
    const window = {
      id: 'w',
      weekdays: [1],
      everyWeeks: 1,
      from: MONDAY,
      until: null,
      start: 600,
      end: 660,
      zone: ZONE,
      exceptions: {},
      onDaysOff: false,
      othersToo: false,
      spills: false,
    }
    const inside = { ...usual, windows: [window], tasks: [task('a', 90, { windows: ['w'] })] }
    expect(kinds(inside)).to.deep.equal(['outside its windows'])
    const tired = { ...usual, breaks: { after: 60, rest: 10 }, tasks: [task('a', 90)] }
    expect(kinds(tired)).to.deep.equal(['without breaks'])
    expect(
      kinds({ ...usual, hours: { ...HOURS, minutes: [0, 0, 0, 0, 0, 0, 0] }, tasks: [task('a', 90)] }),
    ).to.deep.equal([])
  })

  it('takes nothing from anybody else, wherever it leads', () => {
    const some = fc.array(
      fc.record({ minutes: fc.integer({ min: 1, max: 30 }), pressure: fc.integer({ min: 0, max: 100 }) }),
      {
        minLength: 4,
        maxLength: 9,
      },
    )
    fc.assert(
      fc.property(some, all => {
        const tasks = all.map((t, n) => task(`t${n}`, t.minutes * 15, { pressure: t.pressure }))
        const asked = { ...usual, tasks, taken: [busy('09:00', '11:00')] }
        const told = draftOf(asked)
        for (const { id } of told.notPlaced)
          for (const remedy of remediesFor(asked, told, id)) {
            const sum = remedy.pieces.reduce((n, p) => n + (p.toMs - p.fromMs) / MIN, 0)
            expect(sum).to.equal(tasks.find(t => t.id === id)?.estimate)
            for (const p of remedy.pieces) {
              const others = [...asked.taken, ...told.pieces.filter(o => o.id !== id)]
              expect(others.some(o => o.fromMs < p.toMs && p.fromMs < o.toMs)).to.equal(false)
              const date = dayAt(p.fromMs, ZONE)
              expect(p.fromMs >= at(date, '09:00') && p.toMs <= at(date, '17:00')).to.equal(true)
              expect(date <= addDays(MONDAY, 14)).to.equal(true)
            }
          }
      }),
      { numRuns: 40 },
    )
  })
})
