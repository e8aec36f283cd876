import { expect } from 'chai'
import fc from 'fast-check'
import { appliedAs } from '../../src/planning/applied.ts'
import { hadOf } from '../../src/planning/from-cloth.ts'
import { type Asked, Plan, type Told } from '../../src/planning/plan.ts'
import { draftOf } from '../../src/planning/search.ts'
import { daysOfSpan, planningOf, plainPlanning, type PlanRegular } from '../../src/planning/settings.ts'
import type { WorkWindow } from '../../src/planning/windows.ts'
import { addDays, dayAt, weekdayOf, zoned } from '../../src/time/when.ts'
import { drawnItem } from '../support/drawn-item.ts'
import { at, HOURS, MIN, MONDAY, task, usual, ZONE } from './asked.ts'
import { mustHold } from './oracle.ts'

const told = (more: Partial<Asked>): Told => {
  const plan = new Plan({ ...usual, ...more })
  const search = plan.search(1)
  search.step(100)
  const draft = search.draft()
  mustHold(plan.instance, draft.placement)
  return plan.told(draft)
}
const minutesOf = (t: Told, id: string): number =>
  t.pieces.reduce((sum, p) => sum + (p.id === id ? (p.toMs - p.fromMs) / MIN : 0), 0)

const window: WorkWindow = {
  id: 'w',
  weekdays: [1, 2, 3, 4, 5],
  everyWeeks: 1,
  from: '2026-06-01',
  until: null,
  start: 600,
  end: 690,
  zone: ZONE,
  exceptions: {},
  onDaysOff: false,
  othersToo: false,
  spills: false,
}

