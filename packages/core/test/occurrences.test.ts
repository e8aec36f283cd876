import { expect } from 'chai'
import { occurrencesBetween } from '../src/index.ts'

/** Examples of RFC 5545 §3.8.5.3, which are told in America/New_York, and what goes beyond them. */
const series = (start: string, rule: string, extra: string[] = []): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'BEGIN:VEVENT',
    'UID:s@x',
    'DTSTAMP:19970101T000000Z',
    `DTSTART${start}`,
    'DURATION:PT1H',
    `RRULE:${rule}`,
    'SUMMARY:Series',
    'END:VEVENT',
    ...extra,
    'END:VCALENDAR',
    '',
  ].join('\r\n')

const NY = ';TZID=America/New_York:19970902T090000'
const days = (text: string, from: string, to: string): string[] =>
  occurrencesBetween(text, Date.parse(from), Date.parse(to), 'America/New_York').map(o =>
    new Date(o.startMs).toISOString().slice(0, 16),
  )

describe('occurrences of a series', () => {
  const cases: [string, string, string[]][] = [
    [
      'daily for ten occurrences',
      'FREQ=DAILY;COUNT=10',
      Array.from({ length: 10 }, (_, i) => `1997-09-${String(2 + i).padStart(2, '0')}T13:00`),
    ],
    [
      'every other day',
      'FREQ=DAILY;INTERVAL=2;COUNT=4',
      ['1997-09-02T13:00', '1997-09-04T13:00', '1997-09-06T13:00', '1997-09-08T13:00'],
    ],
    [
      'weekly on Tuesday and Thursday for five weeks',
      'FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH',
      ['02', '04', '09', '11', '16', '18', '23', '25', '30']
        .map(d => `1997-09-${d}T13:00`)
        .concat('1997-10-02T13:00'),
    ],
    [
      'monthly on the first Friday',
      'FREQ=MONTHLY;COUNT=3;BYDAY=1FR',
      ['1997-09-05T13:00', '1997-10-03T13:00', '1997-11-07T14:00'],
    ],
    [
      'monthly on the second-to-last Monday',
      'FREQ=MONTHLY;COUNT=3;BYDAY=-2MO',
      ['1997-09-22T13:00', '1997-10-20T13:00', '1997-11-17T14:00'],
    ],
    [
      'the last work day of the month',
      'FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1;COUNT=3',
      ['1997-09-30T13:00', '1997-10-31T14:00', '1997-11-28T14:00'],
    ],
    [
      'every Friday the 13th',
      'FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13;COUNT=2',
      ['1998-02-13T14:00', '1998-03-13T14:00'],
    ],
  ]
  for (const [what, rule, expected] of cases)
    it(what, () => {
      expect(days(series(NY, rule), '1997-09-01', '1998-12-31')).to.deep.equal(expected)
    })

  it('keeps its hour on the wall when the clocks change', () => {
    expect(days(series(NY, 'FREQ=WEEKLY'), '1997-10-20', '1997-11-05')).to.deep.equal([
      '1997-10-21T13:00',
      '1997-10-28T14:00',
      '1997-11-04T14:00',
    ])
  })

  it('leaves out EXDATE and follows an override to another day', () => {
    const moved = [
      'BEGIN:VEVENT',
      'UID:s@x',
      'DTSTAMP:19970101T000000Z',
      'RECURRENCE-ID;TZID=America/New_York:19970904T090000',
      'DTSTART;TZID=America/New_York:19970905T150000',
      'DURATION:PT1H',
      'SUMMARY:Moved',
      'END:VEVENT',
    ]
    const text = series(NY, 'FREQ=DAILY;COUNT=4', moved).replace(
      'SUMMARY:Series',
      'EXDATE;TZID=America/New_York:19970903T090000\r\nSUMMARY:Series',
    )
    const found = occurrencesBetween(text, Date.parse('1997-09-01'), Date.parse('1997-10-01'), 'UTC')
    expect(found.map(o => [o.summary, new Date(o.startMs).toISOString().slice(0, 16)]).sort()).to.deep.equal([
      ['Moved', '1997-09-05T19:00'],
      ['Series', '1997-09-02T13:00'],
      ['Series', '1997-09-05T13:00'],
    ])
  })

  it('tells whole days in the zone of whoever looks', () => {
    const text = series(';VALUE=DATE:19970902', 'FREQ=DAILY;COUNT=1').replace('DURATION:PT1H', 'DURATION:P1D')
    const [day] = occurrencesBetween(
      text,
      Date.parse('1997-09-01'),
      Date.parse('1997-09-05'),
      'Asia/Kathmandu',
    )
    expect(day).to.include({ allDay: true })
    expect(new Date(day?.startMs ?? 0).toISOString()).to.equal('1997-09-01T18:15:00.000Z')
  })

  it('comes to an end when a rule names more dates than anybody could want', () => {
    expect(days(series(NY, 'FREQ=SECONDLY;COUNT=1000000000'), '2026-01-01', '2026-01-02')).to.deep.equal([])
  })
})
