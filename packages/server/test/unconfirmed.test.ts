import { expect } from 'chai'
import { BoardSide } from './support/board.ts'
import { beginBoard, keep, readOnce } from './support/connecting.ts'
import { RuleDesk } from './support/rules.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** A service that chooses its own ids loses an answer, and looking cannot tell whether it took effect. */
describe('a creation of which nobody can tell', function () {
  this.timeout(90_000)
  let w: World
  let desk: RuleDesk
  let board: BoardSide
  let rule: string
  const CREW = 'c-glass'

  before(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    board = new BoardSide(w.standins)
    await desk.ready()
    const found = await beginBoard(w)
    const glass = found.account.collections.find(c => c.name === 'Glasshouse crew')
    await readOnce(w, await keep(w, found, { name: 'Repairs Board', takesPart: [glass?.remoteId ?? ''] }))
    rule = (await desk.save('Small repairs', 'Glasshouse crew', { made: { a: 'all', b: 'nothing' } })).id
    await desk.settled()
  })
  after(() => w.close())
  afterEach(() => w.fault('board', {}))

  const there = async (title: string) => (await board.listed(CREW)).filter(o => o.title === title)
  const unconfirmed = async () => (await w.client.call('GET', '/waiting/conflicts')).body.unconfirmed
  const tell = (id: string, answer: string) =>
    w.client.call('POST', '/waiting/unconfirmed', { of: [id], answer })

  /** Its creation goes out and nothing comes back; and a list that it could have been moved to is closed. */
  async function lose(title: string, drop: 'before' | 'after', search: object): Promise<void> {
    await w.fault('board', { drop, method: 'POST', path: `/crews/${CREW}/orders`, times: 1 })
    await w.bench.add('repairs', { text: title, day: weekDay(2) })
    await until(
      'it was sent',
      async () =>
        (await w.app.ctx.db.rows(`SELECT id FROM intents WHERE title = :title AND attempts > 0`, { title }))
          .length > 0,
    )
    await until('no answer came', async () => (await faults()).times === 0)
    await w.fault('board', search)
  }
  const faults = async (): Promise<{ times?: number }> =>
    (await fetch(`${w.standins}/control/board/faults`)).json() as Promise<{ times?: number }>
  const TIED = `SELECT t.id FROM ties t JOIN mirrors m ON m.id = t.b_mirror WHERE t.released IS NULL AND m.remote_id = :remote`
  const CLOSED = { status: 404, path: '/crews/c-paths/orders' }
  const question = (title: string) =>
    until('somebody is asked', async () => (await unconfirmed()).find((q: any) => q.title === title), 30_000)

  it('is made once, where its mark tells that it was, though a list is closed', async () => {
    await lose('Seal the gutter', 'after', CLOSED)
    await desk.settled()
    expect(await there('Seal the gutter')).to.have.length(1)
    expect(await unconfirmed()).to.deep.equal([])
  })

  it('leaves no mark of ours in anybody’s text once it is known, and the journal says so', async () => {
    const tasks = ['Sharpen the shears', 'Seal the gutter']
    await w.bench.add('repairs', { text: tasks[0], details: 'Both pairs', day: weekDay(2) })
    for (const title of tasks) {
      await until('it is made, and bears no mark', async () => {
        const [order] = await there(title)
        return order && !order.text.includes('loom')
      })
      await until(
        'it is in the journal',
        async () =>
          (await desk.entries()).filter(l => l.title === title && l.cause === 'own-mark').length === 1,
      )
    }
    await desk.settled()
    const [order] = await there('Sharpen the shears')
    expect(order?.text).to.equal('Both pairs')
    // It is the same item as before, and carries on.
    await board.edit(order?.number ?? '', { title: 'Sharpen all shears', text: 'Both pairs, and the saw' })
    const task = await until(
      'the edit is carried over',
      async () => (await w.bench.titled('repairs', 'Sharpen all shears'))[0],
    )
    await w.bench.edit(task.id, { details: 'Oiled too' })
    await until(
      'notes go back without a mark',
      async () => (await there('Sharpen all shears'))[0]?.text === 'Oiled too',
    )
    await desk.settled()
    expect(await there('Sharpen all shears')).to.have.length(1)
  })

  it('is asked of, and made when somebody says that it is not there', async () => {
    await lose('Oil the hinges', 'before', CLOSED)
    const q = await question('Oil the hinges')
    expect(q).to.include({ kind: 'task', ruleId: rule, place: 'Repairs Board · Glasshouse crew' })
    expect(q.reason).to.contain('cannot be looked at')
    expect(await there('Oil the hinges'), 'nothing is made on a guess').to.have.length(0)
    const view = await desk.rule(rule)
    expect([view.unconfirmed, view.waiting]).to.deep.equal([1, 0])
    // The rest goes on meanwhile.
    await w.bench.add('repairs', { text: 'Meanwhile', day: weekDay(2) })
    await until('another is made', async () => (await there('Meanwhile'))[0])
    expect((await tell(q.id, 'make')).status).to.equal(200)
    await until('it is made', async () => (await there('Oil the hinges'))[0])
    await desk.settled()
    expect(await there('Oil the hinges')).to.have.length(1)
    expect(await unconfirmed()).to.deep.equal([])
    expect((await tell(q.id, 'make')).status, 'it is settled').to.equal(409)
  })

  it('is made by itself once looking can tell that it is not there', async () => {
    await lose('Paint the gate', 'before', CLOSED)
    const q = await question('Paint the gate')
    await w.fault('board', {})
    expect((await tell(q.id, 'look')).status).to.equal(200)
    await until('it is made', async () => (await there('Paint the gate'))[0], 30_000)
    await desk.settled()
    expect(await there('Paint the gate')).to.have.length(1)
  })

  it('is left alone when somebody says so, and the journal keeps why', async () => {
    await lose('Clear the drain', 'before', CLOSED)
    const q = await question('Clear the drain')
    expect((await tell(q.id, 'leave')).status).to.equal(200)
    await desk.settled()
    expect(await there('Clear the drain')).to.have.length(0)
    const entry = (await desk.entries('?outcome=refused')).find(l => l.title === 'Clear the drain')
    expect(entry.reason).to.contain('could not be told whether it was made')
  })

  it('is tied, and not made again, where it comes to light later that it had been made', async () => {
    await lose('Grease the lock', 'before', CLOSED)
    const q = await question('Grease the lock')
    expect((await tell(q.id, 'leave')).status).to.equal(200)
    await w.fault('board', {})
    // As if the service had carried it out long after anybody waited for it.
    const [sent] = await w.app.ctx.db.rows<{ uid: string }>(
      `SELECT uid FROM intents WHERE title = 'Grease the lock'`,
    )
    const deadline = weekDay(2)
    const made = await board.add(CREW, { title: 'Grease the lock', text: `[loom ${sent?.uid}]`, deadline })
    await until(
      'the two are tied',
      async () => (await w.app.ctx.db.rows(TIED, { remote: made?.number })).length === 1,
    )
    const [task] = await w.bench.titled('repairs', 'Grease the lock')
    await w.bench.edit(task?.id ?? '', { text: 'Grease both locks' })
    await until('the change goes over', async () => (await there('Grease both locks'))[0])
    await desk.settled()
    expect(await there('Grease the lock')).to.have.length(0)
  })

  it('is told on the rule where a service checks nothing itself', async () => {
    const { weaker } = await desk.rule(rule)
    expect(weaker).to.have.length(1)
    expect(weaker[0]).to.match(/^Repairs Board takes a change without checking/)
    expect((await desk.preview('Festival', 'Own tasks', {})).weaker).to.deep.equal([])
  })
})
