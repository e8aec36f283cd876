import { expect } from 'chai'
import fc from 'fast-check'
import {
  composeNewEvent,
  isFirst,
  newEvent,
  NotUnderstood,
  type Occurrence,
  occurrencesBetween,
  onDate,
  parseEvent,
  patchEventObject,
  patchSeries,
  type Repeats,
  seriesFrom,
  zoned,
} from '../src/index.ts'

const ZONE = 'Europe/Dublin'
const NOW = Date.parse('2026-11-25T09:00:00Z')
const [FROM, TO] = [Date.parse('2026-10-01'), Date.parse('2027-03-01')]

/** Mondays at nine over the change to winter time, twelve of them. */
const weekly = (rule = 'FREQ=WEEKLY;COUNT=12', more: string[] = []): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'X-KEPT:as it is',
    'BEGIN:VEVENT',
    'UID:potting',
    'DTSTAMP:20260901T080000Z',
    `DTSTART;TZID=${ZONE}:20261012T090000`,
    `DTEND;TZID=${ZONE}:20261012T100000`,
    `RRULE:${rule}`,
    ...more,
    'SUMMARY:Potting round',
    'BEGIN:VALARM',
    'ACTION:DISPLAY',
    'TRIGGER:-PT15M',
    'END:VALARM',
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n')

const dates = (text: string): Occurrence[] => occurrencesBetween(text, FROM, TO, ZONE)
const told = (text: string): string[] =>
  dates(text).map(o => `${new Date(o.startMs).toISOString().slice(0, 16)} ${o.summary}`)
const ids = dates(weekly()).map(o => o.recurrenceId)

describe('one date of a series', () => {
  it('reads otherwise than the rest, which keep every byte', () => {
    const text = weekly()
    const id = ids[3] ?? ''
    const time = { anchor: zoned('2026-11-03T14:00:00', ZONE), minutes: 30 }
    const after = patchSeries(text, { do: 'change', id, change: { time, summary: 'Repotting' } }, NOW)
    expect(told(after).filter((_, i) => i !== 3)).to.deep.equal(told(text).filter((_, i) => i !== 3))
    expect(told(after)[3]).to.equal('2026-11-03T14:00 Repotting')
    const master = text.slice(0, text.indexOf('END:VEVENT'))
    expect(after.startsWith(master)).to.equal(true)
    // The alarm comes along with the date.
    expect(after.match(/BEGIN:VALARM/g)).to.have.length(2)
    const twice = patchSeries(after, { do: 'change', id, change: { summary: 'Potting, late' } }, NOW)
    expect(told(twice)[3]).to.equal('2026-11-03T14:00 Potting, late')
    expect(twice.match(/RECURRENCE-ID/g)).to.have.length(1)
  })

  it('is left out, whether it had been changed before or not', () => {
    const id = ids[5] ?? ''
    const changed = patchSeries(weekly(), { do: 'change', id, change: { summary: 'Other' } }, NOW)
    for (const text of [weekly(), changed]) {
      const after = patchSeries(text, { do: 'drop', id }, NOW)
      expect(dates(after).map(o => o.recurrenceId)).to.deep.equal(ids.filter(x => x !== id))
      expect(patchSeries(after, { do: 'drop', id }, NOW)).to.equal(after)
    }
  })
})

describe('one date and all later ones', () => {
  it('falls into two series that together have the dates of the one, however it is cut and counted', () => {
    const rules = [
      'FREQ=WEEKLY;COUNT=12',
      'FREQ=DAILY;INTERVAL=3;UNTIL=20270115T090000Z',
      'FREQ=MONTHLY;COUNT=4',
    ]
    fc.assert(
      fc.property(fc.constantFrom(...rules), fc.nat(30), fc.nat(30), (rule, cut, out) => {
        const whole = weekly(rule)
        const all = dates(whole)
        const dropped = all[out % all.length]?.recurrenceId ?? ''
        const text = out % 3 === 0 ? patchSeries(whole, { do: 'drop', id: dropped }, NOW) : whole
        const id = all[1 + (cut % (all.length - 1))]?.recurrenceId ?? ''
        const before = patchSeries(text, { do: 'end-before', id }, NOW)
        const after = seriesFrom(text, id, 'potting-2', NOW)
        expect([...told(before), ...told(after)]).to.deep.equal(told(text))
        expect(parseEvent(after).uid).to.equal('potting-2')
      }),
    )
  })

  it('knows the first date, after which nothing of the old series would be left', () => {
    expect(isFirst(weekly(), ids[0] ?? '')).to.equal(true)
    expect(isFirst(weekly(), ids[1] ?? '')).to.equal(false)
  })
})

