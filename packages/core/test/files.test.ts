import { expect } from 'chai'
import fc from 'fast-check'
import {
  readCalendarObject,
  onDate,
  calendarObjectOf,
  compareEntry,
  type CsvMapping,
  type Event,
  type FileContents,
  guessMapping,
  type Item,
  jsCalendarOf,
  newEvent,
  newTask,
  occurrencesBetween,
  parseEvent,
  readCalendarFile,
  readJsCalendar,
  readRows,
  readTable,
  seriesKeyOf,
  type Task,
  type When,
  writeCalendarFile,
  writeJsCalendar,
  writeTable,
} from '../src/index.ts'
import { done } from './support/done.ts'
import { fromText } from '../src/formats/csv-values.ts'
import { composeTask } from '../src/formats/vtodo.ts'
import { composeEvent } from '../src/ical/vevent.ts'

/** What is exported and imported again is the same; what other programs write is read. */

const NOW = Date.parse('2026-11-24T11:00:00Z')
const ZONES = ['Europe/Dublin', 'Asia/Kathmandu', 'UTC', 'America/St_Johns']

const calendar = (text: string): FileContents | null => done(readCalendarFile(text))
const js = (text: string): FileContents | null => done(readJsCalendar(text, NOW))
const table = (text: string, change: Partial<CsvMapping> = {}): FileContents => {
  const read = readTable(text)
  if (!read) throw new Error('no table')
  const mapping = { ...guessMapping(read, 'Europe/Dublin'), ...change }
  return done(readRows(read, mapping, row => `row ${row.join()}`))
}

/** Hours that happen exactly once wherever they are. */
const local = fc
  .record({
    day: fc.integer({ min: 0, max: 700 }),
    minute: fc.integer({ min: 4 * 60, max: 23 * 60 }),
    second: fc.constantFrom(0, 0, 30),
  })
  .map(({ day, minute, second }) =>
    new Date(Date.UTC(2026, 0, 5) + day * 86_400_000 + minute * 60_000 + second * 1000)
      .toISOString()
      .slice(0, 19),
  )
const when: fc.Arbitrary<When> = fc.oneof(
  local.map((l): When => ({ kind: 'date', date: l.slice(0, 10) })),
  fc
    .record({ l: local, zone: fc.constantFrom(...ZONES) })
    .map(({ l, zone }): When => ({ kind: 'zoned', local: l, zone })),
  local.map((l): When => ({ kind: 'floating', local: l })),
)
/** No lone carriage return: no format of these carries it. */
const words = fc
  .string({
    unit: fc.constantFrom('a', 'É', '漢', ' ', ',', ';', '\\', '"', "'", '=', '+', '-', '@', '\n', ':', '<'),
    maxLength: 20,
  })
  .map(t => t.trim())
const title = words.map(t => t.replace(/\n/g, ' ').trim() || 'Untitled')
// The library that parses iCalendar takes a backslash at the end of a name for one before the comma.
const names = fc.uniqueArray(
  words.map(t => t.replace(/\n/g, ' ').trim()).filter(t => t !== '' && !t.endsWith('\\')),
  { maxLength: 3 },
)
const link = fc.constantFrom(null, 'https://garden.example/a?b=1&c=2')
const task: fc.Arbitrary<Task> = fc
  .record({
    summary: title,
    description: words,
    status: fc.constantFrom('needs-action', 'in-process', 'completed', 'cancelled'),
    // iCalendar wants both dates of one kind (RFC 5545 §3.8.2.3), and in their order.
    dates: fc.oneof(
      fc.constant([null, null] as const),
      when.map(w => [w, null] as const),
      when.map(w => [null, w] as const),
      when.map(w => [w, w] as const),
    ),
    estimatedDuration: fc.option(fc.integer({ min: 1, max: 3000 })),
    priority: fc.integer({ min: 0, max: 9 }),
    categories: names,
    parent: fc.constantFrom(null, 'parent@garden.example'),
    url: link,
    location: words.map(t => t.replace(/\n/g, ' ').trim()),
  })
  .map(({ dates: [start, due], status, location, ...rest }) => ({
    ...newTask('t@garden.example', {
      ...rest,
      ...(location && { location }),
      status: status as Task['status'],
      start,
      due,
    }),
    serviceStatus: status,
  }))
