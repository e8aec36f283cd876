import { plainView } from '@loom/core'
import { expect } from 'chai'
import { eventText } from './support/garden.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** A page for somebody without an account, by an address that shows some lists. */
describe('a link for guests', function () {
  this.timeout(40_000)
  let w: World
  let lists: Map<string, string>
  before(async () => {
    w = await startWorld()
    await until('a rule is there', async () => (await w.client.call('GET', '/journal')).body.lines.length > 0)
    lists = new Map((await w.client.call('GET', '/sharing')).body.lists.map((l: any) => [l.name, l.id]))
    const put = (name: string, title: string, day: string, hour: string, more: string[] = []) =>
      w.garden.put(
        'garden-team',
        `${name}.ics`,
        eventText(name, title, day, `${hour}:00`, `${hour}:45`, more),
      )
    await put('open', 'Open round', weekDay(8), '10', ['LOCATION:House 2', 'DESCRIPTION:Bring boots'])
    await put('sealed', 'Sealed round', weekDay(8), '13', ['CLASS:PRIVATE'])
    await put('far', 'Far round', weekDay(60), '10')
    await until('they are here', async () => {
      const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(7)}&days=7`)).body
      return items.some((i: any) => i.title === 'Open round')
    })
  })
  after(() => w.close())

  const make = async (level: string, more: object = {}, who: Client = w.client) =>
    who.call('POST', '/links', {
      name: 'Trustees',
      lists: [lists.get('Garden team')],
      level,
      weeks: 3,
      expires: null,
      ...more,
    })
  const open = async (link: string, query = `from=${weekDay(7)}&days=7&zone=Europe/Dublin`) => {
    const answer = await fetch(`${w.client.base}/api/guest?${query}`, {
      headers: { 'Loom-Link': link.split('#')[1] ?? '' },
    })
    expect(answer.headers.get('cache-control')).to.equal('no-store')
    return { status: answer.status, body: (await answer.json()) as any, text: '' }
  }
  const titles = (body: any): string[] => body.items.map((i: any) => i.title).sort()

  it('shows its lists at its level, private things as busy, and no other list', async () => {
    const { body, status } = await make('everything')
    expect(status).to.equal(201)
    const seen = (await open(body.link)).body
    expect(titles(seen).filter(t => t.includes('round') && !t.startsWith('Morning'))).to.deep.equal([
      'Open round',
    ])
    const item = seen.items.find((i: any) => i.title === 'Open round')
    expect([item.location, item.notes, item.movable]).to.deep.equal(['House 2', 'Bring boots', false])
    expect(seen.items.some((i: any) => i.onlyBusy)).to.equal(true)
    expect(seen.sources.map((s: any) => s.name)).to.deep.equal(['Garden team'])
    expect(JSON.stringify(seen)).to.not.match(/Sealed|@quillmere|Festival/)
    const only = (await open((await make('title')).body.link)).body
    expect(JSON.stringify(only))
      .to.match(/Open round/)
      .and.not.match(/House 2|boots/)
    const busy = (await open((await make('busy')).body.link)).body
    expect(new Set(titles(busy))).to.deep.equal(new Set(['Busy']))
    expect(busy.sources).to.deep.equal([])
  })

  it('shows what a view shows of them, as the view was, chosen by what its maker sees', async () => {
    const filter = [{ field: 'words', of: ['boots'], without: false }]
    const view = { name: 'Boots', icon: 'leaf', body: { ...plainView, filter } }
    const { id } = (await w.client.call('POST', '/views', view)).body
    expect((await make('busy', { view: id })).body.reason).to.match(/Busy time is that of whole lists/)
    expect((await make('title', { view: 'nothing' })).status).to.equal(422)
    const { body } = await make('title', { view: id })
    const shown = async () => (await open(body.link)).body.items
    // By the notes, which the guest does not see; and of what is private not even when.
    const [item, ...more] = await shown()
    expect([item.title, item.notes ?? '', more]).to.deep.equal(['Open round', '', []])
    expect((await w.client.call('GET', '/links')).body.links.map((l: any) => l.view)).to.include('Boots')
    await w.client.call('PUT', `/views/${id}`, { ...view, body: plainView, version: 1 })
    expect(await shown(), 'a later change of the view').to.have.length(1)
    await w.client.call('DELETE', `/views/${id}`)
    expect(await shown(), 'without the view').to.have.length(1)
  })

  it('is a column of who sees what: each list at its own level, said by whoever made it', async () => {
    const { id, link } = (await make('title', { name: 'Neighbours' })).body
    const put = (changes: object[], who: Client = w.client) => who.call('PUT', '/sharing', { changes })
    const cell = (name: string, level: string | null) => ({
      list: lists.get(name),
      to: { kind: 'link', id },
      level,
    })
    const seen = async () => (await open(link)).body
    const told = async () => (await w.client.call('GET', '/sharing')).body
    expect((await told()).links.find((l: any) => l.id === id)).to.deep.include({
      name: 'Neighbours',
      isMine: true,
    })

    const changes = [cell('Garden team', 'busy'), cell('House repairs', 'everything')]
    const { body: effect } = await w.client.call('POST', '/sharing/effect', { changes })
    expect(effect.closes).to.equal(0)
    expect(effect.effects.map((e: any) => [e.person, e.from, e.to, e.items > 0])).to.deep.equal([
      [id, 'title', 'busy', true],
      [id, 'nothing', 'everything', true],
    ])
    const before = (await told()).lists.find((l: any) => l.name === 'House repairs')
    const taken = await put(changes)
    expect(taken.status, JSON.stringify(taken.body)).to.equal(200)
    const after = (await told()).lists.find((l: any) => l.name === 'House repairs')
    expect([after.grants, after.asBefore]).to.deep.equal([before.grants, before.asBefore])
    expect(after.shownBy).to.deep.include({ link: id, level: 'everything' })
    expect((await seen()).sources.map((s: any) => s.name)).to.deep.equal(['House repairs'])
    expect(titles(await seen()))
      .to.include('Busy')
      .and.not.include('Open round')
    const line = (await w.client.call('GET', '/links')).body.links.find((l: any) => l.id === id)
    expect(line.lists.map((l: any) => l.level).sort()).to.deep.equal(['busy', 'everything'])
    const [logged] = (await w.client.call('GET', '/sharing/log')).body.lines
    expect([logged.list, logged.body.to, logged.body.level, logged.body.before]).to.deep.equal([
      'House repairs',
      'link Neighbours',
      'everything',
      'nothing',
    ])
    expect((await put(taken.body.changes)).status).to.equal(200)
    expect(titles(await seen())).to.include('Open round')

    expect((await put([cell('Garden team', 'change')])).body.reason).to.match(/changes nothing/)
    expect(
      (await put([{ ...cell('Garden team', 'title'), to: { kind: 'link', id: 'none' } }])).status,
    ).to.equal(422)
    // Whoever looks after the list as well may show less by it, and not more.
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    const { me } = (await tobias.call('GET', '/team')).body
    expect((await put([cell('Garden team', 'nothing')], tobias)).status, 'not his').to.equal(422)
    const today = new Date().toISOString().slice(0, 10)
    const deputy = { deputy: me, from: today, to: today }
    expect((await w.client.call('PUT', '/sharing/deputy', deputy)).status).to.equal(200)
    expect((await put([cell('Garden team', 'everything')], tobias)).body.reason).to.match(/Only whoever made/)
    expect((await put([cell('Garden team', 'busy')], tobias)).status).to.equal(200)
    expect(new Set(titles(await seen()))).to.deep.equal(new Set(['Busy']))
    expect((await put([cell('Garden team', null)], tobias)).status).to.equal(200)
    expect((await seen()).items).to.deep.equal([])
    await w.client.call('PUT', '/sharing/deputy', null)

    const view = { name: 'Plain', icon: 'leaf', body: plainView }
    const { id: viewId } = (await w.client.call('POST', '/views', view)).body
    const { id: ofView } = (await make('title', { view: viewId })).body
    const busy = [{ list: lists.get('Garden team'), to: { kind: 'link', id: ofView }, level: 'busy' }]
    expect((await put(busy)).body.reason).to.match(/whole lists/)
    for (const one of [id, ofView]) await w.client.call('DELETE', `/links/${one}`)
    await w.client.call('DELETE', `/views/${viewId}`)
  })

  it('whoever made it looks at it as the guest does; nobody else', async () => {
    const { body } = await make('title')
    const query = `from=${weekDay(7)}&days=7&zone=Europe/Dublin`
    const path = `/links/${body.id}/look?${query}`
    const looked = await w.client.call('GET', path)
    const { nowMs, ...asGuest } = (await open(body.link)).body
    const { nowMs: before, ...asMaker } = looked.body
    expect(asMaker).to.deep.equal(asGuest)
    expect(nowMs).to.be.at.least(before)
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    expect((await tobias.call('GET', path)).status).to.equal(404)
    await w.client.call('DELETE', `/links/${body.id}`)
    expect((await w.client.call('GET', path)).status, 'once it is ended').to.equal(404)
  })

  it('shows only its weeks, from today on, in the zone of whoever looks', async () => {
    const { link } = (await make('everything', { weeks: 1 })).body
    const before = (await open(link, `from=${weekDay(-30)}&days=42&zone=Asia/Kathmandu`)).body
    expect(before.from).to.equal(before.today)
    expect(before.days).to.equal(7)
    const after = (await open(link, `from=${weekDay(58)}&days=7&zone=Asia/Kathmandu`)).body
    expect([after.from, after.days]).to.deep.equal([after.last, 1])
    expect(titles(after)).to.not.include('Far round')
    expect((await open(link, `from=${weekDay(0)}&days=7&zone=Mars/Olympus`)).status).to.equal(400)
    expect((await open(link, `from=${weekDay(0)}&days=400&zone=UTC`)).status).to.equal(400)
  })

  it('never shows more than its maker sees now', async () => {
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    // A list that is not his to share he cannot show to anybody.
    expect((await make('title', {}, tobias)).status).to.equal(422)
    const { link } = (await make('everything')).body
    await w.app.ctx.db.run(`UPDATE links SET made_by = (SELECT id FROM members WHERE email LIKE 'tobias@%')`)
    expect(titles((await open(link)).body)).to.include('Open round')
    const { me } = (await tobias.call('GET', '/team')).body
    const changes = [{ list: lists.get('Garden team'), to: { kind: 'person', id: me }, level: 'busy' }]
    const taken = (await w.client.call('PUT', '/sharing', { changes })).body
    expect(new Set(titles((await open(link)).body))).to.deep.equal(new Set(['Busy']))
    await w.client.call('PUT', '/sharing', taken)
    // Whoever has left shows nothing any more.
    await w.client.call('POST', `/team/members/${me}/remove`)
    expect((await open(link)).status).to.equal(404)
  })

  it('ends when it is ended or has expired, and answers a guess as if there were none', async () => {
    const one = (await make('title', { name: 'Carpenters' })).body
    const { links } = (await w.client.call('GET', '/links')).body
    const line = links.find((l: any) => l.id === one.id)
    expect(line).to.deep.include({ name: 'Carpenters', used_at: null, isMine: true })
    expect(line.lists.map((l: any) => l.level)).to.deep.equal(['title'])
    expect(JSON.stringify(links)).to.not.include(one.link.split('#')[1])
    expect((await open(one.link)).status).to.equal(200)
    const used = (await w.client.call('GET', '/links')).body.links.find((l: any) => l.id === one.id)
    expect(used.used_at).to.be.a('number')
    const anouk = new Client(w.client.base)
    await anouk.signIn('anouk@quillmere.example')
    expect((await anouk.call('GET', '/links')).body.links).to.deep.equal([])
    expect((await anouk.call('DELETE', `/links/${one.id}`)).status).to.equal(404)
    expect((await w.client.call('DELETE', `/links/${one.id}`)).status).to.equal(200)
    const ended = await open(one.link)
    const guessed = await open(`x#${'0'.repeat(64)}`)
    const nonsense = await open('x#nonsense')
    expect([ended.status, guessed.status, nonsense.status]).to.deep.equal([404, 404, 404])
    expect(ended.body).to.deep.equal(guessed.body).and.deep.equal(nonsense.body)
    const two = (await make('title', { expires: 1 })).body
    await w.app.ctx.db.run('UPDATE links SET expires_at = 1 WHERE id = :id', { id: two.id })
    expect((await open(two.link)).body).to.deep.equal(guessed.body)
    const log = (await w.client.call('GET', '/sharing/log')).body.lines.map((l: any) => l.body)
    expect(log).to.deep.include({ do: 'link', name: 'Carpenters', level: 'title', isEnded: true })
  })
})