describe('a plan of one person', () => {
  const arbitraryTask = fc.record({
    estimate: fc.option(fc.integer({ min: 0, max: 400 })),
    taken: fc.integer({ min: 0, max: 40 }),
    pressure: fc.integer({ min: 0, max: 100 }),
    inWindow: fc.boolean(),
  })
  const arbitrarySpan = fc.record({
    day: fc.integer({ min: 0, max: 4 }),
    from: fc.integer({ min: 500, max: 1000 }),
    minutes: fc.integer({ min: 5, max: 180 }),
  })
  const spanAt = ({ day, from, minutes }: { day: number; from: number; minutes: number }) => {
    const fromMs = at(addDays(MONDAY, day), '00:00') + from * MIN
    return { fromMs, toMs: fromMs + minutes * MIN }
  }

  it('keeps what is asked: nothing overlaps, what is pinned stays, and no minute is lost or won', () => {
    fc.assert(
      fc.property(
        fc.array(arbitraryTask, { minLength: 1, maxLength: 9 }),
        fc.array(arbitrarySpan, { maxLength: 6 }),
        fc.array(arbitrarySpan, { maxLength: 2 }),
        (tasks, taken, pins) => {
          const asked = tasks.map((t, n) =>
            task(`t${n}`, {
              estimate: t.estimate,
              taken: t.taken,
              pressure: t.pressure,
              windows: t.inWindow ? ['w'] : [],
            }),
          )
          const pinned = pins.map((p, n) => ({ id: `t${n}`, regular: null, ...spanAt(p) }))
          const busy = taken.map(t => ({ ...spanAt(t), isWork: true }))
          const t = told({ tasks: asked, taken: busy, windows: [window], pinned })
          const free = t.pieces.filter(p => !p.isPinned)
          for (const [n, p] of free.entries()) {
            const others = [...busy, ...pinned, ...free.slice(n + 1)]
            expect(others.some(o => o.fromMs < p.toMs && p.fromMs < o.toMs)).to.equal(false)
            const date = dayAt(p.fromMs, ZONE)
            expect(p.fromMs >= at(date, '09:00') && p.toMs <= at(date, '17:00')).to.equal(true)
            // Window time is for what it is for, and that is nowhere else.
            const inWindow = p.fromMs >= at(date, '10:00') && p.toMs <= at(date, '11:30')
            const beside = p.toMs <= at(date, '10:00') || p.fromMs >= at(date, '11:30')
            expect(asked.find(a => a.id === p.id)?.windows.length === 1 ? inWindow : beside).to.equal(true)
          }
          expect(t.pieces.filter(p => p.isPinned)).to.have.length(pinned.length)
          for (const a of asked) {
            const need = (a.estimate ?? 30) - a.taken
            const lacks = t.notPlaced.find(o => o.id === a.id)?.minutes ?? 0
            const isOut = t.left.some(l => l.id === a.id)
            const put = pinned.find(p => p.id === a.id)
            const held = put ? (put.toMs - put.fromMs) / MIN : 0
            if (isOut || held >= need) expect(minutesOf(t, a.id)).to.equal(held)
            // To the grid, upward.
            else expect(minutesOf(t, a.id) + lacks - need).to.be.within(0, 4)
          }
        },
      ),
      { numRuns: 40 },
    )
  })

  it('tells by how much a deadline is missed, and what counts with the default', () => {
    const due = zoned(`${MONDAY}T10:00:00`, ZONE)
    const t = told({ tasks: [task('late', { estimate: 90, due }), task('plain', { estimate: null })] })
    expect(t.late).to.deep.equal([{ id: 'late', minutes: 30 }])
    expect(t.withoutEstimate).to.deep.equal(['plain'])
    expect(t.notPlaced).to.deep.equal([])
  })

  it('tells how much of each work window it takes', () => {
    const busy = [{ fromMs: at(MONDAY, '11:00'), toMs: at(MONDAY, '12:00'), isWork: true }]
    const t = told({
      days: 2,
      tasks: [task('a', { windows: ['w'] })],
      windows: [window],
      taken: busy,
      breaks: null,
    })
    expect(t.windows.map(w => [w.free, w.drafted])).to.deep.equal([
      [60, 60],
      [90, 0],
    ])
    const pinned = [{ id: 'a', regular: null, fromMs: at(MONDAY, '10:00'), toMs: at(MONDAY, '10:30') }]
    const again = told({
      breaks: null,
      days: 1,
      tasks: [task('a', { windows: ['w'] })],
      windows: [window],
      taken: busy,
      pinned,
    })
    expect(again.windows.map(w => [w.free, w.drafted])).to.deep.equal([[60, 60]])
  })

  it('puts a task that may go to several windows into the first of their order, where all else is the same', () => {
    const windows = [
      { ...window, id: 'a', start: 540, end: 570 },
      { ...window, id: 'b', start: 570, end: 600 },
    ]
    const beginsAt = (order: string[], pressure: number): number => {
      const [piece] = told({ tasks: [task('t', { estimate: 5, pressure, windows: order })], windows }).pieces
      return ((piece?.fromMs ?? 0) - at(MONDAY, '00:00')) / MIN
    }
    expect(beginsAt(['a', 'b'], 0)).to.equal(540)
    expect(beginsAt(['b', 'a'], 0)).to.equal(570)
    expect(beginsAt(['b', 'a'], 100), 'what is sooner is not the same').to.equal(540)
  })

  it('leaves what is offered to guests to them, as long as there is other time', () => {
    const offered = [{ fromMs: at(MONDAY, '09:00'), toMs: at(MONDAY, '11:00') }]
    const clock = (more: Partial<Asked>): number[] =>
      told({
        offered,
        tasks: [task('a', { estimate: 30 }), task('b', { estimate: 30 })],
        breaks: null,
        ...more,
      }).pieces.map(p => (p.fromMs - at(MONDAY, '00:00')) / MIN)
    for (const minute of clock({})) expect(minute).to.be.at.least(660)
    expect(Math.min(...clock({ offered: [] }))).to.equal(540)
    // Where nothing else is left it is used after all.
    const taken = [{ fromMs: at(MONDAY, '11:00'), toMs: at(MONDAY, '17:00'), isWork: false }]
    expect(clock({ taken, days: 1 })).to.have.length(2)
  })

  it('says why not earlier in time, naming what stands there', () => {
    const plan = new Plan({ ...usual, tasks: [task('a', { pressure: 90 }), task('b')], breaks: null })
    const draft = draftOf(plan.instance, 1)
    const second = plan.told(draft).pieces.find(p => p.id === 'b')
    const why = plan.whyNotEarlier(draft, 'b', second?.fromMs ?? 0)
    expect(why.map(w => w.blocker)).to.deep.include.members([{ kind: 'taken' }, { kind: 'demand', id: 'a' }])
    expect(why[0]?.fromMs).to.equal(usual.now)
    expect(why.at(-1)?.toMs).to.equal(second?.fromMs)
    expect(plan.whyNotEarlier(draft, 'b', at(MONDAY, '03:00')), 'no piece of it').to.deep.equal([])
  })

  it('holds a regular where it was pinned, and no second one on that day', () => {
    const walk: PlanRegular & { category: string } = {
      id: 'walk',
      name: 'Walk',
      timesAWeek: 2,
      shortest: 20,
      longest: 30,
      within: { start: 540, end: 1020 },
      importance: 50,
      isBreak: false,
      category: 'Walk',
    }
    const pinned = [
      { id: 'walk x', regular: 'walk', fromMs: at('2026-06-16', '15:00'), toMs: at('2026-06-16', '15:30') },
    ]
    const days = (t: Told): string[] => t.pieces.map(p => dayAt(p.fromMs, ZONE))
    expect(days(told({ regulars: [walk], pinned }))).to.deep.equal([MONDAY, '2026-06-16'])
    expect(days(told({ regulars: [walk], had: { walk: [MONDAY] } }))).to.deep.equal(['2026-06-16'])
    expect(days(told({ regulars: [walk], had: { walk: [MONDAY, '2026-06-14'] } }))).to.have.length(1)
  })

  it('has nothing to give where there are no working hours, and says so of each', () => {
    const none = { ...HOURS, minutes: [0, 0, 0, 0, 0, 0, 0] }
    const t = told({ hours: none, tasks: [task('a'), task('b', { estimate: 24_000 })] })
    expect(t.pieces).to.deep.equal([])
    expect(t.notPlaced.map(n => n.why)).to.deep.equal([{ kind: 'no room' }, { kind: 'no room' }])
  })
})

