import { expect } from 'chai'
import fc from 'fast-check'
import {
  composeEvent,
  endOf,
  fold,
  newEvent,
  NotUnderstood,
  occurrencesBetween,
  onDate,
  parseEvent,
  parseLines,
  patchEvent,
  textOf,
  zoned,
} from '../src/index.ts'

const NOW = Date.parse('2026-11-24T11:00:00Z')

/** An event with everything around it that is none of our business. */
const RICH = [
  'BEGIN:VCALENDAR',
  'PRODID:-//Somebody//Else//EN',
  'VERSION:2.0',
  'X-WR-CALNAME:Their own',
  'BEGIN:VTIMEZONE',
  'TZID:Europe/Dublin',
  'BEGIN:STANDARD',
  'DTSTART:19961027T020000',
  'TZOFFSETFROM:+0100',
  'TZOFFSETTO:+0000',
  'RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU',
  'END:STANDARD',
  'BEGIN:DAYLIGHT',
  'DTSTART:19960331T010000',
  'TZOFFSETFROM:+0000',
  'TZOFFSETTO:+0100',
  'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU',
  'END:DAYLIGHT',
  'END:VTIMEZONE',
  'BEGIN:VEVENT',
  'ATTENDEE;CN="Fenn, Orla";PARTSTAT=ACCEPTED:mailto:orla@trustees.example',
  'SUMMARY;LANGUAGE=en:Night walk',
  'DTSTART;TZID=Europe/Dublin:20261125T200000',
  'DTEND;TZID=Europe/Dublin:20261125T213000',
  'UID:rich@example',
  'SEQUENCE:4',
  'DTSTAMP:20260101T000000Z',
  'X-LONG:this line is so long that it has to be folded somewhere before its en',
  ' d\\, and it is',
  'BEGIN:VALARM',
  'ACTION:DISPLAY',
  'SUMMARY:not the event’s',
  'TRIGGER;VALUE=DATE-TIME:20261125T193000Z',
  'END:VALARM',
  'BEGIN:VALARM',
  'ACTION:AUDIO',
  'TRIGGER:-PT10M',
  'END:VALARM',
  'END:VEVENT',
  'END:VCALENDAR',
  '',
].join('\r\n')

const changedLines = (before: string, after: string): string[] => {
  const was = new Set(before.split('\r\n'))
  return after.split('\r\n').filter(l => !was.has(l))
}

describe('iCalendar content lines', () => {
  it('gives back what it was given, whatever the line ends and folds', () => {
    for (const text of [RICH, RICH.replace(/\r\n/g, '\n'), RICH.trimEnd(), 'no calendar at all', ''])
      expect(textOf(parseLines(text))).to.equal(text)
    fc.assert(fc.property(fc.string({ unit: 'binary' }), text => textOf(parseLines(text)) === text))
  })

  it('folds at 75 octets and never inside a character (RFC 5545 §3.1)', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'grapheme', maxLength: 300 }).filter(s => !/[\r\n]/.test(s)),
        text => {
          const folded = fold(`SUMMARY:${text}`)
          for (const line of folded.split('\r\n'))
            expect(new TextEncoder().encode(line).length).to.be.at.most(75)
          expect(folded.replace(/\r\n /g, '').replace(/\r\n$/, '')).to.equal(`SUMMARY:${text}`)
        },
      ),
    )
  })
})