const event: fc.Arbitrary<Event> = fc
  .record({
    summary: title,
    description: words,
    location: words.map(t => t.replace(/\n/g, ' ').trim()),
    transparency: fc.constantFrom('opaque', 'transparent'),
    class: fc.constantFrom('public', 'private', 'confidential'),
    categories: names,
    url: link,
    anchor: when,
    minutes: fc.integer({ min: 1, max: 3000 }),
  })
  .map(({ anchor, minutes, transparency, class: shown, ...rest }) =>
    newEvent(
      'e@garden.example',
      { anchor, minutes: anchor.kind === 'date' ? Math.ceil(minutes / 1440) * 1440 : minutes },
      { ...rest, transparency: transparency as Event['transparency'], class: shown as Event['class'] },
    ),
  )
const item: fc.Arbitrary<Item> = fc.oneof(task, event)

describe('what is exported and imported again is the same', () => {
  const ways: [string, (item: Item) => FileContents | null][] = [
    ['iCalendar', i => calendar(writeCalendarFile([calendarObjectOf(i, null, NOW)]))],
    ['JSCalendar', i => js(writeJsCalendar([jsCalendarOf(i, null, NOW)], 'file', NOW))],
    ['CSV', i => table(writeTable([i]))],
  ]
  for (const [name, through] of ways)
    it(`${name}`, () => {
      fc.assert(
        fc.property(item, original => {
          const contents = through(original)
          expect(contents?.problems).to.deep.equal([])
          const [entry] = contents?.entries ?? []
          if (!entry) throw new Error('nothing came back')
          expect(entry.item.uid).to.equal(original.uid)
          expect(compareEntry(entry, original, null)).to.deep.equal({ kind: 'same' })
        }),
        { numRuns: 400 },
      )
    })

  it('what a task waits for, and how long after it, beside what it is a part of', () => {
    const waits = fc.uniqueArray(
      fc.record({
        uid: fc.constantFrom('parent@garden.example', 'a@x', 'b@x'),
        gap: fc.constantFrom(0, 5, 90, 1440),
      }),
      { selector: w => w.uid, maxLength: 3 },
    )
    fc.assert(
      fc.property(task, waits, (plain, waitsFor) => {
        const waiting = { ...plain, ...(waitsFor.length > 0 && { waitsFor }) }
        for (const [name, through] of ways.filter(([n]) => n !== 'CSV')) {
          const back = through(waiting)?.entries[0]?.item
          const found = back?.kind === 'task' ? (back.waitsFor ?? []) : null
          expect(found, name).to.have.deep.members(waitsFor)
          expect(back?.kind === 'task' && back.parent, name).to.equal(plain.parent)
        }
      }),
      { numRuns: 100 },
    )
  })

  it('a task whose plan is an hour and whose deadline is a day', () => {
    const mixed = newTask('m@garden.example', {
      summary: 'Mixed',
      start: { kind: 'zoned', local: '2026-11-25T09:00:00', zone: 'Asia/Kathmandu' },
      due: { kind: 'date', date: '2026-11-27' },
    })
    for (const [name, through] of ways) {
      const [entry] = through(mixed)?.entries ?? []
      expect(entry && compareEntry(entry, mixed, null), name).to.deep.equal({ kind: 'same' })
    }
  })

  it('an end inside the hour that the clocks repeat', () => {
    const late = newEvent(
      'late@x',
      {
        anchor: { kind: 'zoned', local: '2026-10-25T00:30:00', zone: 'Europe/Dublin' },
        minutes: 120,
      },
      { summary: 'Moth count' },
    )
    for (const [name, through] of ways) {
      const [entry] = through(late)?.entries ?? []
      expect(entry?.item, name).to.have.deep.nested.property('time.minutes', 120)
    }
  })
})

