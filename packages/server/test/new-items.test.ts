import { expect } from 'chai'
import { RuleDesk } from './support/rules.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** What came to somebody since they looked last: not what was there, what they made, or what a rule made of it. */
describe('what is new to somebody', function () {
  this.timeout(60_000)
  let w: World
  let tobias: Client
  let anouk: Client

  before(async () => {
    w = await startWorld()
    tobias = new Client(w.client.base)
    anouk = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    await anouk.signIn('anouk@quillmere.example')
    const desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
  })
  after(() => w.close())

  const newTo = async (who: Client): Promise<any> => (await who.call('GET', '/planning/new')).body
  const titles = async (who: Client): Promise<string[]> =>
    (await newTo(who)).items.map((i: any) => i.title).sort()
  const isHere = (who: Client, title: string) =>
    until(`"${title}"`, async () => {
      const { items } = (await who.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body
      return items.find((i: any) => i.title === title && !i.pending)
    })
  const make = async (who: Client, title: string, more: object = {}): Promise<any> => {
    const body = { what: 'task', title, start: null, estimate: 30, into: null, ...more }
    expect((await who.call('POST', '/cloth/make', body)).status).to.equal(201)
    return isHere(who, title)
  }

  it('is nothing before the first time, and from then on what came from elsewhere, once', async () => {
    for (const who of [w.client, tobias]) expect((await newTo(who)).items).to.deep.equal([])
    await make(w.client, 'Zorblax of my own')
    await w.bench.add('festival', { text: 'Quennip lamps', day: weekDay(3), hour: '10:00' })
    const lamps = await isHere(w.client, 'Quennip lamps')
    await until('it is told', async () => (await titles(w.client)).length > 0)
    const { items } = await newTo(w.client)
    expect(items.map((i: any) => [i.key, i.title, i.kind])).to.deep.equal([
      [lamps.key, 'Quennip lamps', 'task'],
    ])
    expect(await titles(tobias), 'it is not given to them').to.deep.equal([])

    // A rule makes an event of it: it is the same, and no second thing.
    await until('it is tied', async () => (await isHere(w.client, 'Quennip lamps')).kind === 'tied')
    expect(await titles(w.client)).to.deep.equal(['Quennip lamps'])
    const atMs = items[0].atMs
    expect((await w.client.call('POST', '/planning/new/seen', { atMs })).status).to.equal(200)
    await until('it was seen', async () => (await titles(w.client)).length === 0)
    // Nothing that was seen is new again, whatever is said of an earlier time.
    await w.client.call('POST', '/planning/new/seen', { atMs: 0 })
    expect(await titles(w.client)).to.deep.equal([])
  })

  it('is what a colleague gives one, and is told to nobody else', async () => {
    const { me } = (await tobias.call('GET', '/team')).body
    await make(w.client, 'Plonkit for Tobias', { for: me })
    await until('it is new to them', async () => (await titles(tobias)).includes('Plonkit for Tobias'))
    expect(await titles(w.client)).to.deep.equal([])
    expect(await titles(anouk)).to.deep.equal([])
    const { key } = await isHere(tobias, 'Plonkit for Tobias')
    await tobias.call('POST', `/cloth/${key}/edit`, { do: 'complete' })
    await until('what is done is not new', async () => (await titles(tobias)).length === 0)
  })
})
