import { expect } from 'chai'
import fc from 'fast-check'
import { Temporal } from 'temporal-polyfill'
import {
  deadlineOf,
  instanceOf,
  type PlanTerms,
  type TaskToPlan,
  wantedOf,
} from '../../src/planning/demand.ts'
import { draftOf } from '../../src/planning/search.ts'
import {
  admittedTo,
  axisOf,
  FURTHER_DOWN,
  msOf,
  supplyOf,
  type Taken,
  type WindowSpan,
} from '../../src/planning/supply.ts'
import { epochOf, zoned } from '../../src/time/when.ts'
import { mustHold } from './oracle.ts'

/** Room and need as the wall clock has them, on days of 23, 24, 24½ and 25 hours. */

const ZONES = ['Europe/Dublin', 'America/New_York', 'Asia/Kathmandu', 'Australia/Lord_Howe', 'UTC']
/** Days around which clocks are set somewhere. */
const BEGINS = [
  '2026-03-27',
  '2026-10-23',
  '2026-03-06',
  '2026-10-30',
  '2026-04-03',
  '2026-10-02',
  '2026-06-10',
]
const hoursIn = (zone: string, from = 480, to = 1080) => ({
  from,
  to,
  minutes: [390, 390, 390, 390, 390, 0, 120],
  off: ['2026-06-11'],
  zone,
})
const at = (date: string, clock: string, zone: string): number =>
  epochOf(zoned(`${date}T${clock}:00`, zone), zone)

const worlds = fc.record({
  zone: fc.constantFrom(...ZONES),
  begin: fc.constantFrom(...BEGINS),
  minute: fc.integer({ min: 0, max: 1439 }),
  from: fc.integer({ min: 5, max: 11 }),
  to: fc.integer({ min: 12, max: 24 }),
  taken: fc.array(
    fc.record({
      day: fc.integer({ min: 0, max: 5 }),
      minute: fc.integer({ min: 0, max: 1439 }),
      minutes: fc.integer({ min: 1, max: 600 }),
      isWork: fc.boolean(),
    }),
    { maxLength: 8 },
  ),
  window: fc.option(fc.record({ day: fc.integer({ min: 0, max: 5 }), othersToo: fc.boolean() }), {
    nil: null,
  }),
})

