import { expect } from 'chai'
import fc from 'fast-check'
import {
  isFirst,
  jsCalendarOf,
  type Occurrence,
  occurrencesBetween,
  parseEvent,
  patchSeries,
  readJsCalendar,
  seriesFrom,
  seriesKeyOf,
  type When,
  zoned,
} from '../src/index.ts'
import { done } from './support/done.ts'

/** A series is edited alike by whatever clock its file tells its dates, and in whatever zone each line tells them. */

const NOW = Date.parse('2026-11-25T09:00:00Z')
const [FROM, TO] = [Date.parse('2026-01-01'), Date.parse('2028-01-01')]
const HOUR = 3_600_000

const described = (tzid: string, winter: string, summer: string): string[] => [
  'BEGIN:VTIMEZONE',
  `TZID:${tzid}`,
  'BEGIN:STANDARD',
  'DTSTART:19701025T020000',
  'RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU',
  `TZOFFSETFROM:${summer}`,
  `TZOFFSETTO:${winter}`,
  'END:STANDARD',
  'BEGIN:DAYLIGHT',
  'DTSTART:19700329T010000',
  'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU',
  `TZOFFSETFROM:${winter}`,
  `TZOFFSETTO:${summer}`,
  'END:DAYLIGHT',
  'END:VTIMEZONE',
]

interface Clock {
  name: string
  zone: string[]
  params: string
  /** Of a date's name, as a line of the file tells it. */
  told: (name: string) => string
  /** The instant of a name in this clock. */
  epochOf: (name: string) => number
}
const basic = (name: string): string => name.replace(/[-:]/g, '')
const offset = (name: string, zone: string): number => {
  const at = Date.parse(`${name}Z`)
  const parts = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    dateStyle: 'short',
    timeStyle: 'medium',
  }).format(at)
  const m = /(\d+)\/(\d+)\/(\d+), (\d+):(\d+):(\d+)/.exec(parts)
  if (!m) throw new Error(parts)
  return Date.parse(`${m[3]}-${m[2]}-${m[1]}T${m[4]}:${m[5]}:${m[6]}Z`) - at
}
/** Noon and the like: far from the hours at which clocks change. */
const inZone =
  (zone: string, more = 0) =>
  (name: string): number =>
    Date.parse(`${name}Z`) - offset(name, zone) - more

const CLOCKS: Clock[] = [
  {
    name: 'a known zone',
    zone: [],
    params: ';TZID=Europe/Dublin',
    told: basic,
    epochOf: inZone('Europe/Dublin'),
  },
  {
    name: 'a name of Windows',
    zone: described('GMT Standard Time', '+0000', '+0100'),
    params: ';TZID="GMT Standard Time"',
    told: basic,
    epochOf: inZone('Europe/London'),
  },
  {
    name: 'a zone of the file’s own making',
    zone: described('Moss Garden', '+0240', '+0340'),
    params: ';TZID=Moss Garden',
    told: basic,
    epochOf: inZone('Europe/London', 2 * HOUR + 40 * 60_000),
  },
  {
    name: 'UTC',
    zone: [],
    params: '',
    told: name => `${basic(name)}Z`,
    epochOf: name => Date.parse(`${name}Z`),
  },
  { name: 'no zone', zone: [], params: '', told: basic, epochOf: name => Date.parse(`${name}Z`) },
]

const RULES = [
  'FREQ=WEEKLY;COUNT=14',
  'FREQ=DAILY;INTERVAL=5;COUNT=20',
  'FREQ=MONTHLY;COUNT=6',
  'FREQ=WEEKLY;INTERVAL=2;UNTIL=@',
]

interface Made {
  clock: Clock
  rule: string
  hour: number
  /** Which dates have a change of their own, or are left out; each line by the series' clock, or in UTC. */
  changed: { at: number; inUtc: boolean; later: number }[]
  left: { at: number; inUtc: boolean }[]
}

