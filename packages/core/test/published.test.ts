import { expect } from 'chai'
import fc from 'fast-check'
import ICAL from 'ical.js'
import { convertIcsCalendar } from 'ts-ics'
import {
  parseEvent,
  parseTask,
  publishedBusy,
  publishedCalendar,
  type Publication,
  splitCalendar,
} from '../src/index.ts'
import type { ClothItem, Place } from '../src/view/index.ts'
import { addDays, epochOf, MINUTE, onDate } from '../src/time/when.ts'
import { drawnItem } from './support/drawn-item.ts'

/** What calendar programs are told, read by this house, by ical.js, and by a parser that it does not use. */

const publication = (more: Partial<Publication> = {}): Publication => ({
  name: 'Garden, mine; and “more”',
  zone: 'Europe/Dublin',
  stampMs: Date.UTC(2026, 9, 20),
  refresh: 60,
  uidOf: key => `${key}@loom.example`,
  nameOf: id => (id === 'ines' ? 'Ines Varga' : ''),
  ...more,
})
const ZONES = ['Europe/Dublin', 'America/St_Johns', 'Asia/Kathmandu', 'UTC', 'Australia/Lord_Howe']
const epoch = (time: ICAL.Time): number => time.toJSDate().getTime()

/** Around the nights in which clocks are changed, here and there. */
const day = fc.constantFrom(
  '2026-10-24',
  '2026-10-25',
  '2026-10-26',
  '2026-11-01',
  '2027-03-28',
  '2027-04-04',
)
const words = fc
  .string({ maxLength: 30, unit: 'grapheme' })
  .map(t => t.replace(/[\u0000-\u0008\u000b-\u001f\u007f]/g, ''))
const place: fc.Arbitrary<Place> = fc.oneof(
  fc
    .record({ date: day, from: fc.integer({ min: 0, max: 1500 }), minutes: fc.integer({ min: 0, max: 900 }) })
    .map(({ date, from, minutes }): Place => {
      const startMs = epochOf(onDate(date), 'UTC') + from * MINUTE
      return { kind: 'timed', startMs, endMs: startMs + minutes * MINUTE }
    }),
  fc
    .tuple(day, fc.integer({ min: 0, max: 3 }))
    .map(([from, n]): Place => ({ kind: 'all-day', from, to: addDays(from, n) })),
  day.map((date): Place => ({ kind: 'day', date })),
  fc.constant<Place>({ kind: 'none' }),
)
const items = fc
  .array(
    fc.record({
      place,
      kind: fc.constantFrom<ClothItem['kind']>('event', 'task', 'tied', 'block'),
      title: words.map(t => t.trim() || 'Untitled'),
      notes: words,
      location: words.map(t => t.replace(/[\r\n]/g, ' ')),
      due: fc.option(day),
      done: fc.boolean(),
      busy: fc.boolean(),
      cancelled: fc.boolean(),
      priority: fc.integer({ min: 0, max: 9 }),
    }),
    { maxLength: 6 },
  )
  .map(all => all.map(({ place: at, ...more }, n) => drawnItem(`i${n}`, at, { ...more, people: ['ines'] })))

const calendarIn = (text: string): ICAL.Component => new ICAL.Component(ICAL.parse(text) as unknown[])
/** The zones that the object describes are the ones that its hours are read by. */
function eventsIn(text: string): ICAL.Event[] {
  const calendar = calendarIn(text)
  for (const zone of calendar.getAllSubcomponents('vtimezone'))
    ICAL.TimezoneService.register(new ICAL.Timezone(zone))
  const events = calendar.getAllSubcomponents('vevent').map(e => new ICAL.Event(e))
  return events
}

