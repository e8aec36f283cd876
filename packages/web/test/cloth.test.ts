import {
  addDays,
  type ClothItem,
  datesShown,
  type Edit,
  epochOf,
  MINUTE,
  onDate,
  plainView,
  stepped,
  type ViewBody,
  weekdayOf,
  zoned,
} from '@loom/core/view'
import { expect } from 'chai'
import fc from 'fast-check'
import { drawnItem } from '../../core/test/support/drawn-item.ts'
import { canBe, forEach } from '../src/features/cloth/data/chosen.ts'
import { headingOf } from '../src/features/cloth/data/days.ts'
import { type Drop, dropFor, type Held, type Target } from '../src/features/cloth/drag/drag.ts'
import { blockMaking, type Kept, keptBy, keptWords } from '../src/features/cloth/data/further-time.ts'
import { editWords, placeWords } from '../src/features/cloth/data/words.ts'

const ZONE = 'Europe/Dublin'
const kept: Kept = { into: null, busy: true, named: true }
const at = (local: string): number => epochOf(zoned(local, ZONE), ZONE)
const none = { kind: 'none' } as const
const timed = (key: string, local: string, minutes: number, rest: Partial<ClothItem> = {}): ClothItem =>
  drawnItem(key, { kind: 'timed', startMs: at(local), endMs: at(local) + minutes * MINUTE }, rest)

describe('further time for a task', () => {
  const start = zoned('2026-11-24T10:00:00', ZONE)
  const nameOf = (id: string): string => `the ${id} calendar`
  const press = (keys: string, from = kept): Kept =>
    [...keys].reduce((k, key) => keptBy(key, k, ['team', 'house']), from)

  it('is kept where and as keys say while it is held, and comes round again', () => {
    expect(press('k')).to.deep.equal({ into: 'team', busy: true, named: true })
    expect(press('kkfV')).to.deep.equal({ into: 'house', busy: false, named: false })
    expect(press('kkk')).to.deep.equal(kept)
    expect(press('fvx'), 'of what fills no calendar there is nothing to say').to.deep.equal(kept)
    expect(press('k', { ...kept, into: 'gone' }).into, 'a calendar that takes part no longer').to.equal(null)
  })

  it('says so in words, and to the calendar', () => {
    expect(keptWords(kept, nameOf)).to.equal('in Amber Loom only')
    expect(keptWords(press('kfv'), nameOf)).to.equal('in the team calendar, free, private')
    expect(blockMaking('t', start, 30, kept)).to.deep.include({ into: null, said: {} })
    expect(blockMaking('t', start, 3, press('kfv'))).to.deep.include({
      into: 'team',
      minutes: 5,
      said: { transparency: 'transparent', class: 'private' },
    })
  })
})

