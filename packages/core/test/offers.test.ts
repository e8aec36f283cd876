import { expect } from 'chai'
import fc from 'fast-check'
import {
  freeStarts,
  GuestWords,
  held,
  type HostTime,
  invitationObject,
  offeredSpans,
  OfferTerms,
  placeOfMeeting,
  unanswered,
} from '../src/offers/index.ts'
import { parseEvent } from '../src/ical/vevent.ts'
import { dayAt, epochOf, MINUTE, weekdayOf, zonedAt } from '../src/time/when.ts'

const ZONES = ['Europe/Dublin', 'Asia/Kathmandu', 'Australia/Lord_Howe', 'America/St_Johns', 'UTC']
/** Around a night in which clocks change in Dublin and in Newfoundland. */
const NOW = Date.UTC(2026, 9, 23, 7, 52)
const HOUR = 60 * MINUTE

const terms = (more: Partial<OfferTerms> = {}): OfferTerms =>
  OfferTerms.parse({
    title: 'Lanterns',
    lengths: [45],
    how: 'any',
    before: 0,
    after: 0,
    noticeHours: 0,
    mostPerDay: null,
    location: '',
    callLink: '',
    questions: [],
    zone: 'UTC',
    when: { kind: 'spans', spans: [{ fromMs: NOW, toMs: NOW + 8 * HOUR }] },
    ...more,
  })
const host = (id: string, more: Partial<HostTime> = {}): HostTime => ({
  id,
  busy: [],
  off: [],
  booked: new Map(),
  ...more,
})

const arbitrarySpan = fc
  .tuple(fc.integer({ min: -300, max: 8000 }), fc.integer({ min: 1, max: 400 }))
  .map(([from, minutes]) => ({ fromMs: NOW + from * MINUTE, toMs: NOW + (from + minutes) * MINUTE }))
const quarters = (most: number) => fc.integer({ min: 0, max: most }).map(n => n * 15)
const arbitraryHours = fc
  .tuple(fc.uniqueArray(fc.integer({ min: 1, max: 7 }), { minLength: 1 }), quarters(80), quarters(12))
  .map(([weekdays, start, more]) => ({ weekdays, start, end: Math.min(1440, start + 15 + more) }))
const arbitraryTerms: fc.Arbitrary<OfferTerms> = fc
  .record({
    how: fc.constantFrom('any' as const, 'all' as const),
    before: quarters(4),
    after: quarters(4),
    noticeHours: fc.integer({ min: 0, max: 30 }),
    mostPerDay: fc.option(fc.integer({ min: 1, max: 3 })),
    zone: fc.constantFrom(...ZONES),
    when: fc.oneof(
      fc.record({
        kind: fc.constant('spans' as const),
        spans: fc.array(arbitrarySpan, { minLength: 1, maxLength: 6 }),
      }),
      fc.record({
        kind: fc.constant('hours' as const),
        hours: fc.array(arbitraryHours, { minLength: 1, maxLength: 3 }),
        weeks: fc.integer({ min: 1, max: 2 }),
      }),
    ),
  })
  .map(more => terms(more))
const arbitraryHost = fc
  .record({
    busy: fc.array(arbitrarySpan, { maxLength: 8 }),
    off: fc.array(fc.integer({ min: 0, max: 8 }).map(n => dayAt(NOW + n * 24 * HOUR, 'UTC'))),
    booked: fc.array(
      fc.tuple(
        fc.integer({ min: 0, max: 8 }).map(n => dayAt(NOW + n * 24 * HOUR, 'UTC')),
        fc.integer({ min: 0, max: 4 }),
      ),
    ),
  })
  .map(h => ({ ...h, booked: new Map(h.booked) }))

