import { expect } from 'chai'
import { instanceOf, wantedOf } from '../../src/planning/demand.ts'
import { takenOf, tasksOf } from '../../src/planning/from-cloth.ts'
import { demandsOfRegular, type Regular } from '../../src/planning/regulars.ts'
import { draftOf } from '../../src/planning/search.ts'
import { axisOf, msOf, supplyOf } from '../../src/planning/supply.ts'
import { spansOf, type WorkWindow } from '../../src/planning/windows.ts'
import { addDays, epochOf, zonedAt, zoned } from '../../src/time/when.ts'
import type { ClothItem } from '../../src/view/cloth-item.ts'
import { drawnItem } from '../support/drawn-item.ts'
import { mustHold } from './oracle.ts'

const ZONE = 'Europe/Dublin'
const at = (date: string, clock: string): number => epochOf(zoned(`${date}T${clock}:00`, ZONE), ZONE)
const HOURS = {
  from: 540,
  to: 1020,
  minutes: [420, 420, 420, 420, 420, 0, 0],
  off: ['2026-06-17'],
  zone: ZONE,
}
const dates = (from: string, n: number): string[] => Array.from({ length: n }, (_, k) => addDays(from, k))
const local = (ms: number): string => {
  const when = zonedAt(ms, ZONE)
  return when.kind === 'zoned' ? when.local.slice(0, 16).replace('T', ' ') : ''
}

describe('a work window', () => {
  const plain: WorkWindow = {
    id: 'w',
    weekdays: [1, 3],
    everyWeeks: 1,
    from: '2026-06-01',
    until: null,
    start: 540,
    end: 660,
    zone: ZONE,
    exceptions: {},
    onDaysOff: false,
    othersToo: false,
    spills: false,
  }
  const told = (more: Partial<WorkWindow>, from = '2026-06-15', n = 14): string[] =>
    spansOf({ ...plain, ...more }, dates(from, n), HOURS).map(s => `${local(s.fromMs)} – ${local(s.toMs)}`)

  it('repeats, and pauses on days off unless it is marked', () => {
    const all = ['2026-06-15', '2026-06-17', '2026-06-22', '2026-06-24'].map(d => `${d} 09:00 – ${d} 11:00`)
    expect(told({})).to.deep.equal(all.filter(s => !s.startsWith('2026-06-17')))
    expect(told({ onDaysOff: true })).to.deep.equal(all)
    expect(told({ everyWeeks: 2 })).to.deep.equal(all.slice(0, 1))
    expect(told({ everyWeeks: 2, from: '2026-06-12' })).to.deep.equal(all.slice(2))
    expect(told({ from: '2026-06-23' })).to.deep.equal(all.slice(3))
    expect(told({ until: '2026-06-22' })).to.deep.equal([all[0], all[2]])
  })

  it('is otherwise on single dates, and may go past midnight, from the day before as well', () => {
    const exceptions = { '2026-06-15': null, '2026-06-22': { start: 600, end: 615 } }
    expect(told({ exceptions })).to.deep.equal([
      '2026-06-22 10:00 – 2026-06-22 10:15',
      '2026-06-24 09:00 – 2026-06-24 11:00',
    ])
    expect(told({ start: 1380, end: 60 }, '2026-06-16', 1)).to.deep.equal([
      '2026-06-15 23:00 – 2026-06-16 01:00',
    ])
  })

  it('keeps to the wall clock when clocks are set', () => {
    const sundays = { weekdays: [7], from: '2026-01-01', start: 0, end: 240 }
    const [spring] = spansOf({ ...plain, ...sundays }, ['2026-03-29'], HOURS)
    const [autumn] = spansOf({ ...plain, ...sundays }, ['2026-10-25'], HOURS)
    expect([spring, autumn].map(s => ((s?.toMs ?? 0) - (s?.fromMs ?? 0)) / 3_600_000)).to.deep.equal([3, 5])
  })
})

describe('a regular', () => {
  const walk: Regular = {
    id: 'walk',
    timesAWeek: 3,
    shortest: 15,
    longest: 30,
    within: { start: 720, end: 840 },
    importance: 50,
    category: 'walks',
  }
  const axis = axisOf(at('2026-06-18', '08:00'), 6, ZONE, 5)
  const wanted = (busy: { fromMs: number; toMs: number; isWork: boolean }[], stands: readonly string[]) => {
    const supply = supplyOf(HOURS, busy, [], axis)
    const demands = demandsOfRegular(walk, supply, ZONE, new Set(stands))
    const instance = instanceOf(supply, { demands }, { breaks: null, moved: 20 })
    const { placement } = draftOf(instance, 1)
    mustHold(instance, placement)
    return [...placement].flatMap(([id, pieces]) =>
      pieces.map(p => `${id}: ${local(msOf(p.from, axis))} ${(p.to - p.from) * 5}`),
    )
  }

  it('is wanted as often as is left of each week, once a day, within its hours', () => {
    expect(wanted([], ['2026-06-15'])).to.deep.equal([
      'walk 2026-06-15 0: 2026-06-18 12:00 30',
      'walk 2026-06-15 1: 2026-06-19 12:00 30',
      'walk 2026-06-22 0: 2026-06-22 12:00 30',
      'walk 2026-06-22 1: 2026-06-23 12:00 30',
    ])
    const full = ['2026-06-15', '2026-06-16', '2026-06-17', ...dates('2026-06-24', 4)]
    expect(wanted([], full), 'nothing piles up').to.deep.equal([])
    expect(wanted([], ['2026-06-18', '2026-06-22', '2026-06-23']), 'never twice on a day').to.deep.equal([
      'walk 2026-06-15 0: 2026-06-19 12:00 30',
    ])
  })

  it('is shortened before it falls out', () => {
    const busy = [
      { fromMs: at('2026-06-18', '11:00'), toMs: at('2026-06-18', '13:40'), isWork: true },
      { fromMs: at('2026-06-19', '11:00'), toMs: at('2026-06-19', '13:50'), isWork: true },
    ]
    expect(wanted(busy, dates('2026-06-24', 3))).to.deep.equal(['walk 2026-06-15 0: 2026-06-18 13:40 20'])
  })
})