describe('supply', () => {
  it('is every whole unit that is in hours or a window, ahead, and not taken', () => {
    fc.assert(
      fc.property(worlds, w => {
        const hours = hoursIn(w.zone, w.from * 60, w.to * 60)
        const now = Temporal.PlainDate.from(w.begin)
          .toZonedDateTime({ timeZone: w.zone, plainTime: '00:00' })
          .add({ minutes: w.minute }).epochMilliseconds
        const axis = axisOf(now, 6, w.zone, 5)
        const taken: Taken[] = w.taken.map(t => {
          const fromMs = (axis.days[t.day]?.from ?? 0) * 300_000 + axis.startMs + t.minute * 60_000
          return { fromMs, toMs: fromMs + t.minutes * 60_000, isWork: t.isWork }
        })
        const evening = axis.dates[w.window?.day ?? 0] ?? ''
        const windows: WindowSpan[] = w.window
          ? [
              {
                window: 'evening',
                fromMs: at(evening, '19:00', w.zone),
                toMs: at(evening, '21:30', w.zone),
                othersToo: w.window.othersToo,
              },
            ]
          : []
        const supply = supplyOf(hours, taken, windows, axis)
        const isIn = (all: readonly { from: number; to: number }[], u: number): boolean =>
          all.some(s => s.from <= u && u < s.to)
        for (let u = 0; u < axis.horizon; u++) {
          const [begin, end] = [msOf(u, axis), msOf(u + 1, axis)]
          const wall = Temporal.Instant.fromEpochMilliseconds(begin).toZonedDateTimeISO(w.zone)
          const date = wall.toPlainDate().toString()
          const minute = wall.hour * 60 + wall.minute
          const inHours =
            (hours.minutes[wall.dayOfWeek - 1] ?? 0) > 0 &&
            !hours.off.includes(date) &&
            minute >= hours.from &&
            minute + 5 <= hours.to
          const inWindow = windows.some(s => s.fromMs <= begin && end <= s.toMs)
          const isFree =
            (inHours || inWindow) && begin >= now && !taken.some(t => t.fromMs < end && begin < t.toMs)
          expect(isIn(supply.stretches, u), `${w.zone} ${wall.toString()}`).to.equal(isFree)
          const isKept = inWindow && windows.some(s => !s.othersToo)
          expect(isIn(supply.plain, u), `plain ${wall.toString()}`).to.equal(isFree && !isKept)
          expect(isIn(supply.windows.get('evening') ?? [], u)).to.equal(isFree && inWindow)
        }
        const last = Temporal.PlainDate.from(axis.dates.at(-1) ?? '').add({ days: 1 })
        expect(msOf(axis.horizon, axis)).to.equal(last.toZonedDateTime(w.zone).epochMilliseconds)
      }),
      { numRuns: 25 },
    )
  })

  it('of a day is what its capacity leaves', () => {
    const now = at('2026-06-10', '06:00', 'UTC')
    const axis = axisOf(now, 2, 'UTC', 5)
    const meeting = {
      fromMs: at('2026-06-10', '10:00', 'UTC'),
      toMs: at('2026-06-10', '12:00', 'UTC'),
      isWork: true,
    }
    const evening = {
      ...meeting,
      fromMs: at('2026-06-10', '19:00', 'UTC'),
      toMs: at('2026-06-10', '20:00', 'UTC'),
    }
    const { days } = supplyOf(hoursIn('UTC'), [meeting, meeting, evening], [], axis)
    expect(days.map(d => d.capacity * 5)).to.deep.equal([390 - 120, 0])
  })

  it('for a window is that window, and where it spills other time at a price', () => {
    const axis = axisOf(at('2026-06-10', '00:00', 'UTC'), 1, 'UTC', 5)
    const window = {
      window: 'w',
      fromMs: at('2026-06-10', '09:00', 'UTC'),
      toMs: at('2026-06-10', '10:00', 'UTC'),
      othersToo: false,
    }
    const supply = supplyOf(hoursIn('UTC'), [], [window], axis)
    expect(admittedTo(supply, ['w'], false)).to.deep.equal([{ from: 108, to: 120, extra: 0 }])
    expect(admittedTo(supply, ['w'], true)).to.deep.equal([
      { from: 96, to: 108, extra: 5 },
      { from: 108, to: 120, extra: 0 },
      { from: 120, to: 216, extra: 5 },
    ])
    expect(admittedTo(supply, [], false).map(a => [a.from, a.to])).to.deep.equal([
      [96, 108],
      [120, 216],
    ])
  })

  it('of several windows is that of all; those further down are dearer by what parts only the equal', () => {
    const axis = axisOf(at('2026-06-10', '00:00', 'UTC'), 1, 'UTC', 5)
    const window = (id: string, from: string, to: string): WindowSpan => ({
      window: id,
      fromMs: at('2026-06-10', from, 'UTC'),
      toMs: at('2026-06-10', to, 'UTC'),
      othersToo: false,
    })
    const all = [window('a', '09:00', '10:00'), window('b', '09:30', '11:00'), window('c', '12:00', '13:00')]
    const supply = supplyOf(hoursIn('UTC'), [], all, axis)
    const told = (order: string[]): [number, number, number][] =>
      admittedTo(supply, order, true).map(a => [a.from, a.to, a.extra])
    expect(told(['b', 'c', 'a'])).to.deep.equal([
      [96, 108, 5],
      [108, 114, 2 * FURTHER_DOWN],
      [114, 132, 0],
      [132, 144, 5],
      [144, 156, FURTHER_DOWN],
      [156, 216, 5],
    ])
    expect(told(['a', 'b'])[1]).to.deep.equal([108, 120, 0])
    expect(40 * 16 * 12 * FURTHER_DOWN).to.be.below(2)
  })
})

const TERMS: PlanTerms = { defaultMinutes: 30, splitFrom: 120, leastPiece: 30 }
const task = (id: string, more: Partial<TaskToPlan> = {}): TaskToPlan => ({
  id,
  estimate: 60,
  taken: 0,
  reserved: 0,
  due: null,
  notBefore: null,
  waitsFor: [],
  category: '',
  pressure: 30,
  windows: [],
  spills: false,
  planned: [],
  ...more,
})
const wait = (id: string, endsMs: number | null = null, gap = 0) => ({ id, gap, endsMs })