describe('why nothing of it is placed', () => {
  const busy = (from: string, to: string) => [
    { fromMs: at(MONDAY, from), toMs: at(MONDAY, to), isWork: true },
  ]
  const why = (more: Partial<Asked>) => told({ days: 1, tasks: [task('a')], ...more }).notPlaced[0]?.why

  it('tells a day that holds no more from one without room, and from one without rest', () => {
    const short = { ...HOURS, minutes: [60, 60, 60, 60, 60, 0, 0] }
    expect(why({ hours: short, taken: busy('09:00', '10:00') })).to.deep.equal({ kind: 'days full' })
    expect(why({ taken: busy('08:00', '16:30') })).to.deep.equal({ kind: 'no room' })
    const hour = { ...HOURS, to: 600, minutes: [60, 60, 60, 60, 60, 0, 0] }
    const early = { hours: hour, taken: busy('08:05', '08:55') }
    expect(why({ ...early, breaks: { after: 90, rest: 10 } })).to.deep.equal({ kind: 'no rest' })
    expect(why({ ...early, breaks: null })).to.equal(undefined)
  })
})

describe('what is set for planning', () => {
  it('is made whole, and what cannot be read of it is left out by itself', () => {
    expect(planningOf(null)).to.deep.equal(plainPlanning)
    const good = { ...window, name: 'Bench', filter: [] }
    const read = planningOf({ sentence: { span: 'today' }, windows: [good, { id: 'x' }], regulars: 'none' })
    expect(read.sentence).to.deep.equal({ ...plainPlanning.sentence, span: 'today' })
    // As an earlier version stored it, which did not know of keeping up, nor of views.
    expect(read.windows).to.deep.equal([{ ...good, keepsUp: false, view: null }])
    expect(read.regulars).to.deep.equal([])
    expect(planningOf({ sentence: { span: 'for ever' } }).sentence).to.deep.equal(plainPlanning.sentence)
  })

  it('plans the present week, or where nothing of it is left to work in the next one', () => {
    const days = (date: string): number => daysOfSpan('week', date, HOURS)
    expect(['2026-06-15', '2026-06-19', '2026-06-20', '2026-06-21'].map(days)).to.deep.equal([7, 3, 9, 8])
    expect(weekdayOf(addDays('2026-06-20', 8)), 'to its Sunday').to.equal(7)
    expect(['today', 'seven', 'fortnight'].map(s => daysOfSpan(s as 'today', MONDAY, HOURS))).to.deep.equal([
      1, 7, 14,
    ])
  })

  it('counts an event of its name as a regular that is done, for whose calendar it is', () => {
    const event = (key: string, title: string, date: string, people: string[]) =>
      drawnItem(
        key,
        { kind: 'timed', startMs: at(date, '12:00'), endMs: at(date, '12:30') },
        {
          kind: 'event',
          title,
          people,
        },
      )
    const items = [
      event('1', ' walk', MONDAY, ['ines']),
      event('2', 'Walk', MONDAY, []),
      event('3', 'Walk', '2026-06-17', ['tobias']),
      event('4', 'Walk around', '2026-06-18', ['ines']),
    ]
    const walk = { id: 'w', name: 'Walk' } as PlanRegular
    expect(hadOf(items, [walk], { id: 'ines', zone: ZONE, now: usual.now })).to.deep.equal({ w: [MONDAY] })
  })
})

