import { expect } from 'chai'
import { defaultSettings, plainView, type RuleSettings } from '@loom/core'
import { Client, startWorld, until, type World } from './support/world.ts'

/** Rules as a channel: whose list is carried to where more people look is asked, up to a level that they name. */
describe('what rules carry on', function () {
  this.timeout(60_000)
  let w: World
  let tobias: Client
  let anouk: Client
  let festival: string
  let garden: string
  const me = { ines: '', tobias: '', anouk: '' }
  const person = (id: string) => ({ kind: 'person', id })
  const everybody = { kind: 'everybody' }

  // Festival is Anouk's, the calendar Tobias's; Ines may change both, and each of the two sees only their own.
  before(async () => {
    w = await startWorld()
    tobias = new Client(w.client.base)
    anouk = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    await anouk.signIn('anouk@quillmere.example')
    for (const [name, client] of Object.entries({ ines: w.client, tobias, anouk }))
      me[name as keyof typeof me] = (await client.call('GET', '/team')).body.me
    await until('all is read', async () =>
      (await w.client.call('GET', '/connections')).body.connections.every((c: any) =>
        c.collections.every((k: any) => k.syncedAt !== null || !k.takesPart),
      ),
    )
    for (const { id } of (await w.client.call('GET', '/rules')).body.rules)
      expect((await w.client.call('DELETE', `/rules/${id}`)).status).to.equal(200)
    const own = 'UPDATE connections SET owner_id = :who WHERE kind = :kind'
    await w.app.ctx.db.run(own, { who: me.anouk, kind: 'http-json' })
    await w.app.ctx.db.run(own, { who: me.tobias, kind: 'caldav' })
    festival = await listOf(anouk, 'Festival')
    garden = await listOf(tobias, 'Garden team')
    const mine = person(me.ines)
    await share(anouk, { list: festival, to: everybody, level: null })
    await share(tobias, { list: garden, to: everybody, level: null })
    await share(anouk, { list: festival, to: mine, level: 'change' })
    await share(tobias, { list: garden, to: mine, level: 'change' })
  })
  after(() => w.close())

  const listOf = async (who: Client, name: string): Promise<string> =>
    (await who.call('GET', '/sharing')).body.lists.find((l: any) => l.name === name).id
  const share = (who: Client, ...changes: object[]) => who.call('PUT', '/sharing', { changes })
  const OPEN = { title: 'both', time: 'both', completion: 'both' } as const
  const FIELDS = { notes: 'off', due: 'off', priority: 'off', categories: 'off' } as const
  const NARROW = { location: 'off', people: 'off', link: 'off' } as const
  const draft = (fields: Partial<RuleSettings['fields']> = {}) => ({
    id: null,
    name: null,
    a: festival,
    b: garden,
    settings: {
      ...defaultSettings,
      fields: { ...defaultSettings.fields, ...OPEN, ...FIELDS, ...NARROW, ...fields },
    },
  })
  const rules = async () => (await w.client.call('GET', '/rules')).body.rules
  const asked = async (who: Client) => (await who.call('GET', '/requests')).body
  const answer = (who: Client, id: string, accept: boolean, upTo: string | null = null) =>
    who.call('POST', `/requests/${id}/answer`, { accept, upTo })
  const onlyRequest = async (who: Client): Promise<any> => {
    const { forMe } = await asked(who)
    expect(forMe).to.have.length(1)
    return forMe[0]
  }
  const levelOf = async (who: Client, list: string): Promise<string> =>
    (await who.call('GET', `/sharing/lists/${list}`)).body.mine?.level ?? 'nothing'
  const limit = async (level: string) =>
    (await anouk.call('PUT', `/sharing/lists/${festival}/carried/${garden}`, { level })).body
  const carried = async (who: Client, list: string): Promise<any[]> =>
    (await who.call('GET', `/sharing/lists/${list}`)).body.carriedOn

  it('a rule is made once everybody whose list it opens has agreed, and not before', async () => {
    const preview = (await w.client.call('POST', '/rules/preview', draft({ notes: 'both' }))).body
    expect(preview.asks).to.have.deep.members([
      { place: 'Festival', owner: 'Anouk Thapa', level: 'everything' },
      { place: 'Garden team', owner: 'Tobias Lund', level: 'everything' },
    ])
    const saved = await w.client.call('POST', '/rules', draft({ notes: 'both' }))
    expect(saved.status).to.equal(202)
    expect(saved.body.asked).to.deep.equal(preview.asks)
    expect((await w.client.call('POST', '/rules', draft({ notes: 'both' }))).status).to.equal(202)
    expect(await rules()).to.deep.equal([])
    const hers = await onlyRequest(anouk)
    expect(hers.what).to.deep.include({ ask: 'carry', place: 'Festival', level: 'everything', then: 'rule' })
    expect(hers.what.who).to.deep.equal(['Tobias Lund'])
    expect(hers.what.target, 'she does not see where it goes').to.equal(null)
    expect((await answer(tobias, hers.id, true)).status, 'it is not his to answer').to.equal(404)
    expect((await answer(w.client, hers.id, true)).status).to.equal(404)
    // As far as titles: what was asked for is not done, and what was agreed to stands.
    expect((await answer(anouk, hers.id, true, 'title')).body).to.deep.include({
      did: 'agreed',
      carriedOut: false,
    })
    const last = (await answer(tobias, (await onlyRequest(tobias)).id, true)).body
    expect(last).to.deep.include({ did: 'agreed', carriedOut: false })
    expect(last.reason).to.match(/shows more than that/)
    expect(await rules()).to.deep.equal([])
    expect((await asked(w.client)).mine.map((r: any) => r.state).sort()).to.deep.equal(['accepted', 'lapsed'])
  })

  it('what was agreed to is asked for no more, and the rule carries on', async () => {
    const preview = (await w.client.call('POST', '/rules/preview', draft())).body
    expect(preview.asks).to.deep.equal([])
    expect((await w.client.call('POST', '/rules', draft())).status).to.equal(201)
    expect(await rules()).to.have.length(1)
    expect(await carried(anouk, festival)).to.deep.equal([
      {
        target: garden,
        place: null,
        agreed: 'title',
        level: 'title',
        who: ['Tobias Lund'],
        isOn: true,
      },
    ])
    const [rule] = await rules()
    const wider = { ...draft({ notes: 'both' }), id: rule.id }
    expect((await w.client.call('POST', '/rules', wider)).status, 'more than titles').to.equal(202)
    expect((await rules())[0].version).to.equal(1)
    const request = await onlyRequest(anouk)
    const narrower = { ...draft(), id: rule.id, name: 'Beds' }
    expect((await w.client.call('POST', '/rules', narrower)).status, 'as much as before').to.equal(200)
    const late = (await answer(anouk, request.id, true)).body
    expect(late).to.deep.include({ did: 'agreed', carriedOut: false })
    expect(late.reason).to.match(/changed since/)
    expect((await rules())[0]).to.deep.include({ name: 'Beds', version: 2 })
    // She has agreed to everything since: said of the list, as far as she likes.
    expect(await limit('title')).to.deep.equal({ stopped: false })
  })

  it('who shows the target to more people asks again; it is shown once its owner has agreed', async () => {
    const toAll = { list: garden, to: everybody, level: 'everything', passOn: false }
    // Titles were agreed to, for whoever looks.
    const titles = await share(tobias, { ...toAll, level: 'title' })
    expect([titles.status, titles.body.asked]).to.deep.equal([200, []])
    expect(await limit('busy')).to.deep.equal({ stopped: true })
    expect((await rules())[0].state).to.equal('paused')
    const on = await w.client.call('PUT', `/rules/${(await rules())[0].id}/state`, { state: 'on' })
    expect(on.status, 'she limited it').to.equal(202)
    expect((await rules())[0].state).to.equal('paused')
    expect((await answer(anouk, (await onlyRequest(anouk)).id, true)).body).to.deep.include({
      did: 'agreed',
      carriedOut: true,
    })
    expect((await rules())[0].state).to.equal('on')

    await share(tobias, { list: garden, to: everybody, level: null })
    const changes = [{ ...toAll, level: 'title' }]
    expect((await tobias.call('POST', '/sharing/effect', { changes })).body.asks).to.deep.equal([])
  })

  it('names to whoever asks nothing that they do not see', async () => {
    await limit('busy')
    const changes = [{ list: garden, to: everybody, level: 'title', passOn: false }]
    const effect = (await tobias.call('POST', '/sharing/effect', { changes })).body
    expect(effect.asks).to.deep.equal([{ place: null, owner: 'Anouk Thapa', level: 'title' }])
    const done = await share(tobias, ...changes)
    expect(done.status).to.equal(202)
    expect(JSON.stringify([effect, done.body])).to.not.include('Festival')
    expect(await levelOf(w.client, garden)).to.equal('change')
    const [mine] = (await asked(tobias)).mine
    expect([mine.what.place, mine.what.rule]).to.deep.equal([null, null])
    const request = await onlyRequest(anouk)
    expect(request.what).to.deep.include({ then: 'share', level: 'title', place: 'Festival' })
    expect((await answer(anouk, request.id, true)).body.carriedOut).to.equal(true)
    const { grants } = (await tobias.call('GET', '/sharing')).body.lists.find((l: any) => l.id === garden)
    expect(grants.find((g: any) => g.to.kind === 'everybody').level).to.equal('title')
    expect((await tobias.call('DELETE', `/requests/${request.id}/answer`)).status).to.equal(404)
    expect((await anouk.call('DELETE', `/requests/${request.id}/answer`)).status).to.equal(404)
  })

  it('is asked for addresses, groups and views as well, which are done again once it is agreed to', async () => {
    await limit('busy')
    const link = { name: 'A neighbour', lists: [garden], level: 'everything', weeks: 1, expires: null }
    const refused = await tobias.call('POST', '/links', link)
    expect(refused.status).to.equal(422)
    expect(refused.body.reason).to.match(/belongs to Anouk Thapa.*do this again/)
    expect((await tobias.call('GET', '/links')).body.links).to.deep.equal([])
    const request = await onlyRequest(anouk)
    expect(request.what).to.deep.include({
      then: null,
      level: 'title',
      who: ['whoever has a secret address'],
    })
    expect((await answer(anouk, request.id, false)).body.did).to.equal('declined')

    const view = {
      name: 'Zorblax',
      icon: 'leaf',
      body: plainView,
      grants: [{ to: everybody, level: 'everything', opens: 'everything' }],
    }
    await share(tobias, { list: garden, to: everybody, level: null })
    expect((await tobias.call('POST', '/views', view)).status).to.equal(422)
    expect((await tobias.call('GET', '/views')).body.views.map((v: any) => v.name)).to.not.include('Zorblax')
    expect((await answer(anouk, (await onlyRequest(anouk)).id, false)).body.did).to.equal('declined')

    // A group that nobody is in yet is who will be.
    const { id } = (await w.client.call('PUT', '/sharing/groups/new', { name: 'Growers', members: [] })).body
    const toGroup = { list: garden, to: { kind: 'group', id }, level: 'title' }
    expect((await share(tobias, toGroup)).status).to.equal(202)
    expect((await onlyRequest(anouk)).what.who).to.deep.equal(['whoever joins Growers'])
    expect((await answer(anouk, (await onlyRequest(anouk)).id, true)).body.carriedOut).to.equal(true)
    expect((await tobias.call('POST', '/views', view)).status, 'titles are agreed to now').to.equal(201)
    expect((await tobias.call('POST', '/links', link)).status).to.equal(201)
  })

  it('whoever withdraws it is not acted for', async () => {
    const [rule] = await rules()
    const wider = { ...draft({ notes: 'both' }), id: rule.id }
    expect((await w.client.call('POST', '/rules', wider)).status).to.equal(202)
    const request = await onlyRequest(anouk)
    expect((await w.client.call('DELETE', `/requests/${request.id}`)).status).to.equal(200)
    expect((await answer(anouk, request.id, true)).status).to.equal(404)
    expect((await rules())[0].settings.fields.notes).to.equal('off')
  })
})