/** Minute by minute, by the words of the terms alone. */
function mayBegin(t: OfferTerms, minutes: number, h: HostTime, startMs: number): boolean {
  const end = startMs + minutes * MINUTE
  if (startMs < NOW + t.noticeHours * HOUR) return false
  const from = startMs - t.before * MINUTE
  const to = end + t.after * MINUTE
  if (h.busy.some(b => b.fromMs < to && from < b.toMs)) return false
  const date = dayAt(startMs, t.zone)
  if (t.mostPerDay !== null && (h.booked.get(date) ?? 0) >= t.mostPerDay) return false
  if (t.when.kind === 'spans') return t.when.spans.some(s => s.fromMs <= startMs && end <= s.toMs)
  if (h.off.includes(date)) return false
  const clock = (ms: number): number => {
    const at = zonedAt(ms, t.zone)
    const [hh = 0, mm = 0] = (at.kind === 'date' ? '' : at.local.slice(11, 16)).split(':').map(Number)
    return hh * 60 + mm
  }
  return t.when.hours.some(
    ({ weekdays, start, end: last }) =>
      weekdays.includes(weekdayOf(date)) &&
      clock(startMs) >= start &&
      // A meeting never goes past midnight here: its last minute is still of its hours.
      clock(end - MINUTE) < last &&
      dayAt(end - MINUTE, t.zone) === date,
  )
}

