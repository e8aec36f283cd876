import { expect } from 'chai'
import fc from 'fast-check'
import ICAL from 'ical.js'
import {
  NotUnderstood,
  occurrencesBetween,
  readCalendarObject,
  TooOften,
  UnrollBudget,
  zonedAt,
} from '../src/index.ts'

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

/** Local dates in New York, with the hour where it is not nine. */
const dates = (
  start: string,
  rule: string,
  from: string,
  to: string,
  extra: string[] = [],
  budget = new UnrollBudget(),
): string => {
  const text = series(`;TZID=America/New_York:${start}T090000`, rule).replace(
    'SUMMARY:Series',
    [...extra, 'SUMMARY:Series'].join('\r\n'),
  )
  return occurrencesBetween(
    text,
    Date.parse(`${from}T04:00Z`),
    Date.parse(`${to}T05:00Z`),
    'America/New_York',
    { budget },
  )
    .map(o => zonedAt(o.startMs, 'America/New_York'))
    .map(w => (w.kind === 'zoned' ? w.local.replace('T09:00:00', '').replace(/:00$/, '') : ''))
    .join(' ')
}
/** `1997-09 2 3 4` as three days of September. */
const told = (...months: string[]): string =>
  months
    .flatMap(m => {
      const [month = '', ...rest] = m.split(' ')
      return rest.map(d => {
        const [day = '', hour] = d.split('@')
        return `${month}-${day.padStart(2, '0')}${hour ? `T${hour}` : ''}`
      })
    })
    .join(' ')
const range = (from: number, to: number, step = 1): string =>
  Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, i) => from + i * step).join(' ')

