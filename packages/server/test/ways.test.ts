import { expect } from 'chai'
import type { ClothItem } from '@loom/core'
import { plainPlanning } from '@loom/core/planning'
import { RuleDesk } from './support/rules.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** The ways of colleagues: theirs to show, and never told where the place of an appointment is not. */
describe('the ways of colleagues', function () {
  this.timeout(60_000)
  let w: World
  let tobias: Client
  let own = ''
  const PLACES = [
    { name: 'Quennip hall', minutes: 20 },
    { name: 'Zorblax yard', minutes: 45 },
  ]

  before(async () => {
    w = await startWorld()
    tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    const desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
    own = await desk.collection('House repairs')
  })
  after(() => w.close())

  const share = async (level: string): Promise<void> => {
    const changes = [{ list: own, to: { kind: 'everybody' }, level }]
    expect((await w.client.call('PUT', '/sharing', { changes })).status).to.equal(200)
  }
  const show = async (showsWays: boolean): Promise<void> => {
    const { version } = (await w.client.call('GET', '/planning')).body
    const planning = { ...plainPlanning, travel: { places: PLACES, between: [] }, showsWays }
    expect((await w.client.call('PUT', '/planning', { version, planning })).status).to.equal(200)
  }
  const days = `from=${weekDay(7)}&days=7`
  const ways = async (who: Client): Promise<any[]> =>
    (await who.call('GET', `/planning/ways?${days}`)).body.ways
  const meet = async (): Promise<ClothItem> => {
    const start = { kind: 'zoned', local: `${weekDay(8)}T10:00:00`, zone: 'Europe/Dublin' }
    const body = { what: 'event', title: 'Plonkit talk', start, minutes: 60, into: own }
    const said = { location: 'Great room, Quennip Hall' }
    expect((await w.client.call('POST', '/cloth/make', { ...body, said })).status).to.equal(201)
    return until('it is there', async () => {
      const { items } = (await w.client.call('GET', `/cloth?${days}`)).body
      return items.find((i: ClothItem) => i.title === 'Plonkit talk' && !i.pending)
    })
  }

  it('are shown to whoever sees the place, and only where their person says so', async () => {
    const { key, place, people } = await meet()
    await share('everything')
    await show(false)
    expect(await ways(tobias)).to.deep.equal([])
    await show(true)
    expect(await ways(w.client), 'one’s own').to.deep.equal([])
    const { startMs, endMs } = place.kind === 'timed' ? place : { startMs: 0, endMs: 0 }
    const [person] = people
    expect(await ways(tobias)).to.deep.equal([
      { fromMs: startMs - 20 * 60_000, toMs: startMs, to: 'Quennip hall', of: key, person },
      { fromMs: endMs, toMs: endMs + 20 * 60_000, to: null, of: key, person },
    ])
    for (const level of ['title', 'busy', 'nothing']) {
      await share(level)
      expect(await ways(tobias), level).to.deep.equal([])
    }
    await share('everything')
    await w.client.call('POST', `/cloth/${key}/edit`, { do: 'keep-private', private: true })
    await until('it is private', async () => (await ways(tobias)).length === 0)
  })

  it('are for some days, and no more', async () => {
    for (const query of ['', `?from=${weekDay(0)}`, `?from=never&days=7`, `?from=${weekDay(0)}&days=400`])
      expect((await tobias.call('GET', `/planning/ways${query}`)).status, query).to.equal(400)
  })
})
