import { expect } from 'chai'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** What one may not do oneself is asked of whoever may; accepting looks at rights and at the task again. */
describe('requests', function () {
  this.timeout(60_000)
  let w: World
  let tobias: Client
  let anouk: Client
  let lists: Map<string, string>
  const id = { ines: '', tobias: '', anouk: '' }

  before(async () => {
    w = await startWorld()
    tobias = new Client(w.client.base)
    anouk = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    await anouk.signIn('anouk@quillmere.example')
    for (const [name, who] of Object.entries({ ines: w.client, tobias, anouk }))
      id[name as keyof typeof id] = (await who.call('GET', '/team')).body.me
    await w.bench.add('festival', { text: 'Varnish the gate', day: weekDay(1), hour: '10:00' })
    const all: any[] = (await w.client.call('GET', '/sharing')).body.lists
    lists = new Map(all.filter(l => l.itemKind === 'task').map(l => [l.name, l.id]))
    lists.set('intake', all.find(l => l.own && l.isMine).id)
    await until('it is here', () => taskOf(w.client, 'Varnish the gate'))
  })
  after(() => w.close())

  const taskOf = async (who: Client, title: string): Promise<any> =>
    (await who.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.find(
      (i: any) => i.title === title && !i.pending && i.sources.some((s: string) => isTaskList(s)),
    )
  const isTaskList = (id: string): boolean => [...lists.values()].includes(id)
  const share = (list: string, level: string | null, to: object = { kind: 'everybody' }) =>
    w.client.call('PUT', '/sharing', { changes: [{ list: lists.get(list), to, level }] })
  const asked = async (who: Client) => (await who.call('GET', '/requests')).body
  const give = (who: Client, key: string, to: string) =>
    who.call('POST', '/requests', { ask: 'give', key, to })
  const answer = (who: Client, request: string, accept: boolean) =>
    who.call('POST', `/requests/${request}/answer`, { accept })

  it('a task that one may only look at is handed on once whoever may has accepted', async () => {
    const lantern = { what: 'task', title: 'Mend a lantern', start: null, into: null, for: null }
    expect((await w.client.call('POST', '/cloth/make', lantern)).status).to.equal(201)
    await share('intake', 'change')
    const { key } = await until('it is there', () => taskOf(tobias, 'Mend a lantern'))
    expect((await give(tobias, key, id.anouk)).status, 'they may do it themselves').to.equal(409)
    expect((await share('intake', 'title')).status).to.equal(200)
    const looked = await taskOf(tobias, 'Mend a lantern')
    expect(looked.onlyLook).to.equal(true)
    const made = await give(tobias, key, id.anouk)
    expect(made.status).to.equal(201)
    expect((await give(tobias, key, id.anouk)).body.id, 'asked twice').to.equal(made.body.id)
    expect((await asked(tobias)).mine).to.have.length(1)
    expect((await asked(anouk)).forMe, 'she does not look after it').to.deep.equal([])
    expect((await answer(anouk, made.body.id, true)).status).to.equal(404)
    expect((await answer(tobias, made.body.id, true)).status, 'one’s own').to.equal(404)
    const [request] = (await asked(w.client)).forMe
    expect(request.what).to.deep.include({ ask: 'give', title: 'Mend a lantern' })
    expect(request.what.to.name).to.equal('Anouk Thapa')
    expect(request.reason).to.equal(null)
    const both = await Promise.all([1, 2].map(() => answer(w.client, request.id, true)))
    expect(both.map(a => a.status).sort()).to.deep.equal([200, 404])
    await until('it is hers', async () => (await taskOf(anouk, 'Mend a lantern'))?.people.includes(id.anouk))
    expect((await asked(tobias)).mine[0]).to.include({ state: 'accepted', answeredBy: 'Ines Varga' })
    expect((await asked(w.client)).forMe).to.deep.equal([])
    const [line] = (await w.client.call('GET', `/journal?item=${key}`)).body.lines
    expect(line.fields, 'names, not ids').to.deep.include({
      field: 'people',
      before: [],
      after: ['Anouk Thapa'],
    })
  })

  it('what cannot be done after all waits on, and whoever accepted is told why', async () => {
    await share('Festival', 'title')
    const { key } = await taskOf(tobias, 'Varnish the gate')
    const { body } = await give(tobias, key, id.anouk)
    const refused = await answer(w.client, body.id, true)
    expect(refused.status).to.equal(409)
    expect(refused.body.reason).to.match(/no account at its service/)
    expect((await asked(w.client)).forMe.map((r: any) => r.state)).to.deep.equal(['open'])
    expect((await answer(w.client, body.id, false)).body.did).to.equal('declined')
    // An answer is taken back by whoever gave it, and by nobody else.
    expect((await tobias.call('DELETE', `/requests/${body.id}/answer`)).status).to.equal(404)
    expect((await w.client.call('DELETE', `/requests/${body.id}/answer`)).status).to.equal(200)
    expect((await asked(w.client)).forMe.map((r: any) => r.id)).to.deep.equal([body.id])
    expect((await answer(w.client, body.id, false)).body.did).to.equal('declined')
  })

  it('what has become something else is not accepted, and says why', async () => {
    const before = await taskOf(tobias, 'Varnish the gate')
    const { body } = await give(tobias, before.key, id.tobias)
    const renamed = { do: 'rename', title: 'Varnish both gates' }
    expect((await w.client.call('POST', `/cloth/${before.key}/edit`, renamed)).status).to.equal(200)
    await until('it is renamed', () => taskOf(w.client, 'Varnish both gates'))
    const [request] = (await asked(w.client)).forMe
    expect(request.reason).to.match(/what it is called changed/)
    const refused = await answer(w.client, body.id, true)
    expect([refused.status, refused.body.reason]).to.deep.equal([409, request.reason])
    expect((await asked(tobias)).mine.find((r: any) => r.id === body.id)).to.deep.include({
      state: 'lapsed',
      reason: request.reason,
    })
  })

  it('is taken back by whoever asked, and by nobody else; what is hidden since tells no title', async () => {
    const { key } = await taskOf(tobias, 'Varnish both gates')
    const { body } = await give(tobias, key, id.anouk)
    expect((await w.client.call('DELETE', `/requests/${body.id}`)).status).to.equal(404)
    await share('Festival', 'nothing')
    const mine = (await asked(tobias)).mine.find((r: any) => r.id === body.id)
    expect([mine.what.title, mine.what.place]).to.deep.equal([null, ''])
    expect((await give(tobias, key, id.anouk)).status).to.equal(404)
    expect((await tobias.call('DELETE', `/requests/${body.id}`)).status).to.equal(200)
    expect((await answer(w.client, body.id, true)).status).to.equal(404)
  })

  it('to see more is asked for a list, or for all that a colleague owns of which one knows', async () => {
    const festival = lists.get('Festival') ?? ''
    const see = (who: Client, of: object, level: string) =>
      who.call('POST', '/requests', { ask: 'see', ...of, level })
    expect((await see(tobias, { list: festival }, 'title')).status, 'not known of').to.equal(404)
    await share('Festival', 'busy')
    const { status, body } = await see(tobias, { list: festival }, 'everything')
    expect(status).to.equal(201)
    const told = (await asked(tobias)).mine.find((r: any) => r.id === body.id)
    expect(told.what.place, 'what it is called is not known to them').to.equal(null)
    const [request] = (await asked(w.client)).forMe
    expect(request.what).to.include({ ask: 'see', level: 'everything', lists: 1 })
    expect(request.what.place).to.match(/Festival$/)
    expect(request.what.items).to.be.greaterThan(0)
    const done = await answer(w.client, body.id, true)
    expect(done.body.did).to.equal('shared')
    expect(await taskOf(tobias, 'Varnish both gates')).to.include({ onlyLook: true })
    expect((await see(tobias, { list: festival }, 'title')).status, 'seen already').to.equal(409)
    expect((await w.client.call('PUT', '/sharing', done.body.before)).status, 'taken back').to.equal(200)
    expect(await taskOf(tobias, 'Varnish both gates')).to.equal(undefined)

    // Of somebody: Anouk's intake is busy to Tobias, nothing of it is to others.
    const intake = (await anouk.call('GET', '/sharing')).body.lists.find((l: any) => l.isMine).id
    expect((await see(tobias, { person: id.anouk }, 'title')).status).to.equal(409)
    const to = { kind: 'person', id: id.tobias }
    await anouk.call('PUT', '/sharing', { changes: [{ list: intake, to, level: 'busy' }] })
    const asking = await see(tobias, { person: id.anouk }, 'title')
    expect(asking.status).to.equal(201)
    expect((await asked(w.client)).forMe, 'it is hers to answer').to.deep.equal([])
    expect((await answer(anouk, asking.body.id, false)).body.did).to.equal('declined')
    const again = await see(tobias, { person: id.anouk }, 'title')
    expect((await answer(anouk, again.body.id, true)).status).to.equal(200)
    const { reached } = (await anouk.call('GET', '/sharing')).body.lists.find((l: any) => l.id === intake)
    expect(reached.find((r: any) => r.person === id.tobias).level).to.equal('title')
  })

  it('no more than a hundred of one person wait', async () => {
    await share('Festival', 'title')
    const { key } = await taskOf(tobias, 'Varnish both gates')
    await w.app.ctx.db.run(
      `INSERT INTO requests (id, workspace_id, made_by, made_at, body, state)
       SELECT UUID(), workspace_id, id, 0, '{"ask":"see","level":"title"}', 'open' FROM members
       JOIN (SELECT seq FROM seq_1_to_100) AS n WHERE id = :tobias`,
      { tobias: id.tobias },
    )
    expect((await give(tobias, key, id.anouk)).status).to.equal(422)
  })

  it('what was done about a rule is known to whoever may change both its sides', async () => {
    await share('Festival', 'change')
    const { rules } = (await w.client.call('GET', '/rules')).body
    const rule = rules.find((r: any) => r.a === lists.get('Festival'))
    for (const state of ['paused', 'on'])
      expect((await w.client.call('PUT', `/rules/${rule.id}/state`, { state })).status).to.equal(200)
    const acts = async (who: Client): Promise<string[]> =>
      (await who.call('GET', '/sharing/log')).body.lines
        .filter((l: any) => l.body.do === 'rule')
        .map((l: any) => [l.who, l.body.did, l.body.name].join(', '))
    const both = [
      'Ines Varga, turned on, Festival ⇄ Festival work',
      'Ines Varga, paused, Festival ⇄ Festival work',
    ]
    expect(await acts(w.client)).to.deep.equal(both)
    expect(await acts(tobias)).to.deep.equal(both)
    await share('Festival', 'everything')
    expect(await acts(tobias)).to.deep.equal([])
    expect(await acts(w.client)).to.deep.equal(both)
  })

  it('the page of a list tells whose it is and why one sees it; who else does, to whoever says so', async () => {
    const list = lists.get('Festival')
    const page = (who: Client) => who.call('GET', `/sharing/lists/${list}`)
    await share('Festival', 'busy')
    expect((await page(tobias)).status, 'no title, no page').to.equal(404)
    await share('Festival', 'title')
    const his = (await page(tobias)).body
    expect(his).to.deep.include({ name: 'Festival', owner: 'Ines Varga', reached: null, links: null })
    expect(his.mine).to.deep.include({ level: 'title', because: { kind: 'everybody' } })
    const link = { name: 'Lantern maker', lists: [list], level: 'busy', weeks: 2, expires: null }
    expect((await w.client.call('POST', '/links', link)).status).to.equal(201)
    const hers = (await page(w.client)).body
    expect(hers.reached.map((r: any) => r.level).sort()).to.deep.equal(['change', 'title', 'title'])
    expect(hers.links.map((l: any) => [l.name, l.level, l.weeks])).to.deep.equal([
      ['Lantern maker', 'busy', 2],
    ])
  })
})