function textOf({ clock, rule, hour, changed, left }: Made): string {
  const two = (n: number): string => String(n).padStart(2, '0')
  const start = `2026-09-07T${two(hour)}:00:00`
  const until = clock.name === 'no zone' ? '20261231T235900' : '20261231T235900Z'
  const head = [...clock.zone]
  const property = (name: string, of: string): string => `${name}${clock.params}:${clock.told(of)}`
  const line = (name: string, of: string, inUtc: boolean): string => {
    if (!inUtc || clock.name === 'no zone' || clock.name === 'UTC') return property(name, of)
    return `${name}:${basic(new Date(clock.epochOf(of)).toISOString().slice(0, 19))}Z`
  }
  const body = (more: string[], from: string, title: string): string[] => [
    'BEGIN:VEVENT',
    'UID:series',
    'DTSTAMP:20260901T080000Z',
    ...more,
    property('DTSTART', from),
    'DURATION:PT50M',
    `SUMMARY:${title}`,
    'END:VEVENT',
  ]
  const bare = ['BEGIN:VCALENDAR', 'VERSION:2.0', ...head]
  const ruled = `RRULE:${rule.replace('@', until)}`
  const plain = [...bare, ...body([ruled], start, 'Round'), 'END:VCALENDAR', ''].join('\r\n')
  const names = occurrencesBetween(plain, FROM, TO, 'UTC').map(o => o.recurrenceId.replace(/Z$/, ''))
  const nameAt = (at: number): string => names[at % names.length] ?? start
  const out = new Set(left.map(l => nameAt(l.at)))
  const exdates = [...out].map((name, i) => line('EXDATE', name, left[i]?.inUtc ?? false))
  const seen = new Set<string>(out)
  const overrides = changed.flatMap(({ at, inUtc, later }) => {
    const name = nameAt(at)
    if (seen.has(name)) return []
    seen.add(name)
    const moved = `${name.slice(0, 11)}${two((Number(name.slice(11, 13)) + later) % 24)}${name.slice(13)}`
    return body([line('RECURRENCE-ID', name, inUtc)], moved, `Changed ${name.slice(5, 10)}`)
  })
  return [...bare, ...body([ruled, ...exdates], start, 'Round'), ...overrides, 'END:VCALENDAR', ''].join(
    '\r\n',
  )
}

const made: fc.Arbitrary<Made> = fc.record({
  clock: fc.constantFrom(...CLOCKS),
  rule: fc.constantFrom(...RULES),
  hour: fc.integer({ min: 9, max: 15 }),
  changed: fc.array(
    fc.record({ at: fc.nat(19), inUtc: fc.boolean(), later: fc.integer({ min: 0, max: 3 }) }),
    { maxLength: 3 },
  ),
  left: fc.array(fc.record({ at: fc.nat(19), inUtc: fc.boolean() }), { maxLength: 3 }),
})

const dates = (text: string): Occurrence[] => occurrencesBetween(text, FROM, TO, 'UTC')
const told = (o: Occurrence): string =>
  `${o.recurrenceId} ${new Date(o.startMs).toISOString()} ${(o.endMs - o.startMs) / 60_000} ${o.summary}`
const all = (text: string): string[] => dates(text).map(told).sort()

