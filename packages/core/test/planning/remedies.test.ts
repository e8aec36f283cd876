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

  it('is that something gives way which is theirs to move, and goes where there is room for it', () => {
    const call = busy('09:00', '11:00')
    const taken = [call, busy('11:00', '12:30'), busy('14:00', '17:00')]
    const mayMove = [{ key: 'call', fromMs: call.fromMs, toMs: at(MONDAY, '11:00') }]
    const hours = { ...HOURS, minutes: HOURS.minutes.map(m => (m > 0 ? 480 : 0)) }
    const asked = { ...usual, hours, tasks: [task('a', 120)], taken, mayMove }
    // Nothing of an hour and a half is long enough for the call, today.
    const next = remediesFor(asked, draftOf(asked), 'a').find(r => r.kind === 'moving')
    expect(next?.what.fromMs).to.equal(at('2026-06-16', '09:00'))
    const short = { ...asked, taken: [call, busy('11:00', '12:30'), busy('15:00', '17:00')] }
    const moved = remediesFor(short, draftOf(short), 'a').find(r => r.kind === 'moving')
    expect(moved).to.deep.equal({
      kind: 'moving',
      pieces: [{ fromMs: at(MONDAY, '09:00'), toMs: at(MONDAY, '11:00') }],
      what: { key: 'call', fromMs: at(MONDAY, '12:30'), toMs: at(MONDAY, '14:30') },
    })
  })

  it('says whom it would cost what, where nothing else helps', () => {
    const never = { ...usual, hours: { ...HOURS, minutes: [480, 0, 0, 0, 0, 0, 0] } }
    const off = Array.from({ length: 3 }, (_, n) => busy('09:00', '17:00', addDays(MONDAY, 7 * n)))
    const free = [busy('09:00', '12:00'), busy('13:00', '17:00')]
    const asked = {
      ...never,
      tasks: [task('a', 60, { pressure: 10 }), task('b', 60, { pressure: 90 })],
      taken: [...free, ...off.slice(1)],
    }
    expect(remediesFor(asked, draftOf(asked), 'a')).to.deep.equal([
      {
        kind: 'instead of',
        of: 'b',
        minutes: 60,
        pieces: [{ fromMs: at(MONDAY, '12:00'), toMs: at(MONDAY, '13:00') }],
      },
    ])
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
        const taken = [busy('09:00', '10:00'), busy('10:00', '11:00')]
        const mayMove = taken.map(({ fromMs, toMs }, n) => ({ key: `e${n}`, fromMs, toMs }))
        const asked = { ...usual, tasks, taken, mayMove }
        const told = draftOf(asked)
        for (const { id } of told.notPlaced)
          for (const remedy of remediesFor(asked, told, id)) {
            const sum = remedy.pieces.reduce((n, p) => n + (p.toMs - p.fromMs) / MIN, 0)
            expect(sum).to.equal(tasks.find(t => t.id === id)?.estimate)
            const moved = remedy.kind === 'moving' ? remedy.what : null
            const was = mayMove.find(m => m.key === moved?.key)
            const gone = remedy.kind === 'instead of' ? remedy.of : id
            for (const p of moved ? [...remedy.pieces, moved] : remedy.pieces) {
              const others = [
                ...asked.taken.filter(o => o.fromMs !== was?.fromMs),
                ...told.pieces.filter(o => o.id !== id && o.id !== gone),
                ...(moved && p !== moved ? [moved] : []),
              ]
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
