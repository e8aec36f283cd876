import { expect } from 'chai'
import fc from 'fast-check'
import {
  datesOfSeries,
  type DateMirror,
  epochOf,
  type Mirror,
  MOST_DATES,
  occurrencesBetween,
  onDate,
  parseEvent,
  patchSeries,
  seriesDate,
  unroll,
  type Unrolled,
  zoned,
} from '../src/index.ts'

const ZONE = 'Europe/Dublin'
const NOW = Date.parse('2026-11-25T09:00:00Z')
const DAY = 86_400_000
const reach = { fromMs: NOW - 10 * DAY, toMs: NOW + 40 * DAY, zone: ZONE }

const series = (rule: string, start = `;TZID=${ZONE}:20261001T093000`): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'BEGIN:VEVENT',
    'UID:round',
    'DTSTAMP:20260901T080000Z',
    `DTSTART${start}`,
    start.includes('VALUE=DATE') ? 'DURATION:P1D' : 'DURATION:PT45M',
    `RRULE:${rule}`,
    'SUMMARY:Watering round',
    'LOCATION:House 2',
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n')

const mirror = (text: string, presence: Mirror['presence'] = 'present'): Mirror => ({
  id: 'series',
  collectionId: 'calendar',
  remoteId: 'round.ics',
  revision: text,
  item: parseEvent(text),
  presence,
  seen: {},
  firstSeenAt: 5,
  arrivedAt: 5,
})

const terms = { idFor: (name: string) => `id of ${name}`, revisionOf: (text: string) => text }
const looked = { before: NOW - 1000, now: NOW, skew: 0, hasBaseline: true }
const unrolled = (
  text: string,
  held: readonly DateMirror[] = [],
  presence?: Mirror['presence'],
): Unrolled => {
  const found = unroll(mirror(text, presence), text, held, reach, looked, terms)
  if (!found) throw new Error('it was not unrolled')
  return found
}
/** What is held once that was written. */
function after(held: readonly DateMirror[], { put, gone }: Unrolled): DateMirror[] {
  const all = new Map(held.map(h => [h.mirror.id, h]))
  for (const { mirror: m, occurrence } of put) all.set(m.id, { mirror: m, occurrence })
  for (const id of gone) {
    const was = all.get(id)
    if (was) all.set(id, { ...was, mirror: { ...was.mirror, presence: 'gone' } })
  }
  return [...all.values()]
}
const there = (held: readonly DateMirror[]): DateMirror[] => held.filter(h => h.mirror.presence === 'present')

const RULES = ['FREQ=DAILY', 'FREQ=WEEKLY;BYDAY=MO,TH', 'FREQ=DAILY;INTERVAL=3;COUNT=20', 'FREQ=MONTHLY']
const STARTS = [
  `;TZID=${ZONE}:20261001T093000`,
  ':20261001T093000Z',
  ';VALUE=DATE:20261001',
  ':20261001T093000',
]

describe('the dates of a series as events of their own', () => {
  it('stand where the series has them, in every kind of clock', () => {
    for (const rule of RULES)
      for (const start of STARTS) {
        const text = series(rule, start)
        const dates = datesOfSeries(text, reach.fromMs, reach.toMs, ZONE)
        const drawn = occurrencesBetween(text, reach.fromMs, reach.toMs, ZONE)
        expect(dates.map(d => epochOf(d.event.time.anchor, ZONE))).to.deep.equal(drawn.map(o => o.startMs))
        expect(dates.map(d => d.occurrence)).to.deep.equal(drawn.map(o => o.recurrenceId))
        for (const { event } of dates) expect(event).to.include({ recurring: false, location: 'House 2' })
        expect(new Set(dates.map(d => d.event.uid)).size).to.equal(dates.length)
        for (const d of dates) expect(seriesDate(text, d.occurrence)).to.deep.equal(d)
      }
  })

  it('say what only they say, however far they were moved', () => {
    const [, second] = datesOfSeries(series('FREQ=WEEKLY'), reach.fromMs, reach.toMs, ZONE)
    const id = second?.occurrence ?? ''
    const time = { anchor: zoned('2027-09-01T18:00:00', ZONE), minutes: 15 }
    const change = { time, location: 'Elsewhere', transparency: 'transparent' as const }
    const text = patchSeries(series('FREQ=WEEKLY'), { do: 'change', id, change }, NOW)
    expect(seriesDate(text, id)?.event).to.deep.include(change)
    const dropped = patchSeries(text, { do: 'drop', id }, NOW)
    expect(seriesDate(dropped, id)).to.equal(null)
    const kept = patchSeries(dropped, { do: 'keep', id }, NOW)
    expect(seriesDate(kept, id)?.event.time).to.deep.equal(second?.event.time)
  })
})