describe('occurrences of a series', () => {
  /** Every example of RFC 5545 §3.8.5.3, in its order: what, start, rule, span looked at, dates. */
  const EXAMPLES: [string, string, string, [string, string], string, string[]?][] = [
    [
      'daily for 10 occurrences',
      '19970902',
      'FREQ=DAILY;COUNT=10',
      ['1997-01-01', '1999-01-01'],
      told(`1997-09 ${range(2, 11)}`),
    ],
    [
      'daily until December 24, 1997',
      '19970902',
      'FREQ=DAILY;UNTIL=19971224T000000Z',
      ['1997-12-01', '1999-01-01'],
      told(`1997-12 ${range(1, 23)}`),
    ],
    [
      'every other day, forever',
      '19970902',
      'FREQ=DAILY;INTERVAL=2',
      ['1997-11-25', '1997-12-03'],
      told('1997-11 25 27 29', '1997-12 1'),
    ],
    [
      'every 10 days, 5 occurrences',
      '19970902',
      'FREQ=DAILY;INTERVAL=10;COUNT=5',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 2 12 22', '1997-10 2 12'),
    ],
    [
      'every day in January, for 3 years',
      '19980101',
      'FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA',
      ['1999-12-01', '2002-01-01'],
      told(`2000-01 ${range(1, 31)}`),
    ],
    [
      'the same, said daily',
      '19980101',
      'FREQ=DAILY;UNTIL=20000131T140000Z;BYMONTH=1',
      ['1998-06-01', '2002-01-01'],
      told(`1999-01 ${range(1, 31)}`, `2000-01 ${range(1, 31)}`),
    ],
    [
      'weekly for 10 occurrences',
      '19970902',
      'FREQ=WEEKLY;COUNT=10',
      ['1997-01-01', '1999-01-01'],
      told(`1997-09 ${range(2, 30, 7)}`, '1997-10 7 14 21 28', '1997-11 4'),
    ],
    [
      'weekly until December 24, 1997',
      '19970902',
      'FREQ=WEEKLY;UNTIL=19971224T000000Z',
      ['1997-12-01', '1999-01-01'],
      told('1997-12 2 9 16 23'),
    ],
    [
      'every other week, forever',
      '19970902',
      'FREQ=WEEKLY;INTERVAL=2;WKST=SU',
      ['1998-01-01', '1998-02-20'],
      told('1998-01 6 20', '1998-02 3 17'),
    ],
    [
      'weekly on Tuesday and Thursday for five weeks',
      '19970902',
      'FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 2 4 9 11 16 18 23 25 30', '1997-10 2'),
    ],
    [
      'the same, counted',
      '19970902',
      'FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 2 4 9 11 16 18 23 25 30', '1997-10 2'),
    ],
    [
      'every other week on Monday, Wednesday and Friday',
      '19970901',
      'FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR',
      ['1997-01-01', '1999-01-01'],
      told(
        '1997-09 1 3 5 15 17 19 29',
        '1997-10 1 3 13 15 17 27 29 31',
        '1997-11 10 12 14 24 26 28',
        '1997-12 8 10 12 22',
      ),
    ],
    [
      'every other week on Tuesday and Thursday, 8 occurrences',
      '19970902',
      'FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 2 4 16 18 30', '1997-10 2 14 16'),
    ],
    [
      'monthly on the first Friday, 10 occurrences',
      '19970905',
      'FREQ=MONTHLY;COUNT=10;BYDAY=1FR',
      ['1997-01-01', '1999-01-01'],
      told(
        '1997-09 5',
        '1997-10 3',
        '1997-11 7',
        '1997-12 5',
        '1998-01 2',
        '1998-02 6',
        '1998-03 6',
        '1998-04 3',
        '1998-05 1',
        '1998-06 5',
      ),
    ],
    [
      'monthly on the first Friday until December 24',
      '19970905',
      'FREQ=MONTHLY;UNTIL=19971224T000000Z;BYDAY=1FR',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 5', '1997-10 3', '1997-11 7', '1997-12 5'),
    ],
    [
      'every other month on the first and last Sunday',
      '19970907',
      'FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 7 28', '1997-11 2 30', '1998-01 4 25', '1998-03 1 29', '1998-05 3 31'),
    ],
    [
      'monthly on the second-to-last Monday',
      '19970922',
      'FREQ=MONTHLY;COUNT=6;BYDAY=-2MO',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 22', '1997-10 20', '1997-11 17', '1997-12 22', '1998-01 19', '1998-02 16'),
    ],
    [
      'monthly on the third-to-the-last day',
      '19970928',
      'FREQ=MONTHLY;BYMONTHDAY=-3',
      ['1997-01-01', '1998-03-01'],
      told('1997-09 28', '1997-10 29', '1997-11 28', '1997-12 29', '1998-01 29', '1998-02 26'),
    ],
    [
      'monthly on the 2nd and 15th, 10 occurrences',
      '19970902',
      'FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 2 15', '1997-10 2 15', '1997-11 2 15', '1997-12 2 15', '1998-01 2 15'),
    ],
    [
      'monthly on the first and last day, 10 occurrences',
      '19970930',
      'FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 30', '1997-10 1 31', '1997-11 1 30', '1997-12 1 31', '1998-01 1 31', '1998-02 1'),
    ],
    [
      'every 18 months on the 10th to the 15th',
      '19970910',
      'FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15',
      ['1997-01-01', '2000-01-01'],
      told(`1997-09 ${range(10, 15)}`, `1999-03 ${range(10, 13)}`),
    ],
    [
      'every Tuesday, every other month',
      '19970902',
      'FREQ=MONTHLY;INTERVAL=2;BYDAY=TU',
      ['1997-01-01', '1998-02-01'],
      told('1997-09 2 9 16 23 30', '1997-11 4 11 18 25', '1998-01 6 13 20 27'),
    ],
    [
      'yearly in June and July, 10 occurrences',
      '19970610',
      'FREQ=YEARLY;COUNT=10;BYMONTH=6,7',
      ['1997-01-01', '2003-01-01'],
      told(...[1997, 1998, 1999, 2000, 2001].flatMap(y => [`${y}-06 10`, `${y}-07 10`])),
    ],
    [
      'every other year in January, February and March',
      '19970310',
      'FREQ=YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3',
      ['1997-01-01', '2005-01-01'],
      told('1997-03 10', ...[1999, 2001, 2003].flatMap(y => [`${y}-01 10`, `${y}-02 10`, `${y}-03 10`])),
    ],
    [
      'every third year on the 1st, 100th and 200th day',
      '19970101',
      'FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200',
      ['1997-01-01', '2007-01-01'],
      told(
        '1997-01 1',
        '1997-04 10',
        '1997-07 19',
        '2000-01 1',
        '2000-04 9',
        '2000-07 18',
        '2003-01 1',
        '2003-04 10',
        '2003-07 19',
        '2006-01 1',
      ),
    ],
    [
      'every 20th Monday of the year',
      '19970519',
      'FREQ=YEARLY;BYDAY=20MO',
      ['1997-01-01', '2000-01-01'],
      told('1997-05 19', '1998-05 18', '1999-05 17'),
    ],
    [
      'Monday of week number 20',
      '19970512',
      'FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO',
      ['1997-01-01', '2000-01-01'],
      told('1997-05 12', '1998-05 11', '1999-05 17'),
    ],
    [
      'every Thursday in March',
      '19970313',
      'FREQ=YEARLY;BYMONTH=3;BYDAY=TH',
      ['1997-01-01', '2000-01-01'],
      told('1997-03 13 20 27', '1998-03 5 12 19 26', '1999-03 4 11 18 25'),
    ],
    [
      'every Thursday in June, July and August',
      '19970605',
      'FREQ=YEARLY;BYDAY=TH;BYMONTH=6,7,8',
      ['1998-01-01', '1999-01-01'],
      told('1998-06 4 11 18 25', '1998-07 2 9 16 23 30', '1998-08 6 13 20 27'),
    ],
    [
      'every Friday the 13th',
      '19970902',
      'FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13',
      ['1997-01-01', '2001-01-01'],
      told('1998-02 13', '1998-03 13', '1998-11 13', '1999-08 13', '2000-10 13'),
      ['EXDATE;TZID=America/New_York:19970902T090000'],
    ],
    [
      'the first Saturday after the first Sunday',
      '19970913',
      'FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13',
      ['1997-01-01', '1998-04-01'],
      told('1997-09 13', '1997-10 11', '1997-11 8', '1997-12 13', '1998-01 10', '1998-02 7', '1998-03 7'),
    ],
    [
      'every 4 years, the first Tuesday after a Monday in November',
      '19961105',
      'FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8',
      ['1996-01-01', '2006-01-01'],
      told('1996-11 5', '2000-11 7', '2004-11 2'),
    ],
    [
      'the third Tuesday, Wednesday or Thursday of the month',
      '19970904',
      'FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 4', '1997-10 7', '1997-11 6'),
    ],
    [
      'the second-to-last weekday of the month',
      '19970929',
      'FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2',
      ['1997-01-01', '1998-04-01'],
      told('1997-09 29', '1997-10 30', '1997-11 27', '1997-12 30', '1998-01 29', '1998-02 26', '1998-03 30'),
    ],
    [
      'every 3 hours from nine to five',
      '19970902',
      'FREQ=HOURLY;INTERVAL=3;UNTIL=19970902T210000Z',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 2 2@12:00 2@15:00'),
    ],
    [
      'every 15 minutes, 6 occurrences',
      '19970902',
      'FREQ=MINUTELY;INTERVAL=15;COUNT=6',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 2 2@09:15 2@09:30 2@09:45 2@10:00 2@10:15'),
    ],
    [
      'every hour and a half, 4 occurrences',
      '19970902',
      'FREQ=MINUTELY;INTERVAL=90;COUNT=4',
      ['1997-01-01', '1999-01-01'],
      told('1997-09 2 2@10:30 2@12:00 2@13:30'),
    ],
    [
      'every 20 minutes in certain hours, said daily',
      '19970902',
      'FREQ=DAILY;BYHOUR=9,10;BYMINUTE=0,20,40',
      ['1997-09-03', '1997-09-04'],
      told('1997-09 3 3@09:20 3@09:40 3@10:00 3@10:20 3@10:40'),
    ],
    [
      'the same, said in minutes',
      '19970902',
      'FREQ=MINUTELY;INTERVAL=20;BYHOUR=9,10',
      ['1997-09-03', '1997-09-04'],
      told('1997-09 3 3@09:20 3@09:40 3@10:00 3@10:20 3@10:40'),
    ],
    [
      'weeks that begin on Monday',
      '19970805',
      'FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO',
      ['1997-01-01', '1999-01-01'],
      told('1997-08 5 10 19 24'),
    ],
    [
      'weeks that begin on Sunday',
      '19970805',
      'FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU',
      ['1997-01-01', '1999-01-01'],
      told('1997-08 5 17 19 31'),
    ],
    [
      'dates that a month does not have',
      '20070115',
      'FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5',
      ['2007-01-01', '2008-01-01'],
      told('2007-01 15 30', '2007-02 15', '2007-03 15 30'),
    ],
  ]
  for (const [what, start, rule, [from, to], expected, extra] of EXAMPLES)
    it(what, () => {
      expect(dates(start, rule, from, to, extra)).to.equal(expected)
    })

  it('the same dates, whatever span one looks at', () => {
    const weekly = 'FREQ=WEEKLY;INTERVAL=3;BYDAY=MO,FR;COUNT=40'
    const whole = dates('19970901', weekly, '1997-01-01', '2001-01-01').split(' ')
    expect(whole).to.have.length(40)
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 900 }), fc.integer({ min: 1, max: 400 }), (begin, length) => {
        const iso = (n: number): string => new Date(Date.UTC(1997, 7, 1 + n)).toISOString().slice(0, 10)
        const [from, to] = [iso(begin), iso(begin + length)]
        const part = dates('19970901', weekly, from, to)
        expect(part).to.equal(whole.filter(d => d >= from && d < to).join(' '))
      }),
      { numRuns: 60 },
    )
  })

  const part = fc.option(fc.uniqueArray(fc.integer({ min: 1, max: 12 }), { minLength: 1, maxLength: 3 }))
  it('agrees with the library that reads iCalendar, where that one comes to an end', () => {
    const freq = fc.constantFrom('YEARLY', 'MONTHLY', 'WEEKLY', 'DAILY')
    const weekdays = fc.option(fc.subarray(['MO', 'TU', 'WE', 'FR', 'SU'], { minLength: 1 }))
    const arbitrary = fc.record({
      freq,
      interval: fc.integer({ min: 1, max: 4 }),
      byMonth: part,
      weekdays,
      hours: fc.option(fc.constant([9, 17])),
      weekStart: fc.constantFrom('MO', 'SU'),
      begin: fc.integer({ min: 0, max: 1000 }),
    })
    fc.assert(
      fc.property(arbitrary, ({ freq: f, interval, byMonth, weekdays: byDay, hours, weekStart, begin }) => {
        const day = new Date(Date.UTC(2021, 0, 1 + begin)).toISOString().slice(0, 10)
        const rule = [
          `FREQ=${f}`,
          `INTERVAL=${interval}`,
          `WKST=${weekStart}`,
          // Theirs loses its step where months are left out, and takes the 1st of the next month for a day that one lacks.
          ...(byMonth && ((f === 'YEARLY' && (byDay || day.slice(8) <= '28')) || f === 'DAILY')
            ? [`BYMONTH=${[...byMonth].sort((x, y) => x - y).join()}`]
            : []),
          ...(byDay ? [`BYDAY=${byDay.join()}`] : []),
          // Of a year theirs takes one hour only, of a month some twice.
          ...(hours && (f === 'WEEKLY' || f === 'DAILY') ? ['BYHOUR=9,17'] : []),
        ].join(';')
        const start = ICAL.Time.fromDateTimeString(`${day}T09:00:00`)
        const theirs: string[] = []
        const iterator = ICAL.Recur.fromString(rule).iterator(start)
        for (let i = 0; i < 400; i++) {
          const next = iterator.next()
          if (!next || next.year > 2026) break
          theirs.push(next.toString().slice(0, 16))
        }
        const until = theirs.length === 400 ? (theirs.at(-1) ?? '') : '2027-01-01'
        const ours = dates(
          day.replace(/-/g, ''),
          rule,
          '2021-01-01',
          '2027-02-01',
          [],
          new UnrollBudget(1e6, 1e5),
        )
          .split(' ')
          .map(d => (d.includes('T') ? d : `${d}T09:00`))
        // The start is the first date, whether the rule names it or not; theirs leaves it out.
        const kept = (list: string[]): string[] => list.filter(d => d < until && d !== `${day}T09:00`)
        expect(kept(ours), rule).to.deep.equal(kept(theirs))
      }),
      { numRuns: 60 },
    )
  })

  const IMPOSSIBLE = [
    'FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30',
    'FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=30',
    'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30;COUNT=3',
    'FREQ=YEARLY;BYYEARDAY=60;BYMONTH=12',
    'FREQ=YEARLY;BYWEEKNO=1;BYMONTH=6;COUNT=2',
    'FREQ=DAILY;BYSETPOS=7',
    'FREQ=HOURLY;BYHOUR=3;BYMONTHDAY=31;BYMONTH=4;COUNT=9',
  ]
  for (const rule of IMPOSSIBLE)
    it(`comes to an end with a rule that names nothing: ${rule}`, () => {
      expect(dates('19970902', rule, '1997-01-01', '1999-01-01')).to.equal('1997-09-02')
      expect(dates('19970902', rule, '2190-01-01', '2191-01-01')).to.equal('')
    })

  it('comes to an end with a rule that names too much', () => {
    for (const rule of [
      'FREQ=SECONDLY;COUNT=1000000000',
      'FREQ=MINUTELY',
      'FREQ=DAILY;BYHOUR=1,2,3;BYMINUTE=1,2',
    ])
      for (const from of ['1997-09-02', '2026-01-01'])
        expect(() => dates('19970902', rule, from, '2190-01-01'), rule).to.throw(TooOften, 'It repeats every')
    // A count is told from the calendar where every date is one step after the last.
    expect(
      dates('19970902', 'FREQ=MINUTELY;COUNT=1000000', '1999-07-28', '1999-08-30').split(' ').at(-1),
    ).to.equal('1999-07-28T19:39')
  })

  it('shows nothing of what was cancelled, and from then on what was changed from then on', () => {
    const other = (id: string, lines: string[], range = ''): string[] => [
      'BEGIN:VEVENT',
      'UID:s@x',
      'DTSTAMP:19970101T000000Z',
      `RECURRENCE-ID;TZID=America/New_York${range}:${id}`,
      ...lines,
      'END:VEVENT',
    ]
    const text = series(NY, 'FREQ=DAILY;COUNT=5', [
      ...other('19970903T090000', [
        'DTSTART;TZID=America/New_York:19970903T090000',
        'STATUS:CANCELLED',
        'SUMMARY:Off',
      ]),
      ...other(
        '19970905T090000',
        ['DTSTART;TZID=America/New_York:19970905T110000', 'DURATION:PT2H', 'SUMMARY:Later'],
        ';RANGE=THISANDFUTURE',
      ),
    ])
    const found = occurrencesBetween(text, Date.parse('1997-09-01'), Date.parse('1997-10-01'), 'UTC')
    expect(
      found.map(o => [
        o.summary,
        new Date(o.startMs).toISOString().slice(5, 16),
        (o.endMs - o.startMs) / 3.6e6,
      ]),
    ).to.deep.equal([
      ['Series', '09-02T13:00', 1],
      ['Series', '09-04T13:00', 1],
      ['Later', '09-05T15:00', 2],
      ['Later', '09-06T15:00', 2],
    ])
  })

  it('adds RDATE, and leaves out a whole day by an EXDATE without an hour', () => {
    const extra = ['RDATE;TZID=America/New_York:19970910T140000', 'EXDATE;VALUE=DATE:19970903']
    expect(dates('19970902', 'FREQ=DAILY;COUNT=3', '1997-01-01', '1998-01-01', extra)).to.equal(
      told('1997-09 2 4 10@14:00'),
    )
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
})

