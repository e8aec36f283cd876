import { expect } from 'chai'
import fc from 'fast-check'
import { beingAt } from '../src/view/being-at.ts'
import type { ClothItem } from '../src/view/cloth-item.ts'
import { daysInWords } from '../src/view/day-in-words.ts'
import { epochOf, zoned } from '../src/time/when.ts'
import { drawnItem } from './support/drawn-item.ts'

const ZONE = 'Europe/Dublin'
const at = (local: string): number => epochOf(zoned(`${local}:00`, ZONE), ZONE)
const timed = (from: string, to: string): ClothItem['place'] => ({
  kind: 'timed',
  startMs: at(from),
  endMs: at(to),
})
const event = (title: string, place: ClothItem['place'], more: Partial<ClothItem> = {}): ClothItem =>
  drawnItem(title, place, { kind: 'event', eventKind: 'other', busy: true, ...more })

describe('days as text', () => {
  it('tell what stands there by its beginning, over midnight on both days, and that there is nothing', () => {
    const items = [
      event('Late round', timed('2026-12-01T22:00', '2026-12-02T01:00')),
      event('Orrery talk', timed('2026-12-01T09:00', '2026-12-01T10:00'), { location: 'Long\nroom' }),
      drawnItem('Sweep', { kind: 'day', date: '2026-12-01' }),
      drawnItem('Ropes', timed('2026-12-01T11:00', '2026-12-01T11:30'), { done: true }),
      event('', timed('2026-12-02T12:00', '2026-12-02T13:00'), { onlyBusy: true }),
      event('Called off', timed('2026-12-01T12:00', '2026-12-01T13:00'), { cancelled: true }),
      event('Fair', { kind: 'all-day', from: '2026-12-02', to: '2026-12-03' }),
    ]
    expect(
      daysInWords(items, { from: '2026-12-01', days: 3, zone: ZONE, clock: '24' }).split('\n'),
    ).to.deep.equal([
      'Tuesday 1 December',
      '  sometime: Sweep',
      '  09:00–10:00 Orrery talk (Long room)',
      '  11:00–11:30 ✓ Ropes',
      '  22:00–… Late round',
      '',
      'Wednesday 2 December',
      '  all day: Fair',
      '  …–01:00 Late round',
      '  12:00–13:00 taken',
      '',
      'Thursday 3 December',
      '  nothing',
    ])
  })
})

describe('what somebody is at', () => {
  const me = 'ines'
  const now = at('2026-12-01T09:30')

  it('is a meeting before a break before focus, each to its own end; what is free or of others is nothing', () => {
    const meeting = event('Orrery talk', timed('2026-12-01T09:00', '2026-12-01T10:00'))
    const rest = event('Tea', timed('2026-12-01T09:15', '2026-12-01T09:45'), {
      eventKind: 'break',
      busy: false,
    })
    const focusUntilMs = at('2026-12-01T11:00')
    const is = (items: ClothItem[], focus: number | null = focusUntilMs) =>
      beingAt(items, { me, now, focusUntilMs: focus }).is
    expect(is([rest, meeting])).to.deep.equal({ kind: 'meeting', untilMs: at('2026-12-01T10:00') })
    expect(is([rest])).to.deep.equal({ kind: 'break', untilMs: at('2026-12-01T09:45') })
    expect(is([])).to.deep.equal({ kind: 'focus', untilMs: focusUntilMs })
    for (const other of [{ busy: false }, { people: ['tobias'] }, { done: true }, { kind: 'block' as const }])
      expect(is([{ ...meeting, ...other }], null)).to.equal(null)
  })

  it('is the same until the moment that it names', () => {
    const minute = fc.integer({ min: 0, max: 600 })
    const some = fc.array(fc.tuple(minute, fc.integer({ min: 5, max: 120 }), fc.boolean()), { maxLength: 6 })
    fc.assert(
      fc.property(some, fc.option(minute), minute, (all, focus, later) => {
        const items = all.map(([from, long, isBreak], n) => {
          const startMs = now + (from - 300) * 60_000
          const place = { kind: 'timed' as const, startMs, endMs: startMs + long * 60_000 }
          return event(`e${n}`, place, { eventKind: isBreak ? 'break' : 'other' })
        })
        const focusUntilMs = focus === null ? null : now + focus * 60_000
        const first = beingAt(items, { me, now, focusUntilMs })
        const then = now + later * 60_000
        if (first.nextMs === null || then < first.nextMs)
          expect(beingAt(items, { me, now: then, focusUntilMs }).is).to.deep.equal(first.is)
      }),
    )
  })
})
