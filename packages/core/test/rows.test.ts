import { expect } from 'chai'
import fc from 'fast-check'
import {
  addDays,
  type Block,
  type ClothItem,
  covered,
  durationWords,
  epochOf,
  inSteps,
  intoLanes,
  axisOf,
  hourRows,
  hourWords,
  minuteWords,
  nowOn,
  plainView,
  type RowOf,
  shelve,
  cellRows,
  clashesIn,
  dayOfSeveral,
  freeSpans,
  weeksOfMonth,
  putBeside,
  putByGroups,
  shownIn,
  hiddenBecause,
  showing,
  onDate,
  pressure,
  pressureOf,
  spanWords,
  valueWords,
  zoned,
} from '../src/index.ts'
import { drawnItem } from './support/drawn-item.ts'

const ZONE = 'Europe/Dublin'
const HOURS = { from: 480, to: 1080, minutes: [390, 390, 390, 390, 390, 0, 0], off: [], zone: ZONE }
const NOW = Date.parse('2026-11-24T11:12:00Z')

const item = drawnItem
const timed = (key: string, local: string, minutes: number, rest: Partial<ClothItem> = {}): ClothItem => {
  const startMs = epochOf(zoned(local, ZONE), ZONE)
  return item(key, { kind: 'timed', startMs, endMs: startMs + minutes * 60_000 }, rest)
}
const options = { zone: ZONE, defaultMinutes: 30, now: NOW }
const everybody: RowOf = { key: 'all', title: '', hours: HOURS, contains: () => true }
const shelfOf = (items: ClothItem[], view: Partial<typeof plainView> = {}) =>
  shelve(items, { ...options, view: { ...plainView, ...view }, nameOf: id => `name of ${id}` })