describe('lengths, listed dates and what is not worked out', () => {
  const DUBLIN = ';TZID=Europe/Dublin'
  const at = (lines: string[], more: string[] = []): string[] =>
    occurrencesBetween(
      [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        'PRODID:-//x//EN',
        'BEGIN:VEVENT',
        'UID:u',
        'DTSTAMP:20261001T000000Z',
        ...lines,
        'END:VEVENT',
        ...more,
        'END:VCALENDAR',
        '',
      ].join('\r\n'),
      Date.parse('2026-10-01'),
      Date.parse('2027-04-30'),
      'Europe/Dublin',
    ).map(o => [o.startMs, o.endMs].map(ms => new Date(ms).toISOString().slice(5, 16)).join(' '))

  it('goes by the calendar for days, and by the clock for hours and for an end (RFC 5545 §3.3.6, §3.8.5.3)', () => {
    const noon = `DTSTART${DUBLIN}:20261024T120000`
    expect(at([noon, 'DURATION:P1D'])).to.deep.equal(['10-24T11:00 10-25T12:00'])
    expect(at([noon, 'DURATION:PT24H'])).to.deep.equal(['10-24T11:00 10-25T11:00'])
    expect(at([noon, 'DURATION:P1DT1H'])).to.deep.equal(['10-24T11:00 10-25T13:00'])
    // Eight hours on every night, also on that in which the clocks go back.
    const night = [
      `DTSTART${DUBLIN}:20261023T230000`,
      `DTEND${DUBLIN}:20261024T070000`,
      'RRULE:FREQ=DAILY;COUNT=2',
    ]
    expect(at(night)).to.deep.equal(['10-23T22:00 10-24T06:00', '10-24T22:00 10-25T06:00'])
  })

  it('never ends before it starts, also where the clocks skip the start', () => {
    const gap = [`DTSTART${DUBLIN}:20270328T013000`, `DTEND${DUBLIN}:20270328T021500`]
    expect(at(gap)).to.deep.equal(['03-28T01:30 03-28T02:15'])
  })

  it('leaves out, adds and overrides dates in whatever zone they are told', () => {
    const four = [`DTSTART${DUBLIN}:20261101T090000`, 'DURATION:PT1H', 'RRULE:FREQ=DAILY;COUNT=4']
    const second = '11-02T09:00 11-02T10:00'
    for (const left of [
      'EXDATE:20261102T090000Z',
      'EXDATE;TZID=Asia/Kathmandu:20261102T144500',
      `EXDATE${DUBLIN}:20261102T090000`,
      'EXDATE;VALUE=DATE:20261102',
    ])
      expect(at([...four, left]), left)
        .to.have.length(3)
        .and.not.include(second)
    for (const id of [':20261102T090000Z', ';TZID=Asia/Kathmandu:20261102T144500'])
      expect(
        at(four, [
          'BEGIN:VEVENT',
          'UID:u',
          'DTSTAMP:20261001T000000Z',
          `RECURRENCE-ID${id}`,
          `DTSTART${DUBLIN}:20261102T150000`,
          'DURATION:PT30M',
          'END:VEVENT',
        ])[1],
      ).to.equal('11-02T15:00 11-02T15:30')
    const added = [
      'RDATE;TZID=Asia/Kathmandu:20261110T144500',
      'RDATE;VALUE=PERIOD:20261111T090000Z/PT2H,20261112T090000Z/20261112T093000Z',
    ]
    expect(at([`DTSTART${DUBLIN}:20261101T090000`, 'DURATION:PT1H', ...added])).to.deep.equal([
      '11-01T09:00 11-01T10:00',
      '11-10T09:00 11-10T10:00',
      '11-11T09:00 11-11T11:00',
      '11-12T09:00 11-12T09:30',
    ])
  })

  it('reads zones by the names of Windows, where the file’s own description does not say otherwise', () => {
    const GMT = ['STANDARD:20261025T020000:+0100:+0000', 'DAYLIGHT:20260329T010000:+0000:+0100']
    const ROLLING = ['10-24T11:00 10-24T12:00', '10-25T12:00 10-25T13:00']
    const zone = (name: string, kinds: string[]): string[] => [
      'BEGIN:VTIMEZONE',
      `TZID:${name}`,
      ...kinds.flatMap(k => {
        const [kind = '', start = '', from = '', to = ''] = k.split(':')
        const month = start.slice(4, 6)
        return [
          `BEGIN:${kind}`,
          `DTSTART:${start}`,
          `TZOFFSETFROM:${from}`,
          `TZOFFSETTO:${to}`,
          `RRULE:FREQ=YEARLY;BYMONTH=${Number(month)};BYDAY=-1SU`,
          `END:${kind}`,
        ]
      }),
      'END:VTIMEZONE',
    ]
    const daily = (name: string): string[] => [
      `DTSTART;TZID=${name}:20261024T120000`,
      'DURATION:PT1H',
      'RRULE:FREQ=DAILY;COUNT=2',
    ]
    for (const [name, described] of [
      ['GMT Standard Time', []],
      ['GMT Standard Time', zone('GMT Standard Time', GMT)],
      ['Our own time', zone('Our own time', GMT)],
    ] as const)
      expect(at(daily(name), [...described]), name).to.deep.equal(ROLLING)
    // The file is right about itself (RFC 5545 §3.6.5).
    const other = zone('GMT Standard Time', ['STANDARD:20260101T000000:+0500:+0500'])
    expect(at(daily('GMT Standard Time'), other)).to.deep.equal([
      '10-24T07:00 10-24T08:00',
      '10-25T07:00 10-25T08:00',
    ])
    const read = readCalendarObject(
      [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        'PRODID:-//x//EN',
        'BEGIN:VEVENT',
        'UID:u',
        'DTSTAMP:20261001T000000Z',
        'DTSTART;TZID=W. Europe Standard Time:20261024T120000',
        'END:VEVENT',
        'END:VCALENDAR',
        '',
      ].join('\r\n'),
    )
    expect(read.kind === 'understood' && read.value.kind === 'event' && read.value.time.anchor).to.deep.equal(
      {
        kind: 'zoned',
        local: '2026-10-24T12:00:00',
        zone: 'Europe/Berlin',
      },
    )
  })

  it('says of what it does not work out that it does not', () => {
    const start = 'DTSTART;VALUE=DATE:20261001'
    for (const [line, because] of [
      ['EXRULE:FREQ=DAILY;INTERVAL=2', /EXRULE/],
      ['RRULE:RSCALE=CHINESE;FREQ=YEARLY', /RSCALE=CHINESE/],
      ['RRULE:FREQ=MONTHLY;BYMONTHDAY=31;RSCALE=GREGORIAN;SKIP=BACKWARD', /SKIP=BACKWARD/],
    ] as const)
      expect(() => at([start, 'RRULE:FREQ=DAILY;COUNT=3', line])).to.throw(NotUnderstood, because)
    expect(at([start, 'RRULE:RSCALE=GREGORIAN;FREQ=DAILY;COUNT=2;SKIP=OMIT'])).to.have.length(2)
  })
})