const SERIES = `BEGIN:VCALENDAR\r
VERSION:2.0\r
PRODID:-//elsewhere//EN\r
BEGIN:VEVENT\r
UID:walk@garden.example\r
DTSTAMP:20260101T000000Z\r
DTSTART;TZID=Europe/Dublin:20260921T090000\r
DTEND;TZID=Europe/Dublin:20260921T093000\r
RRULE:FREQ=WEEKLY;UNTIL=20261231T090000Z;BYDAY=MO,TH\r
EXDATE;TZID=Europe/Dublin:20261026T090000\r
RDATE;TZID=Europe/Dublin:20261106T100000\r
SUMMARY:Stand-up walk\r
ATTENDEE:mailto:tobias@quillmere.example\r
END:VEVENT\r
BEGIN:VEVENT\r
UID:walk@garden.example\r
DTSTAMP:20260101T000000Z\r
RECURRENCE-ID;TZID=Europe/Dublin:20261112T090000\r
DTSTART;TZID=Europe/Dublin:20261112T103000\r
DTEND;TZID=Europe/Dublin:20261112T113000\r
SUMMARY:Stand-up walk\\, with trustees\r
END:VEVENT\r
BEGIN:VEVENT\r
UID:walk@garden.example\r
DTSTAMP:20260101T000000Z\r
RECURRENCE-ID;TZID=Europe/Dublin:20261119T090000\r
DTSTART;TZID=Europe/Dublin:20261119T090000\r
DTEND;TZID=Europe/Dublin:20261119T093000\r
STATUS:CANCELLED\r
SUMMARY:Stand-up walk\r
END:VEVENT\r
END:VCALENDAR\r
`
const dates = (text: string) =>
  occurrencesBetween(text, Date.parse('2026-10-01'), Date.parse('2027-01-10'), 'Europe/Dublin').map(o => [
    o.startMs,
    o.endMs,
    o.summary,
  ])

describe('series', () => {
  it('keep every byte through iCalendar', () => {
    const file = writeCalendarFile([SERIES])
    const [entry] = calendar(file)?.entries ?? []
    expect(entry?.original).to.contain('ATTENDEE:mailto:tobias@quillmere.example')
    expect(entry?.series).to.equal(seriesKeyOf(SERIES))
  })

  it('keep rules, left-out, added and different dates through JSCalendar', () => {
    const [entry] =
      js(writeJsCalendar([jsCalendarOf(parseEvent(SERIES), SERIES, NOW)], 'file', NOW))?.entries ?? []
    expect(entry?.series).to.equal(seriesKeyOf(SERIES))
    expect(dates(entry?.original ?? '')).to.deep.equal(dates(SERIES))
    expect(entry && compareEntry(entry, parseEvent(SERIES), seriesKeyOf(SERIES))).to.deep.equal({
      kind: 'same',
    })
  })

  it('that repeat differently are not changed from a file', () => {
    const [entry] = calendar(SERIES.replace('BYDAY=MO,TH', 'BYDAY=MO'))?.entries ?? []
    expect(entry && compareEntry(entry, parseEvent(SERIES), seriesKeyOf(SERIES))).to.have.property(
      'kind',
      'apart',
    )
  })

  it('carry every part of a rule', () => {
    for (const rule of [
      'FREQ=YEARLY;INTERVAL=2;BYMONTH=1,3;BYDAY=-1SU,2MO;COUNT=9',
      'FREQ=MONTHLY;BYMONTHDAY=-1,15;WKST=SU',
      'FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO',
      'FREQ=YEARLY;BYYEARDAY=1,-100',
      'FREQ=MONTHLY;BYDAY=MO,TU,WE;BYSETPOS=-1',
      'FREQ=DAILY;BYHOUR=9,10;BYMINUTE=0,30',
    ]) {
      const text = SERIES.replace(/RRULE:.*\r\n/, `RRULE:${rule}\r\n`)
      const [entry] = js(JSON.stringify(jsCalendarOf(parseEvent(text), text, NOW)))?.entries ?? []
      expect(entry?.series, rule).to.equal(seriesKeyOf(text))
    }
  })
})