const week = (items: ClothItem[], from = '2026-11-23', days = 7) => {
  const dates = Array.from({ length: days }, (_, i) => addDays(from, i))
  const rows = hourRows(items, [everybody], dates, options)
  return { rows, shelf: shelfOf(items), axis: axisOf(rows, HOURS) }
}

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

  const SIZE = { least: 40, enough: 70, lanes: 4 }

  it('goes down in steps where titles are cramped, never over another, in no more lanes than it may', () => {
    fc.assert(
      fc.property(fc.array(flat, { maxLength: 40 }), spans => {
        const plain = blocksOf(spans)
        const steps = inSteps(plain, SIZE)
        expect(steps.map(b => [b.item.key, b.from, b.to])).to.have.deep.members(
          plain.map(b => [b.item.key, b.from, b.to]),
        )
        const overlapping = Math.max(0, ...plain.map(b => b.lanes))
        const isCramped = plain.some(b => Math.max(b.to, b.freeTo) - b.from < SIZE.least)
        if (!isCramped) expect(steps).to.equal(plain)
        for (const x of steps) {
          expect(x.lanes).to.be.at.most(Math.max(overlapping, SIZE.lanes))
          const [top, bottom] = [x.lane / x.lanes, (x.lane + 1) / x.lanes]
          for (const y of steps)
            if (x !== y && x.from < y.to && y.from < x.to)
              expect(y.lane / y.lanes >= bottom || (y.lane + 1) / y.lanes <= top).to.equal(true)
        }
      }),
    )
  })

  it('gives each of many quarters of an hour the room that its title needs, as far as lanes go', () => {
    const quarters = Array.from({ length: 12 }, (_, i) => ({ from: 540 + 15 * i, to: 555 + 15 * i }))
    const steps = inSteps(blocksOf(quarters), SIZE)
    expect(steps.map(b => b.lane)).to.deep.equal([0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3])
    expect(new Set(steps.slice(0, 8).map(b => b.freeTo - b.from))).to.deep.equal(new Set([60]))
    expect(inSteps(blocksOf(quarters), { ...SIZE, lanes: 5 }).every(b => b.freeTo - b.from >= 70)).to.equal(
      true,
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

describe('the axis', () => {
  it('shows to its end what begins on it, if that is not far', () => {
    const until = (start: string, minutes: number) =>
      week([timed('late', `2026-11-24T${start}:00`, minutes)]).axis.to
    const usual = until('10:00', 30)
    expect(usual).to.equal(19 * 60)
    expect(until('21:15', 120)).to.equal(24 * 60)
    expect(until('21:00', 240), 'it goes on for long').to.equal(usual)
    expect(until('22:30', 30), 'it begins too late').to.equal(usual)
  })
})

describe('an order of one’s own', () => {
  it('puts one beside another of its group, and leaves all others as they were', () => {
    const order = ['z', 'b']
    const put = (key: string, other: string, after: boolean) =>
      putBeside(order, ['a', 'b', 'c'], key, { key: other, after })
    expect(put('c', 'a', false)).to.deep.equal(['z', 'c', 'a', 'b'])
    expect(put('a', 'b', true)).to.deep.equal(['z', 'b', 'a', 'c'])
    expect(put('a', 'elsewhere', true)).to.deep.equal(order)
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
      ['any-day', []],
      ['soon', ['soon']],
      ['later', ['later']],
      ['none', ['some day']],
    ])
    expect([nowOn('2026-11-24', options), nowOn('2026-11-25', options)]).to.deep.equal([672, null])
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
      parts: { meetings: 60, travel: 0, breaks: 0, blocks: 30, planned: 75 },
      atLeast: false,
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

  it('counts what blocks and batches hold of a task only once, and what is left out of the plan not at all', () => {
    const monday = (key: string, rest: Partial<ClothItem>) =>
      item(key, { kind: 'day', date: '2026-11-24' }, rest)
    const { load } = week([
      monday('partly blocked', { estimate: 120, blocks: { ahead: 45, spent: 30 } }),
      monday('in a batch', { estimate: 30 }),
      monday('left out', { estimate: 240, leftOut: true }),
      timed('batch', '2026-11-24T09:00:00', 60, {
        kind: 'batch',
        batch: [{ key: 'in a batch', title: '', done: false, completable: true }],
      }),
    ]).rows[1] ?? { load: null }
    expect([load?.committed, load?.parts]).to.deep.equal([
      105,
      { meetings: 0, travel: 0, breaks: 0, blocks: 60, planned: 45 },
    ])
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

describe('rows that are people, and days that are cells', () => {
  const hours = { ...HOURS, zone: 'Asia/Kathmandu', from: 540, to: 1020 }
  const people: RowOf[] = ['ines', 'anouk'].map(key => ({
    key,
    title: key,
    hours: key === 'anouk' ? hours : HOURS,
    contains: i => i.people.includes(key),
  }))

  it('draws each person’s hours on the viewer’s clock, and an item in the row of everybody it concerns', () => {
    const both = timed('talk', '2026-11-24T09:00:00', 60, { people: ['ines', 'anouk'] })
    const rows = hourRows(
      [both, timed('alone', '2026-11-24T11:00:00', 30, { people: ['ines'] })],
      people,
      ['2026-11-24'],
      options,
    )
    expect(rows.map(r => [r.title, r.blocks.length, r.hours])).to.deep.equal([
      ['ines', 2, { from: 480, to: 1080 }],
      // Five hours and three quarters ahead.
      ['anouk', 1, { from: 195, to: 675 }],
    ])
  })

  it('gives a day off no hours and no room', () => {
    const off = { ...everybody, hours: { ...HOURS, off: ['2026-11-24'] } }
    const [row] = hourRows([], [off], ['2026-11-24'], options)
    expect([row?.working, row?.hours, row?.load.capacity]).to.deep.equal([false, null, 0])
  })

  it('fills a month with whole weeks, each day with what is on it and its load', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 300 }), fc.constantFrom(1, 6, 7), (months, first) => {
        const month = new Date(Date.UTC(2020, months, 1)).toISOString().slice(0, 7)
        const dates = weeksOfMonth(month, first).flat()
        const inside = dates.filter(d => d.startsWith(month))
        expect(inside).to.have.length(new Date(Date.UTC(2020, months + 1, 0)).getUTCDate())
        expect(dates.length % 7).to.equal(0)
        expect(dates.length - inside.length).to.be.below(13)
      }),
    )
    const [row] = cellRows(
      [
        timed('b', '2026-11-24T15:00:00', 60),
        timed('a', '2026-11-24T09:00:00', 60),
        item('c', { kind: 'day', date: '2026-11-24' }),
      ],
      [everybody],
      ['2026-11-23', '2026-11-24'],
      options,
    )
    expect(row?.cells.map(c => c.entries.map(e => e.key))).to.deep.equal([[], ['a', 'b', 'c']])
    expect(row?.cells[1]?.load.committed).to.equal(150)
  })
})

describe('deadlines', () => {
  it('that have an hour are marked there on the axis of their day, in the viewer’s zone', () => {
    const dueAt = epochOf(zoned('2026-11-24T16:30:00', ZONE), ZONE)
    const items = [
      item('hour', { kind: 'none' }, { due: '2026-11-24', dueAt }),
      item('day', { kind: 'none' }, { due: '2026-11-24' }),
      item('done', { kind: 'none' }, { due: '2026-11-24', dueAt, done: true }),
    ]
    const [row] = hourRows(items, [everybody], ['2026-11-24'], options)
    expect(row?.dues.map(i => i.key)).to.deep.equal(['hour', 'day'])
    expect(row?.dueMarks.map(d => [d.item.key, d.minute])).to.deep.equal([['hour', 990]])
    const there = hourRows(items, [everybody], ['2026-11-24'], { ...options, zone: 'Asia/Kathmandu' })
    expect(there[0]?.dueMarks[0]?.minute).to.equal(990 + 345)
  })
})

describe('hours', () => {
  it('are told on either clock, midnight and noon too', () => {
    const told = [0, 555, 720, 870, 1439].map(m => [minuteWords(m), minuteWords(m, '12'), hourWords(m, '12')])
    expect(told).to.deep.equal([
      ['00:00', '12:00 am', '12 am'],
      ['09:15', '9:15 am', '9 am'],
      ['12:00', '12:00 pm', '12 pm'],
      ['14:30', '2:30 pm', '2 pm'],
      ['23:59', '11:59 pm', '11 pm'],
    ])
    const span = { anchor: zoned('2026-11-24T13:05:00', ZONE), minutes: 60 }
    expect(valueWords(span, ZONE, '12')).to.equal('Tue 24 Nov 1:05 pm–2:05 pm')
    expect(valueWords(span, 'Asia/Kathmandu', '12')).to.equal('Tue 24 Nov 6:50 pm–7:50 pm')
  })
})

describe('bars', () => {
  const dates = Array.from({ length: 7 }, (_, i) => addDays('2026-11-23', i))
  const lasting = (key: string, from: number, days: number): ClothItem =>
    item(key, { kind: 'all-day', from: addDays('2026-11-23', from), to: addDays('2026-11-23', from + days) })

  it('run over the days of what lies on several, each in one piece, none over another', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: -9, max: 9 }), fc.integer({ min: 1, max: 12 })), {
          maxLength: 12,
        }),
        spans => {
          const items = spans.map(([from, days], i) => lasting(`k${i}`, from, days))
          const [row] = cellRows(items, [everybody], dates, options)
          const bars = row?.bars ?? []
          for (const [i, [from, days]] of spans.entries()) {
            const seen = dates.filter((_, d) => d >= from && d < from + days)
            const own = bars.filter(b => b.item.key === `k${i}`)
            expect(own.length).to.equal(days > 1 && seen.length > 0 ? 1 : 0)
            const [bar] = own
            if (!bar) continue
            expect(dates.slice(bar.from, bar.to)).to.deep.equal(seen)
            expect(bar.clipped).to.deep.equal({ start: from < 0, end: from + days > 7 })
          }
          for (const [i, x] of bars.entries())
            for (const y of bars.slice(i + 1))
              expect(x.lane !== y.lane || x.to <= y.from || y.to <= x.from).to.equal(true)
        },
      ),
    )
  })

  it('leave no gap where a weekend is left out; each day of several knows which it is', () => {
    const workdays = [...dates.slice(0, 5), ...dates.slice(0, 5).map(d => addDays(d, 7))]
    const over = lasting('over', 3, 5)
    const [row] = cellRows([over], [everybody], workdays, options)
    expect(row?.bars.map(b => [b.from, b.to])).to.deep.equal([[3, 6]])
    expect(dayOfSeveral(over, '2026-11-27')).to.deep.equal({ day: 2, of: 5 })
    expect(dayOfSeveral(lasting('one', 0, 1), '2026-11-23')).to.equal(null)
  })
})