describe('letting go of what is held', () => {
  const held = (item: ClothItem, target: Target | null, rest: Partial<Held> = {}): Held => ({
    item,
    by: 'whole',
    copying: false,
    further: false,
    kept,
    usual: 30,
    x: 0,
    y: 0,
    target,
    ...rest,
  })
  const task = drawnItem('t', none)
  const placed = timed('p', '2026-11-24T09:00:00', 30, { kind: 'tied' })
  const hour = (from: number, minutes = 30): Target => ({
    kind: 'hour',
    date: '2026-11-25',
    row: 'all',
    from,
    minutes,
  })
  const edit = (e: Edit, row: string | null = null): Drop => ({ kind: 'edit', edit: e, row })
  const ten = zoned('2026-11-25T10:00:00', ZONE)

  const cases: [string, Held, Drop | null][] = [
    ['nowhere does nothing', held(task, null), null],
    ['at an hour places it there', held(task, hour(600)), edit({ do: 'place', start: ten }, 'all')],
    [
      'on all of a free span gives it that length',
      held(task, hour(600, 95)),
      edit({ do: 'place', start: ten, minutes: 95 }, 'all'),
    ],
    [
      'at the head of a day gives it that day, no hour',
      held(task, { kind: 'day', date: '2026-11-25', row: 'all' }),
      edit({ do: 'place', start: onDate('2026-11-25') }, 'all'),
    ],
    [
      'on the day it has already does nothing',
      held(drawnItem('d', { kind: 'day', date: '2026-11-25' }), {
        kind: 'day',
        date: '2026-11-25',
        row: 'all',
      }),
      null,
    ],
    [
      'on the shelf takes its time away',
      held(placed, { kind: 'shelf', beside: { key: 'x', after: true } }),
      edit({ do: 'unplace' }),
    ],
    ['on the shelf, where it lies, does nothing', held(task, { kind: 'shelf', beside: null }), null],
    [
      'on another there gives it a place in an order of one’s own',
      held(task, { kind: 'shelf', beside: { key: 'x', after: true } }),
      { kind: 'order', beside: { key: 'x', after: true } },
    ],
    [
      'on a row’s name means any day of that week',
      held(task, { kind: 'week', week: '2026-11-23' }),
      edit({ do: 'any-day', week: '2026-11-23' }),
    ],
    [
      'on the way to the next week puts it by',
      held(placed, { kind: 'later', until: '2026-11-30' }),
      edit({ do: 'put-by', until: '2026-11-30' }),
    ],
    ['on a batch puts it in', held(task, { kind: 'batch', key: 'b' }), { kind: 'batch', key: 'b' }],
    [
      'with Ctrl asks for further time',
      held(placed, hour(600), { copying: true }),
      { kind: 'copy', target: hour(600) as never, kept },
    ],
    [
      'picked up from the shelf though it has its time, asks for further time',
      held(placed, hour(600), { further: true }),
      { kind: 'copy', target: hour(600) as never, kept },
    ],
    [
      'picked up from there and left on a day, is moved to it',
      held(placed, { kind: 'day', date: '2026-11-25', row: 'all' }, { further: true }),
      edit({ do: 'place', start: onDate('2026-11-25') }, 'all'),
    ],
    [
      'by its end makes it longer',
      held(placed, hour(540, 75), { by: 'end' }),
      edit({ do: 'lengthen', minutes: 75 }),
    ],
    [
      'by its start moves that edge alone',
      held(placed, hour(600, 15), { by: 'start' }),
      edit({ do: 'place', start: ten, minutes: 15 }),
    ],
    [
      'by an edge, off its row, does nothing',
      held(placed, { kind: 'shelf', beside: null }, { by: 'end' }),
      null,
    ],
  ]
  for (const [what, given, wanted] of cases)
    it(what, () => {
      expect(dropFor(given, ZONE)).to.deep.equal(wanted)
    })
})

describe('several at once', () => {
  const terms = { zone: ZONE, defaultMinutes: 30 }

  it('are placed one after the other, each with its own length', () => {
    const items = [
      drawnItem('a', none, { estimate: 45 }),
      drawnItem('b', none),
      timed('c', '2026-11-20T09:00:00', 60),
    ]
    const done = forEach(items, { do: 'place', start: zoned('2026-11-25T10:00:00', ZONE) }, terms)
    expect(
      done.map(
        d => d.edit.do === 'place' && d.edit.start.kind === 'zoned' && d.edit.start.local.slice(11, 16),
      ),
    ).to.deep.equal(['10:00', '10:45', '11:15'])
  })

  it('otherwise have the same done to each', () => {
    const items = [drawnItem('a', none), drawnItem('b', none)]
    for (const edit of [{ do: 'complete' }, { do: 'place', start: onDate('2026-11-25') }] as Edit[])
      expect(forEach(items, edit, terms)).to.deep.equal(items.map(item => ({ item, edit })))
  })

  it('leave out what it cannot be done to', () => {
    const event = timed('e', '2026-11-25T10:00:00', 30, { kind: 'event', completable: false })
    const series = timed('s', '2026-11-25T10:00:00', 30, { kind: 'event', recurring: true })
    const task = drawnItem('t', none)
    const able = (edit: Edit): string[] => [event, series, task].filter(i => canBe(i, edit)).map(i => i.key)
    expect(able({ do: 'complete' })).to.deep.equal(['t'])
    expect(able({ do: 'any-day', week: '2026-11-23' })).to.deep.equal(['t'])
    expect(able({ do: 'place', start: onDate('2026-11-25') })).to.deep.equal(['e', 't'])
    expect(able({ do: 'delete' })).to.deep.equal(['e', 't'])
  })
})