describe('demand', () => {
  const now = at('2026-06-15', '09:07', 'Europe/Dublin')
  const hours = hoursIn('Europe/Dublin')
  const axis = axisOf(now, 5, 'Europe/Dublin', 5)
  const supply = supplyOf(hours, [], [], axis)
  const wanted = (...tasks: TaskToPlan[]) => wantedOf(tasks, hours, supply, TERMS)
  const one = (more: Partial<TaskToPlan>) => wanted(task('t', more)).demands[0]
  const unit = (date: string, clock: string): number =>
    (at(date, clock, 'Europe/Dublin') - axis.startMs) / 300_000

  it('is what is left of the estimate, rounded up', () => {
    expect(one({ estimate: 62 })?.need).to.equal(13)
    expect(one({ estimate: 62, taken: 20, reserved: 12 })?.need).to.equal(6)
    expect(one({ estimate: null })?.need).to.equal(6)
    expect(wanted(task('t', { estimate: null })).withoutEstimate).to.deep.equal(['t'])
    const { demands, left } = wanted(
      task('none', { estimate: 0 }),
      task('over', { estimate: 60, taken: 60 }),
      task('held', { estimate: 60, taken: 20, reserved: 40 }),
    )
    expect(demands).to.deep.equal([])
    expect(left).to.deep.equal([
      { id: 'none', because: 'takes no time' },
      { id: 'over', because: 'overrun' },
      { id: 'held', because: 'is reserved already' },
    ])
  })

  it('begins now, or when it may', () => {
    expect(one({})?.earliest).to.equal(unit('2026-06-15', '09:10'))
    expect(one({ notBefore: '2026-06-17' })?.earliest).to.equal(unit('2026-06-17', '00:00'))
    expect(one({ notBefore: '2026-06-01' })?.earliest).to.equal(unit('2026-06-15', '09:10'))
    expect(one({ notBefore: '2026-08-01' })?.earliest).to.equal(axis.horizon)
    const ends = at('2026-06-16', '11:02', 'Europe/Dublin')
    expect(one({ waitsFor: [wait('elsewhere', ends, 10)] })?.earliest).to.equal(unit('2026-06-16', '11:15'))
  })

  it('is due with the last working hours of its day, at its instant, or not within what is planned', () => {
    const due = (date: string) => one({ due: { kind: 'date', date } })?.deadline
    expect(due('2026-06-16')).to.equal(unit('2026-06-16', '18:00'))
    expect(due('2026-06-20'), 'a Saturday is over at midnight, and beyond').to.equal(null)
    expect(due('2026-06-14'), 'over').to.equal(null)
    const tokyo = zoned('2026-06-16T20:02:00', 'Asia/Tokyo')
    expect(one({ due: tokyo })?.deadline).to.equal(unit('2026-06-16', '12:00'))
    expect(deadlineOf({ kind: 'date', date: '2026-06-20' }, hours)).to.equal(
      at('2026-06-21', '00:00', 'Europe/Dublin'),
    )
  })

  it('waits for all of what it waits for, and never round in a circle', () => {
    const { demands, left } = wanted(
      task('a', { waitsFor: [wait('c')] }),
      task('b', { waitsFor: [wait('a')] }),
      task('c', { waitsFor: [wait('b')] }),
      task('behind', { waitsFor: [wait('a')] }),
      task('free'),
      task('next', { waitsFor: [wait('free', null, 7)] }),
      task('lost', { waitsFor: [wait('somebody’s')] }),
      task('after lost', { waitsFor: [wait('lost')] }),
      task('nothing', { estimate: 0 }),
      task('after nothing', { waitsFor: [wait('nothing')] }),
    )
    expect(demands.map(d => [d.id, d.after])).to.deep.equal([
      ['free', []],
      ['next', [{ id: 'free', gap: 2 }]],
      ['after nothing', []],
    ])
    const because = Object.fromEntries(left.map(l => [l.id, 'for' in l ? `waits for ${l.for}` : l.because]))
    expect(because).to.deep.equal({
      nothing: 'takes no time',
      a: 'in a circle',
      b: 'in a circle',
      c: 'in a circle',
      behind: 'waits for a',
      lost: 'waits for somebody’s',
      'after lost': 'waits for lost',
    })
  })

  it('meets supply in a draft that keeps every rule, whatever the clock does', () => {
    fc.assert(
      fc.property(worlds, fc.integer({ min: 1, max: 12 }), (w, n) => {
        const own = hoursIn(w.zone, w.from * 60, w.to * 60)
        const from = at(w.begin, '08:00', w.zone)
        const span = axisOf(from, 5, w.zone, 5)
        const room = supplyOf(own, [], [], span)
        const tasks = Array.from({ length: n }, (_, k) =>
          task(`t${k}`, {
            estimate: 20 + ((k * 37 + w.minute) % 300),
            pressure: (k * 13) % 100,
            due: k % 2 ? { kind: 'date', date: span.dates[k % 5] ?? '' } : null,
            waitsFor: k % 4 === 3 ? [wait(`t${k - 1}`)] : [],
          }),
        )
        const instance = instanceOf(room, wantedOf(tasks, own, room, TERMS), {
          breaks: { run: 24, rest: 3 },
          moved: 20,
        })
        mustHold(instance, draftOf(instance, 1, 0.02).placement)
      }),
      { numRuns: 40 },
    )
  })
})