describe('unrolling a series', () => {
  it('makes each date within reach once, and nothing more when nothing changed', () => {
    for (const rule of RULES)
      for (const start of STARTS) {
        const text = series(rule, start)
        const first = unrolled(text)
        expect(first.put.length).to.be.greaterThan(0)
        expect(
          first.put.every(p => p.changed && p.mirror.firstSeenAt === 5 && p.mirror.arrivedAt === 5),
        ).to.equal(true)
        expect(unrolled(text, after([], first))).to.deep.equal({ put: [], gone: [] })
      }
  })

  it('keeps to what the series has, whatever is done to its dates, one after the other', () => {
    const step = fc.record({
      date: fc.nat(12),
      does: fc.constantFrom('drop', 'keep', 'retitle', 'move', 'shift'),
      by: fc.integer({ min: -90, max: 90 }),
    })
    fc.assert(
      fc.property(fc.constantFrom(...RULES.slice(0, 3)), fc.array(step, { maxLength: 6 }), (rule, steps) => {
        let text = series(rule)
        let held = after([], unrolled(text))
        for (const { date, does, by } of steps) {
          const dates = datesOfSeries(text, reach.fromMs, reach.toMs, ZONE)
          const at = dates[date % Math.max(1, dates.length)]
          if (!at) continue
          const id = at.occurrence
          const { anchor, minutes } = at.event.time
          const start = anchor.kind === 'zoned' ? Date.parse(`${anchor.local}Z`) + by * 60_000 : 0
          const time = { anchor: zoned(new Date(start).toISOString().slice(0, 19), ZONE), minutes }
          try {
            if (does === 'drop' || does === 'keep') text = patchSeries(text, { do: does, id }, NOW)
            else if (does === 'shift') text = patchSeries(text, { do: 'shift', id, time }, NOW)
            else {
              const change = does === 'move' ? { time } : { summary: `Round ${by}` }
              text = patchSeries(text, { do: 'change', id, change }, NOW)
            }
          } catch {
            continue // A shift to another day that the series does not allow.
          }
          const result = unrolled(text, held)
          held = after(held, result)
          const now = new Map(
            datesOfSeries(text, reach.fromMs - 400 * DAY, reach.toMs + 400 * DAY, ZONE).map(d => [
              d.occurrence,
              d.event,
            ]),
          )
          for (const { occurrence, mirror: m } of there(held)) {
            const { lastModified: _, ...says } = m.item
            expect(now.get(occurrence)).to.deep.include(says)
          }
          const names = there(held).map(h => h.occurrence)
          expect(new Set(names).size).to.equal(names.length)
          for (const { occurrence } of datesOfSeries(text, reach.fromMs, reach.toMs, ZONE))
            expect(names).to.include(occurrence)
        }
        expect(unrolled(text, held)).to.deep.equal({ put: [], gone: [] })
      }),
      { numRuns: 40 },
    )
  })

  it('knows dates again that were all moved by the same span', () => {
    const text = series('FREQ=WEEKLY')
    const held = after([], unrolled(text))
    const id = held[0]?.occurrence ?? ''
    const time = { anchor: zoned(`${id.slice(0, 10)}T14:00:00`, ZONE), minutes: 45 }
    const moved = unrolled(patchSeries(text, { do: 'shift', id, time }, NOW), held)
    expect(moved.gone).to.deep.equal([])
    expect(moved.put.map(p => p.mirror.id).sort()).to.deep.equal(held.map(h => h.mirror.id).sort())
    // By the least span that fits: every other one puts each date in the place of its neighbour.
    const daily = series('FREQ=DAILY;INTERVAL=2')
    const all = after([], unrolled(daily))
    const out = after(
      all,
      unrolled(patchSeries(daily, { do: 'drop', id: all[4]?.occurrence ?? '' }, NOW), all),
    )
    for (const now of [moved, unrolled(daily.replace('T093000', 'T110000'), out)])
      for (const p of now.put) {
        const was = [...held, ...out].find(h => h.mirror.id === p.mirror.id)
        if (was) expect(p.occurrence.slice(0, 10)).to.equal(was.occurrence.slice(0, 10))
      }
    // Another rule altogether is other dates.
    const other = unrolled(series('FREQ=DAILY;INTERVAL=9', `;TZID=${ZONE}:20261002T210000`), held)
    expect(other.gone).to.have.length(held.length)
  })

  it('lets its dates be where it is: gone, out of sight, or in another calendar', () => {
    const text = series('FREQ=WEEKLY')
    const held = after([], unrolled(text))
    expect(unrolled(text, held, 'gone').gone).to.have.length(held.length)
    const missing = after(held, unrolled(text, held, 'missing'))
    expect(missing.every(h => h.mirror.presence === 'missing')).to.equal(true)
    expect(after(missing, unrolled(text, missing)).every(h => h.mirror.presence === 'present')).to.equal(true)
    const elsewhere = unroll({ ...mirror(text), collectionId: 'other' }, text, held, reach, looked, terms)
    expect(elsewhere?.put.every(p => p.mirror.collectionId === 'other')).to.equal(true)
    const single = text.replace(/RRULE.*\r\n/, '')
    expect(unrolled(single, held).gone).to.have.length(held.length)
    expect(parseEvent(single).time.anchor).to.not.deep.equal(onDate('2026-10-01'))
  })

  it('is not done for more dates than anybody could look through', () => {
    const text = series('FREQ=HOURLY')
    expect(unroll(mirror(text), text, [], reach, looked, terms)).to.equal(null)
    expect(MOST_DATES).to.be.greaterThan(730)
  })
})
