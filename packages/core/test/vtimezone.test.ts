import { expect } from 'chai'
import fc from 'fast-check'
import ICAL from 'ical.js'
import { Temporal } from 'temporal-polyfill'
import { vtimezone } from '../src/ical/vtimezone.ts'
import { composeNewEvent, newEvent, occurrencesBetween, zoned } from '../src/index.ts'

/** The descriptions of zones that we write (RFC 5545 §3.6.5). */
describe('a VTIMEZONE of ours', function () {
  this.timeout(60_000)
  const zoneOf = (text: string): ICAL.Timezone => {
    const calendar = new ICAL.Component(ICAL.parse(`BEGIN:VCALENDAR\r\n${text}END:VCALENDAR\r\n`))
    const [component] = calendar.getAllSubcomponents('vtimezone')
    if (!component) throw new Error('no zone')
    return new ICAL.Timezone(component)
  }
  const ZONES = Intl.supportedValuesOf('timeZone')

  it('tells the time of its zone for twenty years, the days of a change too', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...ZONES),
        fc.integer({ min: 2000, max: 2040 }),
        fc.array(fc.record({ day: fc.nat(20 * 365), hour: fc.constantFrom(9, 12, 20) }), {
          minLength: 5,
          maxLength: 20,
        }),
        (name, year, moments) => {
          const epochMs = Date.parse(`${year}-06-15T12:00:00Z`)
          const zone = zoneOf(vtimezone(name, epochMs))
          let next = Temporal.Instant.fromEpochMilliseconds(epochMs).toZonedDateTimeISO(name)
          const onDays = Array.from({ length: 6 }, () => {
            next = next.getTimeZoneTransition('next') ?? next.add({ years: 1 })
            // Well after the hour that is skipped or repeated.
            return next.add({ hours: 5 }).toPlainDateTime()
          })
          const others = moments.map(m =>
            Temporal.PlainDateTime.from({ year, month: 1, day: 1, hour: m.hour }).add({ days: m.day }),
          )
          for (const local of [...onDays, ...others]) {
            const said = ICAL.Time.fromDateTimeString(local.toString({ smallestUnit: 'second' }))
            said.zone = zone
            const told = local.toZonedDateTime(name).epochMilliseconds
            expect(said.toUnixTime() * 1000, `${name} ${local.toString()}`).to.equal(told)
          }
        },
      ),
      { numRuns: 150 },
    )
  })

  it('holds for as long as a series does', () => {
    const anchor = zoned('2026-11-25T09:00:00', 'America/Nuuk')
    const repeats = { every: 'weekly' as const, interval: 1, until: null }
    const text = composeNewEvent(
      newEvent('n', { anchor, minutes: 30 }),
      { repeats, organizer: null, guests: [] },
      0,
    )
    // A reader who knows nothing of zones but what the file says.
    const foreign = text.replaceAll('America/Nuuk', 'Far North')
    const span = [Date.parse('2039-01-01'), Date.parse('2040-01-01')] as const
    const starts = (of: string): number[] => occurrencesBetween(of, ...span, 'UTC').map(o => o.startMs)
    expect(starts(foreign)).to.have.length.greaterThan(51)
    expect(starts(foreign)).to.deep.equal(starts(text))
  })
})
