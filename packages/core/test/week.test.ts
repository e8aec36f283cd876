import { expect } from 'chai'
import fc from 'fast-check'
import {
  addDays,
  type Block,
  type ClothItem,
  covered,
  durationWords,
  epochOf,
  intoLanes,
  layoutWeek,
  onDate,
  pressure,
  spanWords,
  valueWords,
  zoned,
} from '../src/index.ts'

const ZONE = 'Europe/Dublin'
const HOURS = { from: 480, to: 1080, minutes: [390, 390, 390, 390, 390, 0, 0] }
const NOW = Date.parse('2026-11-24T11:12:00Z')

const item = (key: string, place: ClothItem['place'], rest: Partial<ClothItem> = {}): ClothItem => ({
  key,
  kind: 'task',
  title: key,
  place,
  done: false,
  movable: true,
  fixedBecause: null,
  completable: true,
  sources: [],
  due: null,
  overdue: false,
  priority: 0,
  estimate: null,
  location: '',
  busy: true,
  pending: false,
  ...rest,
})
const timed = (key: string, local: string, minutes: number, rest: Partial<ClothItem> = {}): ClothItem => {
  const startMs = epochOf(zoned(local, ZONE), ZONE)
  return item(key, { kind: 'timed', startMs, endMs: startMs + minutes * 60_000 }, rest)
}
const week = (items: ClothItem[], from = '2026-11-23', days = 7) =>
  layoutWeek(items, { from, days, zone: ZONE, hours: HOURS, defaultMinutes: 30, now: NOW })

describe('lanes', () => {
  const flat = fc
    .tuple(fc.nat(1300), fc.integer({ min: 0, max: 200 }))
    .map(([from, length]) => ({ from, to: Math.min(1440, from + length) }))
  const blocksOf = (spans: { from: number; to: number }[]): Block[] =>
    intoLanes(
      spans.map((s, i) => ({
        ...s,
        item: item(String(i), { kind: 'none' }),
        clipped: { start: false, end: false },
      })),
    )

  it('never draw one block over another, and use no more lanes than overlap at once', () => {
    fc.assert(
      fc.property(fc.array(flat, { maxLength: 25 }), spans => {
        const blocks = blocksOf(spans)
        expect(blocks).to.have.length(spans.length)
        for (const x of blocks) {
          expect(x.lane).to.be.lessThan(x.lanes)
          for (const y of blocks)
            if (x !== y && x.lane === y.lane && x.lanes === y.lanes)
              expect(x.to <= y.from || y.to <= x.from || x.from === x.to || y.from === y.to).to.equal(true)
          const at = (m: number): number =>
            spans.filter(s => s.from <= m && m < Math.max(s.to, s.from + 1)).length
          expect(x.lanes).to.be.at.most(Math.max(...spans.map(s => at(s.from))))
        }
      }),
    )
  })

  it('lets a short title run up to the next block in its way', () => {
    const [first, second] = blocksOf([
      { from: 540, to: 555 },
      { from: 600, to: 660 },
    ])
    expect([first?.freeTo, second?.freeTo]).to.deep.equal([600, 1440])
  })
})

describe('a week', () => {
  it('puts each item where it belongs', () => {
    const w = week([
      timed('tue', '2026-11-24T09:00:00', 60),
      item('head', { kind: 'day', date: '2026-11-25' }),
      item('scaffold', { kind: 'all-day', from: '2026-11-25', to: '2026-11-27' }, { kind: 'event' }),
      item('late', { kind: 'none' }, { due: '2026-11-22', overdue: true }),
      item('soon', { kind: 'none' }, { due: '2026-11-30' }),
      item('later', { kind: 'none' }, { due: '2026-12-20' }),
      item('some day', { kind: 'none' }),
      item('done', { kind: 'none' }, { done: true }),
    ])
    expect(w.rows[1]?.blocks.map(b => [b.item.key, b.from, b.to])).to.deep.equal([['tue', 540, 600]])
    expect(w.rows[2]?.head.map(i => i.key)).to.deep.equal(['scaffold', 'head'])
    expect(w.rows[3]?.head.map(i => i.key)).to.deep.equal(['scaffold'])
    expect(w.rows[4]?.head).to.have.length(0)
    expect(w.shelf.map(g => [g.key, g.items.map(s => s.item.key)])).to.deep.equal([
      ['overdue', ['late']],
      ['soon', ['soon']],
      ['later', ['later']],
      ['none', ['some day']],
    ])
    expect(w.now).to.deep.equal({ date: '2026-11-24', minute: 672 })
  })

  it('cuts what goes past midnight into two rows', () => {
    const w = week([timed('night walk', '2026-11-25T22:30:00', 180)])
    expect(w.rows[2]?.blocks.map(b => [b.from, b.to, b.clipped.end])).to.deep.equal([[1350, 1440, true]])
    expect(w.rows[3]?.blocks.map(b => [b.from, b.to, b.clipped.start])).to.deep.equal([[0, 90, true]])
  })

  it('widens the axis for what lies outside the usual hours', () => {
    expect(week([]).axis).to.deep.equal({ from: 420, to: 1140 })
    expect(
      week([timed('early', '2026-11-24T05:20:00', 30), timed('late', '2026-11-24T19:00:00', 100)]).axis,
    ).to.deep.equal({ from: 300, to: 1260 })
  })

  it('draws wall-clock hours on the days when the clocks change', () => {
    const spring = week([timed('tea', '2026-03-29T10:00:00', 60)], '2026-03-23')
    expect(spring.rows[6]?.blocks.map(b => [b.from, b.to])).to.deep.equal([[600, 660]])
    const autumn = week([timed('over the change', '2026-10-25T00:30:00', 120)], '2026-10-19')
    expect(autumn.rows[6]?.blocks.map(b => [b.from, b.to])).to.deep.equal([[30, 90]])
  })

  it('finds every timed item in exactly the days it touches', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 9000 }), fc.integer({ min: 1, max: 4000 }), (at, minutes) => {
        const startMs = epochOf(onDate('2026-11-23'), ZONE) + at * 60_000
        const w = week([item('x', { kind: 'timed', startMs, endMs: startMs + minutes * 60_000 })])
        const drawn = w.rows.reduce((sum, r) => sum + r.blocks.reduce((n, b) => n + b.to - b.from, 0), 0)
        expect(drawn).to.equal(Math.max(0, Math.min(minutes, 7 * 1440 - at)))
      }),
    )
  })
})

