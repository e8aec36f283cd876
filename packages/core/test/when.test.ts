import { expect } from 'chai'
import fc from 'fast-check'
import { Temporal } from 'temporal-polyfill'
import { epochOf, onDate, zoned, zonedAt } from '../src/index.ts'

/** Local times and instants, also on the days on which clocks are changed. */
const ZONES = [
  'Europe/Dublin',
  'America/New_York',
  'Asia/Kathmandu',
  'America/Sao_Paulo',
  'Australia/Lord_Howe',
  'Pacific/Apia',
  // Summer time is suspended for a month that wanders through the year.
  'Africa/Casablanca',
  'UTC',
]
const between = (first: number, last: number) =>
  fc
    .integer({ min: Date.UTC(first, 0, 1) / 1000, max: Date.UTC(last, 0, 1) / 1000 })
    .map(s => new Date(s * 1000).toISOString().slice(0, 19))
const years = between(2010, 2030)
/** Days on which clocks are changed somewhere, and those beside them. */
const nearChanges = fc
  .tuple(
    fc.constantFrom(
      '2026-03-29',
      '2026-10-25',
      '2026-10-04',
      '2018-11-04',
      '2011-12-30',
      '2026-02-15',
      '2026-03-22',
    ),
    fc.integer({ min: -50, max: 50 }),
  )
  .map(([day, hours]) =>
    new Date(Date.parse(`${day}T00:30:00Z`) + hours * 3_600_000).toISOString().slice(0, 19),
  )
const local = fc.oneof(years, nearChanges, between(1901, 2150))

describe('local times', () => {
  it('are the instants that the zone data says, whatever was asked before', () => {
    fc.assert(
      fc.property(local, fc.constantFrom(...ZONES), (l, zone) => {
        const wanted = Temporal.PlainDateTime.from(l).toZonedDateTime(zone, { disambiguation: 'compatible' })
        expect(epochOf(zoned(l, zone), 'UTC'), `${l} ${zone}`).to.equal(wanted.epochMilliseconds)
        const day = l.slice(0, 10)
        expect(epochOf(onDate(day), zone)).to.equal(
          Temporal.PlainDate.from(day).toZonedDateTime(zone).epochMilliseconds,
        )
      }),
      { numRuns: 2_000 },
    )
  })

  it('also where the first that is asked is the very instant of a change', () => {
    for (const zone of ZONES) {
      const from = Temporal.Instant.from('2033-01-01T00:00:00Z').toZonedDateTimeISO(zone)
      const change = from.getTimeZoneTransition('next')
      if (!change) continue
      const plain = (ms: number): string => new Date(ms).toISOString().slice(0, 19)
      epochOf(zoned(plain(change.epochMilliseconds), zone), 'UTC')
      for (let minutes = -60 * 24 * 40; minutes <= 60 * 24 * 40; minutes += 450) {
        const l = plain(change.epochMilliseconds + minutes * 60_000)
        const wanted = Temporal.PlainDateTime.from(l).toZonedDateTime(zone, { disambiguation: 'compatible' })
        expect(epochOf(zoned(l, zone), 'UTC'), `${l} ${zone}`).to.equal(wanted.epochMilliseconds)
      }
    }
  })

  const CHANGES: [string, string, string, string][] = [
    ['in the hour that is left out', 'Europe/Dublin', '2026-03-29T01:30:00', '2026-03-29T01:30:00Z'],
    [
      'in the hour that comes twice, the first',
      'Europe/Dublin',
      '2026-10-25T01:30:00',
      '2026-10-25T00:30:00Z',
    ],
    ['after it', 'Europe/Dublin', '2026-10-25T02:30:00', '2026-10-25T02:30:00Z'],
    ['a change of half an hour', 'Australia/Lord_Howe', '2026-10-04T02:15:00', '2026-10-03T15:45:00Z'],
    ['a change at midnight', 'America/Sao_Paulo', '2018-11-04T00:30:00', '2018-11-04T03:30:00Z'],
    ['a day that was left out whole', 'Pacific/Apia', '2011-12-30T12:00:00', '2011-12-30T22:00:00Z'],
  ]
  for (const [what, zone, l, instant] of CHANGES)
    it(what, () => {
      expect(new Date(epochOf(zoned(l, zone), 'UTC')).toISOString()).to.equal(instant.replace('Z', '.000Z'))
    })

  it('come back as they were, outside of the hours that come twice', () => {
    fc.assert(
      fc.property(years, fc.constantFrom('Asia/Kathmandu', 'UTC'), (l, zone) => {
        expect(zonedAt(epochOf(zoned(l, zone), 'UTC'), zone)).to.deep.equal(zoned(l, zone))
      }),
    )
  })

  it('that are none are refused', () => {
    for (const l of ['2026-02-30T10:00:00', '2026-01-01T25:00:00', 'tomorrow', '2026-13-01T10:00:00'])
      expect(() => epochOf(zoned(l, 'UTC'), 'UTC'), l).to.throw(RangeError)
    expect(() => epochOf(zoned('2026-01-01T10:00:00', 'Nowhere/Else'), 'UTC')).to.throw(RangeError)
  })
})