describe('offered times', () => {
  it('are free, offered, on notice and below the most of a day, for those who are named', () => {
    fc.assert(
      fc.property(
        arbitraryTerms,
        fc.array(arbitraryHost, { minLength: 1, maxLength: 3 }),
        fc.constantFrom(15, 45, 90),
        (t, some, minutes) => {
          const hosts = some.map((h, n) => ({ ...h, id: `h${n}` }))
          const starts = freeStarts(t, minutes, hosts, NOW)
          for (const { startMs, hosts: ids } of starts) {
            expect(startMs % (15 * MINUTE)).to.equal(0)
            const able = hosts.filter(h => mayBegin(t, minutes, h, startMs)).map(h => h.id)
            if (isSteady(startMs, t.zone)) expect([...ids].sort()).to.deep.equal(able.sort())
            if (t.how === 'all') expect(ids).to.have.length(hosts.length)
          }
          expect(starts.map(s => s.startMs)).to.deep.equal(
            [...new Set(starts.map(s => s.startMs))].sort((x, y) => x - y),
          )
          // And none is left out.
          const told = new Set(starts.map(s => s.startMs))
          for (let ms = Math.ceil(NOW / 900_000) * 900_000; ms < NOW + 9 * 24 * HOUR; ms += 900_000) {
            if (told.has(ms)) continue
            const able = hosts.filter(h => mayBegin(t, minutes, h, ms))
            const isFree = t.how === 'all' ? able.length === hosts.length : able.length > 0
            if (isFree && isSteady(ms, t.zone) && dayAt(ms, t.zone) < dayAt(NOW + 7 * 24 * HOUR, t.zone))
              expect.fail(`${new Date(ms).toISOString()} is free and not told`)
          }
        },
      ),
      { numRuns: 40 },
    )
  })
  /** Where the wall says something twice, or leaves it out, its words alone do not say which is meant. */
  const isSteady = (ms: number, zone: string): boolean => {
    const wall = (at: number): number => Date.parse(`${(zonedAt(at, zone) as { local: string }).local}Z`)
    return wall(ms + 3 * HOUR) - wall(ms - 3 * HOUR) === 6 * HOUR
  }

  it('hold what they take with what stays free around it, and two that do not meet hold nothing in common', () => {
    const t = terms({ before: 15, after: 30 })
    expect(held(t, { startMs: 100 * 15 * MINUTE, minutes: 45 })).to.deep.equal({ from: 99, to: 105 })
    fc.assert(
      fc.property(arbitraryTerms, arbitraryHost, (t2, h) => {
        const one = freeStarts(t2, 45, [{ ...h, id: 'h' }], NOW)[0]
        if (!one) return
        const { from, to } = held(t2, { startMs: one.startMs, minutes: 45 })
        const busy = [...h.busy, { fromMs: from * 15 * MINUTE, toMs: to * 15 * MINUTE }]
        for (const next of freeStarts(t2, 45, [{ ...h, busy, id: 'h' }], NOW)) {
          const other = held(t2, { startMs: next.startMs, minutes: 45 })
          expect(other.from >= to || other.to <= from).to.equal(true)
        }
      }),
      { numRuns: 100 },
    )
  })

  it('are those of the one who is booked least on that day', () => {
    const date = dayAt(NOW, 'UTC')
    const hosts = [host('busy', { booked: new Map([[date, 2]]) }), host('idle'), host('also idle')]
    expect(freeStarts(terms(), 45, hosts, NOW)[0]?.hosts).to.deep.equal(['idle', 'also idle', 'busy'])
  })

  it('repeat by the wall clock, through a change of the clocks', () => {
    const hours = [{ weekdays: [1, 2, 3, 4, 5, 6, 7], start: 540, end: 600 }]
    const t = terms({ zone: 'Europe/Dublin', when: { kind: 'hours', hours, weeks: 1 } })
    const told = offeredSpans(t, NOW).map(s => new Date(s.fromMs).toISOString().slice(8, 16))
    expect(told).to.include.members(['24T08:00', '25T09:00', '26T09:00'])
  })

  it('say what is missing, and where it takes place', () => {
    const questions = [
      { text: 'How many?', needed: true },
      { text: 'Anything else?', needed: false },
    ]
    const guest = GuestWords.parse({
      name: 'Pia',
      address: 'pia@tarnlane.example',
      message: '',
      answers: ['', 'no'],
      by: 'call',
      zone: 'UTC',
    })
    expect(unanswered({ questions }, guest)).to.equal('How many?')
    expect(unanswered({ questions }, { ...guest, answers: ['4'] })).to.equal(null)
    const both = { location: 'Tarn Lane 4', callLink: 'https://call.example/1' }
    expect(placeOfMeeting(both, guest)).to.equal('https://call.example/1')
    expect(placeOfMeeting(both, { by: 'place' })).to.equal('Tarn Lane 4')
    expect(placeOfMeeting({ ...both, callLink: '' }, guest)).to.equal('Tarn Lane 4')
  })

  it('refuse terms that cannot be meant', () => {
    const bad: object[] = [
      { lengths: [] },
      { lengths: [20] },
      { zone: 'Mars/Olympus' },
      { callLink: 'javascript:alert(1)' },
      { when: { kind: 'spans', spans: [{ fromMs: 5, toMs: 5 }] } },
      { when: { kind: 'hours', hours: [{ weekdays: [1], start: 600, end: 540 }], weeks: 2 } },
      { title: '  ' },
    ]
    for (const more of bad)
      expect(OfferTerms.safeParse({ ...terms(), ...more }).success, JSON.stringify(more)).to.equal(false)
  })

  it('become an object that a calendar reads as it was meant, whatever a guest has typed', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', minLength: 1, maxLength: 90 }), fc.nat(500), (words, n) => {
        const startMs = NOW - (NOW % (15 * MINUTE)) + n * 15 * MINUTE
        const text = invitationObject({
          method: 'REQUEST',
          uid: 'one@loom.example',
          sequence: n,
          startMs,
          minutes: 45,
          summary: `Lanterns ${words}`,
          location: words,
          description: `${words}\nBEGIN:VEVENT`,
          url: 'https://loom.example/booked#1',
          organizer: { name: words, email: 'loom@loom.example' },
          guest: { name: words, email: 'pia@tarnlane.example' },
          stampMs: NOW,
        })
        expect(text.split('\r\n').filter(l => l === 'BEGIN:VEVENT')).to.have.length(1)
        const event = parseEvent(text)
        expect([epochOf(event.time.anchor, 'UTC'), event.time.minutes, event.attendees]).to.deep.equal([
          startMs,
          45,
          1,
        ])
      }),
      { numRuns: 100 },
    )
  })
})