describe('a series in JSCalendar', () => {
  const base = {
    '@type': 'Event',
    uid: 'j@x',
    title: 'Round',
    start: '2026-11-02T09:00:30',
    timeZone: 'Europe/Dublin',
    duration: 'PT1M30S',
    locations: { shed: { '@type': 'Location', name: 'Shed' } },
    recurrenceRules: [{ '@type': 'RecurrenceRule', frequency: 'weekly', count: 3 }],
  }
  const given = (more: object) => {
    const contents = js(JSON.stringify({ ...base, ...more }))
    return { reason: contents?.problems[0]?.reason, text: contents?.entries[0]?.original ?? '' }
  }

  it('gives a date another place, way to take time, and status, by whole values and by paths', () => {
    const { text, reason } = given({
      recurrenceOverrides: {
        '2026-11-09T09:00:30': { 'locations/shed/name': 'Moss house', freeBusyStatus: 'free' },
        '2026-11-16T09:00:30': { locations: null, status: 'cancelled' },
      },
    })
    expect(reason).to.equal(undefined)
    const [, second = '', third = ''] = text.split('RECURRENCE-ID')
    expect(second).to.contain('LOCATION:Moss house').and.to.contain('TRANSP:TRANSPARENT')
    expect(third).to.contain('STATUS:CANCELLED').and.not.to.contain('LOCATION')
    expect(dates(text).map(([from = 0, to = 0]) => [Number(to) - Number(from)])).to.deep.equal([
      [90_000],
      [90_000],
    ])
    const out = jsCalendarOf(parseEvent(text), text, NOW) as { recurrenceOverrides: object; duration: string }
    expect(out.duration).to.equal('PT1M30S')
    expect(out.recurrenceOverrides).to.deep.equal({
      '2026-11-09T09:00:30': {
        locations: { 1: { '@type': 'Location', name: 'Moss house' } },
        freeBusyStatus: 'free',
      },
      '2026-11-16T09:00:30': { locations: null, status: 'cancelled' },
    })
  })

  it('tells how far a round of a task has come', () => {
    const task = {
      '@type': 'Task',
      uid: 't@x',
      title: 'Water',
      start: '2026-11-02T09:00:00',
      timeZone: 'Europe/Dublin',
      recurrenceRules: base.recurrenceRules,
      recurrenceOverrides: { '2026-11-09T09:00:00': { progress: 'completed' } },
    }
    const [entry] = js(JSON.stringify(task))?.entries ?? []
    expect(entry?.original).to.match(/RECURRENCE-ID[^]*STATUS:COMPLETED/)
  })

  it('counts a last day that is told without an hour to its end, either way', () => {
    const rules = (until: string) => ({
      recurrenceRules: [{ '@type': 'RecurrenceRule', frequency: 'weekly', until }],
    })
    expect(dates(given(rules('2026-11-16')).text)).to.have.length(3)
    const text = SERIES.replace(/RRULE:.*\r\n/, 'RRULE:FREQ=WEEKLY;UNTIL=20261012\r\n')
    const out = jsCalendarOf(parseEvent(text), text, NOW) as { recurrenceRules: { until: string }[] }
    expect(out.recurrenceRules[0]?.until).to.equal('2026-10-12T23:59:59')
  })

  const refused: [string, object, RegExp][] = [
    [
      'rules that leave out',
      { excludedRecurrenceRules: [{ '@type': 'RecurrenceRule', frequency: 'yearly' }] },
      /leaves out dates by a rule/,
    ],
    [
      'another calendar',
      { recurrenceRules: [{ frequency: 'yearly', rscale: 'hebrew' }] },
      /calendar that is not worked out/,
    ],
    [
      'days put elsewhere',
      { recurrenceRules: [{ frequency: 'monthly', skip: 'backward' }] },
      /puts days that do not exist on others/,
    ],
    [
      'a path to nothing',
      { recurrenceOverrides: { '2026-11-09T09:00:30': { 'locations/hall/name': 'Hall' } } },
      /which it does not have/,
    ],
  ]
  for (const [what, more, reason] of refused)
    it(`is not understood with ${what}, and says so`, () => {
      expect(given(more).reason).to.match(reason)
    })
})

