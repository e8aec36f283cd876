import { expect } from 'chai'
import { beginBoard, keep, readOnce } from './support/connecting.ts'
import { property } from './support/garden.ts'
import { RuleDesk } from './support/rules.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** One thing is drawn once and counts once, however many ways lead to it, and however many copies rules keep. */
describe('what is the same is drawn once', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk

  beforeEach(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
  })
  afterEach(() => w.close())

  type Drawn = { key: string; title: string; kind: string; sources: string[]; people: string[] }
  const drawn = async (): Promise<Drawn[]> =>
    (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=14`)).body.items

  it('a list that two accounts bring in', async () => {
    const first = await beginBoard(w)
    await readOnce(w, await keep(w, first, { name: 'Ines’s board' }))
    const paths = (await drawn()).filter(i => i.title === 'Handrail, moss steps')
    expect(paths).to.have.length(1)
    const second = await beginBoard(w, 1012)
    await readOnce(w, await keep(w, second, { name: 'Bram’s board' }))
    const twice = (await drawn()).filter(i => i.title === 'Handrail, moss steps')
    expect(twice).to.have.length(1)
    expect(twice[0]?.sources).to.have.length(2)
    // Whichever of the two is edited: it reads alike, and stays one.
    const order = await w.board.titled('c-paths', 'Handrail, moss steps')
    await w.client.call('POST', `/cloth/${twice[0]?.key}/edit`, {
      do: 'rename',
      title: 'Handrail, all steps',
    })
    await until('it was sent', async () => (await w.board.titled('c-paths', 'Handrail, all steps')) ?? false)
    expect(order?.number).to.equal((await w.board.titled('c-paths', 'Handrail, all steps'))?.number)
    await until('it is one again', async () => {
      const all = await drawn()
      return (
        all.filter(i => i.title === 'Handrail, all steps').length === 1 &&
        !all.some(i => i.title === 'Handrail, moss steps')
      )
    })
  })

  it('a task whose event two rules keep in two calendars', async () => {
    const task = await w.bench.add('someday', { text: 'Prune the arch', day: weekDay(1), hour: '10:00' })
    await desk.save('Ideas', 'House repairs', {})
    await desk.save('Ideas', 'Garden team', {})
    for (const calendar of ['house-repairs', 'garden-team'])
      await until(
        `its event in ${calendar}`,
        async () => (await w.garden.titled(calendar, 'Prune the arch'))[0],
      )
    await desk.settled()
    const items = (await drawn()).filter(i => i.title === 'Prune the arch')
    expect(items.map(i => i.kind)).to.deep.equal(['tied'])
    expect(items[0]?.sources).to.have.length(3)
    // Moved here, it moves in both.
    const start = { kind: 'zoned', local: `${weekDay(2)}T14:00:00`, zone: 'Europe/Dublin' }
    await w.client.call('POST', `/cloth/${items[0]?.key}/edit`, { do: 'place', start })
    for (const calendar of ['house-repairs', 'garden-team'])
      await until(`it has moved in ${calendar}`, async () => {
        const [event] = await w.garden.titled(calendar, 'Prune the arch')
        return property(event?.text ?? '', 'DTSTART')?.endsWith('T140000')
      })
    await desk.settled()
    expect((await drawn()).filter(i => i.title === 'Prune the arch')).to.have.length(1)
    expect((await w.bench.get(task.id))?.hour).to.equal('14:00')
  })
})
