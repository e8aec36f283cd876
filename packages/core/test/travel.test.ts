import { expect } from 'chai'
import fc from 'fast-check'
import {
  type ClothItem,
  epochOf,
  placeOf,
  type Travel,
  travelled,
  withTravel,
  zoned,
  isWay,
  wayOf,
} from '../src/view/index.ts'
import { drawnItem } from './support/drawn-item.ts'

const ZONE = 'Europe/Dublin'
const MINUTE = 60_000
const at = (clock: string, date = '2026-06-17'): number => epochOf(zoned(`${date}T${clock}:00`, ZONE), ZONE)
const meet = (key: string, from: string, to: string, location: string, more: Partial<ClothItem> = {}) =>
  drawnItem(
    key,
    { kind: 'timed', startMs: at(from), endMs: at(to) },
    { kind: 'event', eventKind: 'meeting', movable: false, location, people: ['me'], ...more },
  )
const TRAVEL: Travel = {
  places: [
    { name: 'Long Room', minutes: 20 },
    { name: 'Town hall', minutes: 30 },
    { name: 'Hall', minutes: 5 },
  ],
  between: [{ one: 'town hall', other: 'Long Room', minutes: 10 }],
}
const clock = (ms: number): string => new Date(ms + 3_600_000).toISOString().slice(11, 16)
const told = (items: ClothItem[]) => {
  const { ways, tooShort } = travelled(items, TRAVEL)
  return {
    ways: ways.map(w => `${clock(w.fromMs)}–${clock(w.toMs)} ${w.to ?? 'back'}`),
    tooShort: tooShort.map(t => `${t.before} ${t.after} ${t.gap} of ${t.needs}`),
  }
}