describe('files of other programs', () => {
  it('an .ics with line feeds, tabs in folds, a zone of its own, a task and something unreadable', () => {
    const text = [
      '\uFEFFBEGIN:VCALENDAR',
      'VERSION:2.0',
      'METHOD:PUBLISH',
      'BEGIN:VTIMEZONE',
      'TZID:Garden/Shed',
      'BEGIN:STANDARD',
      'DTSTART:19700101T000000',
      'TZOFFSETFROM:+0200',
      'TZOFFSETTO:+0200',
      'END:STANDARD',
      'END:VTIMEZONE',
      'BEGIN:VEVENT',
      'UID:a@x',
      'DTSTART;TZID="Garden/Shed":20261125T100000',
      'DURATION:PT1H30M',
      'SUMMARY:A long tit',
      '\tle that was folded',
      'END:VEVENT',
      'BEGIN:VTODO',
      'UID:b@x',
      'DUE;VALUE=DATE:20261127',
      'SUMMARY:Call the lantern maker',
      'END:VTODO',
      'BEGIN:VEVENT',
      'UID:c@x',
      'SUMMARY:No start',
      'END:VEVENT',
      'BEGIN:VEVENT',
      'SUMMARY:No uid',
      'DTSTART:20261125T100000Z',
      'END:VEVENT',
      'END:VCALENDAR',
    ].join('\n')
    const contents = calendar(text)
    expect(contents?.entries.map(e => [e.item.kind, e.item.summary])).to.deep.equal([
      ['event', 'A long title that was folded'],
      ['task', 'Call the lantern maker'],
    ])
    expect(contents?.entries[0]?.item).to.have.deep.property('time', {
      anchor: { kind: 'zoned', local: '2026-11-25T08:00:00', zone: 'UTC' },
      minutes: 90,
    })
    expect(contents?.problems.map(p => p.reason)).to.deep.equal(['It has no start.', 'They have no UID.'])
  })

  it('a JSCalendar event as RFC 8984 §6.6 shows one, and one that is wrong', () => {
    const contents = js(
      JSON.stringify([
        {
          '@type': 'Event',
          uid: 'a8df6573-0474-496d-8496-033ad45d7fea',
          updated: '2020-01-02T18:23:04Z',
          title: 'Some event',
          start: '2020-01-15T13:00:00',
          timeZone: 'America/New_York',
          duration: 'P1DT1H',
        },
        { '@type': 'Task', uid: 'wrong', start: 'tomorrow' },
      ]),
    )
    expect(contents?.entries[0]?.item).to.have.deep.property('time', {
      anchor: { kind: 'zoned', local: '2020-01-15T13:00:00', zone: 'America/New_York' },
      minutes: 1500,
    })
    expect(contents?.problems).to.deep.equal([
      { where: 'wrong', reason: 'start: is not a local date and time.' },
    ])
    expect(js('{"tasks": []}')).to.equal(null)
  })

  it('a table with its own headings, semicolons and dates with the day first', () => {
    const text =
      'Chore;Deadline;Done;Hours;Room\r\nOil the hinges;27.11.2026;no;1,5 h;Gate\r\nCount moths;31.02.2026;yes;;\r\n;1.1.2026;;;'
    const { entries, problems } = table(text)
    expect(
      entries.map(e => [e.item.summary, (e.item as Task).due, (e.item as Task).estimatedDuration]),
    ).to.deep.equal([['Oil the hinges', { kind: 'date', date: '2026-11-27' }, 90]])
    expect(entries[0]?.says).to.have.members(['summary', 'due', 'status', 'estimatedDuration', 'location'])
    expect(problems).to.deep.equal([
      { where: 'Row 3', reason: '“31.02.2026” is no day of the calendar.' },
      { where: 'Row 4', reason: 'It has no title.' },
    ])
  })

  it('a table whose dates show that the month comes first, with hours told in halves of the day', () => {
    const text = 'Subject,Start,End\nSwap,11/25/2026 1:30 PM,11/25/2026 3:00 pm\n'
    const read = readTable(text)
    expect(read && guessMapping(read, 'Europe/Dublin')).to.deep.include({
      rows: 'event',
      order: 'month-first',
    })
    expect(table(text).entries[0]?.item).to.have.deep.property('time', {
      anchor: { kind: 'zoned', local: '2026-11-25T13:30:00', zone: 'Europe/Dublin' },
      minutes: 90,
    })
    expect(readTable('just words')).to.equal(null)
  })

  it('dates, hours and lengths as people write them, in the order that is asked', () => {
    const at = (cell: string, order: 'day-first' | 'month-first' = 'day-first') => {
      const read = readTable(`Title;Start\nOil;${cell}\n`)
      const { entries } = read
        ? done(readRows(read, { ...guessMapping(read, 'Europe/Dublin'), order }, () => 'u'))
        : { entries: [] }
      const { item } = entries[0] ?? {}
      const start = item?.kind === 'task' ? item.start : null
      return start === null ? null : start.kind === 'date' ? start.date : start.local.slice(0, 16)
    }
    const DAY = '2026-12-03'
    for (const cell of [
      '3 Dec 2026',
      '3 December 2026',
      '03-Dec-26',
      '3rd of December, 2026',
      'Dec 3, 2026',
      'December 3rd 2026',
      'Thu 3 Dec 2026',
      'Thursday, 3 December 2026',
      '3/12/26',
      '03.12.2026',
      '3-12-2026',
      '2026/12/3',
      '20261203',
    ])
      expect(at(cell), cell).to.equal(DAY)
    expect(at('12/3/26', 'month-first')).to.equal(DAY)
    for (const [cell, hour] of [
      ['3 Dec 2026 3pm', '15:00'],
      ['3/12/26 3:30 PM', '15:30'],
      ['3/12/2026 12 am', '00:00'],
      ['Dec 3, 2026 at 9 a.m.', '09:00'],
      ['3.12.2026 15.30', '15:30'],
      ['2026-12-03T15:30:00', '15:30'],
      ['2026-12-03 15h30', '15:30'],
    ] as const)
      expect(at(cell), cell).to.equal(`${DAY}T${hour}`)
    for (const cell of [
      '31/2/26',
      '3/12',
      'Dec 2026',
      '3 Dec 2026 25:00',
      '3 Dec 2026 13pm',
      '3 Dec 2026 late',
      '30 Foo 2026',
      '3/12/2026/4',
    ])
      expect(at(cell), cell).to.equal(null)

    const length = (cell: string): number | null => {
      const { item } = table(`Title;Length\nOil;${cell}\n`).entries[0] ?? {}
      return item?.kind === 'task' ? item.estimatedDuration : null
    }
    for (const [cell, minutes] of [
      ['1.5 hours', 90],
      ['1,5 h', 90],
      ['1h30', 90],
      ['90 mins', 90],
      ['1 hr 30 min', 90],
      ['half an hour', 30],
      ['PT45M', 45],
      ['1:15', 75],
      ['20', 20],
    ] as const)
      expect(length(cell), cell).to.equal(minutes)
    expect(length('long')).to.equal(null)
  })

  it('a table that names its separator in its first line', () => {
    for (const sep of [';', ',', '|', '\t']) {
      const { entries } = table(`sep=${sep}\r\nTitle${sep}Due\r\nOil${sep}3 Dec 2026\r\n`)
      expect(entries.map(e => e.item.kind === 'task' && e.item.due)).to.deep.equal([onDate('2026-12-03')])
    }
    expect(table('sep=;\nTitle;Due\n"a;b";3 Dec 2026\n').entries[0]?.item.summary).to.equal('a;b')
  })

  it('a table with an end and no start: days by which something is to be done', () => {
    const { entries, problems } = table('Title;Until\r\nOil the hinges;3.12.2026\r\nSweep;\r\n')
    expect(problems).to.deep.equal([])
    expect(entries.map(e => e.item.kind === 'task' && e.item.due)).to.deep.equal([
      { kind: 'date', date: '2026-12-03' },
      null,
    ])
  })

  it('a table with more rows than are read at once: the first of them, and a word about the rest', () => {
    const rows = Array.from({ length: 20_002 }, (_, i) => `Job ${i};1`)
    const { entries, problems } = table(['Title;Weight', ...rows].join('\n'))
    expect(entries).to.have.length(20_000)
    expect(problems).to.deep.equal([
      {
        where: 'After row 20001',
        reason: 'Only the first 20000 rows are read. Bring in the rest as a file of its own.',
      },
    ])
  })

  it('no text from outside makes a content line of its own, in whatever field it stands', () => {
    const end = fc.constantFrom('\r\n', '\r', '\n', '\r\n ', '\n\r')
    const hostile = fc
      .tuple(fc.string({ maxLength: 8 }), end)
      .map(([text, nl]) => `${text}${nl}X-PLANTED:1${nl}END:VEVENT`)
    fc.assert(
      fc.property(hostile, hostile, (x, y) => {
        const words = { summary: x, description: y, categories: [x, y], url: `https://x.example/${x}` }
        const anchor = { kind: 'zoned' as const, local: '2026-11-25T10:00:00', zone: 'Europe/Dublin' }
        for (const text of [
          composeEvent(newEvent(x, { anchor, minutes: 60 }, { ...words, location: y }), 0),
          composeTask(newTask(x, { ...words, parent: y }), 0),
        ]) {
          expect(text).to.not.match(/(^|[\r\n])X-PLANTED/)
          expect(text.match(/^END:V(EVENT|TODO)\r$/gm)).to.have.length(1)
          expect(readCalendarObject(text).kind).to.equal('understood')
        }
      }),
    )
  })

  it('what a spreadsheet would run is text there', () => {
    const risky = newTask('r@x', { summary: '=HYPERLINK("http://x")' })
    expect(writeTable([risky])).to.contain("'=HYPERLINK")
    expect(table(writeTable([risky])).entries[0]?.item.summary).to.equal('=HYPERLINK("http://x")')
    for (const start of ['=', '+', '-', '@', ' =', '\t', '\n=', '＝', "'=", "''+", '\u00a0@']) {
      const [cell = ''] = [
        ...writeTable([newTask('r@x', { summary: `${start}1+1` })]).matchAll(/'[^,]*1\+1/g),
      ].map(m => m[0])
      expect(cell.replace(/^'/, ''), start).to.equal(`${start}1+1`)
      expect(fromText(cell)).to.equal(`${start}1+1`)
    }
  })

  it('says in a change only what the file says', () => {
    const held = newTask('h@x', { summary: 'Old', description: 'Kept notes', priority: 3 })
    const { entries } = table('id,title,priority\nh@x,New,3\n')
    expect(entries[0] && compareEntry(entries[0], held, null)).to.deep.equal({
      kind: 'changed',
      patch: { summary: 'New' },
      before: { summary: 'Old' },
    })
  })
})