describe('the shelf', () => {
  const none = { kind: 'none' } as const

  it('sends what a day left over back to the week, never onto tomorrow', () => {
    const groups = shelfOf([
      item('yesterday', { kind: 'day', date: '2026-11-23' }),
      timed('this morning', '2026-11-24T09:00:00', 60),
      timed('last week', '2026-11-18T09:00:00', 60, { kind: 'tied' }),
      item('last week, any day', none, { week: '2026-11-16' }),
      item('next week', none, { week: '2026-11-30' }),
      item('today', { kind: 'day', date: '2026-11-24' }),
    ])
    const keys = (key: string) =>
      groups
        .find(g => g.key === key)
        ?.items.map(i => i.item.key)
        .sort()
    expect(keys('any-day')).to.deep.equal(['last week', 'last week, any day', 'yesterday'])
    expect(keys('week 2026-11-30')).to.deep.equal(['next week'])
    expect(groups.flatMap(g => g.items)).to.have.length(4)
  })

  it('hides what is put by until its day, and has a place to look through it', () => {
    const items = [
      item('later', none, { putBy: '2026-12-07' }),
      item('some time', none, { putBy: '' }),
      item('now', none, { putBy: '2026-11-24' }),
    ]
    expect(shelfOf(items).flatMap(g => g.items.map(i => i.item.key))).to.deep.equal(['now'])
    expect(putByGroups(items, options).map(g => [g.title, g.items.map(i => i.key)])).to.deep.equal([
      ['Until Mon 7 Dec', ['later']],
      ['Without a date', ['some time']],
    ])
  })

  it('groups and sorts as the view says, in an order that somebody dragged', () => {
    const items = [
      item('b', none, { sources: ['two'], priority: 1, categories: ['x', 'y'], people: ['p', 'q'] }),
      item('a', none, { sources: ['one'], estimate: 15 }),
      item('c', none, { sources: ['one'], due: '2026-11-25' }),
    ]
    const titles = (view: Partial<typeof plainView>) =>
      shelfOf(items, view).map(g => `${g.title}: ${g.items.map(i => i.item.key).join(' ')}`)
    expect(titles({ group: 'list', sort: 'title' })).to.deep.equal(['name of one: a c', 'name of two: b'])
    expect(titles({ group: 'list', groupOrder: ['two'], sort: 'own', order: ['c', 'a'] })).to.deep.equal([
      'name of two: b',
      'name of one: c a',
    ])
    expect(titles({ group: 'none', sort: 'due' })).to.deep.equal(['All tasks: c b a'])
    expect(titles({ group: 'none', sort: 'estimate' })).to.deep.equal(['All tasks: a c b'])
    expect(titles({ group: 'category', sort: 'title' })).to.deep.equal(['x: b', 'y: b', 'No category: a c'])
    expect(titles({ group: 'person', sort: 'title' })).to.deep.equal([
      'name of p: b',
      'name of q: b',
      'Nobody: a c',
    ])
    expect(titles({ group: 'priority', sort: 'title' })).to.deep.equal([
      'High priority: b',
      'No priority: a c',
    ])
  })
})

