import { expect } from 'chai'
import fc from 'fast-check'
import {
  datesOfSeries,
  type Item,
  Item as ItemSchema,
  jsCalendarOf,
  NotUnderstood,
  occurrencesBetween,
  patchEvent,
  patchTask,
  readCalendarFile,
  readCalendarObject,
  readItem,
  readJsCalendar,
  newTask,
  seriesKeyOf,
  TooOften,
} from '../src/index.ts'

/** What passes the boundary is worked with; what does not is a sentence. Nothing throws on either side. */
const event = (...lines: string[]): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'BEGIN:VEVENT',
    'UID:x@y',
    ...lines,
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n')
const at = 'DTSTART:20261127T100000Z'
const [FROM, TO] = [Date.UTC(2026, 10, 1), Date.UTC(2027, 0, 1)]

/** All that is done with an item of a calendar object later: in the Cloth, by rules, in files and in edits. */
function workWith(text: string, item: Item): void {
  ItemSchema.parse(item)
  jsCalendarOf(item, text, FROM)
  seriesKeyOf(text)
  if (item.kind === 'task') patchTask(text, { summary: 'Other', status: 'completed' }, FROM)
  else {
    patchEvent(text, { summary: 'Other', time: item.time }, FROM)
    if (item.recurring)
      for (const unroll of [occurrencesBetween, datesOfSeries]) unroll(text, FROM, TO, 'Europe/Dublin')
  }
}