describe('a calendar that is published', () => {
  afterEach(() => ICAL.TimezoneService.reset())

  it('says when each is, in whatever zone, on days on which the clocks change too', () => {
    fc.assert(
      fc.property(items, fc.constantFrom(...ZONES), (all, zone) => {
        const text = publishedCalendar(all, 'events', publication({ zone }))
        const events = eventsIn(text)
        const told = all.filter(i => i.place.kind !== 'none')
        expect(events.map(e => e.uid)).to.deep.equal(told.map(i => `${i.key}@loom.example`))
        for (const [n, e] of events.entries()) {
          const item = told[n]
          if (item?.place.kind === 'timed') {
            expect(epoch(e.startDate), `${e.startDate.toString()} ${zone}`).to.equal(item.place.startMs)
            expect(epoch(e.endDate)).to.equal(item.place.endMs)
          } else expect(e.startDate.isDate).to.equal(true)
          expect(e.summary.endsWith(item?.title.replace(/\r\n|\r/g, '\n') ?? '')).to.equal(true)
        }
        ICAL.TimezoneService.reset()
      }),
      { numRuns: 300 },
    )
  })

  it('tells today’s hours right beside something that began very long ago, and tells that right as well', () => {
    const lasting = (startMs: number, endMs: number, key: string): ClothItem =>
      drawnItem(key, { kind: 'timed', startMs, endMs }, { kind: 'event' })
    const winter = Date.UTC(2026, 11, 1, 9)
    const old = lasting(Date.UTC(1931, 3, 3, 9), Date.UTC(2090, 6, 1, 9), 'old')
    const text = publishedCalendar(
      [old, lasting(winter, winter + 60 * MINUTE, 'now')],
      'events',
      publication(),
    )
    const told = eventsIn(text).map(e => [epoch(e.startDate), epoch(e.endDate)])
    expect(told).to.deep.equal([
      [Date.UTC(1931, 3, 3, 9), Date.UTC(2090, 6, 1, 9)],
      [winter, winter + 60 * MINUTE],
    ])
    expect(text).to.match(/DTSTART;TZID=Europe\/Dublin:20261201T090000/)
  })

  it('is read by another parser as it was meant', () => {
    fc.assert(
      fc.property(items, fc.constantFrom(...ZONES), (all, zone) => {
        const read = convertIcsCalendar(
          undefined,
          publishedCalendar(all, 'events', publication({ zone, name: 'Garden' })),
        )
        const told = all.filter(i => i.place.kind !== 'none')
        expect(read.name).to.equal('Garden')
        expect(read.events ?? []).to.have.length(told.length)
        for (const [n, e] of (read.events ?? []).entries()) {
          const at = told[n]?.place
          if (at?.kind === 'timed') expect(e.start.date.getTime()).to.equal(at.startMs)
          if (at?.kind === 'all-day') expect(e.start.date.toISOString().slice(0, 10)).to.equal(at.from)
        }
      }),
      { numRuns: 100 },
    )
  })

  it('tells tasks as to-dos where that is asked, each as this house would read it', () => {
    fc.assert(
      fc.property(items, all => {
        const text = publishedCalendar(all, 'to-dos', publication())
        const parts = splitCalendar(text)?.parts ?? []
        const tasks = all.filter(i => i.kind === 'task' || i.kind === 'tied')
        const read = parts.filter(p => p.kind === 'task').map(p => parseTask(p.text))
        expect(read.map(t => t.uid)).to.have.members(tasks.map(i => `${i.key}@loom.example`))
        for (const t of read) {
          const item = tasks.find(i => `${i.key}@loom.example` === t.uid)
          const status = item?.cancelled ? 'cancelled' : item?.done ? 'completed' : 'needs-action'
          expect(t.status).to.equal(status)
          if (item?.due) expect(t.due).to.not.equal(null)
        }
        for (const p of parts.filter(x => x.kind === 'event'))
          expect(parseEvent(p.text).uid).to.contain('@loom.example')
      }),
      { numRuns: 300 },
    )
  })

  it('marks what is done, and takes no time with what takes none', () => {
    const at: Place = { kind: 'timed', startMs: Date.UTC(2026, 9, 20, 9), endMs: Date.UTC(2026, 9, 20, 10) }
    const told = (more: Partial<ClothItem>, where: Place = at): ReturnType<typeof parseEvent> =>
      parseEvent(
        publishedCalendar(
          [drawnItem('x', where, { kind: 'task', title: 'Seeds', ...more })],
          'events',
          publication(),
        ),
      )
    expect(told({}).transparency).to.equal('opaque')
    expect([told({ done: true }).summary, told({ done: true }).transparency]).to.deep.equal([
      '✓ Seeds',
      'transparent',
    ])
    expect(told({ cancelled: true }).status).to.equal('cancelled')
    expect(told({}, { kind: 'day', date: '2026-10-20' }).transparency).to.equal('transparent')
    expect(told({ people: ['ines'], notes: 'Two\ntrays' }).description).to.equal('Ines Varga\nTwo\ntrays')
    // What only is taken says nobody’s name.
    expect(told({ kind: 'event', onlyBusy: true, people: ['ines'] }).description).to.equal('')
  })

  it('of free and busy tells times alone, in quarters of an hour, none twice and none beyond', () => {
    fc.assert(
      fc.property(items, all => {
        const within = { startMs: Date.UTC(2026, 9, 25), endMs: Date.UTC(2026, 10, 2) }
        const text = publishedBusy(all, within, publication())
        expect(text).to.not.match(/SUMMARY|DESCRIPTION|LOCATION/)
        const busy = calendarIn(text).getFirstSubcomponent('vfreebusy')
        const spans = (busy?.getAllProperties('freebusy') ?? []).map(p => {
          const period = p.getFirstValue() as unknown as ICAL.Period
          return { from: epoch(period.start), to: epoch(period.getEnd()) }
        })
        for (const [n, s] of spans.entries()) {
          expect(s.from % (15 * MINUTE)).to.equal(0)
          expect(s.from).to.be.at.least(within.startMs)
          expect(s.to).to.be.at.most(within.endMs)
          expect(s.from).to.be.greaterThan(spans[n - 1]?.to ?? 0)
        }
        for (const i of all) {
          if (i.place.kind !== 'timed' || !i.busy || i.done || i.cancelled) continue
          const { startMs, endMs } = i.place
          const from = Math.max(startMs, within.startMs)
          const to = Math.min(endMs, within.endMs)
          if (to > from) expect(spans.some(s => s.from <= from && to <= s.to)).to.equal(true)
        }
      }),
      { numRuns: 200 },
    )
  })
})
