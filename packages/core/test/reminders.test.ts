import { expect } from 'chai'
import fc from 'fast-check'
import { reminderName, remindersOf, type ReminderTerms } from '../src/reminders/index.ts'
import { dayAt, epochOf, noReminders, type Reminders, wallMinutes, zoned } from '../src/view/index.ts'
import { drawnItem } from './support/drawn-item.ts'

const ZONE = 'Asia/Kathmandu'
const DAY = '2026-06-17'
const at = (clock: string, day = DAY): number => epochOf(zoned(`${day}T${clock}:00`, ZONE), ZONE)
const hours = {
  from: 540,
  to: 1020,
  minutes: [390, 390, 390, 390, 390, 0, 0],
  off: ['2026-06-18'],
  zone: ZONE,
}
const terms = (reminders: Partial<Reminders>, more: Partial<ReminderTerms> = {}): ReminderTerms => ({
  me: 'me',
  hours,
  reminders: { ...noReminders, quiet: null, ...reminders },
  windows: [],
  alarms: new Map(),
  chosen: new Map(),
  focusUntilMs: null,
  dates: [DAY, '2026-06-18', '2026-06-19'],
  ...more,
})
const timed = (from: string, to: string, day = DAY) => ({
  kind: 'timed' as const,
  startMs: at(from, day),
  endMs: at(to, day),
})
const meeting = (key: string, from: string, to: string, more: object = {}) =>
  drawnItem(key, timed(from, to), {
    kind: 'event',
    people: ['me'],
    busy: true,
    eventKind: 'meeting',
    ...more,
  })
const told = (...of: Parameters<typeof remindersOf>): string[] =>
  remindersOf(...of).map(
    r =>
      `${r.kind} ${r.key} ${dayAt(r.atMs, ZONE) === DAY ? '' : 'other day '}${(r.atMs - at('00:00')) / 60_000}`,
  )

