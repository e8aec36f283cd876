import { expect } from 'chai'
import fc from 'fast-check'
import {
  addDays,
  type ClothItem,
  dayAt,
  dayPlan,
  decided,
  epochOf,
  wayToFit,
  zoned,
} from '../src/view/index.ts'
import { drawnItem } from './support/drawn-item.ts'

const ZONE = 'Europe/Dublin'
const TODAY = '2026-06-17'
const at = (clock: string, date = TODAY): number => epochOf(zoned(`${date}T${clock}:00`, ZONE), ZONE)
const hours = { from: 540, to: 1080, minutes: [390, 390, 390, 390, 390, 0, 0], off: [], zone: ZONE }
const terms = (clock = '09:00', date = TODAY) => ({
  me: 'ines',
  now: at(clock, date),
  zone: ZONE,
  hours,
  defaultMinutes: 30,
})
const timed = (from: string, to: string, date = TODAY): ClothItem['place'] => ({
  kind: 'timed',
  startMs: at(from, date),
  endMs: at(to, date),
})
const none = { kind: 'none' } as const
const day = (date: string) => ({ kind: 'day', date }) as const
const event = (key: string, place: ClothItem['place'], more: Partial<ClothItem> = {}) =>
  drawnItem(key, place, { kind: 'event', eventKind: 'meeting', movable: false, ...more })
const keys = (items: readonly ClothItem[]): string[] => items.map(i => i.key)

describe('a day', () => {
  it('parts what is fixed from what is placed and what has no hour, of one person', () => {
    const plan = dayPlan(
      [
        drawnItem('b', timed('11:00', '12:00'), { people: ['ines'] }),
        event('a', timed('10:00', '11:00')),
        drawnItem('c', day(TODAY), { estimate: 45 }),
        drawnItem('d', day(TODAY)),
        drawnItem('not mine', day(TODAY), { people: ['tobias'] }),
        drawnItem('left out', day(TODAY), { leftOut: true }),
        drawnItem('tomorrow', day(addDays(TODAY, 1))),
        drawnItem('mark of a deadline', timed('15:00', '16:00'), { kind: 'tied', atDeadline: true }),
      ],
      terms(),
    )
    expect([keys(plan.fixed), keys(plan.placed), keys(plan.untimed)]).to.deep.equal([
      ['a'],
      ['b'],
      ['c', 'd'],
    ])
    expect(plan.left).to.deep.equal({
      holds: 390,
      fixed: 60,
      placed: 60,
      untimed: 75,
      over: 0,
      withoutEstimate: 1,
    })
    expect(plan.unfinished).to.deep.equal([])
  })

  it('is held against what is left of it from now, minutes that overlap once', () => {
    const items = [
      event('a', timed('14:00', '16:00')),
      drawnItem('b', timed('15:00', '17:00')),
      event('shown free', timed('17:00', '18:00'), { busy: false }),
    ]
    const { left } = dayPlan(items, terms('15:30'))
    expect(left).to.include({ holds: 150, fixed: 30, placed: 60, untimed: 0, over: 0 })
    expect(dayPlan(items, terms('19:00')).left).to.include({ holds: 0, fixed: 0, placed: 0, over: 0 })
    expect(dayPlan([drawnItem('c', day(TODAY), { estimate: 600 })], terms('15:30')).left.over).to.equal(450)
    const early = [event('since dawn', timed('06:00', '12:00'))]
    expect(dayPlan(early, terms('12:00')).left.holds, 'what was done counts').to.equal(30)
    expect(dayPlan([], terms('09:00', '2026-06-20')).left.holds, 'a day off').to.equal(0)
  })

  it('lists what is left over and what is due, that first, unless its time is ahead', () => {
    const plan = dayPlan(
      [
        drawnItem('left over', day('2026-06-15')),
        drawnItem('its hour is past', timed('09:00', '10:00', '2026-06-16')),
        drawnItem('late', none, { due: '2026-06-10' }),
        drawnItem('due today', none, { due: TODAY }),
        drawnItem('late and planned', timed('15:00', '16:00'), { due: '2026-06-10' }),
        drawnItem('late and blocked', none, { due: '2026-06-10', blocks: { ahead: 30, spent: 0 } }),
        drawnItem('late and put by', none, { due: '2026-06-10', putBy: '2026-06-30' }),
        drawnItem('due tomorrow', none, { due: addDays(TODAY, 1) }),
        drawnItem('done', day('2026-06-15'), { done: true }),
      ],
      terms(),
    )
    expect(plan.unfinished.map(u => [u.item.key, u.from, u.proposal])).to.deep.equal([
      ['late', null, 'today'],
      ['due today', null, 'today'],
      ['its hour is past', '2026-06-16', 'this week'],
      ['left over', '2026-06-15', 'this week'],
    ])
  })

  it('proposes today only while the day holds it, and next week where this one is over', () => {
    const due = (key: string) => drawnItem(key, none, { due: TODAY, estimate: 200, priority: 1 })
    const wed = dayPlan([due('a'), due('b')], terms())
    expect(wed.unfinished.map(u => u.proposal)).to.deep.equal(['today', 'this week'])
    const friday = dayPlan([drawnItem('x', day('2026-06-15'))], terms('12:00', '2026-06-19'))
    expect(friday.unfinished.map(u => u.proposal)).to.deep.equal(['next week'])
  })

  it('is decided by an edit that never leads onto tomorrow', () => {
    expect(decided('today', TODAY)).to.deep.equal({ do: 'place', start: { kind: 'date', date: TODAY } })
    expect(decided('this week', TODAY)).to.deep.equal({ do: 'any-day', week: '2026-06-15' })
    expect(decided('next week', TODAY)).to.deep.equal({ do: 'any-day', week: '2026-06-22' })
    expect(decided('no date', TODAY)).to.deep.equal({ do: 'unplace' })
  })

  it('tells in the evening what got done, and which blocks nobody has spoken of', () => {
    const block = (key: string, from: string, to: string, done: boolean) =>
      drawnItem(key, timed(from, to), { kind: 'block', of: 't', done })
    const plan = dayPlan(
      [
        block('worked', '09:00', '10:00', true),
        block('unsaid', '10:00', '11:00', false),
        block('ahead', '17:00', '17:30', false),
        drawnItem('ticked', day(TODAY), { done: true }),
        event('met', timed('12:00', '13:00')),
      ],
      terms('16:40'),
    )
    expect([keys(plan.done), keys(plan.unsaid)]).to.deep.equal([['worked', 'ticked'], ['unsaid']])
    expect([plan.planned, plan.worked]).to.deep.equal([150, 60])
  })
})

