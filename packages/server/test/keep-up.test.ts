import { expect } from 'chai'
import { addDays, type ClothItem, dayAt, epochOf, zoned } from '@loom/core'
import { plainPlanning } from '@loom/core/planning'
import { now } from './support/clock.ts'
import { eventText } from './support/garden.ts'
import { RuleDesk } from './support/rules.ts'
import { Client, startWorld, until, type World } from './support/world.ts'

/** A work window that is kept up: through the database and the services, with its limits and its way back. */
describe('what a draft laid and an event lands on', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk
  const ZONE = 'Europe/Dublin'
  /** Within the days that are kept up, whatever day it is, and one on which the demo has nothing by day. */
  let DAY = ''

  before(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    w.app.keepingUp.stop()
    await desk.ready()
    await desk.settled()
    const near = Array.from({ length: 6 }, (_, n) => addDays(dayAt(now(), ZONE), 1 + n))
    const { items: there } = (await w.client.call('GET', `/cloth?from=${near[0] ?? ''}&days=${near.length}`))
      .body
    const isTaken = (date: string): boolean =>
      there.some(
        ({ place }: ClothItem) =>
          place.kind === 'timed' &&
          place.startMs < epochOf(zoned(`${date}T18:00:00`, ZONE), ZONE) &&
          place.endMs > epochOf(zoned(`${date}T08:00:00`, ZONE), ZONE),
      )
    DAY = near.find(d => !isTaken(d)) ?? ''
    expect(DAY, 'a free day').to.not.equal('')
    const window = {
      id: 'bench',
      name: 'Bench hours',
      start: 540,
      end: 1020,
      weekdays: [1, 2, 3, 4, 5, 6, 7],
      everyWeeks: 1,
      from: addDays(DAY, -7),
      until: null,
      zone: ZONE,
      exceptions: {},
      onDaysOff: true,
      othersToo: true,
      spills: false,
      keepsUp: true,
      filter: [],
    }
    const planning = { ...plainPlanning, windows: [window] }
    expect((await w.client.call('PUT', '/planning', { version: 0, planning })).status).to.equal(200)
  })
  after(() => w.close())

  const items = async (): Promise<ClothItem[]> =>
    (await w.client.call('GET', `/cloth?from=${DAY}&days=7`)).body.items
  const titled = (title: string): Promise<ClothItem> =>
    until(`"${title}"`, async () => (await items()).find(i => i.title === title && !i.pending))
  const at = (clock: string): number => epochOf(zoned(`${DAY}T${clock}:00`, ZONE), ZONE)
  const make = async (body: object): Promise<void> => {
    expect((await w.client.call('POST', '/cloth/make', { into: null, ...body })).status).to.equal(201)
  }
  const task = async (title: string): Promise<ClothItem> => {
    await make({ what: 'task', title, start: null, estimate: 60 })
    return titled(title)
  }
  const event = async (title: string, clock: string, minutes = 60): Promise<ClothItem> => {
    await make({ what: 'event', title, start: zoned(`${DAY}T${clock}:00`, ZONE), minutes })
    return titled(title)
  }
  const lay = async (key: string, from: string, to: string, pinned = false): Promise<void> => {
    const piece = { what: 'block', task: key, fromMs: at(from), toMs: at(to), pinned }
    const { body } = await w.client.call('POST', '/planning/apply', { pieces: [piece] })
    expect(body.pieces.map((p: { ok: boolean }) => p.ok)).to.deep.equal([true])
    await desk.settled()
  }
  const blockOf = async (key: string): Promise<ClothItem | undefined> =>
    (await items()).find(i => i.of === key && !i.pending)
  const startOf = async (key: string): Promise<number> => {
    const place = (await until('its block', () => blockOf(key))).place
    return place.kind === 'timed' ? place.startMs : 0
  }
  const keepUp = async (): Promise<number> => {
    const count = await w.app.keepingUp.look(true)
    await desk.settled()
    return count
  }
  const passes = async (): Promise<any[]> => (await w.client.call('GET', '/planning/kept-up')).body.passes

  it('minds no invitation before it is accepted, nor what may not take place', async () => {
    const posts = await task('Sorrel posts')
    await lay(posts.key, '11:00', '11:30')
    await keepUp()
    const { email } = (await w.client.call('GET', '/session')).body
    const said = async (answer: string, status: string): Promise<number> => {
      const text = eventText('inv-sorrel@x', 'Sorrel parley', DAY, '11:00', '11:30', [
        'ORGANIZER:mailto:x@else.example',
        `STATUS:${status}`,
        `ATTENDEE;PARTSTAT=${answer}:mailto:${email}`,
      ])
      await w.garden.put('festival-work', 'inv-sorrel.ics', text)
      await until(`it is read: ${answer}, ${status}`, async () => {
        const [row] = await w.app.ctx.db.rows<{ original: string }>(
          "SELECT p.original FROM mirrors m JOIN payloads p ON p.mirror_id = m.id WHERE m.uid = 'inv-sorrel@x'",
        )
        return row?.original === text
      })
      await desk.settled()
      return keepUp()
    }
    expect(await said('NEEDS-ACTION', 'CONFIRMED')).to.equal(0)
    expect(await said('TENTATIVE', 'CONFIRMED')).to.equal(0)
    expect(await said('ACCEPTED', 'TENTATIVE')).to.equal(0)
    expect(await said('ACCEPTED', 'CONFIRMED')).to.equal(1)
  })

  it('goes elsewhere in one pass that says why, and comes back and stays when that is undone', async () => {
    const lamps = await task('Zorblax lamps')
    await lay(lamps.key, '10:00', '11:00')
    expect(await keepUp(), 'nothing has happened').to.equal(0)
    const visit = await event('Visit of Grumbold', '10:30')
    expect(await keepUp()).to.equal(1)
    const now = await startOf(lamps.key)
    expect(now).not.to.equal(at('10:00'))
    const [pass] = await passes()
    expect(pass).to.deep.include({ undone: false, seen: false, refused: null, asks: [] })
    expect(pass.steps).to.have.length(1)
    expect(pass.steps[0]).to.deep.include({ title: 'Zorblax lamps' })
    expect(pass.steps[0].cause).to.deep.include({ kind: 'landed', on: visit.key, title: 'Visit of Grumbold' })
    const [line] = await w.app.ctx.db.rows<{ cause: string; pass_id: string }>(
      "SELECT cause, pass_id FROM journal WHERE cause LIKE 'kept-up-%' ORDER BY id DESC LIMIT 1",
    )
    expect(line).to.deep.equal({ cause: 'kept-up-landed', pass_id: pass.id })
    expect(await keepUp(), 'it has come to rest').to.equal(0)

    const undone = await w.client.call('POST', `/planning/kept-up/${pass.id}/undo`)
    expect(undone.body).to.deep.equal({ back: ['Zorblax lamps'], stays: [] })
    await desk.settled()
    expect(await startOf(lamps.key)).to.equal(at('10:00'))
    expect(await keepUp(), 'it is held').to.equal(0)
    expect((await w.client.call('POST', `/planning/kept-up/${pass.id}/undo`)).status).to.equal(409)

    // Another cause is another matter.
    const start = zoned(`${DAY}T10:15:00`, ZONE)
    await w.client.call('POST', `/cloth/${visit.key}/edit`, { do: 'place', start, minutes: 60 })
    await desk.settled()
    expect(await keepUp()).to.equal(1)
  })

  it('leaves what a person has pinned or moved, and names it when a pass is undone', async () => {
    const [pinned, moved] = [await task('Quennip banners'), await task('Vexil ropes')]
    await lay(pinned.key, '13:00', '14:00', true)
    await lay(moved.key, '14:00', '15:00')
    await keepUp()
    const block = await until('its block', () => blockOf(moved.key))
    const start = zoned(`${DAY}T15:00:00`, ZONE)
    await w.client.call('POST', `/cloth/${block.key}/edit`, { do: 'place', start, minutes: 60 })
    await desk.settled()
    await event('Orrery talk', '13:30', 120)
    expect(await keepUp()).to.equal(0)

    const third = await task('Brindle gates')
    await lay(third.key, '16:00', '17:00')
    await event('Fair of Moss', '16:00', 60)
    expect(await keepUp()).to.equal(1)
    const gate = await until('its block', () => blockOf(third.key))
    const later = zoned(`${DAY}T18:00:00`, ZONE)
    await w.client.call('POST', `/cloth/${gate.key}/edit`, { do: 'place', start: later, minutes: 60 })
    await desk.settled()
    const [pass] = await passes()
    const undone = await w.client.call('POST', `/planning/kept-up/${pass.id}/undo`)
    expect(undone.body).to.deep.equal({
      back: [],
      stays: [{ title: 'Brindle gates', reason: 'It was moved since.' }],
    })
    await desk.settled()
    expect(await startOf(third.key)).to.equal(at('18:00'))
  })

  it('is told to its person alone, and seen once', async () => {
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    expect((await tobias.call('GET', '/planning/kept-up')).body.passes).to.deep.equal([])
    const [{ id }] = await passes()
    expect((await tobias.call('POST', `/planning/kept-up/${id}/undo`)).status).to.equal(409)
    expect((await passes()).some(p => !p.seen)).to.equal(true)
    await w.client.call('POST', '/planning/kept-up/seen')
    expect((await passes()).every(p => p.seen)).to.equal(true)
  })
})
