import { defaultSettings } from '@loom/core'
import { expect } from 'chai'
import { property } from './support/garden.ts'
import { RuleDesk } from './support/rules.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** What is no longer where it was, and what something else sets back each time. */
describe('what moves, what waits, and what is set back', function () {
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

  const eventTitled = (calendar: string, title: string) =>
    until(`an event “${title}”`, async () => (await w.garden.titled(calendar, title))[0])
  /** Edits of several services or lists that no look comes in between of. */
  async function unseen(edits: () => Promise<void>): Promise<void> {
    await w.app.ctx.db.run('UPDATE connections SET paused = 1')
    await edits()
    await w.app.ctx.db.run('UPDATE connections SET paused = 0, next_look_at = 0')
  }

  it('an event that goes to another calendar of its rule, as deletion and creation: its task follows, nothing is made twice', async () => {
    const also = { a: [], b: [await desk.collection('Teaching')] }
    const { id } = await desk.save('Small repairs', 'House repairs', {
      made: { a: 'all', b: 'all' },
      deleted: { a: 'deleted', b: 'deleted' },
      also,
    })
    const task = await w.bench.add('repairs', { text: 'Wandering work', day: weekDay(8), hour: '10:00' })
    const event = await eventTitled('house-repairs', 'Wandering work')
    await desk.settled()
    const ties = (await desk.rule(id)).ties
    await unseen(async () => {
      await w.garden.put('teaching', 'wandering.ics', event.text)
      await w.garden.remove('house-repairs', event.name)
    })
    await w.bench.edit(task.id, { text: 'Work that wandered' })
    await eventTitled('teaching', 'Work that wandered')
    await desk.settled()
    expect(await w.bench.titled('repairs', 'Work that wandered')).to.have.length(1)
    expect(await w.bench.titled('repairs', 'Wandering work')).to.have.length(0)
    expect(await w.garden.titled('house-repairs', 'Work that wandered')).to.have.length(0)
    expect((await desk.rule(id)).ties).to.equal(ties)
  })

  it('an event that is gone while another calendar of the account cannot be found: it waits until that is settled', async () => {
    const title = 'Order moonflower plugs'
    const event = await eventTitled('festival-work', title)
    const dayOf = async () => (await w.bench.titled('festival', title))[0]?.day
    const before = await dayOf()
    expect(before).to.be.a('string')
    await unseen(async () => {
      await fetch(w.garden.url('teaching'), {
        method: 'DELETE',
        headers: { Authorization: `Basic ${btoa('ines:moonflower')}` },
      })
      await w.garden.remove('festival-work', event.name)
    })
    await until('it is said why', async () => {
      const { connections } = (await w.client.call('GET', '/connections')).body
      return connections.some((c: any) =>
        c.collections.some((k: any) => /deleted from the other lists/.test(k.trouble ?? '')),
      )
    })
    await desk.settled()
    expect(await dayOf(), 'it may have been moved there').to.equal(before)
    await w.app.ctx.db.run(`UPDATE collections SET takes_part = 0 WHERE name = 'Teaching'`)
    await w.app.ctx.db.run('UPDATE connections SET next_look_at = 0')
    await until('now it is gone, and its task has no date', async () => (await dayOf()) === null)
  })

  it('a title that something at the service sets back each time: it is left after three times, and the rule says so', async () => {
    const fields = { ...defaultSettings.fields, title: 'a-to-b' } as const
    const { id } = await desk.save('Small repairs', 'House repairs', {
      fields,
      made: { a: 'all', b: 'nothing' },
    })
    await w.bench.add('repairs', { text: 'Paint the gate', day: weekDay(8), hour: '10:00' })
    const setBack = async (): Promise<void> => {
      const event = await eventTitled('house-repairs', 'Paint the gate')
      await desk.settled()
      await w.garden.edit('house-repairs', event, t => t.replace(/^SUMMARY:.*/m, 'SUMMARY:PAINT THE GATE'))
    }
    for (let i = 0; i < 4; i++) await setBack()
    await until('the rule says why it stops', async () =>
      (await desk.rule(id)).notices.some((n: string) => /sets it back each time, so it is left/.test(n)),
    )
    await desk.settled()
    const [left] = await w.garden.titled('house-repairs', 'PAINT THE GATE')
    expect(property(left?.text ?? '', 'SUMMARY')).to.equal('PAINT THE GATE')
    const writes = (await desk.entries()).filter((l: any) => l.op === 'patch' && l.title === 'Paint the gate')
    expect(writes).to.have.length(3)
  })
})