describe('a way to make a day fit', () => {
  it('moves what presses least to its next free time, and nothing that is due, fixed or begun', () => {
    const items = [
      event('all day long', timed('09:00', '15:00')),
      drawnItem('begun', timed('08:30', '09:30')),
      drawnItem('due today', day(TODAY), { estimate: 60, due: TODAY }),
      drawnItem('fixed', timed('16:00', '17:00'), { movable: false }),
      drawnItem('presses', day(TODAY), { estimate: 60, priority: 1 }),
      drawnItem('can wait', day(TODAY), { estimate: 60 }),
      event('tomorrow', timed('09:00', '10:00', addDays(TODAY, 1))),
    ]
    const plan = dayPlan(items, terms())
    expect(plan.left.over).to.equal(240)
    const way = wayToFit(plan, items, terms())
    expect(way.moves.map(m => [m.item.key, m.startMs])).to.deep.equal([
      ['can wait', at('10:00', addDays(TODAY, 1))],
      ['presses', at('11:00', addDays(TODAY, 1))],
    ])
    expect(way.over).to.equal(120)
  })

  it('makes it fit as far as it says, on days of any kind', () => {
    const task = fc.record({
      from: fc.integer({ min: 36, max: 68 }),
      minutes: fc.integer({ min: 1, max: 12 }),
      kind: fc.constantFrom('event', 'placed', 'untimed'),
      date: fc.integer({ min: 0, max: 4 }),
      due: fc.option(fc.integer({ min: 0, max: 6 })),
    })
    fc.assert(
      fc.property(fc.array(task, { maxLength: 14 }), all => {
        const items = all.map((t, n): ClothItem => {
          const date = addDays(TODAY, t.date)
          const startMs = at('00:00', date) + t.from * 900_000
          const place = { kind: 'timed' as const, startMs, endMs: startMs + t.minutes * 900_000 }
          const due = t.due === null ? null : addDays(TODAY, t.due)
          if (t.kind === 'event') return event(`e${n}`, place)
          return drawnItem(`t${n}`, t.kind === 'placed' ? place : day(date), {
            estimate: t.minutes * 15,
            due,
          })
        })
        const plan = dayPlan(items, terms())
        const { moves, over } = wayToFit(plan, items, terms())
        const moved = new Map(moves.map(m => [m.item.key, m]))
        const after = items.map((i): ClothItem => {
          const m = moved.get(i.key)
          const length =
            i.place.kind === 'timed' ? i.place.endMs - i.place.startMs : (i.estimate ?? 30) * 60_000
          return m ? { ...i, place: { kind: 'timed', startMs: m.startMs, endMs: m.startMs + length } } : i
        })
        // Work at one time is counted once, so that moving it may free less than it is long.
        if (over === 0 && plan.placed.length === 0) expect(dayPlan(after, terms()).left.over).to.equal(0)
        for (const { item, startMs } of moves) {
          const date = dayAt(startMs, ZONE)
          expect(date > TODAY && (item.due === null || date <= item.due)).to.equal(true)
          const own = after.find(i => i.key === item.key)?.place
          if (own?.kind !== 'timed') throw new Error('it has no time')
          const beside = after.filter(
            i =>
              i.key !== item.key &&
              i.place.kind === 'timed' &&
              i.place.startMs < own.endMs &&
              own.startMs < i.place.endMs,
          )
          expect(keys(beside)).to.deep.equal([])
        }
      }),
      { numRuns: 200 },
    )
  })
})
