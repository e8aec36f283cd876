import { expect } from 'chai'
import fc from 'fast-check'
import ICAL from 'ical.js'
import { parseWithZones } from '../src/ical/known-zones.ts'
import { readCalendarObject } from '../src/index.ts'

const zone = (tzid: string, offset: string): string[] => [
  'BEGIN:VTIMEZONE',
  `TZID:${tzid}`,
  'BEGIN:STANDARD',
  'DTSTART:19700101T000000',
  `TZOFFSETFROM:${offset}`,
  `TZOFFSETTO:${offset}`,
  'END:STANDARD',
  'END:VTIMEZONE',
]
const event = (tzid: string, more: string[] = []): string[] => [
  'BEGIN:VEVENT',
  'UID:a',
  `DTSTART;TZID=${tzid}:20260304T100000`,
  'SUMMARY:Walk-round',
  ...more,
  'END:VEVENT',
]
const calendar = (...parts: string[][]): string =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', ...parts.flat(), 'END:VCALENDAR', ''].join('\r\n')

type JCal = [string, unknown[], JCal[]]
/** What stands in a calendar, whatever the order of its components. */
const sorted = ([name, properties, components]: JCal): unknown => [
  name,
  properties,
  components.map(c => JSON.stringify(sorted(c))).sort(),
]
const parsed = (text: string, parse: (t: string) => unknown): unknown => {
  try {
    return sorted(parse(text) as JCal)
  } catch {
    return 'not readable'
  }
}

describe('zones that many objects describe alike', () => {
  it('come out as if each object were parsed as a whole, however its lines lie', () => {
    const whole = calendar(zone('Harbour', '+0130'), event('Harbour')).split('\r\n')
    const odd = [
      'DESCRIPTION:One',
      ' BEGIN:VTIMEZONE',
      'begin:vtimezone',
      'END:VTIMEZONE ',
      'BEGIN:VALARM',
      'END:VALARM',
    ]
    const line = fc.constantFrom(...whole, ...zone('Europe/Dublin', '+0000'), ...odd)
    const change = fc.record({
      at: fc.nat(whole.length),
      out: fc.nat(1),
      in: fc.oneof(fc.constant([]), fc.array(line, { maxLength: 2 }), fc.constant(zone('Harbour', '-0300'))),
    })
    fc.assert(
      fc.property(fc.array(change, { maxLength: 3 }), fc.constantFrom('\r\n', '\n'), (changes, end) => {
        const lines = [...whole]
        for (const c of changes) lines.splice(c.at, c.out, ...c.in)
        const text = lines.join(end)
        expect(parsed(text, parseWithZones)).to.deep.equal(parsed(text, t => ICAL.parse(t)))
      }),
      { numRuns: 3_000 },
    )
  })

  it('are told apart where two of one name differ, and are each read as their own file says', () => {
    const at = (offset: string): unknown => {
      const read = readCalendarObject(calendar(zone('Harbour', offset), event('Harbour')))
      return read.kind === 'understood' && read.value.kind === 'event' && read.value.time.anchor
    }
    for (const round of [1, 2]) {
      expect(at('+0130'), String(round)).to.deep.equal({
        kind: 'zoned',
        local: '2026-03-04T08:30:00',
        zone: 'UTC',
      })
      expect(at('-0300'), String(round)).to.deep.equal({
        kind: 'zoned',
        local: '2026-03-04T13:00:00',
        zone: 'UTC',
      })
    }
  })

  it('are refused each time where they are not bounded', () => {
    const endless = zone('Harbour', '+0130').flatMap(l =>
      l.startsWith('DTSTART') ? [l, 'RRULE:FREQ=SECONDLY'] : [l],
    )
    for (let n = 0; n < 2; n++)
      expect(readCalendarObject(calendar(endless, event('Harbour')))).to.deep.equal({
        kind: 'not-understood',
        because: 'Its time zone is described by a rule that no time zone has.',
      })
  })
})