describe('the way to appointments', () => {
  it('goes from and to one’s base, straight where that is shorter, and nowhere where one stays', () => {
    expect(told([meet('a', '10:00', '11:00', 'Long Room, upstairs')])).to.deep.equal({
      ways: ['09:40–10:00 Long Room', '11:00–11:20 back'],
      tooShort: [],
    })
    expect(
      told([meet('a', '10:00', '11:00', 'Long Room'), meet('b', '11:30', '12:00', 'TOWN HALL')]).ways,
    ).to.deep.equal(['09:40–10:00 Long Room', '11:20–11:30 Town hall', '12:00–12:30 back'])
    expect(
      told([meet('a', '10:00', '11:00', 'Long Room'), meet('b', '11:00', '12:00', 'Long Room')]).ways,
    ).to.deep.equal(['09:40–10:00 Long Room', '12:00–12:20 back'])
    // Between two without a straight way one comes by the base.
    expect(
      told([meet('a', '10:00', '11:00', 'Long Room'), meet('b', '14:00', '15:00', 'Hall')]).ways,
    ).to.deep.equal(['09:40–10:00 Long Room', '11:00–11:20 back', '13:55–14:00 Hall', '15:00–15:05 back'])
  })

  it('is too short where less time is between two than it takes', () => {
    expect(
      told([meet('a', '10:00', '11:00', 'Long Room'), meet('b', '11:05', '12:00', 'Town hall')]),
    ).to.deep.equal({
      ways: ['09:40–10:00 Long Room', '11:00–11:05 Town hall', '12:00–12:30 back'],
      tooShort: ['a b 5 of 10'],
    })
    expect(
      told([meet('a', '10:00', '11:00', 'Long Room'), meet('b', '10:30', '12:00', 'Hall')]).tooShort,
    ).to.deep.equal(['a b 0 of 25'])
  })

  it('is of nothing that is free, cancelled, left out, somewhere unknown, or on the way itself', () => {
    const items = [
      meet('free', '10:00', '11:00', 'Long Room', { busy: false }),
      meet('off', '10:00', '11:00', 'Long Room', { cancelled: true }),
      meet('out', '10:00', '11:00', 'Long Room', { leftOut: true }),
      meet('video', '10:00', '11:00', 'by video'),
      meet('way', '10:00', '11:00', 'Long Room', { eventKind: 'travel' }),
    ]
    expect(told(items)).to.deep.equal({ ways: [], tooShort: [] })
    expect(placeOf('The town hall, room 3', TRAVEL)?.minutes, 'the longest name').to.equal(30)
  })

  it('is an item that takes time of its person alone and cannot be changed by itself', () => {
    const [meeting, to, back] = withTravel(
      [
        meet('a b', '10:00', '11:00', 'Hall'),
        meet('theirs', '10:00', '11:00', 'Hall', { people: ['you'] }),
      ].slice(0, 1),
      TRAVEL,
      'me',
    )
    expect(
      withTravel([meet('theirs', '10:00', '11:00', 'Hall', { people: ['you'] })], TRAVEL, 'me'),
    ).to.have.length(1)
    expect(
      [to, back].map(i => [i?.eventKind, i?.busy, i?.movable, i?.people, isWay(i?.key ?? '')]),
    ).to.deep.equal([
      ['travel', true, false, ['me'], true],
      ['travel', true, false, ['me'], true],
    ])
    expect(wayOf(to?.key ?? '')).to.equal(meeting?.key)
  })

  it('goes to tasks as to appointments, and to a block where its task is done', () => {
    const seeds = meet('seeds', '10:00', '11:00', 'Hall', { kind: 'task', location: 'Long Room' })
    const block = meet('block', '10:00', '11:00', '', { kind: 'block', of: 'seeds' })
    const onShelf = drawnItem('seeds', { kind: 'none' }, { location: 'Long Room', people: ['me'] })
    const ways = ['09:40–10:00 Long Room', '11:00–11:20 back']
    expect(told([seeds]).ways).to.deep.equal(ways)
    expect(told([onShelf, block]).ways).to.deep.equal(ways)
    expect(told([block]).ways).to.deep.equal([])
    // Where its deadline is shown nobody is, and nobody goes to what takes no time.
    expect(told([{ ...seeds, atDeadline: true }]).ways).to.deep.equal([])
    expect(told([meet('none', '10:00', '10:00', 'Hall')]).ways).to.deep.equal([])
  })

  it('never lies within its appointments, never overlaps another way, and leaves out no arrival', () => {
    const event = fc.record({
      from: fc.integer({ min: 0, max: 280 }),
      length: fc.integer({ min: 1, max: 24 }),
      place: fc.constantFrom('Long Room', 'Town hall', 'Hall', 'elsewhere'),
    })
    fc.assert(
      fc.property(fc.array(event, { maxLength: 8 }), events => {
        const items = events.map((e, n) => {
          const startMs = at('06:00') + e.from * 5 * MINUTE
          return drawnItem(
            `e${n}`,
            { kind: 'timed', startMs, endMs: startMs + e.length * 5 * MINUTE },
            { kind: 'event', location: e.place, people: ['me'], movable: false },
          )
        })
        const { ways, tooShort } = travelled(items, TRAVEL)
        const sorted = [...ways].sort((x, y) => x.fromMs - y.fromMs)
        for (const [n, w] of sorted.entries()) {
          expect(w.toMs).to.be.greaterThan(w.fromMs)
          const next = sorted[n + 1]
          if (next) expect(next.fromMs).to.be.at.least(w.toMs)
        }
        const known = items.filter(i => i.location !== 'elsewhere')
        expect(ways.length === 0).to.equal(known.length === 0)
        // Each way touches the appointment that it belongs to.
        for (const w of ways) {
          const { place } = items.find(i => i.key === w.of) ?? { place: null }
          if (place?.kind === 'timed')
            expect([place.startMs, place.endMs]).to.include(w.to === null ? w.fromMs : w.toMs)
        }
        for (const t of tooShort) expect(t.needs).to.be.greaterThan(t.gap)
      }),
      { numRuns: 400 },
    )
  })
})