describe('the days of a view', () => {
  const spans = fc.constantFrom('day', 'days', 'work-week', 'week', 'month', 'list').map(span => ({
    ...plainView,
    span: span as ViewBody['span'],
  }))
  const dates = fc.integer({ min: 0, max: 1500 }).map(n => addDays('2025-01-01', n))
  const starts = fc.constantFrom<1 | 6 | 7>(1, 6, 7)

  it('hold the day that is asked for, follow each other, and go on without a gap or an overlap', () => {
    fc.assert(
      fc.property(spans, dates, starts, fc.integer({ min: 2, max: 14 }), (plain, date, start, days) => {
        const view = { ...plain, days }
        const shown = datesShown(view, date, start)
        // A working week that is asked for from a weekend is the one before it.
        if (view.span !== 'work-week' || weekdayOf(date) < 6) expect(shown).to.include(date)
        shown.slice(1).forEach((d, i) => expect(d).to.equal(addDays(shown[i] ?? '', 1)))
        const next = datesShown(view, stepped(view, date, 1), start)
        expect(datesShown(view, stepped(view, stepped(view, date, 1), -1), start)).to.deep.equal(shown)
        if (view.span === 'month' || view.span === 'work-week') return
        expect(next[0]).to.equal(addDays(shown.at(-1) ?? '', 1))
      }),
    )
  })

  it('begin a week on the day that the person begins it', () => {
    for (const start of [1, 6, 7] as const)
      expect(weekdayOf(datesShown(plainView, '2026-11-25', start)[0] ?? '')).to.equal(start)
    expect(datesShown({ ...plainView, span: 'work-week' }, '2026-11-25', 7)).to.have.length(5)
  })

  it('are called what a person would call them', () => {
    const heading = (span: string, date: string): string => {
      const view = { ...plainView, span: span as ViewBody['span'] }
      return headingOf(view, datesShown(view, date, 1), date)
    }
    expect(heading('week', '2026-11-25')).to.equal('23 – 29 November')
    expect(heading('week', '2026-12-01')).to.equal('30 Nov – 6 Dec')
    expect(heading('month', '2026-11-25')).to.equal('November 2026')
    expect(heading('day', '2026-11-25')).to.match(/^Wednesday,? 25 November$/)
  })
})

describe('what happened, in words', () => {
  const terms = { zone: ZONE, defaultMinutes: 30 }
  const cases: [Edit, ClothItem, string][] = [
    [{ do: 'complete' }, drawnItem('Sweep', none), 'Sweep: done.'],
    [{ do: 'reopen' }, drawnItem('Sweep', none), 'Sweep: open again.'],
    [{ do: 'cancel' }, drawnItem('Sweep', none), 'Sweep: cancelled.'],
    [{ do: 'rename', title: 'Sweep' }, drawnItem('Sweep', none), 'Renamed to Sweep.'],
    [{ do: 'unplace' }, drawnItem('Sweep', none), 'Sweep: back on the shelf.'],
    [
      { do: 'any-day', week: '2026-11-23' },
      drawnItem('Sweep', none),
      'Sweep: any day in the week of Mon 23 Nov.',
    ],
    [{ do: 'put-by', until: '' }, drawnItem('Sweep', none), 'Sweep: put by.'],
    [{ do: 'put-by', until: '2026-12-07' }, drawnItem('Sweep', none), 'Sweep: put by until Mon 7 Dec.'],
    [{ do: 'put-by', until: null }, drawnItem('Sweep', none), 'Sweep: back on the shelf.'],
    [{ do: 'leave-out', out: true }, drawnItem('Sweep', none), 'Sweep: left out of your plan.'],
    [{ do: 'leave-out', out: false }, drawnItem('Sweep', none), 'Sweep: in your plan again.'],
    [{ do: 'estimate', minutes: null }, drawnItem('Sweep', none), 'Sweep: no estimate.'],
    [{ do: 'estimate', minutes: 90 }, drawnItem('Sweep', none), 'Sweep: takes 1 h 30.'],
    [{ do: 'spend', spent: true }, drawnItem('Sweep', none), 'Sweep: this time is worked.'],
    [{ do: 'fix', movable: false }, drawnItem('Sweep', none), 'Sweep: fixed.'],
    [{ do: 'delete' }, drawnItem('Sweep', none), 'Sweep: deleted.'],
    [{ do: 'restore' }, drawnItem('Sweep', none), 'Sweep: back as it was.'],
    [{ do: 'lengthen', minutes: 45 }, timed('Sweep', '2026-11-24T09:00:00', 45), 'Sweep: now 45 min.'],
    [
      { do: 'place', start: zoned('2026-11-24T09:00:00', ZONE) },
      timed('Sweep', '2026-11-24T09:00:00', 45),
      'Sweep: Tue 24 Nov, 09:00–09:45.',
    ],
  ]
  for (const [edit, item, words] of cases)
    it(`says “${words}”`, () => {
      expect(editWords(item, edit, terms)).to.equal(words)
    })

  it('says where a task without a time lies', () => {
    const where = (rest: Partial<ClothItem>): string => placeWords(drawnItem('x', none, rest), ZONE)
    expect([
      where({}),
      where({ week: '2026-11-23' }),
      where({ putBy: '' }),
      where({ putBy: '2026-12-07' }),
    ]).to.deep.equal(['on the shelf', 'any day, week of Mon 23 Nov', 'put by', 'put by until Mon 7 Dec'])
  })
})
