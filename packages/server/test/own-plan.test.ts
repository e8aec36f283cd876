import { expect } from 'chai'
import type { ClothItem } from '@loom/core'
import { RuleDesk } from './support/rules.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** Planning what lies at services that have no room for a planned time, or let nobody write one. */
describe('the plan of a task whose service has no room for one', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk

  before(async () => {
    w = await startWorld({ size: 'whole' })
    desk = new RuleDesk(w)
    await desk.ready()
  })
  after(() => w.close())

  const span = async (from = 0): Promise<any> =>
    (await w.client.call('GET', `/cloth?from=${weekDay(from)}&days=7`)).body
  const titled = (title: string, from = 0): Promise<ClothItem> =>
    until(`"${title}"`, async () =>
      (await span(from)).items.find((i: ClothItem) => i.title === title && !i.pending),
    )
  const edit = (key: string, what: object) => w.client.call('POST', `/cloth/${key}/edit`, what)
  const at = (day: number, hour: string) => ({
    kind: 'zoned' as const,
    local: `${weekDay(day)}T${hour}:00`,
    zone: 'Europe/Dublin',
  })
  const hours = ({ place }: ClothItem): number =>
    place.kind === 'timed' ? (place.endMs - place.startMs) / 3_600_000 : 0

  it('is kept here: at an hour, on a day, any day, and nowhere again; its service sees nothing of it', async () => {
    const order = await w.board.add('c-glass', {
      title: 'Putty for the ridge',
      deadline: weekDay(9),
      half_days: null,
    })
    const task = await titled('Putty for the ridge')
    expect(task.place).to.deep.equal({ kind: 'none' })
    const placed = await edit(task.key, { do: 'place', start: at(2, '10:00'), minutes: 90 })
    expect(placed.status).to.equal(200)
    const there = await until('it has its hour', async () => {
      const now = await titled('Putty for the ridge')
      return now.place.kind === 'timed' && now
    })
    expect(hours(there)).to.equal(1.5)
    expect((await titled('Putty for the ridge', 7)).due).to.equal(weekDay(9))
    await edit(task.key, { do: 'place', start: { kind: 'date', date: weekDay(3) } })
    expect((await titled('Putty for the ridge')).place).to.deep.equal({ kind: 'day', date: weekDay(3) })
    const { body } = await edit(task.key, { do: 'any-day', week: weekDay(0) })
    expect((await titled('Putty for the ridge')).week).to.equal(weekDay(0))
    await edit(task.key, body.inverse)
    expect((await titled('Putty for the ridge')).place.kind).to.equal('day')
    await edit(task.key, { do: 'unplace' })
    expect((await titled('Putty for the ridge')).place).to.deep.equal({ kind: 'none' })
    await desk.settled()
    expect(await w.board.titled('c-glass', 'Putty for the ridge')).to.deep.include({
      number: order?.number,
      deadline: weekDay(9),
    })
  })

  it('stays in sight when it is done, and when what it is planned for is edited there', async () => {
    const order = await w.board.add('c-glass', { title: 'Grease vents' })
    const task = await titled('Grease vents')
    await edit(task.key, { do: 'place', start: at(1, '15:00') })
    await w.board.edit(order?.number ?? '', { title: 'Grease all vents' })
    const renamed = await titled('Grease all vents')
    expect(renamed.place.kind).to.equal('timed')
    await edit(task.key, { do: 'complete' })
    const done = await until('it is done', async () => {
      const now = await titled('Grease all vents')
      return now.done && now
    })
    expect(done.place).to.deep.equal(renamed.place)
    expect((await span(7)).items.some((i: ClothItem) => i.key === task.key)).to.equal(false)
  })

  it('is written where there is room for it, when the task moves, and is kept again when it moves back', async () => {
    await w.board.add('c-paths', { title: 'Sand the steps' })
    const task = await titled('Sand the steps')
    await edit(task.key, { do: 'place', start: at(3, '09:00'), minutes: 60 })
    const { place } = await titled('Sand the steps')
    const to = await desk.collection('Small repairs')
    const moved = await w.client.call('POST', `/cloth/${task.key}/move`, { to })
    expect(moved.body.losses).to.deep.equal([])
    const there = await until(
      'it is there',
      async () => (await w.bench.titled('repairs', 'Sand the steps'))[0],
    )
    expect(there).to.include({ day: weekDay(3), hour: '09:00' })
    await until(
      'nothing is half moved',
      async () => (await w.app.ctx.db.rows('SELECT * FROM moves')).length === 0,
    )
    await w.bench.edit(there.id, { hour: '11:00' })
    await until('the hour is known', async () => {
      const now = (await titled('Sand the steps')).place
      return now.kind === 'timed' && place.kind === 'timed' && now.startMs === place.startMs + 7_200_000
    })
    expect((await w.client.call('POST', `/cloth/made/${moved.body.intent}/take-back`)).status).to.equal(200)
    await until('it is back', async () => w.board.titled('c-paths', 'Sand the steps'))
    await until(
      'nothing is half moved',
      async () => (await w.app.ctx.db.rows('SELECT * FROM moves')).length === 0,
    )
    const back = await titled('Sand the steps')
    expect(back.sources).to.deep.equal(task.sources)
    expect(
      back.place.kind === 'timed' && place.kind === 'timed' && back.place.startMs - place.startMs,
    ).to.equal(7_200_000)
  })

  it('is as it was when a move is taken back at once', async () => {
    await w.board.add('c-paths', { title: 'Salt the path' })
    const task = await titled('Salt the path')
    await edit(task.key, { do: 'place', start: at(4, '07:30'), minutes: 45 })
    const { place } = await titled('Salt the path')
    const to = await desk.collection('Small repairs')
    const { intent } = (await w.client.call('POST', `/cloth/${task.key}/move`, { to })).body
    await until('it is there', async () => (await w.bench.titled('repairs', 'Salt the path'))[0])
    await until('and taken back', async () => {
      const { status } = await w.client.call('POST', `/cloth/made/${intent}/take-back`)
      return status === 200
    })
    const back = await until('it is back', async () =>
      (await span()).items.find(
        (i: ClothItem) => i.title === task.title && !i.pending && i.sources[0] === task.sources[0],
      ),
    )
    expect(back.place).to.deep.equal(place)
  })

  it('goes along with what is written down or copied there, and what has no room is said', async () => {
    const into = await desk.collection('Glasshouse crew')
    const said = { priority: 1, categories: ['heating'], due: { kind: 'date', date: weekDay(8) } }
    const start = at(3, '13:00')
    const making = { what: 'task', title: 'Check the thermostats', start, estimate: 75, into, said }
    const made = await w.client.call('POST', '/cloth/make', making)
    expect(made.body.lost).to.deep.equal(['marks'])
    const task = await titled('Check the thermostats')
    expect([hours(task), task.estimate, task.due]).to.deep.equal([1.25, 75, weekDay(8)])
    await w.client.call('POST', `/cloth/${task.key}/duplicate`, { start: at(4, '13:00') })
    const both = await until('both are there', async () => {
      const found = (await span()).items.filter((i: ClothItem) => i.title === task.title && !i.pending)
      return found.length === 2 && found
    })
    expect(new Set(both.map((i: ClothItem) => i.place.kind === 'timed' && i.place.startMs)).size).to.equal(2)
  })

  it('can be made where nobody may write, and what has no room there is refused in words', async () => {
    const letter = await titled('Lantern insurance')
    expect((await edit(letter.key, { do: 'place', start: at(4, '09:00') })).status).to.equal(200)
    expect((await titled('Lantern insurance')).place.kind).to.equal('timed')
    const order = await titled('Handrail, moss steps', 7)
    const refused = await edit(order.key, { do: 'say', said: { categories: ['outside'] } })
    expect([refused.status, refused.body.reason]).to.deep.equal([
      409,
      'Its service does not support marks, or does not allow changing that from here.',
    ])
    await edit(order.key, { do: 'say', said: { due: { kind: 'date', date: weekDay(10) } } })
    const line = await until('the journal tells of it', async () =>
      (await desk.entries()).find((l: any) => l.title === 'Handrail, moss steps' && l.outcome === 'done'),
    )
    expect(line.fields.map((f: any) => [f.field, f.after])).to.deep.equal([
      ['due', { kind: 'date', date: weekDay(10) }],
    ])
    const { body } = await w.client.call('GET', `/cloth/${order.key}`)
    expect(body.task.unsupported).to.include.members(['start', 'categories', 'status:cancelled'])
    expect(body.task.unsupported).not.to.include.members(['due']).and.not.to.include.members(['priority'])
    const boiler = await titled('Boiler, yearly look')
    const counted = await edit(boiler.key, { do: 'estimate', minutes: 75 })
    expect(counted.body.reason).to.equal('Its service counts work in steps of 4 h.')
    const card = await titled('Call bus company')
    expect((await edit(card.key, { do: 'cancel' })).body.reason).to.match(/cannot cancel tasks/)
  })
})
