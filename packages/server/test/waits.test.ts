import { expect } from 'chai'
import type { ClothItem } from '@loom/core'
import { RuleDesk } from './support/rules.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** What waits for what: said here, kept where its service has room for it, and seen by whom both may be seen. */
describe('what waits for what', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk

  before(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
  })
  after(() => w.close())

  const items = async (): Promise<ClothItem[]> =>
    (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=14`)).body.items
  const titled = (title: string): Promise<ClothItem> =>
    until(`"${title}"`, async () => (await items()).find(i => i.title === title && !i.pending))
  const make = async (title: string, start: object | null = null): Promise<ClothItem> => {
    const body = { what: 'task', title, start, estimate: 60, into: null, said: {} }
    expect((await w.client.call('POST', '/cloth/make', body)).status).to.equal(201)
    return titled(title)
  }
  const waits = async (client = w.client): Promise<any[]> =>
    (await client.call('GET', '/planning/waits')).body.waits
  const say = (key: string, ...of: { key: string; gap: number }[]) =>
    w.client.call('PUT', `/planning/waits/${key}`, { for: of })
  const of = async (key: string): Promise<any[]> => (await waits()).find(i => i.key === key)?.for ?? []

  it('is kept with a task of ours, told with when the first of them ends, and taken back', async () => {
    const [lamps, poles] = [await make('Zorblax lamps'), await make('Zorblax poles')]
    const said = await say(lamps.key, { key: poles.key, gap: 90 })
    expect([said.status, said.body]).to.deep.equal([200, { before: [] }])
    await until('it is so', async () => (await of(lamps.key)).length === 1)
    expect(await of(lamps.key)).to.deep.equal([
      { key: poles.key, title: 'Zorblax poles', gap: 90, done: false, endsMs: null },
    ])
    const start = { kind: 'zoned', local: `${weekDay(8)}T10:00:00`, zone: 'Europe/Dublin' }
    await w.client.call('POST', `/cloth/${poles.key}/edit`, { do: 'place', start, minutes: 60 })
    const placed = await titled('Zorblax poles')
    const ends = placed.place.kind === 'timed' ? placed.place.endMs : -1
    expect((await of(lamps.key))[0].endsMs).to.equal(ends)
    await w.client.call('POST', `/cloth/${poles.key}/edit`, { do: 'complete' })
    await until('the first is done', async () => (await of(lamps.key))[0]?.done === true)
    expect((await say(lamps.key)).body).to.deep.equal({ before: [{ key: poles.key, gap: 90 }] })
    await until('nothing waits', async () => (await of(lamps.key)).length === 0)
  })

  it('is kept here where the service of a task has no room for it, and goes when its task goes', async () => {
    const [brief, poles] = [await titled('Write lantern brief'), await make('Zorblax ladders')]
    expect((await say(brief.key, { key: poles.key, gap: 0 })).status).to.equal(200)
    expect((await of(brief.key)).map(l => l.title)).to.deep.equal(['Zorblax ladders'])
    await desk.settled()
    const there = await w.bench.titled('festival', 'Write lantern brief')
    expect(JSON.stringify(there)).to.not.contain('Zorblax')
    await w.client.call('POST', `/cloth/${poles.key}/edit`, { do: 'delete' })
    await until('what is gone keeps nothing waiting', async () => (await of(brief.key)).length === 0)
  })

  it('is refused of what is no task, of itself, and of what is not there', async () => {
    const lamps = await titled('Zorblax lamps')
    // In whatever order they come; of a series each date has a longer key.
    const event = (await items()).find(i => i.kind === 'event' && !i.key.includes('@'))
    expect((await say(lamps.key, { key: lamps.key, gap: 0 })).status).to.equal(409)
    expect((await say(lamps.key, { key: event?.key ?? '', gap: 0 })).status).to.equal(409)
    expect((await say(event?.key ?? '', { key: lamps.key, gap: 0 })).status).to.equal(409)
    expect((await say(lamps.key, { key: 'nothing', gap: 0 })).status).to.equal(409)
    expect((await say(lamps.key, { key: lamps.key, gap: -5 })).status).to.equal(400)
  })

  it('names to a colleague nothing that they may not see', async () => {
    const [lamps, ladders] = [await titled('Zorblax lamps'), await make('Zorblax secret')]
    await say(lamps.key, { key: ladders.key, gap: 0 })
    await until('it is so', async () => (await of(lamps.key)).length === 1)
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    expect(JSON.stringify(await waits(tobias))).to.not.contain('Zorblax secret')
  })
})
