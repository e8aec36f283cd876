import { expect } from 'chai'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** A list that is passed on: whoever was shown it shows it to others, as much as they see, and no more. */
describe('a list that may be passed on', function () {
  this.timeout(40_000)
  let w: World
  let tobias: Client
  let anouk: Client
  let list: string
  const me = { ines: '', tobias: '', anouk: '' }
  const everybody = { kind: 'everybody' }
  const person = (id: string) => ({ kind: 'person', id })

  before(async () => {
    w = await startWorld()
    tobias = new Client(w.client.base)
    anouk = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    await anouk.signIn('anouk@quillmere.example')
    for (const [name, client] of Object.entries({ ines: w.client, tobias, anouk }))
      me[name as keyof typeof me] = (await client.call('GET', '/team')).body.me
    await w.app.ctx.db.run('UPDATE connections SET owner_id = :ines', { ines: me.ines })
    const { body } = await w.client.call('GET', '/sharing')
    list = body.lists.find((l: any) => l.name === 'Garden team').id
    await until('its events are here', async () => (await sees(w.client)).length > 0)
    await say(w.client, [everybody, null], [person(me.tobias), 'title', true])
  })
  after(() => w.close())

  const change = ([to, level, passOn = false]: [object, string | null, boolean?]) => ({
    list,
    to,
    level,
    passOn,
  })
  const say = async (who: Client, ...said: [object, string | null, boolean?][]) =>
    who.call('PUT', '/sharing', { changes: said.map(change) })
  const sees = async (who: Client): Promise<any[]> =>
    (await who.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.filter((i: any) =>
      i.sources?.includes(list),
    )
  const row = async (who: Client) =>
    (await who.call('GET', '/sharing')).body.lists.find((l: any) => l.id === list)

  it('is a row of theirs, up to what they see, and of nobody else’s', async () => {
    // Whom links show it to is for its owner to know.
    const link = { name: 'Guests of Ines', lists: [list], level: 'title', weeks: 1, expires: null }
    expect((await w.client.call('POST', '/links', link)).status).to.equal(201)
    const his = (await tobias.call('GET', '/sharing')).body
    expect(JSON.stringify(his)).to.not.include('Guests of Ines')
    expect((await row(tobias)).shownBy).to.deep.equal([])
    expect((await row(w.client)).shownBy).to.have.length(1)
    expect(await row(tobias)).to.include({ upTo: 'title', isMine: false, items: 0 })
    expect(await row(anouk)).to.equal(undefined)
    expect(await row(w.client)).to.include({ upTo: null, isMine: true })
    expect((await say(anouk, [person(me.anouk), 'title'])).status).to.equal(422)
  })

  it('is shown to others as much as they see, and taken back by whoever gave it', async () => {
    expect(await sees(anouk)).to.deep.equal([])
    const refused = async (...said: [object, string | null, boolean?][]): Promise<void> => {
      const { status, body } = await say(tobias, ...said)
      expect([status, /as much as you see/.test(body.reason)], JSON.stringify(said)).to.deep.equal([
        422,
        true,
      ])
    }
    await refused([person(me.anouk), 'everything'])
    await refused([person(me.anouk), 'title', true])
    await refused([person(me.anouk), 'nothing'])
    await refused([person(me.anouk), null])
    // His own word was said by Ines.
    await refused([person(me.tobias), 'everything'], [person(me.anouk), 'title'])
    const given = await say(tobias, [person(me.anouk), 'title'])
    expect(given.status, JSON.stringify(given.body)).to.equal(200)
    expect((await sees(anouk)).length).to.be.above(0)
    expect((await row(w.client)).grants).to.deep.include({
      to: person(me.anouk),
      level: 'title',
      by: me.tobias,
    })
    expect(await row(anouk), 'it goes no further').to.equal(undefined)
    expect((await tobias.call('PUT', '/sharing', given.body)).status).to.equal(200)
    expect(await sees(anouk)).to.deep.equal([])
  })

  it('leaves nobody with less, and opens it to nobody whom its owner keeps out', async () => {
    const before = await say(w.client, [person(me.anouk), 'nothing'])
    expect((await say(tobias, [person(me.anouk), 'title'])).status).to.equal(422)
    expect((await say(tobias, [everybody, 'title'])).status, 'not her, but all others').to.equal(200)
    expect(await sees(anouk)).to.deep.equal([])
    await w.client.call('PUT', '/sharing', before.body)
    expect((await sees(anouk)).length).to.be.above(0)
    await say(w.client, [everybody, 'everything'])
    expect((await say(tobias, [person(me.anouk), 'title'])).status, 'less than before').to.equal(422)
    expect((await say(tobias, [everybody, null])).status, 'said by Ines now').to.equal(422)
    await say(w.client, [everybody, null])
  })

  it('is shown by no links of theirs, and by nobody any more whose right is taken', async () => {
    const link = { name: 'Theirs', lists: [list], level: 'title', weeks: 1, expires: null }
    expect((await tobias.call('POST', '/links', link)).status).to.equal(422)
    await say(tobias, [person(me.anouk), 'busy'])
    await say(w.client, [person(me.tobias), 'title', false])
    expect(await row(tobias)).to.equal(undefined)
    expect((await say(tobias, [person(me.anouk), 'title'])).status).to.equal(422)
    // What they had given stays until its owner takes it.
    expect((await row(w.client)).grants.some((g: any) => g.to.id === me.anouk)).to.equal(true)
    await w.client.call('PUT', `/team/members/${me.tobias}/role`, { role: 'reader' })
    await say(w.client, [person(me.tobias), 'everything', true])
    expect(await row(tobias), 'a reader shows nothing').to.equal(undefined)
  })
})