describe('editing an event’s text', () => {
  it('changes only the lines it must', () => {
    const renamed = patchEvent(RICH, { summary: 'Night walk, rehearsed' }, NOW)
    expect(changedLines(RICH, renamed)).to.deep.equal([
      'SUMMARY;LANGUAGE=en:Night walk\\, rehearsed',
      'DTSTAMP:20261124T110000Z',
    ])
    const freed = patchEvent(RICH, { transparency: 'transparent' }, NOW)
    expect(changedLines(RICH, freed)).to.deep.equal(['DTSTAMP:20261124T110000Z', 'TRANSP:TRANSPARENT'])
    expect(freed.indexOf('TRANSP'), 'before the alarms').to.be.lessThan(freed.indexOf('BEGIN:VALARM'))
  })

  it('moves the start, the end, an alarm of fixed time, and counts the revision', () => {
    const moved = patchEvent(
      RICH,
      { time: { anchor: zoned('2026-11-26T19:00:00', 'Europe/Dublin'), minutes: 60 } },
      NOW,
    )
    expect(changedLines(RICH, moved)).to.deep.equal([
      'DTSTART;TZID=Europe/Dublin:20261126T190000',
      'DTEND;TZID=Europe/Dublin:20261126T200000',
      'SEQUENCE:5',
      'DTSTAMP:20261124T110000Z',
      'TRIGGER;VALUE=DATE-TIME:20261126T183000Z',
    ])
    expect(moved).to.contain('TRIGGER:-PT10M')
  })

  it('keeps a DURATION a duration', () => {
    const text = RICH.replace(/DTEND.*/, 'DURATION:PT1H')
    expect(parseEvent(text).time.minutes).to.equal(60)
    const longer = patchEvent(
      text,
      { time: { anchor: zoned('2026-11-25T20:00:00', 'Europe/Dublin'), minutes: 95 } },
      NOW,
    )
    expect(longer).to.contain('DURATION:PT95M').and.not.contain('DTEND')
  })

  it('describes a zone that the file did not know yet, and reads its own writing', () => {
    const moved = patchEvent(
      RICH,
      { time: { anchor: zoned('2026-11-26T09:00:00', 'Asia/Kathmandu'), minutes: 45 } },
      NOW,
    )
    expect(moved).to.match(/TZID:Asia\/Kathmandu[\s\S]*TZOFFSETTO:\+0545[\s\S]*BEGIN:VEVENT/)
    expect(parseEvent(moved).time).to.deep.equal({
      anchor: zoned('2026-11-26T09:00:00', 'Asia/Kathmandu'),
      minutes: 45,
    })
  })

  it('turns a timed event into an all-day one and back', () => {
    const allDay = patchEvent(RICH, { time: { anchor: onDate('2026-11-30'), minutes: 2880 } }, NOW)
    expect(allDay).to.contain('DTSTART;VALUE=DATE:20261130').and.contain('DTEND;VALUE=DATE:20261202')
    expect(parseEvent(allDay).time).to.deep.equal({ anchor: onDate('2026-11-30'), minutes: 2880 })
    const timed = patchEvent(
      allDay,
      { time: { anchor: zoned('2026-11-30T10:00:00', 'UTC'), minutes: 30 } },
      NOW,
    )
    expect(timed).to.contain('DTSTART:20261130T100000Z')
  })

  it('reads back every event it composes', () => {
    const anchor = fc.constantFrom(
      zoned('2026-03-29T00:30:00', 'Europe/Dublin'),
      zoned('2026-10-25T01:30:00', 'Europe/Dublin'),
      zoned('2026-07-01T23:15:00', 'Asia/Kathmandu'),
      zoned('2026-11-25T10:00:00', 'UTC'),
    )
    const text = fc
      .string({ unit: 'grapheme', maxLength: 120 })
      .map(s => s.replace(/[\p{Cc}\p{Cf}\p{Cs}\p{Zl}\p{Zp}]/gu, ''))
    fc.assert(
      fc.property(
        anchor,
        fc.integer({ min: 5, max: 3000 }),
        text,
        text,
        (at, minutes, summary, description) => {
          const event = newEvent('made@example', { anchor: at, minutes }, { summary, description })
          const read = parseEvent(composeEvent(event, NOW))
          expect(read).to.include({ uid: 'made@example', summary, description })
          expect(read.time).to.deep.equal(event.time)
        },
      ),
    )
  })

  it('tells the end of a span across a change of the clocks by exact time', () => {
    expect(endOf({ anchor: zoned('2026-03-29T00:30:00', 'Europe/Dublin'), minutes: 60 })).to.deep.equal(
      zoned('2026-03-29T02:30:00', 'Europe/Dublin'),
    )
    expect(endOf({ anchor: onDate('2026-12-31'), minutes: 1440 })).to.deep.equal(onDate('2027-01-01'))
  })
})

describe('what is not understood is said, not guessed', () => {
  const cases: [string, string, RegExp][] = [
    ['no calendar', 'hello', /not readable as iCalendar|not an iCalendar/],
    ['an end before the start', RICH.replace('T213000', 'T193000'), /ends before it starts/],
    ['no start', RICH.replace(/DTSTART;TZID.*\r\n/, ''), /no start/],
    ['no uid', RICH.replace(/UID:.*\r\n/, ''), /no UID/],
    ['a task', 'BEGIN:VCALENDAR\r\nBEGIN:VTODO\r\nUID:x\r\nEND:VTODO\r\nEND:VCALENDAR\r\n', /holds no event/],
    [
      'an unknown zone',
      RICH.replace(/TZID=Europe\/Dublin/g, 'TZID=Garden/Shed'),
      /time zone, Garden\/Shed, is not known/,
    ],
    ['something enormous', `${RICH}${'X'.repeat(1_000_001)}`, /larger than 1 MB/],
  ]
  for (const [what, text, words] of cases)
    it(what, () => {
      expect(() => parseEvent(text)).to.throw(NotUnderstood, words)
    })

  it('takes the instants of a zone that the file describes otherwise than our data', () => {
    const other = RICH.replace(/TZOFFSETTO:\+0000/, 'TZOFFSETTO:-0200')
    expect(parseEvent(other).time).to.deep.equal({ anchor: zoned('2026-11-25T22:00:00', 'UTC'), minutes: 90 })
    const series = other.replace('SEQUENCE:4', 'SEQUENCE:4\r\nRRULE:FREQ=WEEKLY;COUNT=2')
    const found = occurrencesBetween(series, Date.parse('2026-11-01'), Date.parse('2027-01-01'), 'UTC')
    expect(found.map(o => new Date(o.startMs).toISOString().slice(0, 16))).to.deep.equal([
      '2026-11-25T22:00',
      '2026-12-02T22:00',
    ])
    // What differs only at other times of the year leaves this event in its own zone.
    const summer = RICH.replace(/TZOFFSETTO:\+0100/, 'TZOFFSETTO:+0300')
    expect(parseEvent(summer).time).to.deep.equal(parseEvent(RICH).time)
  })

  it('takes the instants of a zone that only the file describes', () => {
    const own = RICH.replace(/Europe\/Dublin/g, 'Garden/Shed').replace(
      /TZOFFSETTO:\+0000/,
      'TZOFFSETTO:-0200',
    )
    expect(parseEvent(own).time).to.deep.equal({ anchor: zoned('2026-11-25T22:00:00', 'UTC'), minutes: 90 })
  })
})