describe('what a view shows', () => {
  it('says why it does not show an item, and shows it with that taken away', () => {
    const hidden = {
      ...plainView,
      hidden: ['one'],
      done: 'hidden' as const,
      filter: [{ field: 'words' as const, of: ['lantern'], without: false }],
    }
    const cases: [ClothItem, string | null][] = [
      [item('Lantern glue', { kind: 'none' }, { sources: ['one'] }), 'source'],
      [item('Lantern paper', { kind: 'none' }, { sources: ['one', 'two'], kind: 'tied' }), null],
      [item('Gate', { kind: 'none' }), 'filter'],
      [item('Old lantern', { kind: 'none' }, { done: true, status: 'completed' }), 'done'],
    ]
    for (const [it, because] of cases) {
      const why = hiddenBecause(hidden, it, options)
      expect(why, it.title).to.equal(because)
      if (why) expect(hiddenBecause(showing(hidden, it, why), it, options), it.title).to.equal(null)
    }
    expect(
      shownIn(
        hidden,
        cases.map(c => c[0]),
        options,
      ),
    ).to.have.length(1)
  })
})

describe('clashes and room', () => {
  const busy = { kind: 'event' as const, people: ['ines'], movable: false }
  it('are an event on planned work, or two fixed ones, of the same person', () => {
    const visit = timed('visit', '2026-11-24T09:30:00', 60, busy)
    const cases: [string, ClothItem, number][] = [
      ['planned work', timed('w', '2026-11-24T09:00:00', 60, { people: ['ines'] }), 1],
      ['planned work of another', timed('w', '2026-11-24T09:00:00', 60, { people: ['bram'] }), 0],
      ['work before it', timed('w', '2026-11-24T08:30:00', 60, { people: ['ines'] }), 0],
      ['work that is done', timed('w', '2026-11-24T09:00:00', 60, { people: ['ines'], done: true }), 0],
      ['another fixed event', timed('w', '2026-11-24T10:00:00', 60, busy), 1],
      ['one that may be moved', timed('w', '2026-11-24T10:00:00', 60, { ...busy, movable: true }), 0],
      ['one that is shown free', timed('w', '2026-11-24T10:00:00', 60, { ...busy, busy: false }), 0],
    ]
    for (const [what, other, count] of cases) {
      const found = clashesIn([visit, other])
      expect(found, what).to.have.length(count)
      if (count > 0 && other.kind === 'task') expect(found[0]?.moves.key).to.equal('w')
    }
  })

  it('leave room only in working hours, beside everything else, for the whole length', () => {
    const starts = fc.array(fc.tuple(fc.integer({ min: 0, max: 200 }), fc.integer({ min: 15, max: 300 })), {
      maxLength: 10,
    })
    fc.assert(
      fc.property(starts, fc.integer({ min: 15, max: 240 }), (list, minutes) => {
        const begin = epochOf(onDate('2026-11-24'), ZONE)
        const items = list.map(([at, n], i) => {
          const startMs = begin + at * 15 * 60_000
          return item(
            String(i),
            { kind: 'timed', startMs, endMs: startMs + n * 60_000 },
            { people: ['ines'] },
          )
        })
        for (const free of freeSpans(items, HOURS, { ms: NOW, date: '2026-11-24' }, minutes, 5, 10)) {
          expect(free.endMs - free.startMs).to.be.at.least(minutes * 60_000)
          expect(free.startMs).to.be.at.least(NOW)
          for (const i of items)
            if (i.place.kind === 'timed')
              expect(i.place.startMs >= free.endMs || i.place.endMs <= free.startMs).to.equal(true)
        }
      }),
    )
    const empty = freeSpans([], HOURS, { ms: NOW, date: '2026-11-28' }, 60, 3, 2)
    expect(new Date(empty[0]?.startMs ?? 0).toISOString(), 'Monday after the weekend').to.equal(
      '2026-11-30T08:00:00.000Z',
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

describe('pressure in words', () => {
  it('rises as the free time before the due date runs out, and says what weighs most first', () => {
    const task = { due: '2026-11-27', priority: 2, estimate: 240 }
    const scores = [600, 400, 100, 0].map(f => pressureOf(task, '2026-11-24', f).score)
    expect(scores).to.deep.equal([...scores].sort((x, y) => x - y))
    expect(pressureOf(task, '2026-11-24', 30).reasons).to.deep.equal([
      'due in 3 days',
      'high priority',
      'only 30 min free before then',
      'takes 4 h',
    ])
    expect(pressureOf({ ...task, due: '2026-11-22' }, '2026-11-24').reasons).to.include('2 days late')
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