describe('what somebody is reminded of', () => {
  it('comes before an event of their own, before planned work, before a deadline and a work window', () => {
    const items = [
      meeting('m', '10:00', '11:00'),
      meeting('theirs', '10:00', '11:00', { people: ['you'] }),
      drawnItem('work', timed('13:00', '14:00'), { people: ['me'] }),
      drawnItem('hour', { kind: 'none' }, { people: ['me'], due: DAY, dueAt: at('16:00') }),
      drawnItem('day', { kind: 'none' }, { people: ['me'], due: DAY }),
    ]
    const windows = [{ id: 'w', name: 'Quiet desk', fromMs: at('09:30') }]
    const all = terms({ event: 10, block: 5, due: 60, window: 0 }, { windows })
    expect(told(items, all)).to.deep.equal([
      'due day 480',
      'window w 570',
      'event m 590',
      'block work 775',
      'due hour 900',
    ])
    expect(told(items, terms({}))).to.deep.equal([])
  })

  it('is not of what is done, called off, left out, hidden, drawn at its deadline, or known to no service yet', () => {
    for (const more of [
      { done: true },
      { cancelled: true },
      { leftOut: true },
      { onlyBusy: true },
      { atDeadline: true },
    ])
      expect(
        told([meeting('m', '10:00', '11:00', more)], terms({ event: 10 })),
        JSON.stringify(more),
      ).to.deep.equal([])
    expect(told([meeting('new m', '10:00', '11:00')], terms({ event: 10 }))).to.deep.equal([])
    const pause = meeting('m', '10:00', '11:00', { eventKind: 'break' })
    expect(told([pause], terms({ event: 10 })), 'a break').to.deep.equal([])
  })

  it('is what was said of the item, where something was', () => {
    const items = [
      meeting('a@20260617T041500Z', '10:00', '11:00'),
      meeting('b', '12:00', '13:00', { people: [] }),
    ]
    const chosen = new Map<string, number | null>([
      ['a', null],
      ['b', 30],
    ])
    expect(told(items, terms({ event: 10 }, { chosen }))).to.deep.equal(['event b 690'])
  })

  it('is each alarm that an event has in its calendar, in place of the usual, and not one of long ago', () => {
    const day = drawnItem('d', { kind: 'all-day', from: DAY, to: DAY }, { kind: 'event', people: ['me'] })
    const items = [meeting('a', '10:00', '11:00'), meeting('b', '12:00', '13:00'), day]
    const alarms = new Map([
      ['a', [30, 5, -50]],
      ['d', [-480]],
    ])
    const given = remindersOf(items, terms({ event: 10 }, { alarms }))
    expect(given.map(r => `${r.key} ${(r.atMs - at('00:00')) / 60_000}`)).to.deep.equal([
      'd 480',
      'a 570',
      'a 595',
      'a 650',
      'b 710',
    ])
    expect(new Set(given.map(reminderName)).size).to.equal(5)
    expect(given.every(r => r.atMs < r.untilMs && r.untilMs - r.atMs <= 12 * 3_600_000)).to.equal(true)
    const chosen = new Map([['a', 60]])
    expect(told([meeting('a', '10:00', '11:00')], terms({}, { alarms, chosen }))).to.deep.equal([
      'event a 540',
    ])
  })

  it('waits for the end of quiet hours, and does not come where that is too late', () => {
    const quiet = { from: 21 * 60, to: 7 * 60 }
    const items = [meeting('early', '06:30', '08:00'), meeting('seven', '07:05', '08:00')]
    expect(told(items, terms({ event: 15, quiet }))).to.deep.equal(['event seven 420'])
    expect(told(items, terms({ event: 15 }))).to.deep.equal(['event early 375', 'event seven 410'])
  })

  it('to plan and to look back comes on days with work, after a meeting and after focus', () => {
    const busy = [meeting('m', '08:00', '09:30'), meeting('n', '09:30', '10:00')]
    expect(told([], terms({ plan: 510, review: 1000 }))).to.deep.equal([
      'plan  510',
      'review  1000',
      'plan  other day 3390',
      'review  other day 3880',
    ])
    expect(told(busy, terms({ plan: 510 }))[0]).to.equal('plan  600')
    for (const free of [{ busy: false }, { people: ['you'] }, { cancelled: true }, { eventKind: 'break' }])
      expect(told([{ ...busy[0], ...free } as never], terms({ plan: 510 }))[0]).to.equal('plan  510')
    const focusUntilMs = at('09:00')
    expect(told([], terms({ plan: 510 }, { focusUntilMs }))[0]).to.equal('plan  540')
    const soon = [meeting('m', '08:10', '08:30'), drawnItem('w', timed('08:10', '10:00'), { people: ['me'] })]
    expect(told(soon, terms({ event: 10, block: 10 }, { focusUntilMs: at('08:20') }))).to.deep.equal([
      'event m 480',
      'block w 500',
    ])
  })

  const zones = fc.constantFrom(
    'Europe/Dublin',
    'Asia/Kathmandu',
    'America/St_Johns',
    'UTC',
    'Australia/Lord_Howe',
  )
  const year = { min: Date.UTC(2026, 0, 1), max: Date.UTC(2027, 0, 1) }

  it('never comes in quiet hours, nor after it is of use, and each thing has one name', () => {
    const minute = fc.nat(1439)
    fc.assert(
      fc.property(
        zones,
        fc.array(fc.record({ at: fc.integer(year), long: fc.integer({ min: 5, max: 600 }) }), {
          maxLength: 6,
        }),
        fc.record({ from: minute, to: minute }),
        fc.integer({ min: 0, max: 3000 }),
        (zone, spans, quiet, lead) => {
          const items = spans.map((s, n) =>
            drawnItem(
              `k${n}`,
              { kind: 'timed', startMs: s.at, endMs: s.at + s.long * 60_000 },
              { kind: 'event', people: ['me'] },
            ),
          )
          const found = remindersOf(items, terms({ event: lead, quiet }, { hours: { ...hours, zone } }))
          for (const r of found) {
            expect(r.atMs).to.be.lessThan(r.untilMs)
            const item = items.find(i => i.key === r.key)
            expect(item?.place.kind === 'timed' && item.place.startMs).to.equal(r.aboutMs)
            const wall = wallMinutes(r.atMs, dayAt(r.atMs, zone), zone)
            const isQuiet =
              quiet.from < quiet.to
                ? wall >= quiet.from && wall < quiet.to
                : wall >= quiet.from || wall < quiet.to
            // An hour that the clocks go through twice is over for good the second time.
            const isTwice = [30, 60].some(
              m => wallMinutes(r.atMs - m * 60_000, dayAt(r.atMs, zone), zone) >= wall,
            )
            if (quiet.from !== quiet.to) expect(isQuiet && !isTwice, `${wall}`).to.equal(false)
          }
          expect(new Set(found.map(reminderName)).size).to.equal(found.length)
        },
      ),
      { numRuns: 300 },
    )
  })

  it('follows what moved: nothing is left of the old time', () => {
    fc.assert(
      fc.property(fc.integer(year), fc.integer({ min: 1, max: 10_000 }), (from, by) => {
        const item = (startMs: number) =>
          drawnItem(
            'k',
            { kind: 'timed', startMs, endMs: startMs + 3_600_000 },
            { kind: 'event', people: ['me'] },
          )
        const name = (startMs: number): string[] =>
          remindersOf([item(startMs)], terms({ event: 10 })).map(reminderName)
        expect(name(from + by * 60_000)).to.not.include(name(from)[0])
      }),
    )
  })
})
