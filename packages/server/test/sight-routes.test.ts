import { expect } from 'chai'
import { everyRoute } from './support/every-route.ts'
import { eventText } from './support/garden.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/**
 * One workspace, and a colleague with whom almost nothing is shared: every address is asked by them, aimed at what
 * they may not know of, and no word of it comes back by any.
 */
describe('what is not shared is nowhere', function () {
  this.timeout(60_000)
  let w: World
  let tobias: Client
  let lists: Map<string, string>
  const me = { tobias: '' }
  const SECRET = /Zorblax|Quibbet|Vexillo/i

  const share = (changes: { list: string; to: object; level: string | null }[]) =>
    w.client.call('PUT', '/sharing', {
      changes: changes.map(c => ({ ...c, list: lists.get(c.list) ?? c.list })),
    })
  const everybody = { kind: 'everybody' }
  const cloth = async (who: Client, days = 7) =>
    (await who.call('GET', `/cloth?from=${weekDay(0)}&days=${days}`)).body
  const titles = async (who: Client): Promise<string[]> => (await cloth(who)).items.map((i: any) => i.title)

  before(async () => {
    w = await startWorld()
    await until('a rule is there', async () => (await w.client.call('GET', '/journal')).body.lines.length > 0)
    tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    me.tobias = (await tobias.call('GET', '/team')).body.me
    const { body } = await w.client.call('GET', '/sharing')
    lists = new Map(body.lists.map((l: any) => [l.name, l.id]))
    await w.garden.put(
      'garden-team',
      'zorblax.ics',
      eventText('zorblax', 'Zorblax council', weekDay(2), '15:00', '16:00', [
        'DESCRIPTION:Quibbet notes',
        'LOCATION:Vexillo hall',
        'CATEGORIES:Quibbet',
      ]),
    )
    await w.bench.add('festival', {
      text: 'Zorblax lantern',
      details: 'Quibbet wax',
      day: weekDay(1),
      hour: '10:00',
    })
    await until(
      'both are there',
      async () => (await titles(w.client)).filter(t => SECRET.test(t)).length >= 2,
    )
    await until('the rule has carried it over', async () =>
      JSON.stringify((await w.client.call('GET', '/journal')).body).includes('Zorblax lantern'),
    )
  })
  after(() => w.close())

  it('everybody sees it until its owner chooses otherwise', async () => {
    expect((await titles(tobias)).filter(t => SECRET.test(t))).to.have.length(2)
    const { body } = await w.client.call('GET', '/sharing')
    for (const list of body.lists.filter((l: any) => !l.own)) {
      expect(list.asBefore).to.equal(false)
      expect(list.grants).to.deep.equal([{ to: everybody, level: 'change' }])
    }
    // Tobias owns his intake alone; he shares nothing else, and cannot.
    const his = (await tobias.call('GET', '/sharing')).body.lists
    expect(his.every((l: any) => l.isMine)).to.equal(true)
    const refused = await tobias.call('PUT', '/sharing', {
      changes: [{ list: lists.get('Garden team'), to: everybody, level: 'nothing' }],
    })
    expect(refused.status).to.equal(422)
  })

  it('no address tells a word of it, and none lets it be changed', async () => {
    const key = (await cloth(w.client)).items.find((i: any) => i.title === 'Zorblax council').key
    const rule = (await w.client.call('GET', '/rules')).body.rules[0].id
    const routes = await everyRoute(w, { key, rule, list: lists.get('Garden team') ?? '' })
    const all = [...lists]
    const effect = await w.client.call('POST', '/sharing/effect', {
      changes: all.map(([, list]) => ({ list, to: everybody, level: null })),
    })
    expect(
      effect.body.effects.some((e: any) => e.person === me.tobias && e.to === 'nothing' && e.items > 0),
    ).to.equal(true)
    const done = await share(all.map(([list]) => ({ list, to: everybody, level: null })))
    expect(done.status).to.equal(200)
    const rulesNow = async () =>
      (await w.client.call('GET', '/rules')).body.rules.map((r: any) => [r.id, r.state, r.version, r.ties])
    const before = await rulesNow()
    const names = [...all.map(([name]) => name)].filter(n => n !== 'Intake')
    const ids = [...all.map(([, id]) => id), key, rule]
    for (const { pattern, method, path, body } of routes) {
      // Their own session, and what would end it, are tried elsewhere.
      if (path === '/live' || /team\/(leave|delete)|account|session/.test(path)) continue
      const answer = await tobias.call(method, path, body)
      const text = JSON.stringify(answer.body)
      expect(text, pattern).to.not.match(SECRET)
      for (const name of names) expect(text.includes(`"${name}`), `${pattern} names ${name}`).to.equal(false)
      for (const id of ids) expect(text.includes(id), `${pattern} tells an id`).to.equal(false)
      if (method !== 'GET' && /:key|:id/.test(pattern) && !/views|drafts|services|groups/.test(pattern))
        expect(answer.status, pattern).to.be.oneOf([403, 404, 409, 422])
    }
    expect(await rulesNow()).to.deep.equal(before)
    expect((await titles(w.client)).filter(t => SECRET.test(t))).to.have.length(2)
    const { body: taken } = await w.client.call('PUT', '/sharing', done.body)
    // Her intake was nobody else's before.
    expect(taken.changes).to.have.length(all.length - 1)
    expect((await titles(tobias)).filter(t => SECRET.test(t))).to.have.length(2)
  })

  it('of a calendar of which only busy is shared, only the time is told, to one person', async () => {
    const done = await share([{ list: 'Garden team', to: { kind: 'person', id: me.tobias }, level: 'busy' }])
    const { items, sources } = await cloth(tobias)
    expect(sources.map((s: any) => s.name)).to.not.include('Garden team')
    const busy = items.filter((i: any) => i.onlyBusy)
    const at = Date.parse(`${weekDay(2)}T15:00Z`)
    expect(busy.some((b: any) => b.place.startMs <= at && b.place.endMs >= at + 3_600_000)).to.equal(true)
    expect(JSON.stringify(items.filter((i: any) => i.title !== 'Zorblax lantern'))).to.not.match(SECRET)
    expect((await titles(w.client)).includes('Zorblax council')).to.equal(true)
    const anouk = new Client(w.client.base)
    await anouk.signIn('anouk@quillmere.example')
    expect((await titles(anouk)).includes('Zorblax council')).to.equal(true)
    await w.client.call('PUT', '/sharing', done.body)
  })

  it('with titles comes what and when, and nothing of what else it says; it cannot be moved', async () => {
    const done = await share([{ list: 'Garden team', to: { kind: 'person', id: me.tobias }, level: 'title' }])
    const item = (await cloth(tobias)).items.find((i: any) => i.title === 'Zorblax council')
    expect([item.movable, item.movableByOthers, item.notes, item.location, item.categories]).to.deep.equal([
      false,
      true,
      '',
      '',
      [],
    ])
    const details = (await tobias.call('GET', `/cloth/${item.key}`)).body
    expect(JSON.stringify(details)).to.not.match(/Quibbet|Vexillo/)
    expect((await tobias.call('GET', '/cloth/search?q=zorblax%20council')).body.items).to.have.length(1)
    for (const q of ['quibbet', 'vexillo', 'zorblax%20quibbet'])
      expect(
        (await tobias.call('GET', `/cloth/search?q=${q}`)).body.items.map((i: any) => i.title),
      ).to.not.include('Zorblax council')
    for (const edit of [
      { do: 'rename', title: 'Mine' },
      { do: 'place', start: { kind: 'date', date: weekDay(3) } },
      { do: 'delete' },
      { do: 'kind', kind: 'focus' },
      { do: 'keep-private', private: true },
    ])
      expect((await tobias.call('POST', `/cloth/${item.key}/edit`, edit)).status, edit.do).to.equal(409)
    expect(
      (await tobias.call('POST', `/cloth/${item.key}/edit`, { do: 'leave-out', out: true })).status,
    ).to.equal(200)
    await tobias.call('POST', `/cloth/${item.key}/edit`, { do: 'leave-out', out: false })
    await w.client.call('PUT', '/sharing', done.body)
  })

  it('kept private, it is busy time to colleagues, and both halves of a pair are', async () => {
    const lantern = (await cloth(w.client)).items.find((i: any) => i.title === 'Zorblax lantern')
    expect(lantern.kind).to.equal('tied')
    expect(
      (await tobias.call('POST', `/cloth/${lantern.key}/edit`, { do: 'keep-private', private: true })).status,
    ).to.equal(409)
    const kept = await w.client.call('POST', `/cloth/${lantern.key}/edit`, {
      do: 'keep-private',
      private: true,
    })
    expect(kept.status).to.equal(200)
    expect(await titles(tobias)).to.not.include('Zorblax lantern')
    expect((await cloth(tobias)).items.some((i: any) => i.onlyBusy)).to.equal(true)
    expect(JSON.stringify((await tobias.call('GET', '/journal')).body)).to.not.include('Zorblax lantern')
    expect(await titles(w.client)).to.include('Zorblax lantern')
    await w.client.call('POST', `/cloth/${lantern.key}/edit`, kept.body.inverse)
    expect(await titles(tobias)).to.include('Zorblax lantern')
  })

  it('a page that is open is told within two seconds, and is given nothing of before', async () => {
    const first = await tobias.call('GET', `/cloth?from=${weekDay(0)}&days=7`)
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
    const began = Date.now()
    const done = await share(
      [...lists].map(([list]) => ({ list, to: { kind: 'person', id: me.tobias }, level: 'nothing' })),
    )
    await until('it is told', async () => heard.some(h => h.includes('"team"')), 2_000)
    expect(Date.now() - began).to.be.below(2_000)
    const then = (await tobias.call('GET', `/cloth?from=${weekDay(0)}&days=7&have=${first.body.version}`))
      .body
    expect(then.sight).to.not.equal(first.body.sight)
    // What it has of an earlier sight is no basis for what changed.
    expect(then.gone).to.equal(null)
    expect(JSON.stringify(then)).to.not.match(SECRET)
    await w.client.call('PUT', '/sharing', done.body)
    leave.abort()
    await reading
  })

  it('a stream tells nothing of what happens where one may not look', async () => {
    const done = await share(
      [...lists].map(([list]) => ({ list, to: { kind: 'person', id: me.tobias }, level: 'nothing' })),
    )
    // What his intake has to tell comes through; it is the sign that what came before it did not.
    await new Promise(resolve => setTimeout(resolve, 300))
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
    await until('it listens', async () => heard.some(h => h.includes('hello')))
    const lantern = (await cloth(w.client)).items.find((i: any) => i.title === 'Zorblax lantern')
    const edit = (title: string) =>
      w.client.call('POST', `/cloth/${lantern.key}/edit`, { do: 'rename', title })
    expect((await edit('Zorblax lantern, larger')).status).to.equal(200)
    await until('it has been carried over', async () => {
      const { items } = await cloth(w.client)
      return items.some((i: any) => i.title === 'Zorblax lantern, larger' && !i.pending)
    })
    await until('and written down', async () =>
      JSON.stringify((await w.client.call('GET', '/journal')).body).includes('Zorblax lantern, larger'),
    )
    const isWell = async (well: boolean) => {
      const { connections } = (await w.client.call('GET', '/connections')).body
      return connections.every((c: any) => c.kind !== 'caldav' || (c.state === 'ok') === well)
    }
    await w.fault('garden', { status: 503 })
    await w.client.call('POST', `/cloth/${lantern.key}/edit`, {
      do: 'rename',
      title: 'Zorblax lantern, mended',
    })
    await until('a calendar account is in trouble', () => isWell(false))
    await w.fault('garden', {})
    await until('and well again', () => isWell(true), 30_000)
    const before = heard.filter(h => h.includes('event: change'))
    await tobias.call('POST', '/cloth/make', {
      what: 'task',
      title: 'His own',
      start: null,
      into: null,
      for: null,
    })
    await until('he hears of his own', async () => heard.some(h => h.includes('"cloth"')))
    expect(before).to.deep.equal([])
    leave.abort()
    await reading
    await edit('Zorblax lantern')
    await w.client.call('PUT', '/sharing', done.body)
  })

  it('groups: made by coordinators, and what is granted to one goes with it', async () => {
    expect(
      (await tobias.call('PUT', '/sharing/groups/new', { name: 'Night shift', members: [] })).status,
    ).to.equal(403)
    const made = await w.client.call('PUT', '/sharing/groups/new', {
      name: 'Night shift',
      members: [me.tobias],
    })
    expect(made.status).to.equal(200)
    expect(
      (await w.client.call('PUT', '/sharing/groups/new', { name: 'night shift', members: [] })).status,
    ).to.equal(422)
    const done = await share([
      { list: 'Garden team', to: { kind: 'group', id: made.body.id }, level: 'nothing' },
    ])
    expect(await titles(tobias)).to.not.include('Zorblax council')
    const list = (await w.client.call('GET', '/sharing')).body.lists.find(
      (l: any) => l.name === 'Garden team',
    )
    expect(list.reached.find((r: any) => r.person === me.tobias)).to.deep.equal({
      person: me.tobias,
      level: 'nothing',
      because: { kind: 'group', id: made.body.id },
    })
    expect((await w.client.call('DELETE', `/sharing/groups/${made.body.id}`)).status).to.equal(200)
    expect(await titles(tobias)).to.include('Zorblax council')
    // To take that back grants to a group that is no more.
    expect((await w.client.call('PUT', '/sharing', done.body)).status).to.equal(422)
    const { lines } = (await w.client.call('GET', '/sharing/log')).body
    expect(lines.slice(0, 2).map((l: any) => [l.who, l.body.do])).to.deep.equal([
      ['Ines Varga', 'group'],
      ['Ines Varga', 'grant'],
    ])
    const his = (await tobias.call('GET', '/sharing/log')).body.lines.map((l: any) => l.body.do)
    expect(his.filter((what: string) => what !== 'deputy')).to.deep.equal([])
  })

  it('a deputy looks after what somebody owns for the days they are named for, and not what is private', async () => {
    const anouk = new Client(w.client.base)
    await anouk.signIn('anouk@quillmere.example')
    const { me: hers } = (await anouk.call('GET', '/team')).body
    const jot = (title: string) =>
      tobias.call('POST', '/cloth/make', { what: 'task', title, start: null, into: null, for: null })
    await jot('For the deputy')
    await jot('Not for the deputy')
    const mine = await until('both are there', async () => {
      const { items } = await cloth(tobias)
      const found = items.filter((i: any) => i.title.endsWith('the deputy') && !i.pending)
      return found.length === 2 && found
    })
    const secret = mine.find((i: any) => i.title.startsWith('Not')).key
    await tobias.call('POST', `/cloth/${secret}/edit`, { do: 'keep-private', private: true })
    expect(await titles(anouk)).to.not.include('For the deputy')
    const today = new Date().toISOString().slice(0, 10)
    const name = (deputy: string, from = today, to = today) =>
      tobias.call('PUT', '/sharing/deputy', { deputy, from, to })
    expect((await name(me.tobias)).status).to.equal(422)
    expect((await name(hers, today, '2020-01-01')).status).to.equal(400)
    expect((await name(hers)).status).to.equal(200)
    const seen = await titles(anouk)
    expect(seen).to.include('For the deputy').and.not.include('Not for the deputy')
    const kept = (await cloth(anouk)).items.find((i: any) => i.title === 'For the deputy')
    expect((await anouk.call('POST', `/cloth/${kept.key}/edit`, { do: 'complete' })).status).to.equal(200)
    await name(hers, '2020-01-01', '2020-01-05')
    expect(await titles(anouk)).to.not.include('For the deputy')
    await tobias.call('PUT', '/sharing/deputy', null)
  })

  it('a task that is given to somebody is seen and completed by them, whatever its list shows', async () => {
    const made = await w.client.call('POST', '/cloth/make', {
      what: 'task',
      title: 'Given to Tobias',
      start: null,
      into: null,
      for: me.tobias,
    })
    expect(made.status).to.equal(201)
    const his = await until('he sees it', async () =>
      (await cloth(tobias)).items.find((i: any) => i.title === 'Given to Tobias' && !i.pending),
    )
    expect([his.completable, his.movable]).to.deep.equal([true, false])
    expect(
      (await tobias.call('POST', `/cloth/${his.key}/edit`, { do: 'rename', title: 'His' })).status,
    ).to.equal(409)
    expect((await tobias.call('POST', `/cloth/${his.key}/edit`, { do: 'complete' })).status).to.equal(200)
    const anouk = new Client(w.client.base)
    await anouk.signIn('anouk@quillmere.example')
    expect(await titles(anouk)).to.not.include('Given to Tobias')
  })
})
