import { expect } from 'chai'
import { begin, keep, readOnce } from './support/connecting.ts'
import { elsewhere } from './support/elsewhere.ts'
import { property } from './support/garden.ts'
import { RuleDesk } from './support/rules.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** Two workspaces that connect the same list and the same calendar, each with a rule of its own between them. */
describe('two workspaces on one list and one calendar', function () {
  this.timeout(90_000)
  let w: World
  let here: RuleDesk
  let there: RuleDesk

  before(async () => {
    w = await startWorld()
    here = new RuleDesk(w)
    const other: World = { ...w, client: await elsewhere(w) }
    there = new RuleDesk(other)
    const ines = { user: 'ines', password: 'moonflower' }
    for (const found of [await begin(other, 'bench'), await begin(other, 'garden', ines)])
      await readOnce(other, await keep(other, found))
    await here.ready()
    for (const desk of [here, there]) await desk.save('Ideas', 'House repairs', {})
    await here.settled()
  })
  after(() => w.close())

  const rest = async (): Promise<void> => {
    await here.settled()
    await there.settled()
  }
  const events = (title: string) => w.garden.titled('house-repairs', title)

  it('keep one event for a task, and carry each other’s edits', async () => {
    const task = await w.bench.add('someday', { text: 'Prune the arch', day: weekDay(1), hour: '10:00' })
    await until('it has its event', async () => (await events('Prune the arch'))[0])
    await rest()
    const [event, another] = await events('Prune the arch')
    expect(another, 'a second event').to.equal(undefined)
    if (!event) throw new Error('no event')
    await w.garden.edit('house-repairs', event, text => text.replace(/T10(\d{4})\b/g, 'T11$1'))
    await until('the task has moved', async () => (await w.bench.get(task.id))?.hour === '11:00')
    await rest()
    expect(await events('Prune the arch')).to.have.length(1)
    expect(await w.bench.titled('someday', 'Prune the arch')).to.have.length(1)
    // Both know them for the same work.
    const [tied] = await w.app.ctx.db.rows<{ n: number }>(
      `SELECT COUNT(*) AS n FROM ties t JOIN mirrors m ON m.id = t.b_mirror
       WHERE t.released IS NULL AND m.item LIKE '%Prune the arch%'`,
    )
    expect(tied?.n).to.equal(2)
  })

  it('do not take each other’s events for new', async () => {
    const before = (await w.bench.listed('someday')).length
    for (const n of [1, 2, 3])
      await w.bench.add('someday', { text: `Bed ${n}`, day: weekDay(2), hour: `1${n}:00` })
    for (const n of [1, 2, 3]) await until('its event', async () => (await events(`Bed ${n}`))[0])
    await rest()
    await w.app.ctx.db.run('UPDATE look_times SET next_look_at = 0')
    await rest()
    expect((await w.bench.listed('someday')).length).to.equal(before + 3)
    for (const n of [1, 2, 3]) {
      const [event, ...others] = await events(`Bed ${n}`)
      expect(others).to.have.length(0)
      expect(property(event?.text ?? '', 'UID')).to.match(/^loom-/)
    }
  })
})