describe('what a piece of a draft becomes', () => {
  const terms = { now: usual.now, zone: ZONE, defaultMinutes: 30 }
  const piece = (minutes: number) => ({
    fromMs: at(MONDAY, '09:00'),
    toMs: at(MONDAY, '09:00') + minutes * MIN,
  })
  const none = { kind: 'none' } as const
  const past = {
    kind: 'timed',
    startMs: at('2026-06-10', '09:00'),
    endMs: at('2026-06-10', '10:00'),
  } as const
  const ahead = {
    kind: 'timed',
    startMs: at('2026-06-17', '09:00'),
    endMs: at('2026-06-17', '10:00'),
  } as const

  it('is its plan where that writes no length, and a block else', () => {
    const as = (item: ReturnType<typeof drawnItem>, ...minutes: number[]): string =>
      appliedAs(item, minutes.map(piece), terms)
    const hour = { estimate: 60 }
    expect(as(drawnItem('t', none, hour), 60)).to.equal('plan')
    expect(as(drawnItem('t', none), 30), 'the usual length').to.equal('plan')
    expect(as(drawnItem('t', { kind: 'day', date: MONDAY }, hour), 60)).to.equal('plan')
    expect(as(drawnItem('t', past, hour), 60), 'left over').to.equal('plan')
    expect(as(drawnItem('t', none, hour), 45), 'another length').to.equal('block')
    expect(as(drawnItem('t', none, { estimate: 120 }), 60, 60), 'in parts').to.equal('block')
    expect(as(drawnItem('t', ahead, hour), 60), 'it has an hour').to.equal('block')
    expect(as(drawnItem('t', past, { ...hour, atDeadline: true }), 60), 'a mark of its deadline').to.equal(
      'block',
    )
    expect(as(drawnItem('t', none, { ...hour, movable: false }), 60), 'fixed').to.equal('block')
    const spent = { blocks: { ahead: 0, spent: 30 } }
    expect(as(drawnItem('t', none, { ...hour, ...spent }), 60), 'begun').to.equal('block')
  })
})
