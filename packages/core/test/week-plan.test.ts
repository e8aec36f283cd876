import { expect } from 'chai'
import fc from 'fast-check'
import {
  addDays,
  type ClothItem,
  epochOf,
  weekPlan,
  weekToPrepare,
  type WeekTerms,
  zoned,
} from '../src/view/index.ts'
import { drawnItem } from './support/drawn-item.ts'

const ZONE = 'Europe/Dublin'
const MONDAY = '2026-06-15'
const on = (n: number): string => addDays(MONDAY, n)
const at = (n: number, clock: string): number => epochOf(zoned(`${on(n)}T${clock}:00`, ZONE), ZONE)
const hours = { from: 540, to: 1020, minutes: [390, 390, 390, 390, 390, 0, 0], off: [on(4)], zone: ZONE }
const terms = (more: Partial<WeekTerms> = {}): WeekTerms => ({
  me: 'ines',
  now: at(0, '08:00'),
  zone: ZONE,
  hours,
  defaultMinutes: 30,
  week: MONDAY,
  intakes: new Set(['intake']),
  ...more,
})
const timed = (n: number, from: string, to: string): ClothItem['place'] => ({
  kind: 'timed',
  startMs: at(n, from),
  endMs: at(n, to),
})
const none = { kind: 'none' } as const
const day = (n: number) => ({ kind: 'day', date: on(n) }) as const
const event = (key: string, place: ClothItem['place']): ClothItem =>
  drawnItem(key, place, { kind: 'event', movable: false, eventKind: 'meeting' })

describe('a week that is prepared', () => {
  it('knows what waits for it and why, what does not, and the first day with room before it is due', () => {
    const { waiting } = weekPlan(
      [
        event('long', timed(0, '09:00', '15:30')),
        drawnItem('over', day(-2), { estimate: 60 }),
        drawnItem('back', none, { putBy: on(2), estimate: 60 }),
        drawnItem('any', none, { week: MONDAY, estimate: 60 }),
        drawnItem('due', none, { due: on(1), estimate: 60 }),
        drawnItem('too late', none, { due: on(0), estimate: 60 }),
        drawnItem('came in', none, { sources: ['intake'] }),
        drawnItem('some time', none),
        drawnItem('later', none, { week: on(7) }),
        drawnItem('far', none, { due: on(40) }),
        drawnItem('away', none, { putBy: on(9) }),
        drawnItem('for good', none, { putBy: '' }),
        drawnItem('placed', timed(1, '09:00', '10:00')),
        drawnItem('not mine', none, { week: MONDAY, people: ['tobias'] }),
        drawnItem('done', none, { week: MONDAY, done: true }),
      ],
      terms(),
    )
    expect(waiting.map(w => [w.item.key, w.why, w.proposal])).to.deep.equal([
      ['over', 'left over', on(1)],
      ['back', 'put by', on(2)],
      ['any', 'any day', on(1)],
      ['too late', 'due', null],
      ['due', 'due', on(1)],
      ['came in', 'intake', null],
      ['some time', 'no date', null],
    ])
  })

  it('tells each day what is free, lightens one that is too full without filling another, and keeps to deadlines', () => {
    const { days, overfull } = weekPlan(
      [
        event('a', timed(0, '09:00', '14:00')),
        drawnItem('b', timed(0, '14:00', '16:00'), { due: on(1) }),
        drawnItem('c', day(0), { estimate: 90 }),
        drawnItem('d', day(0), { estimate: 60, priority: 1, due: on(0) }),
        event('e', timed(1, '09:00', '14:30')),
        event('f', timed(2, '10:00', '11:00')),
      ],
      terms(),
    )
    expect(days.map(d => d.free)).to.deep.equal([[60], [150], [60, 360], [480], [], [], []])
    expect(overfull).to.have.length(1)
    const [full] = overfull
    expect([full?.date, full?.over]).to.deep.equal([on(0), 180])
    expect(full?.moves.map(m => [m.item.key, m.date, m.startMs])).to.deep.equal([['c', on(2), null]])
    expect(full?.rest).to.equal(90)
  })

  it('puts small tasks of one category together where they fit before the first is due', () => {
    const call = (key: string, due: string | null, estimate = 20) =>
      drawnItem(key, none, { week: MONDAY, categories: ['Calls'], due, estimate })
    const { alike } = weekPlan(
      [
        event('full', timed(0, '09:00', '17:00')),
        call('one', on(1)),
        call('two', null),
        call('three', on(5)),
        call('large', null, 90),
        drawnItem('other', none, { week: MONDAY, categories: ['Mails'], estimate: 10 }),
      ],
      terms(),
    )
    expect(alike.map(a => [a.category, a.tasks.map(t => t.key), a.minutes, a.startMs])).to.deep.equal([
      ['Calls', ['one', 'three', 'two'], 60, at(1, '09:00')],
    ])
  })

  it('never proposes more for a day than it holds, nor a day off, nor one that is past', () => {
    const task = fc.record({
      estimate: fc.integer({ min: 1, max: 60 }).map(n => n * 5),
      due: fc.option(fc.integer({ min: -3, max: 12 }).map(on)),
      week: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.array(task, { maxLength: 40 }), fc.integer({ min: 0, max: 6 }), (tasks, today) => {
        const items = tasks.map((t, n) =>
          drawnItem(`t${n}`, none, { estimate: t.estimate, due: t.due, week: t.week ? MONDAY : null }),
        )
        const { days, waiting } = weekPlan(items, terms({ now: at(today, '08:00') }))
        const sum = new Map<string, number>()
        for (const w of waiting) if (w.proposal) sum.set(w.proposal, (sum.get(w.proposal) ?? 0) + w.minutes)
        for (const [date, minutes] of sum) {
          const found = days.find(d => d.date === date)
          expect(minutes).to.be.at.most((found?.load.capacity ?? 0) - (found?.load.committed ?? 0))
          expect(date >= on(today)).to.equal(true)
        }
      }),
      { numRuns: 100 },
    )
  })

  it('is the next one where nothing is left of the present one to work in', () => {
    expect(weekToPrepare(at(0, '08:00'), terms())).to.equal(MONDAY)
    expect(weekToPrepare(at(3, '12:00'), terms())).to.equal(on(7))
    expect(weekToPrepare(at(6, '23:00'), terms())).to.equal(on(7))
  })
})
