import { expect } from 'chai'
import { type ClothItem, epochOf, zoned } from '@loom/core'
import { plainPlanning } from '@loom/core/planning'
import { property } from './support/garden.ts'
import { RuleDesk } from './support/rules.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** A draft becomes real: plans, blocks and regulars, each by itself, of one pass, with a way back. */
describe('a draft that is applied', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk
  const ZONE = 'Europe/Dublin'

  before(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
  })
  after(() => w.close())

  const items = async (): Promise<ClothItem[]> =>
    (await w.client.call('GET', `/cloth?from=${weekDay(7)}&days=7`)).body.items
  const titled = (title: string): Promise<ClothItem> =>
    until(`"${title}"`, async () => (await items()).find(i => i.title === title && !i.pending))
  const make = async (title: string, estimate: number | null): Promise<ClothItem> => {
    const body = {
      what: 'task',
      title,
      start: null,
      estimate,
      into: null,
      said: { due: { kind: 'date', date: weekDay(12) } },
    }
    expect((await w.client.call('POST', '/cloth/make', body)).status).to.equal(201)
    return titled(title)
  }
  const at = (day: number, clock: string): number => epochOf(zoned(`${weekDay(day)}T${clock}:00`, ZONE), ZONE)
  const span = (day: number, from: string, to: string, pinned = false) => ({
    fromMs: at(day, from),
    toMs: at(day, to),
    pinned,
  })
  const apply = async (pieces: object[]): Promise<any[]> => {
    const { status, body } = await w.client.call('POST', '/planning/apply', { pieces })
    expect(status).to.equal(200)
    return body.pieces
  }
  const settings = (patch: object) => w.client.call('PUT', '/me', { settings: patch })
  async function takeBack(pieces: any[]): Promise<void> {
    for (const { back } of pieces)
      if (back?.intent)
        await until('it is taken back', async () => {
          const { status } = await w.client.call('POST', `/cloth/made/${back.intent}/take-back`)
          return status === 200
        })
      else if (back) await w.client.call('POST', `/cloth/${back.key}/edit`, back.edit)
    await desk.settled()
  }
  const startOf = ({ place }: ClothItem): number => (place.kind === 'timed' ? place.startMs : 0)
  const blocksOf = async (key: string): Promise<ClothItem[]> => (await items()).filter(i => i.of === key)

  it('plans what is whole, keeps blocks for what is in parts, and writes neither deadline nor estimate', async () => {
    const whole = await make('Zorblax lamps', 60)
    const parts = await make('Quennip banners', 120)
    const applied = await apply([
      { what: 'plan', task: whole.key, ...span(7, '09:00', '10:00') },
      { what: 'block', task: parts.key, ...span(8, '09:00', '10:00') },
      { what: 'block', task: parts.key, ...span(9, '09:00', '10:00') },
      { what: 'regular', title: 'Walk along the beds', isBreak: true, ...span(9, '12:00', '12:30') },
    ])
    expect(applied.map(p => p.ok)).to.deep.equal([true, true, true, true])
    await desk.settled()
    const planned = await titled('Zorblax lamps')
    expect(planned.place).to.deep.equal({ kind: 'timed', startMs: at(7, '09:00'), endMs: at(7, '10:00') })
    expect([planned.estimate, planned.due]).to.deep.equal([60, weekDay(12)])
    const split = await titled('Quennip banners')
    expect([split.estimate, split.due, split.blocks.ahead]).to.deep.equal([120, weekDay(12), 120])
    expect(
      (await blocksOf(parts.key)).map(b => b.place.kind === 'timed' && b.place.startMs).sort(),
    ).to.deep.equal([at(8, '09:00'), at(9, '09:00')])
    expect(await titled('Walk along the beds')).to.deep.include({ kind: 'event', eventKind: 'break' })

    const passes = await w.app.ctx.db.rows<{ pass: string; n: number }>(
      `SELECT pass_id AS pass, COUNT(*) AS n FROM journal
       WHERE title IN ('Zorblax lamps', 'Quennip banners', 'Walk along the beds') AND pass_id IS NOT NULL GROUP BY pass_id`,
    )
    expect(
      passes.map(p => Number(p.n)),
      'all of one pass',
    ).to.deep.equal([4])
    const { body } = await w.client.call('GET', `/journal/pass/${passes[0]?.pass}`)
    expect(body.entries).to.have.length(4)

    await takeBack(applied)
    expect((await titled('Zorblax lamps')).place).to.deep.equal({ kind: 'none' })
    expect(await blocksOf(parts.key)).to.deep.equal([])
    expect((await items()).some(i => i.title === 'Walk along the beds')).to.equal(false)
  })

  it('keeps the rest where a piece is refused, and says why of each', async () => {
    const task = await make('Vexil ropes', 60)
    const event = {
      what: 'event',
      title: 'Visit of Grumbold',
      start: zoned(`${weekDay(8)}T14:00:00`, ZONE),
      minutes: 60,
      into: null,
    }
    expect((await w.client.call('POST', '/cloth/make', event)).status).to.equal(201)
    await titled('Visit of Grumbold')
    const answers = await apply([
      { what: 'block', task: task.key, ...span(8, '14:30', '15:30') },
      { what: 'block', task: task.key, ...span(8, '15:00', '15:30') },
      { what: 'block', task: 'gone', ...span(8, '16:00', '16:30') },
      { what: 'block', task: task.key, ...span(-7, '16:00', '16:30') },
      { what: 'block', task: task.key, ...span(8, '14:00', '14:30', true) },
    ])
    expect(answers.map(a => a.reason ?? 'kept')).to.deep.equal([
      'Visit of Grumbold stands there now.',
      'kept',
      'One of the tasks is no longer there.',
      'Its time is past.',
      'kept',
    ])
    await desk.settled()
    expect(await blocksOf(task.key)).to.have.length(2)
  })

  it('keeps them where this person keeps their time, as others may see it; what its service refuses is named', async () => {
    const task = await make('Plimber the hedge', 60)
    await settings({
      blocksInto: await desk.collection('Festival work'),
      blocksBusy: false,
      blocksNamed: false,
    })
    const [block] = await apply([{ what: 'block', task: task.key, ...span(10, '09:00', '10:00') }])
    expect(block.ok).to.equal(true)
    const [there] = await until('it is in the calendar', async () => {
      const found = await w.garden.titled('festival-work', 'Plimber the hedge')
      return found.length === 1 && found
    })
    expect(['TRANSP', 'CLASS'].map(p => property(there?.text ?? '', p))).to.deep.equal([
      'TRANSPARENT',
      'PRIVATE',
    ])
    await settings({ blocksInto: await desk.collection('Own tasks') })
    const [wrong] = await apply([{ what: 'block', task: task.key, ...span(10, '11:00', '11:30') }])
    expect(wrong).to.include({ ok: false })
    expect(wrong.reason).to.match(/holds tasks\.$/)
    await settings({ blocksInto: null, blocksBusy: true, blocksNamed: true })
  })

  it('is carried out once, however often it is asked for', async () => {
    const task = await make('Snorfle the kiosk', 60)
    const body = { pieces: [{ what: 'block', task: task.key, ...span(11, '09:00', '10:00') }] }
    const headers = { 'Idempotency-Key': 'the-same-draft-twice' }
    const once = await w.client.call('POST', '/planning/apply', body, headers)
    const again = await w.client.call('POST', '/planning/apply', body, headers)
    expect(again.body).to.deep.equal(once.body)
    await desk.settled()
    expect(await blocksOf(task.key)).to.have.length(1)
  })

  it('moves and removes what was planned, by no length of its own for a plan, and puts it back', async () => {
    const task = await make('Trundle the barrows', 120)
    const plan = await make('Wibble the gate', 60)
    const first = await apply([
      { what: 'block', task: task.key, ...span(9, '13:00', '14:00') },
      { what: 'block', task: task.key, ...span(10, '13:00', '14:00') },
      { what: 'plan', task: plan.key, ...span(9, '15:00', '16:00') },
    ])
    expect(first.every(a => a.ok)).to.equal(true)
    await desk.settled()
    const [one, two] = (await blocksOf(task.key)).sort((x, y) => startOf(x) - startOf(y))
    // One goes where the other was: what moves away is in nobody's way.
    const answers = await apply([
      { what: 'move', key: one?.key, plan: false, ...span(10, '13:00', '14:30') },
      { what: 'remove', key: two?.key, plan: false, ...span(10, '13:00', '14:00') },
      { what: 'move', key: plan.key, plan: true, ...span(9, '13:00', '14:00') },
    ])
    expect(answers.map(a => a.reason ?? 'done')).to.deep.equal(['done', 'done', 'done'])
    await desk.settled()
    const left = await blocksOf(task.key)
    expect(left.map(b => [b.key, b.place])).to.deep.equal([
      [one?.key, { kind: 'timed', startMs: at(10, '13:00'), endMs: at(10, '14:30') }],
    ])
    const moved = await titled('Wibble the gate')
    expect([startOf(moved), moved.estimate, moved.due]).to.deep.equal([at(9, '13:00'), 60, weekDay(12)])
    await takeBack(answers)
    const back = (await blocksOf(task.key)).map(startOf).sort()
    expect(back).to.deep.equal([at(9, '13:00'), at(10, '13:00')])
    expect(startOf(await titled('Wibble the gate'))).to.equal(at(9, '15:00'))
  })

  it('is no draft where a piece has no length, or it is for years', async () => {
    const [from, to] = [at(8, '09:00'), at(8, '09:00')]
    const wrong = [
      [],
      [{ what: 'block', task: 'x', fromMs: from, toMs: to, pinned: false }],
      [{ what: 'block', task: 'x', fromMs: from, toMs: from + 3e10, pinned: false }],
      [span(8, '09:00', '10:00')].map(s => ({ what: 'event', title: 'x', ...s })),
      [
        { what: 'block', task: 'x', ...span(8, '09:00', '10:00') },
        { what: 'block', task: 'x', ...span(80, '09:00', '10:00') },
      ],
    ]
    for (const pieces of wrong)
      expect(
        (await w.client.call('POST', '/planning/apply', { pieces })).status,
        JSON.stringify(pieces),
      ).to.equal(400)
  })

  it('has its terms kept for each person, from the version that was seen', async () => {
    const read = async () => (await w.client.call('GET', '/planning')).body
    expect(await read()).to.deep.equal({ version: 0, planning: plainPlanning })
    const next = { ...plainPlanning, sentence: { ...plainPlanning.sentence, span: 'today' as const } }
    const put = (version: number, planning: object) =>
      w.client.call('PUT', '/planning', { version, planning })
    expect((await put(0, next)).body).to.deep.equal({ version: 1 })
    expect((await put(0, plainPlanning)).status, 'changed meanwhile').to.equal(409)
    expect((await put(1, { ...next, windows: [{ name: 'half' }] })).status).to.equal(400)
    expect(await read()).to.deep.equal({ version: 1, planning: next })
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    expect((await tobias.call('GET', '/planning')).body.version).to.equal(0)
  })
})