describe('load', () => {
  it('counts overlaps once, what is free not at all, and planned tasks with their estimate', () => {
    const { load } = week([
      timed('a', '2026-11-24T09:00:00', 60, { kind: 'event' }),
      timed('b', '2026-11-24T09:30:00', 60),
      timed('free', '2026-11-24T14:00:00', 60, { kind: 'event', busy: false }),
      timed('done', '2026-11-24T15:00:00', 60, { done: true, busy: false }),
      item('hour less', { kind: 'day', date: '2026-11-24' }, { estimate: 45 }),
      item('unestimated', { kind: 'day', date: '2026-11-24' }),
    ]).rows[1] ?? { load: null }
    expect(load).to.deep.equal({
      committed: 165,
      capacity: 390,
      withoutEstimate: 1,
      threads: { taken: 6, free: 7, over: 0 },
    })
  })

  it('shows what is too much as threads beyond the day', () => {
    const { load } = week([timed('long', '2026-11-24T08:00:00', 480, { kind: 'event' })]).rows[1] ?? {
      load: null,
    }
    expect(load?.threads).to.deep.equal({ taken: 13, free: 0, over: 3 })
    const saturday = week([timed('swap', '2026-11-28T10:00:00', 120, { kind: 'event' })]).rows[5]
    expect([saturday?.working, saturday?.load.threads.over]).to.deep.equal([false, 4])
  })

  it('covers as much as the union of the spans', () => {
    const spans = fc.array(
      fc.tuple(fc.nat(200), fc.nat(60)).map(([from, n]) => ({ from, to: from + n })),
      { maxLength: 12 },
    )
    fc.assert(
      fc.property(spans, list => {
        const minutes = new Set(
          list.flatMap(s => Array.from({ length: s.to - s.from }, (_, i) => s.from + i)),
        )
        expect(covered(list)).to.equal(minutes.size)
      }),
    )
  })
})

describe('pressure', () => {
  const today = '2026-11-24'
  const task = fc.record({
    due: fc.oneof(
      fc.constant(null),
      fc.integer({ min: -30, max: 90 }).map(d => addDays(today, d)),
    ),
    priority: fc.nat(9),
    estimate: fc.oneof(fc.constant(null), fc.nat(480)),
  })
  it('stays within 0–100, and never falls when the due date comes nearer or the priority rises', () => {
    fc.assert(
      fc.property(task, t => {
        const p = pressure(t, today)
        expect(p).to.be.within(0, 100)
        if (t.due) expect(pressure({ ...t, due: addDays(t.due, -1) }, today)).to.be.at.least(p)
        if (t.priority > 1) expect(pressure({ ...t, priority: t.priority - 1 }, today)).to.be.at.least(p)
        expect(pressure({ ...t, due: null }, today)).to.be.at.most(40)
      }),
    )
  })
})

describe('words', () => {
  it('tell lengths, spans and values', () => {
    expect([0, 45, 60, 330].map(durationWords)).to.deep.equal(['0 min', '45 min', '1 h', '5 h 30'])
    expect(spanWords({ anchor: zoned('2026-11-25T15:45:00', 'Asia/Kathmandu'), minutes: 30 }, ZONE)).to.equal(
      'Wed 25 Nov 10:00–10:30',
    )
    expect(spanWords({ anchor: onDate('2026-11-25'), minutes: 2880 }, ZONE)).to.equal('Wed 25 Nov, 2 days')
    expect(valueWords({ start: null, estimate: null }, ZONE)).to.equal('no date')
    expect(valueWords({ marked: true, transparency: 'transparent', open: 'opaque' }, ZONE)).to.equal(
      'marked done, shown free',
    )
    expect([valueWords(true, ZONE), valueWords('', ZONE), valueWords(null, ZONE)]).to.deep.equal([
      'done',
      'empty',
      null,
    ])
  })
})