describe('a series by any clock', function () {
  this.timeout(60_000)

  it('has the dates that it was made with', () => {
    fc.assert(
      fc.property(made, m => {
        for (const o of dates(textOf({ ...m, changed: [], left: [] })))
          expect(o.startMs, m.clock.name).to.equal(m.clock.epochOf(o.recurrenceId.replace(/Z$/, '')))
      }),
      { numRuns: 60 },
    )
  })

  it('gives one date other words, another time, or leaves it out, and lets it be again', () => {
    fc.assert(
      fc.property(made, fc.nat(19), fc.integer({ min: -3, max: 3 }), (m, pick, hours) => {
        const text = textOf(m)
        const before = dates(text)
        const one = before[pick % before.length]
        if (!one) return
        const id = one.recurrenceId
        const others = before.filter(o => o.recurrenceId !== id).map(told)
        const renamed = patchSeries(text, { do: 'change', id, change: { summary: 'Other' } }, NOW)
        expect(all(renamed), 'other words').to.deep.equal(
          [...others, told({ ...one, summary: 'Other' })].sort(),
        )
        const startMs = one.startMs + hours * HOUR
        const anchor: When =
          m.clock.name === 'no zone'
            ? { kind: 'floating', local: new Date(startMs).toISOString().slice(0, 19) }
            : zoned(new Date(startMs).toISOString().slice(0, 19), 'UTC')
        const moved = patchSeries(text, { do: 'change', id, change: { time: { anchor, minutes: 30 } } }, NOW)
        expect(all(moved), 'another time').to.deep.equal(
          [...others, told({ ...one, startMs, endMs: startMs + 30 * 60_000 })].sort(),
        )
        const dropped = patchSeries(text, { do: 'drop', id }, NOW)
        expect(all(dropped), 'left out').to.deep.equal([...others].sort())
        expect(patchSeries(dropped, { do: 'drop', id }, NOW)).to.equal(dropped)
        const again = dates(patchSeries(dropped, { do: 'keep', id }, NOW)).map(o => o.recurrenceId)
        expect(again, 'and in again').to.have.members(before.map(o => o.recurrenceId))
      }),
      { numRuns: 150 },
    )
  })

  it('falls into two that together are the one', () => {
    fc.assert(
      fc.property(made, fc.nat(19), (m, cut) => {
        const text = textOf(m)
        const names = dates(text)
          .map(o => o.recurrenceId)
          .sort()
        const id = names[1 + (cut % Math.max(1, names.length - 1))]
        if (!id) return
        expect(isFirst(text, id)).to.equal(false)
        const first = patchSeries(text, { do: 'end-before', id }, NOW)
        const rest = seriesFrom(text, id, 'rest', NOW)
        expect(isFirst(rest, id)).to.equal(true)
        expect([...all(first), ...all(rest)].sort()).to.deep.equal(all(text))
      }),
      { numRuns: 150 },
    )
  })

  it('moves as a whole by the clock on its wall, the last date too, and back', () => {
    fc.assert(
      fc.property(made, fc.nat(19), fc.integer({ min: -6, max: 6 }), (m, pick, hours) => {
        const text = textOf({ ...m, changed: m.changed.map(c => ({ ...c, later: 0 })) })
        const names = dates(text).map(o => o.recurrenceId)
        const id = names[pick % names.length]
        if (!id) return
        const by = (name: string, of: number): string => {
          const z = name.endsWith('Z') ? 'Z' : ''
          const ms = Date.parse(`${name.replace(/Z$/, '')}Z`) + of * HOUR
          return `${new Date(ms).toISOString().slice(0, 19)}${z}`
        }
        const shift = (of: string, name: string, to: string): string => {
          const local = to.replace(/Z$/, '')
          const anchor: When =
            m.clock.name === 'no zone'
              ? { kind: 'floating', local }
              : zoned(new Date(m.clock.epochOf(local)).toISOString().slice(0, 19), 'UTC')
          return patchSeries(of, { do: 'shift', id: name, time: { anchor, minutes: 50 } }, NOW)
        }
        const moved = shift(text, id, by(id, hours))
        expect(dates(moved).map(o => o.recurrenceId)).to.have.members(names.map(n => by(n, hours)))
        const back = shift(moved, by(id, hours), id)
        expect(dates(back).map(o => o.recurrenceId)).to.have.members(names)
      }),
      { numRuns: 150 },
    )
  })

  it('is the same through JSCalendar (RFC 8984)', () => {
    fc.assert(
      fc.property(made, m => {
        const text = textOf(m)
        const json = jsCalendarOf(parseEvent(text), text, NOW)
        const read = done(readJsCalendar(JSON.stringify(json), NOW))
        expect(read?.problems).to.deep.equal([])
        const [entry] = read?.entries ?? []
        const dated = (of: string): string[] =>
          all(of)
            .map(o => o.replace(/^\S+ /, ''))
            .sort()
        expect(dated(entry?.original ?? ''), m.clock.name).to.deep.equal(dated(text))
        expect(entry?.series).to.equal(seriesKeyOf(text))
      }),
      { numRuns: 100 },
    )
  })

  it('goes on from a change that counts for later dates (THISANDFUTURE)', () => {
    const text = textOf({
      clock: CLOCKS[0] as Clock,
      rule: 'FREQ=WEEKLY;COUNT=8',
      hour: 9,
      changed: [],
      left: [],
    })
    const onward = [
      'BEGIN:VEVENT',
      'UID:series',
      'DTSTAMP:20260901T080000Z',
      'RECURRENCE-ID;RANGE=THISANDFUTURE;TZID=Europe/Dublin:20260928T090000',
      'DTSTART;TZID=Europe/Dublin:20260928T110000',
      'DURATION:PT20M',
      'SUMMARY:Later round',
      'END:VEVENT',
      'END:VCALENDAR',
    ].join('\r\n')
    const changed = text.replace('END:VCALENDAR', onward)
    const before = dates(changed)
    expect(before.filter(o => o.summary === 'Later round')).to.have.length(5)
    const id = '2026-10-12T09:00:00'
    const after = patchSeries(changed, { do: 'change', id, change: { location: 'Moss house' } }, NOW)
    expect(all(after), 'what is not changed stays').to.deep.equal(all(changed))
    expect(() => seriesFrom(changed, id, 'rest', NOW)).to.throw(/counts for later ones/)
    const dropped = patchSeries(changed, { do: 'drop', id: '2026-09-28T09:00:00' }, NOW)
    expect(dates(dropped).map(o => o.recurrenceId)).to.deep.equal(
      before.map(o => o.recurrenceId).filter(n => n !== '2026-09-28T09:00:00'),
    )
  })
})
