import { expect } from 'chai'
import { alarmsOf } from '../src/index.ts'

const event = (alarms: string[][], more: string[] = []): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//test//EN',
    'BEGIN:VEVENT',
    'UID:a',
    'DTSTAMP:20260601T000000Z',
    'DTSTART;TZID=Europe/Dublin:20260617T100000',
    'DURATION:PT1H',
    'SUMMARY:Zorblax',
    ...more,
    ...alarms.flatMap(lines => ['BEGIN:VALARM', ...lines, 'END:VALARM']),
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n')
const shown = (...lines: string[]): string[] => ['ACTION:DISPLAY', 'DESCRIPTION:x', ...lines]

describe('the alarms of an event', () => {
  it('ring before its beginning, or by its end, as durations or at a moment', () => {
    const all = [
      shown('TRIGGER:-PT15M'),
      shown('TRIGGER;RELATED=START:-P1D'),
      shown('TRIGGER;RELATED=END:-PT5M'),
      shown('TRIGGER:PT0S'),
      // 10:00 in Dublin is 09:00 UTC in June.
      shown('TRIGGER;VALUE=DATE-TIME:20260617T083000Z'),
      ['ACTION:AUDIO', 'TRIGGER:-P1W'],
    ]
    expect(alarmsOf(event(all))).to.deep.equal([15, 1440, -55, 0, 30, 10_080])
  })
  it('are not those that are sent by mail, have rung, ring at a place, cannot be read, or of no action', () => {
    const none = [
      ['ACTION:EMAIL', 'TRIGGER:-PT15M', 'ATTENDEE:mailto:a@x.example', 'SUMMARY:x', 'DESCRIPTION:x'],
      shown('TRIGGER:-PT15M', 'ACKNOWLEDGED:20260617T084500Z'),
      shown('TRIGGER:-PT15M', 'PROXIMITY:ARRIVE'),
      ['ACTION:NONE', 'TRIGGER;VALUE=DATE-TIME:19760401T005545Z'],
      ['ACTION:DISPLAY'],
    ]
    expect(alarmsOf(event(none))).to.deep.equal([])
  })
  it('of a series go by its dates: a moment is of one of them alone, and what has rung was another', () => {
    const all = [
      shown('TRIGGER:-PT15M', 'ACKNOWLEDGED:20260610T084500Z'),
      shown('TRIGGER;VALUE=DATE-TIME:20260617T083000Z'),
    ]
    expect(alarmsOf(event(all, ['RRULE:FREQ=WEEKLY']))).to.deep.equal([15])
  })
  it('are ten at most', () => {
    expect(alarmsOf(event(Array.from({ length: 300 }, (_, n) => shown(`TRIGGER:-PT${n}M`)))).length).to.equal(
      10,
    )
  })
})