describe('all dates of a series', () => {
  it('move by the clock on the wall, changed and left out ones with them', () => {
    const [first = '', , third = '', fourth = ''] = ids
    const out = patchSeries(weekly(), { do: 'drop', id: third }, NOW)
    const own = patchSeries(out, { do: 'change', id: fourth, change: { summary: 'Other' } }, NOW)
    const time = { anchor: zoned('2026-10-12T11:30:00', ZONE), minutes: 45 }
    const after = patchSeries(own, { do: 'shift', id: first, time }, NOW)
    // Two and a half hours later on the wall, in summer time and in winter time.
    expect(told(after)[0]).to.equal('2026-10-12T10:30 Potting round')
    expect(told(after).at(-1)).to.equal('2026-12-28T11:30 Potting round')
    expect(dates(after)).to.have.length(ids.length - 1)
    expect(told(after).filter(t => t.endsWith('Other'))).to.have.length(1)
    expect(patchSeries(after, { do: 'shift', id: dates(after)[0]?.recurrenceId ?? '', time }, NOW)).to.equal(
      after,
    )
  })

  const refusals: [string, string, () => string][] = [
    [
      'a day that its rule names',
      'days of its own',
      () =>
        patchSeries(
          weekly('FREQ=WEEKLY;BYDAY=MO'),
          {
            do: 'shift',
            id: '2026-10-12T09:00:00',
            time: { anchor: zoned('2026-10-13T09:00:00', ZONE), minutes: 60 },
          },
          NOW,
        ),
    ],
    [
      'between hours and days',
      'between days and hours',
      () =>
        patchSeries(
          weekly(),
          { do: 'shift', id: '2026-10-12T09:00:00', time: { anchor: onDate('2026-10-12'), minutes: 1440 } },
          NOW,
        ),
    ],
    [
      'a cut through listed dates',
      'listed one by one',
      () =>
        seriesFrom(
          weekly('FREQ=WEEKLY', [`RDATE;TZID=${ZONE}:20261015T090000`]),
          '2026-10-19T09:00:00',
          'x',
          NOW,
        ),
    ],
  ]
  for (const [what, words, act] of refusals)
    it(`does not change ${what}, and says so`, () => {
      expect(act).to.throw(NotUnderstood, words)
    })
})

describe('a new event that repeats and has guests', () => {
  const evening = (zone: string) => ({ anchor: zoned('2026-12-04T20:00:00', zone), minutes: 30 })
  const made = (zone: string, repeats: Repeats) =>
    composeNewEvent(newEvent('r', evening(zone)), { repeats, organizer: null, guests: [] }, NOW)

  it('ends with the last day, wherever it repeats', () => {
    for (const zone of ['America/Los_Angeles', 'Asia/Kathmandu', ZONE]) {
      const text = made(zone, { every: 'daily', interval: 1, until: '2026-12-08' })
      expect(dates(text), zone).to.have.length(5)
    }
    const days = { anchor: onDate('2026-12-04'), minutes: 1440 }
    const repeats: Repeats = { every: 'daily', interval: 1, until: '2026-12-08' }
    const text = composeNewEvent(newEvent('d', days), { repeats, organizer: null, guests: [] }, NOW)
    expect(text).to.contain('UNTIL=20261208\r\n')
  })

  it('leaves weekends out where it repeats on workdays', () => {
    const text = made(ZONE, { every: 'workdays', interval: 1, until: '2026-12-09' })
    expect(dates(text).map(d => new Date(d.startMs).getUTCDate())).to.deep.equal([4, 7, 8, 9])
  })

  it('says both in the words of the standard, and no name breaks out of its line', () => {
    const time = { anchor: zoned('2026-11-30T10:00:00', ZONE), minutes: 30 }
    const text = composeNewEvent(
      newEvent('round', time, { summary: 'Round' }),
      {
        repeats: { every: 'weekly', interval: 2, until: '2027-01-31' },
        organizer: { name: 'Ines "I" Varga', email: 'ines@quillmere.example' },
        guests: [{ name: 'Bram\r\nX-EVIL:1', email: 'bram@quillmere.example\r\nX-EVIL:2' }],
      },
      NOW,
    )
    expect(dates(text)).to.have.length(5)
    expect(parseEvent(text).attendees).to.equal(1)
    expect(text).not.to.match(/^X-EVIL/m)
    const plain = patchEventObject(text, { summary: 'Round of all houses' }, NOW)
    expect(told(plain)[0]).to.contain('Round of all houses')
  })
})
