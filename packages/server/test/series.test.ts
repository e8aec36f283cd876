import { defaultSettings, type RuleSettings } from '@loom/core'
import { expect } from 'chai'
import { readConfig } from '../src/context/config.ts'
import { startServer } from '../src/server.ts'
import { fixedClock } from './support/clock.ts'
import { eventText, type GardenEvent, property } from './support/garden.ts'
import { RuleDesk } from './support/rules.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** A series is paired date by date with single events in another calendar. */
describe('events that repeat, date by date', function () {
  this.timeout(90_000)
  let w: World
  let desk: RuleDesk
  const [FROM, TO] = ['house-repairs', 'festival-work']
  const reach = { backDays: 0, aheadDays: 24, series: 'dates' } as const

  beforeEach(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    await desk.ready()
    await w.garden.put(FROM, 'round.ics', round())
    await until('it is known', async () =>
      (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.some(
        (i: any) => i.title === 'Watering round',
      ),
    )
    await desk.settled()
  })
  afterEach(() => w.close())

  /** Every second day at ten, from this Monday on. */
  const round = (more: string[] = []): string =>
    eventText('round', 'Watering round', weekDay(0), '10:00', '10:30', [
      'RRULE:FREQ=DAILY;INTERVAL=2',
      ...more,
    ])
  const stamp = (day: string, hour: string): string => `${day.replace(/-/g, '')}T${hour.replace(':', '')}00`
  const shown = async (title: string): Promise<GardenEvent[]> =>
    (await w.garden.titled(TO, title)).sort((x, y) => (startOf(x) < startOf(y) ? -1 : 1))
  const startOf = (e: GardenEvent): string => property(e.text, 'DTSTART') ?? ''
  const source = (): Promise<GardenEvent> => w.garden.get(FROM, 'round.ics')
  const busy: Partial<RuleSettings> = {
    ...reach,
    fields: {
      ...defaultSettings.fields,
      title: 'a-to-b',
      time: 'a-to-b',
      notes: 'off',
      completion: 'a-to-b',
    },
    title: 'Busy',
    made: { a: 'all', b: 'nothing' },
    deleted: { a: 'deleted', b: 'again' },
    filter: { a: [], b: [] },
  }
  const both: Partial<RuleSettings> = {
    ...reach,
    made: { a: 'all', b: 'nothing' },
    deleted: { a: 'deleted', b: 'deleted' },
  }
  /** Rounds that lie ahead, as the other calendar shows them. */
  const rounds = async (title: string): Promise<GardenEvent[]> =>
    (await shown(title)).filter(e => /T10(00|30)00$/.test(startOf(e)) || /T1[1-5]3000$/.test(startOf(e)))

  it('shows each date within reach once, follows what becomes of it, and of all of them @days', async () => {
    const preview = await desk.preview('House repairs', 'Festival work', busy)
    // Each second day of the twenty-four, and what else lies ahead.
    expect(preview.counts.make).to.be.within(11, 15)
    const { id } = await desk.save('House repairs', 'Festival work', busy)
    await until('all are there', async () => (await shown('Busy')).length === preview.counts.make)
    await desk.settled()
    const made = await rounds('Busy')
    expect(made.length).to.be.within(11, 13)
    expect(new Set(made.map(startOf)).size, 'none twice').to.equal(made.length)
    const ours = ['Watering round', 'Busy']
    const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=21`)).body
    const drawn = items.filter((i: any) => ours.includes(i.title))
    const places = drawn.map((i: any) => `${i.title} ${i.place.startMs}`)
    expect(new Set(places).size, 'each is drawn once').to.equal(places.length)
    expect(
      drawn.map((i: any) => i.title),
      'under its own name',
    ).to.not.include('Busy')
    const inThreeWeeks = made.filter(e => startOf(e) < stamp(weekDay(21), '00:00')).length
    expect(drawn.filter((i: any) => i.recurring && i.sources.length === 2)).to.have.length(inThreeWeeks)
    const names = (of: GardenEvent[]): string[] => of.map(e => e.name).sort()

    const moved = made[3]
    const on = startOf(moved as GardenEvent).slice(0, 8)
    await w.garden.edit(FROM, await source(), t =>
      t.replace(
        'END:VCALENDAR',
        [
          'BEGIN:VEVENT\r\nUID:round\r\nDTSTAMP:20260101T000000Z',
          `RECURRENCE-ID;TZID=Europe/Dublin:${on}T100000`,
          `DTSTART;TZID=Europe/Dublin:${on}T153000\r\nDURATION:PT45M`,
          'SUMMARY:Watering, later\r\nEND:VEVENT\r\nEND:VCALENDAR',
        ].join('\r\n'),
      ),
    )
    await until('that one has moved', async () =>
      (await rounds('Busy')).some(e => startOf(e) === `${on}T153000` && e.name === moved?.name),
    )
    const out = startOf(made[5] as GardenEvent)
    await w.garden.edit(FROM, await source(), t =>
      t.replace(/^RRULE/m, `EXDATE;TZID=Europe/Dublin:${out}\r\nRRULE`),
    )
    await until('that one is gone', async () => (await rounds('Busy')).length === made.length - 1)

    const before = names(await rounds('Busy'))
    await w.garden.put(
      FROM,
      'round.ics',
      round()
        .replace(/T100000/, 'T113000')
        .replace(/T103000/, 'T120000'),
    )
    await until('all have moved', async () =>
      (await rounds('Busy')).every(e => startOf(e).endsWith('T113000')),
    )
    await until('the one left out is back', async () => (await rounds('Busy')).length === made.length)
    expect(names(await rounds('Busy')), 'the same events').to.include.members(before)
    await desk.settled()
    const writes = (await desk.entries('?outcome=done')).length
    await w.app.ctx.db.run('UPDATE look_times SET next_look_at = 0')
    await desk.settled()
    expect((await desk.entries('?outcome=done')).length, 'it is at rest').to.equal(writes)

    await w.garden.remove(FROM, 'round.ics')
    await until('all are gone with it', async () => (await rounds('Busy')).length === 0)
    expect((await desk.rule(id)).braked, 'one removal, not a dozen').to.equal(0)
  })

  it('carries what is edited on the other side back to that date, and leaves every other byte alone', async () => {
    await desk.save('House repairs', 'Festival work', both)
    await until('they are there', async () => (await shown('Watering round')).length > 10)
    await desk.settled()
    const text = (await source()).text
    const [, , one, two, three] = await shown('Watering round')
    if (!one || !two || !three) throw new Error('too few')
    await w.garden.edit(TO, one, t => t.replace(/^SUMMARY:.*/m, 'SUMMARY:Watering, twice'))
    await w.garden.edit(TO, two, t =>
      t.replace(/^(DTSTART;TZID.*)T100000/m, '$1T133000').replace(/^(DTEND;TZID.*)T103000/m, '$1T140000'),
    )
    await w.garden.remove(TO, three.name)
    const override = (of: GardenEvent): string => `RECURRENCE-ID;TZID=Europe/Dublin:${startOf(of)}`
    await until('the series tells all three', async () => {
      const now = (await source()).text
      return (
        now.includes(override(one)) &&
        now.includes('SUMMARY:Watering\\, twice') &&
        now.includes(`DTSTART;TZID=Europe/Dublin:${startOf(two).slice(0, 8)}T133000`) &&
        now.includes(`EXDATE;TZID=Europe/Dublin:${startOf(three)}`)
      )
    })
    const master = text.slice(0, text.indexOf('END:VEVENT')).split('\r\n')
    const now = (await source()).text
    expect(
      now
        .slice(0, now.indexOf('END:VEVENT'))
        .split('\r\n')
        .filter(l => !/^(DTSTAMP|EXDATE|LAST-MODIFIED)/.test(l)),
    ).to.deep.equal(master.filter(l => !/^(DTSTAMP|LAST-MODIFIED)/.test(l)))
    expect(now.match(/RECURRENCE-ID/g)).to.have.length(2)
    await desk.settled()
    const entry = (await desk.entries('?outcome=done')).find(
      e =>
        e.op === 'patch' && e.fields.some((f: any) => f.field === 'title' && f.after === 'Watering, twice'),
    )
    const answer = await w.client.call('POST', '/journal/put-back', { entries: [entry.id] })
    expect(answer.status).to.equal(200)
    await until('that date reads as before', async () => !(await source()).text.includes('Watering\\, twice'))
    const dropped = (await desk.entries('?outcome=done')).find(e => e.op === 'delete')
    const back = await w.client.call('POST', '/journal/put-back', { entries: [dropped.id] })
    expect(back.body.queued).to.equal(1)
    await until('the date left out is back', async () => !(await source()).text.includes('EXDATE'))
  })

  it('reaches further as days go by, though nothing changes @days', async () => {
    await desk.save('House repairs', 'Festival work', { ...busy, aheadDays: 4 })
    await desk.settled()
    const before = await rounds('Busy')
    expect(before.length).to.be.within(1, 3)
    await w.app.stop()
    w.app = await startServer(readConfig({ ...w.environment, ...fixedClock(4) }))
    try {
      await until('later ones are there', async () => (await rounds('Busy')).length > before.length)
      await desk.settled()
      expect((await rounds('Busy')).map(e => e.name)).to.include.members(before.map(e => e.name))
    } finally {
      await w.app.stop()
    }
  })

  it('lets a pair go over to the first date when its event begins to repeat, and back when it no longer does', async () => {
    await w.garden.put(FROM, 'seed.ics', eventText('seed', 'Seed count', weekDay(8), '09:00', '09:30'))
    await desk.save('House repairs', 'Festival work', both)
    await until('it is shown', async () => (await shown('Seed count')).length === 1)
    await desk.settled()
    const [first] = await shown('Seed count')
    const weekly = eventText('seed', 'Seed count', weekDay(8), '09:00', '09:30', ['RRULE:FREQ=DAILY;COUNT=4'])
    await w.garden.put(FROM, 'seed.ics', weekly)
    await until('four are shown', async () => (await shown('Seed count')).length === 4)
    expect((await shown('Seed count'))[0]?.name).to.equal(first?.name)
    await desk.settled()
    await w.garden.put(FROM, 'seed.ics', eventText('seed', 'Seed count', weekDay(8), '09:00', '09:30'))
    await until('one is left', async () => (await shown('Seed count')).length === 1)
    expect((await shown('Seed count'))[0]).to.include({ name: first?.name })
    await w.garden.edit(FROM, await w.garden.get(FROM, 'seed.ics'), t =>
      t.replace('Seed count', 'Seed tally'),
    )
    await until('and still in step', async () => (await shown('Seed tally')).length === 1)
    expect(stamp(weekDay(8), '09:00')).to.equal(startOf((await shown('Seed tally'))[0] as GardenEvent))
  })
})
