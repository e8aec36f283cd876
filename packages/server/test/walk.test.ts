import { expect } from 'chai'
import { everyRoute, type Route } from './support/every-route.ts'
import { eventText } from './support/garden.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/**
 * Every address is asked by those who may do much and still may not know this: a coordinator who does not own it, a
 * deputy from whom it is kept private, somebody with a link. What reads is asked before what changes.
 */
describe('what is one’s own stays so from those with rights', function () {
  this.timeout(60_000)
  let w: World
  let tobias: Client
  let lists: Map<string, string>
  let key: string
  const ids = { ines: '', tobias: '' }
  const SECRET = /Zorblax|Quibbet|Vexillo/i

  const cloth = async (who: Client) =>
    (await who.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items as any[]

  beforeEach(async () => {
    w = await startWorld()
    tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    ids.ines = (await w.client.call('GET', '/team')).body.me
    ids.tobias = (await tobias.call('GET', '/team')).body.me
    // All of it is hers; what is the team's, coordinators look after.
    await w.app.ctx.db.run('UPDATE connections SET owner_id = :ines', { ines: ids.ines })
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
    const item = await until('it is there', async () =>
      (await cloth(w.client)).find(i => i.title === 'Zorblax council'),
    )
    key = item.key
    await w.client.call('POST', `/comments/on/${key}`, { text: 'Quibbet, says Ines' })
  })
  afterEach(() => w.close())

  /** What ends a session or the workspace, and what changes who may do what, is tried elsewhere. */
  const ENDS = /\/live|\/session|\/account|\/team\/(leave|delete|members|second)|\/presence/
  async function walk(who: Client, routes: readonly Route[]): Promise<number> {
    let asked = 0
    const reads = (r: Route): boolean => r.method === 'GET'
    for (const { pattern, method, path, body } of [
      ...routes.filter(reads),
      ...routes.filter(r => !reads(r)),
    ]) {
      if (ENDS.test(path)) continue
      const answer = await who.call(method, path, body)
      asked++
      expect(JSON.stringify(answer.body), pattern).to.not.match(SECRET)
      if (method !== 'GET' && path.includes(key))
        expect(answer.status, pattern).to.be.oneOf([403, 404, 409, 422])
    }
    const mine = (await cloth(w.client)).find(i => i.key === key)
    expect(mine?.title ?? 'it is gone').to.equal('Zorblax council')
    return asked
  }
  const routesAt = async () => {
    const rule = (await w.client.call('GET', '/rules')).body.rules[0].id
    return everyRoute(w, { key, rule, list: lists.get('Garden team') ?? '' })
  }
  const shareNothing = async (): Promise<void> => {
    const changes = [...lists.values()].map(list => ({ list, to: { kind: 'everybody' }, level: null }))
    expect((await w.client.call('PUT', '/sharing', { changes })).status).to.equal(200)
  }

  it('from a coordinator who does not own it', async () => {
    await shareNothing()
    const routes = await routesAt()
    const made = await w.client.call('PUT', `/team/members/${ids.tobias}/role`, { role: 'coordinator' })
    expect(made.status).to.equal(200)
    expect((await tobias.call('GET', '/team')).body.members.length).to.be.above(2)
    expect(await walk(tobias, routes)).to.be.above(80)
  })

  it('from a deputy, where it is kept private', async () => {
    const routes = await routesAt()
    const kept = await w.client.call('POST', `/cloth/${key}/edit`, { do: 'keep-private', private: true })
    expect(kept.status, JSON.stringify(kept.body)).to.equal(200)
    await shareNothing()
    const today = new Date().toISOString().slice(0, 10)
    const named = await w.client.call('PUT', '/sharing/deputy', {
      deputy: ids.tobias,
      from: today,
      to: today,
    })
    expect(named.status).to.equal(200)
    // He looks after the rest.
    expect((await cloth(tobias)).length).to.be.above(5)
    const gentle = routes.filter(r => !/^(DELETE|PUT|POST) .*\/(connections|rules)\/:id/.test(r.pattern))
    expect(await walk(tobias, gentle)).to.be.above(80)
  })

  it('from whoever has a link that shows less', async () => {
    const routes = await routesAt()
    const guest = new Client(w.client.base)
    const days = `from=${weekDay(0)}&days=7&zone=UTC`
    for (const [names, level, seen] of [
      [['House repairs'], 'everything', /$^/],
      [['House repairs', 'Garden team'], 'busy', /$^/],
      [['Garden team'], 'title', /Zorblax council/],
    ] as const) {
      const made = await w.client.call('POST', '/links', {
        name: `By ${level}`,
        lists: names.map(n => lists.get(n)),
        level,
        weeks: 2,
        expires: null,
      })
      expect(made.status, JSON.stringify(made.body)).to.equal(201)
      const header = { 'Loom-Link': String(made.body.link).split('#')[1] ?? '' }
      const shown = await guest.call('GET', `/guest?${days}`, undefined, header)
      expect(shown.status).to.equal(200)
      const text = JSON.stringify(shown.body).replaceAll(new RegExp(seen, 'g'), '')
      expect(text, level).to.not.match(SECRET)
      for (const { pattern, method, path, body } of routes) {
        const answer = await guest.call(method, path, body, header)
        expect(answer.status, pattern).to.be.oneOf([400, 401, 403, 404, 413])
        expect(JSON.stringify(answer.body), pattern).to.not.match(SECRET)
      }
    }
  })
})