describe('what the Cloth shows of one person', () => {
  const now = at('2026-06-15', '10:00')
  const person = { id: 'ines', zone: ZONE, now }
  const timed = (from: string, to: string): ClothItem['place'] => ({
    kind: 'timed',
    startMs: at('2026-06-15', from),
    endMs: at('2026-06-15', to),
  })
  const item = (key: string, more: Partial<ClothItem>): ClothItem =>
    drawnItem(key, more.place ?? { kind: 'none' }, more)

  it('takes their time: events that are busy, and work that has its time; no mark of a deadline', () => {
    const items = [
      item('meeting', { kind: 'event', place: timed('11:00', '12:00'), busy: true }),
      item('free', { kind: 'event', place: timed('13:00', '14:00'), busy: false }),
      item('another’s', { kind: 'event', place: timed('13:00', '14:00'), busy: true, people: ['mei'] }),
      item('work', { kind: 'tied', place: timed('15:00', '16:00'), busy: true, people: ['ines'] }),
      item('done', { kind: 'tied', place: timed('15:00', '16:00'), busy: true, done: true }),
      item('mark', { kind: 'tied', place: timed('16:00', '16:30'), busy: true, atDeadline: true }),
    ]
    expect(takenOf(items, person).map(t => local(t.fromMs).slice(11))).to.deep.equal(['11:00', '15:00'])
  })

  it('wants time for open tasks of theirs without one ahead', () => {
    const task = (key: string, more: Partial<ClothItem> = {}): ClothItem =>
      item(key, { kind: 'task', place: { kind: 'none' }, estimate: 60, ...more })
    const blocks = { ahead: 20, spent: 10 }
    const items = [
      task('plain', { blocks, due: '2026-06-19', priority: 1 }),
      task('for the day', { place: { kind: 'day', date: '2026-06-16' } }),
      task('left over', { place: { kind: 'timed', startMs: now - 90_000_000, endMs: now - 86_400_000 } }),
      task('placed', { place: timed('15:00', '16:00') }),
      task('at its deadline', { kind: 'tied', place: timed('16:00', '16:30'), atDeadline: true }),
      task('put by', { putBy: '2026-06-18' }),
      task('put by for good', { putBy: '' }),
      task('next week', { week: '2026-06-22' }),
      task('a past week', { week: '2026-06-08' }),
      task('done', { done: true }),
      task('left out', { leftOut: true }),
      task('only to be seen', { onlyLook: true }),
      task('another’s', { people: ['mei'] }),
      item('batch', {
        kind: 'batch',
        place: timed('15:00', '16:00'),
        batch: [{ key: 'held', title: '', done: false, completable: true }],
      }),
      task('held'),
    ]
    const tasks = tasksOf(items, person)
    expect(tasks.map(t => t.id)).to.deep.equal([
      'plain',
      'for the day',
      'left over',
      'at its deadline',
      'put by',
      'next week',
      'a past week',
    ])
    const of = (id: string) => tasks.find(t => t.id === id)
    expect(of('plain')).to.deep.include({ taken: 10, reserved: 20, notBefore: null })
    expect(of('plain')?.pressure).to.be.above(of('for the day')?.pressure ?? 100)
    expect(of('put by')?.notBefore).to.equal('2026-06-18')
    expect([of('next week')?.notBefore, of('a past week')?.notBefore]).to.deep.equal(['2026-06-22', null])
  })

  it('is drafted into a week', () => {
    const items = [
      item('meeting', { kind: 'event', place: timed('11:00', '12:00'), busy: true }),
      ...Array.from({ length: 8 }, (_, n) =>
        item(`task ${n}`, {
          kind: 'task',
          place: { kind: 'none' },
          estimate: 45 + 30 * n,
          due: '2026-06-19',
        }),
      ),
    ]
    const axis = axisOf(now, 7, ZONE, 5)
    const supply = supplyOf(HOURS, takenOf(items, person), [], axis)
    const terms = { defaultMinutes: 30, splitFrom: 120, leastPiece: 30 }
    const wanted = wantedOf(tasksOf(items, person), HOURS, supply, terms)
    const instance = instanceOf(supply, wanted, { breaks: { run: 24, rest: 3 }, moved: 20 })
    const { placement, cost } = draftOf(instance, 1)
    mustHold(instance, placement)
    expect(cost).to.include({ missed: 0, unplaced: 0 })
  })
})