describe('the boundary', () => {
  const SLOPPY: [string, string, RegExp][] = [
    ['a date that does not say that it is one', event('DTSTART:20261127'), /./],
    [
      'a time left out that is no date',
      event('DTSTART;VALUE=DATE:20261127', 'RRULE:FREQ=DAILY', 'EXDATE:nonsense'),
      /./,
    ],
    ['a length beyond all calendars', event(at, 'DURATION:P99999999W'), /calendar/],
    ['an end in the year 300000', event(at, 'DTEND:3000001127T100000Z'), /./],
    ['a month of its own', event('DTSTART:20261399T100000Z'), /./],
    ['words for a start', event('DTSTART:next tuesday'), /./],
    ['no start', event('SUMMARY:Nothing'), /no start/],
    ['a rhythm nobody knows', event(at, 'RRULE:FREQ=FORTNIGHTLY'), /./],
    ['every 300,000 years', event(at, 'RRULE:FREQ=YEARLY;INTERVAL=300000'), /INTERVAL=300000/],
    ['a rule by no number', event(at, 'RRULE:FREQ=DAILY;INTERVAL=many'), /./],
    ['a hundred rules', event(at, ...Array.from({ length: 100 }, () => 'RRULE:FREQ=DAILY')), /100 rules/],
    ['an id of 501', event(at).replace('x@y', 'u'.repeat(501)), /id is longer/],
    ['a title of 10,001', event(at, `SUMMARY:${'t'.repeat(10_001)}`), /title is 10001 characters/],
    ['an exception to a date that is none', event(at, 'RRULE:FREQ=DAILY', 'RECURRENCE-ID:x'), /./],
    [
      'ten thousand dates listed',
      event(at, `RDATE:${Array(10_001).fill('20261127T100000Z').join(',')}`),
      /more than can be kept/,
    ],
  ]
  for (const [what, text, because] of SLOPPY)
    it(`does not understand ${what}, and says why`, () => {
      const read = readCalendarObject(text)
      expect(read.kind).to.equal('not-understood')
      if (read.kind === 'not-understood')
        expect(read.because)
          .to.match(because)
          .and.match(/^[A-Z].*/s)
    })

  const inZone = (rule: string): string =>
    [
      'BEGIN:VCALENDAR',
      'BEGIN:VTIMEZONE',
      'TZID:Odd/Zone',
      'BEGIN:STANDARD',
      'DTSTART:19701025T020000',
      'TZOFFSETFROM:+0100',
      'TZOFFSETTO:+0000',
      rule,
      'END:STANDARD',
      'END:VTIMEZONE',
      'BEGIN:VEVENT',
      'UID:z',
      'DTSTART;TZID=Odd/Zone:20261127T100000',
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ].join('\r\n')

  it('takes a zone of the file’s own making by rules that zones have, and works out no others', () => {
    for (const rule of [
      'BYDAY=-1SU;BYMONTH=10',
      'BYMONTH=9;BYMONTHDAY=30',
      'BYMONTH=10;BYDAY=SU;BYMONTHDAY=25,26,27',
    ])
      expect(readCalendarObject(inZone(`RRULE:FREQ=YEARLY;${rule}`)), rule).to.include({ kind: 'understood' })
    for (const rule of [
      'FREQ=SECONDLY',
      'FREQ=DAILY;INTERVAL=1',
      'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30',
      'FREQ=YEARLY;BYMONTH=2;BYDAY=9MO',
      'FREQ=YEARLY;BYHOUR=0,1,2;BYSECOND=0,1',
      'FREQ=YEARLY;INTERVAL=9',
    ])
      expect(readCalendarObject(inZone(`RRULE:${rule}`)), rule).to.deep.equal({
        kind: 'not-understood',
        because: 'Its time zone is described by a rule that no time zone has.',
      })
    const many = Array.from({ length: 501 }, () => 'RDATE:20000101T000000').join('\r\n')
    expect(readCalendarObject(inZone(many)).kind).to.equal('not-understood')
  })

  it('takes a file in that holds good and bad: the good ones whole, each bad one by name', () => {
    const good = event(at, 'SUMMARY:Good').replace('x@y', 'good')
    const body = (t: string): string => t.split('\r\n').slice(2, -2).join('\r\n')
    const all = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      ...[good, ...SLOPPY.map(([, t]) => t)].map((t, i) => body(t).replace('x@y', `bad-${i}`)),
      'END:VCALENDAR',
      '',
    ].join('\r\n')
    const reading = readCalendarFile(all)
    let step = reading.next()
    while (!step.done) step = reading.next()
    expect(step.value?.entries.map(e => e.item.summary)).to.deep.equal(['Good'])
    expect(step.value?.problems).to.have.length(SLOPPY.length)
  })

  it('understands when something was made or changed less strictly: nothing depends on it', () => {
    const read = readCalendarObject(event(at, 'CREATED:yesterday', 'LAST-MODIFIED:2026', 'DTSTAMP:x'))
    expect(read).to.deep.include({ kind: 'understood' })
  })

  it('refuses items of any service whose values cannot be kept or told', () => {
    const task = newTask('a', {})
    const odd: Partial<typeof task>[] = [
      { start: { kind: 'date', date: '2026-02-30' } },
      { due: { kind: 'zoned', local: '2026-11-27T25:00:00', zone: 'Europe/Dublin' } },
      { due: { kind: 'zoned', local: '2026-11-27T10:00:00', zone: 'Mars/Olympus' } },
      { uid: '' },
      { estimatedDuration: NaN },
      { estimatedDuration: 1e12 },
      { priority: 11 },
      { categories: Array<string>(1_001).fill('x') },
      { description: 'n'.repeat(500_001) },
    ]
    for (const part of odd)
      expect(readItem({ ...task, ...part }).kind, JSON.stringify(part).slice(0, 80)).to.equal(
        'not-understood',
      )
    expect(readItem(task).kind).to.equal('understood')
  })

  const LINES = [
    'DTSTART:20261127T100000Z',
    'DTSTART;VALUE=DATE:20261127',
    'DTSTART;TZID=Europe/Dublin:20261127T100000',
    'DTSTART;TZID=Nowhere:20261127T100000',
    'DTSTART:00000000T000000',
    'DTEND:20261127T110000Z',
    'DTEND;VALUE=DATE:20261128',
    'DUE:20261128',
    'DUE:20261128T100000Z',
    'DURATION:PT1H',
    'DURATION:-PT1H',
    'DURATION:P1Y',
    'RRULE:FREQ=DAILY',
    'RRULE:FREQ=SECONDLY',
    'RRULE:FREQ=YEARLY;BYMONTHDAY=31;BYMONTH=2',
    'RRULE:FREQ=MONTHLY;BYDAY=5MO;COUNT=3',
    'RRULE:FREQ=MONTHLY;BYSETPOS=-1;BYDAY=MO,TU',
    'RRULE:COUNT=3',
    'RRULE:FREQ=WEEKLY;UNTIL=20261301',
    'RRULE:FREQ=DAILY;COUNT=0',
    'RRULE:FREQ=MINUTELY;BYSECOND=0,1,2,3,59;BYMINUTE=1,2',
    'EXDATE:20261128T100000Z',
    'EXDATE:20261128',
    'EXDATE;VALUE=DATE:20261128',
    'RDATE;VALUE=PERIOD:20261201T100000Z/PT1H',
    'RDATE:x',
    'RECURRENCE-ID:20261128T100000Z',
    'RECURRENCE-ID;RANGE=THISANDFUTURE:20261129T100000Z',
    'STATUS:COMPLETED',
    'STATUS:CANCELLED',
    'COMPLETED:20261127T120000Z',
    'COMPLETED:soon',
    'PRIORITY:high',
    'ESTIMATED-DURATION:PT90M',
    'CATEGORIES:a,b\\,c',
    'SUMMARY;LANGUAGE=en:T\\n\\;',
    'ATTENDEE:mailto:a@b',
    'ATTENDEE',
    'X-ODD;A="b:1',
    'GEO:north',
    'TRIGGER:-PT5M',
    ':',
    '',
    '\u0000',
  ]
  const part = fc.tuple(
    fc.constantFrom('VEVENT', 'VTODO'),
    fc.array(fc.constantFrom(...LINES), { maxLength: 7 }),
  )
  const objects = fc
    .array(part, { minLength: 1, maxLength: 3 })
    .map(parts =>
      [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        ...parts.flatMap(([c, lines]) => [`BEGIN:${c}`, 'UID:x', ...lines, `END:${c}`]),
        'END:VCALENDAR',
        '',
      ].join('\r\n'),
    )
  const cut = fc
    .tuple(objects, fc.nat(), fc.nat({ max: 12 }), fc.string({ maxLength: 6 }))
    .map(([text, from, length, put]) => {
      const i = from % text.length
      return text.slice(0, i) + put + text.slice(i + length)
    })

  it('never throws, whatever it is given; and after it nothing does, but for a sentence', () => {
    let understood = 0
    fc.assert(
      fc.property(fc.oneof(objects, cut), text => {
        const read = readCalendarObject(text)
        if (read.kind === 'not-understood') return
        understood++
        try {
          workWith(text, read.value)
        } catch (error) {
          // What cannot be edited or unrolled is refused in words.
          if (!(error instanceof NotUnderstood)) throw error
        }
      }),
      { numRuns: 3_000 },
    )
    expect(understood).to.be.above(100)
  })

  it('reads JSCalendar in the same way: what is malformed is named, and nothing throws', () => {
    const value = fc.constantFrom<unknown>(
      '2026-11-27T10:00:00',
      '2026-99-99T10:00:00',
      'PT1H',
      'P99999999W',
      'Europe/Dublin',
      'Nowhere/Land',
      null,
      3,
      true,
      [],
      {},
      [{ frequency: 'secondly' }],
      [{ frequency: 'yearly', interval: 300000 }],
      [{ frequency: 'daily', interval: 'x', byDay: 'mo' }],
      { '2026-11-28T10:00:00': { excluded: true } },
      { '2026-99-28T10:00:00': { start: 5 } },
    )
    const keys = [
      'start',
      'duration',
      'due',
      'timeZone',
      'showWithoutTime',
      'recurrenceRules',
      'recurrenceOverrides',
      'estimatedDuration',
      'title',
      'keywords',
      'links',
    ]
    const entry = fc
      .dictionary(fc.constantFrom(...keys), value)
      .map(d => ({ '@type': 'Event', uid: 'j', start: '2026-11-27T10:00:00', ...d }))
    fc.assert(
      fc.property(
        fc.array(
          fc.oneof(
            entry,
            entry.map(e => ({ ...e, '@type': 'Task' })),
            fc.constant(null),
          ),
          { maxLength: 4 },
        ),
        entries => {
          const reading = readJsCalendar(JSON.stringify({ '@type': 'Group', entries }), FROM)
          let step = reading.next()
          while (!step.done) step = reading.next()
          for (const e of step.value?.entries ?? []) expect(readItem(e.item).kind).to.equal('understood')
        },
      ),
      { numRuns: 1_500 },
    )
  })
})

describe('unrolling within a budget', () => {
  it('says how often something repeats that cannot be shown date by date, at once', () => {
    for (const [rule, words] of [
      ['FREQ=SECONDLY', /every second/],
      ['FREQ=MINUTELY;INTERVAL=2', /every 2 minutes/],
    ] as const)
      expect(() => occurrencesBetween(event(at, `RRULE:${rule}`), FROM, TO, 'UTC')).to.throw(TooOften, words)
  })

  it('is one for all rules of an object, not one for each', () => {
    const rules = ['FREQ=HOURLY', 'FREQ=HOURLY;BYMINUTE=10', 'FREQ=HOURLY;BYMINUTE=20'].map(r => `RRULE:${r}`)
    const month = [Date.UTC(2026, 10, 27), Date.UTC(2026, 11, 27)] as const
    expect(occurrencesBetween(event(at, ...rules.slice(0, 1)), ...month, 'UTC').length).to.be.above(600)
    expect(() => occurrencesBetween(event(at, ...rules), ...month, 'UTC')).to.throw(TooOften)
  })
})
