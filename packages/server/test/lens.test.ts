import { expect } from 'chai'
import { plainView } from '@loom/core'
import { eventText } from './support/garden.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** A saved view that opens what it shows: as it was granted, as far as its giver may show it, and nothing else. */
describe('a view that opens what it shows', function () {
  this.timeout(60_000)
  let w: World
  let tobias: Client
  let anouk: Client
  let list: string
  let view: string
  const me = { ines: '', tobias: '', anouk: '' }
  const zorblax = { ...plainView, filter: [{ field: 'words', of: ['Zorblax'], without: false }] }
  const nowhere = /Vexillo|Quibbet/

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
    const notes = (title: string, hour: string, more: string[] = []) =>
      w.garden.put(
        'garden-team',
        `${title.split(' ')[0]}.ics`,
        eventText(title, title, weekDay(2), `${hour}:00`, `${hour}:30`, ['DESCRIPTION:Quibbet', ...more]),
      )
    await notes('Zorblax walk', '15')
    await notes('Vexillo talk', '16')
    await notes('Private zorblax', '17', ['CLASS:PRIVATE'])
    await until(
      'they are here',
      async () => (await titles(w.client)).filter(t => /orblax/.test(t)).length === 2,
    )
    expect((await word({ kind: 'everybody' }, 'nothing')).status).to.equal(200)
  })
  after(() => w.close())

  const word = (to: object, level: string | null) =>
    w.client.call('PUT', '/sharing', { changes: [{ list, to, level }] })
  const person = (id: string) => ({ kind: 'person', id })
  const items = async (who: Client): Promise<any[]> =>
    (await who.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items
  const titles = async (who: Client): Promise<string[]> => (await items(who)).map(i => i.title)
  const walk = async (who: Client) => (await items(who)).find(i => i.title === 'Zorblax walk')
  const known = async (who: Client) =>
    (await who.call('GET', '/views')).body.views.find((v: any) => v.id === view)
  const save = async (who: Client, change: object) => {
    const { name, icon, body, version } = (await known(who)) ?? {}
    return who.call('PUT', `/views/${view}`, { name, icon, body, version, ...change })
  }
  const opening = (opens: string | null, level = 'change') => [{ to: person(me.tobias), level, opens }]

  it('shows its titles to those it is for, wherever they look, and nothing besides', async () => {
    expect(await titles(tobias)).to.not.include('Zorblax walk')
    const made = await w.client.call('POST', '/views', {
      name: 'Lanterns',
      icon: 'lamp',
      body: zorblax,
      grants: opening('title'),
    })
    expect(made.status, JSON.stringify(made.body)).to.equal(201)
    view = made.body.id
    const item = await walk(tobias)
    expect(item).to.include({ title: 'Zorblax walk', movable: false })
    expect(JSON.stringify(await items(tobias))).to.not.match(nowhere)
    expect(await titles(tobias)).to.not.include('Private zorblax')
    expect(await titles(anouk)).to.not.include('Zorblax walk')
    const search = async (text: string) =>
      (await tobias.call('GET', `/cloth/search?q=${encodeURIComponent(text)}`)).body.items.map(
        (i: any) => i.title,
      )
    expect(await search('zorblax')).to.deep.equal(['Zorblax walk'])
    expect(await search('vexillo')).to.deep.equal([])
    expect(await search('quibbet')).to.deep.equal([])
    const details = await tobias.call('GET', `/cloth/${item.key}`)
    expect([details.status, nowhere.test(JSON.stringify(details.body))]).to.deep.equal([200, false])
    // What is private is taken time to him.
    const taken = (await items(tobias))
      .filter(i => i.onlyBusy)
      .map(i => new Date(i.place.startMs).getUTCHours())
    expect(taken.length).to.be.above(0)
  })

  it('is to look at, and is no way to the list itself', async () => {
    const item = await walk(tobias)
    const edit = (what: object) => tobias.call('POST', `/cloth/${item.key}/edit`, what)
    expect((await edit({ do: 'rename', title: 'His' })).status).to.equal(409)
    const { connections } = (await tobias.call('GET', '/connections')).body
    expect(connections.flatMap((c: any) => c.collections.map((k: any) => k.id))).to.not.include(list)
    expect((await tobias.call('GET', `/sharing/lists/${list}`)).status).to.equal(404)
    expect(JSON.stringify((await tobias.call('GET', '/sharing')).body)).to.not.include(list)
    expect(JSON.stringify((await tobias.call('GET', '/journal')).body)).to.not.match(/Zorblax|Vexillo/)
    const link = { name: 'Onwards', lists: [list], level: 'title', weeks: 1, expires: null }
    expect((await tobias.call('POST', '/links', link)).status).to.not.equal(201)
  })

  it('opens what it showed when it was granted, whoever else changes it, until its giver saves it', async () => {
    expect((await save(tobias, { body: plainView })).status).to.equal(200)
    expect(await titles(tobias))
      .to.include('Zorblax walk')
      .and.not.include('Vexillo talk')
    // Nor does he open it to anybody else, or further to himself.
    expect((await save(tobias, { grants: opening('everything') })).status).to.equal(409)
    expect((await save(w.client, {})).status).to.equal(200)
    expect(await titles(tobias)).to.include.members(['Zorblax walk', 'Vexillo talk'])
    expect((await save(w.client, { body: zorblax })).status).to.equal(200)
    expect(await titles(tobias))
      .to.include('Zorblax walk')
      .and.not.include('Vexillo talk')
  })

  it('follows what becomes of an item, and the page hears of it', async () => {
    const heard: string[] = []
    const leave = new AbortController()
    const stream = await fetch(`${w.client.base}/api/live`, {
      headers: { Cookie: tobias.cookieNow },
      signal: leave.signal,
    })
    const reading = (async () => {
      const decoder = new TextDecoder()
      for await (const chunk of stream.body as unknown as AsyncIterable<Uint8Array>)
        heard.push(decoder.decode(chunk))
    })().catch(() => undefined)
    await until('it listens', async () => heard.length > 0)
    const key = (await walk(w.client)).key
    expect(
      (await w.client.call('POST', `/cloth/${key}/edit`, { do: 'rename', title: 'Torch walk' })).status,
    ).to.equal(200)
    await until('it is told', async () => heard.some(h => h.includes('"cloth"')))
    expect((await titles(tobias)).filter(t => /walk/.test(t))).to.deep.equal([])
    await w.client.call('POST', `/cloth/${key}/edit`, { do: 'rename', title: 'Zorblax walk' })
    await until('it is back', async () => (await titles(tobias)).includes('Zorblax walk'))
    leave.abort()
    await reading
  })

  it('opens no more than its giver may show, and nothing to whom is kept out', async () => {
    expect((await save(w.client, { grants: opening('everything') })).status).to.equal(200)
    expect((await walk(tobias)).notes).to.equal('Quibbet')
    await word(person(me.tobias), 'nothing')
    expect(await titles(tobias)).to.not.include('Zorblax walk')
    await word(person(me.tobias), null)
    // The calendar becomes somebody else's: it is not Ines's to show.
    const ownedBy = (owner: string) =>
      w.app.ctx.db.commit(async sql => {
        const [of] = await sql.rows<{ id: string; workspace_id: string }>(
          'SELECT n.id, n.workspace_id FROM connections n JOIN collections k ON k.connection_id = n.id WHERE k.id = :list',
          { list },
        )
        await sql.run('UPDATE connections SET owner_id = :owner WHERE id = :id', { owner, id: of?.id })
        sql.tell(of?.workspace_id ?? '', { topics: ['team', 'cloth'] })
      })
    await ownedBy(me.anouk)
    expect(await titles(tobias)).to.not.include('Zorblax walk')
    expect(await titles(anouk)).to.include('Zorblax walk')
    await ownedBy(me.ines)
    expect((await walk(tobias)).notes).to.equal('Quibbet')
  })

  it('is said in the list of who shared what, and is over with the word or the view', async () => {
    const said = async () =>
      (await w.client.call('GET', '/sharing/log')).body.lines.flatMap((l: any) =>
        l.body.do === 'lens' ? [[l.body.view, l.body.before, l.body.level]] : [],
      )
    expect(await said()).to.deep.equal([
      ['Lanterns', 'title', 'everything'],
      ['Lanterns', null, 'title'],
    ])
    expect(
      (await w.client.call('GET', '/sharing')).body.lists.find((l: any) => l.id === list).opened,
    ).to.deep.equal([{ view: 'Lanterns', to: person(me.tobias), level: 'everything' }])
    expect((await save(w.client, { grants: opening(null) })).status).to.equal(200)
    expect(await titles(tobias)).to.not.include('Zorblax walk')
    await save(w.client, { grants: opening('busy') })
    expect(await titles(tobias)).to.not.include('Zorblax walk')
    await save(w.client, { grants: opening('title') })
    expect(await titles(tobias)).to.include('Zorblax walk')
    expect((await w.client.call('DELETE', `/views/${view}`)).status).to.equal(200)
    expect(await titles(tobias)).to.not.include('Zorblax walk')
  })
})
