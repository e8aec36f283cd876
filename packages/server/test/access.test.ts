import { expect } from 'chai'
import { plainView } from '@loom/core'
import { resealed, seal, unseal } from '../src/access/secrets.ts'
import { makeApp } from '../src/http/app.ts'
import { elsewhere } from './support/elsewhere.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** Who may call what: nobody, and a member of another workspace, against every route. */
describe('access', function () {
  this.timeout(30_000)
  let w: World
  let stranger: Client

  before(async () => {
    w = await startWorld()
    await until('a rule is there', async () => (await w.client.call('GET', '/journal')).body.lines.length > 0)
    stranger = await elsewhere(w)
  })
  after(() => w.close())

  const GIVEN = {
    password: 'x',
    user: 'x',
    key: 'x',
    address: 'https://calendars.example.org',
  }
  const FORM = {
    name: 'Theirs',
    ownerId: null,
    takesPart: [],
    scope: { by: 'sentence', future: false, filter: [], notes: true },
    meanings: {},
    people: {},
    dyes: {},
    picks: [],
  }
  const VIEW = { name: 'Theirs', icon: 'leaf', team: true, body: plainView }
  const FILE = { text: 'Title;Until\nTheirs;', mapping: null, into: { task: null, event: null } }

  /** Every route of members, as the application itself lists them, with what would do harm there. */
  async function routes(): Promise<[method: string, path: string, body?: object][]> {
    const call = async (path: string) => (await w.client.call('GET', path)).body
    const { connections } = await call('/connections')
    const { rules } = await call('/rules')
    const { items } = await call(`/cloth?from=${weekDay(0)}&days=7`)
    const [rule] = rules
    const ruleBody = { id: rule.id, a: rule.a, b: rule.b, settings: rule.settings }
    const begun = await w.client.call('POST', '/connecting/drafts', {
      service: 'ics-feed',
      address: `${w.standins}/visits/spring-term.ics`,
    })
    const connection = connections.find((c: { name: string }) => c.name === 'Garden Calendars').id
    const collection = connections[0].collections[0].id
    const { members } = await call('/team')
    const ids: [RegExp, string][] = [
      [/^\/api\/team\/members\/:id/, members[1].id],
      [/^\/api\/connections\/:id/, connection],
      [/^\/api\/rules\/:id/, rule.id],
      [/^\/api\/connecting\/drafts\/:id/, begun.body.draft],
      [/^\/api\/connecting\/services\/:id/, 'bench-list'],
    ]
    const query: Record<string, string> = {
      '/api/cloth': `?from=${weekDay(0)}&days=7`,
      '/api/cloth/search': '?q=lantern',
      '/api/ties/candidates': `?item=${items[0].key}&q=`,
      '/api/cloth/:key/move': `?to=${collection}`,
      '/api/files/export': `?format=ics&collections=${collection}`,
    }
    const bodies: Record<string, object> = {
      'POST /api/cloth/:key/edit': { do: 'rename', title: 'Not theirs' },
      'POST /api/cloth/:key/series': { which: 'all', edit: { do: 'delete' } },
      'POST /api/cloth/:key/duplicate': { start: null },
      'PUT /api/cloth/:key/batch': { tasks: [] },
      'POST /api/cloth/:key/move': { to: collection },
      'POST /api/cloth/make': {
        what: 'block',
        task: items[0].key,
        start: { kind: 'date', date: weekDay(0) },
        minutes: 30,
        into: collection,
      },
      'PUT /api/me': { settings: {} },
      'PUT /api/team': { name: 'Theirs', zone: 'UTC' },
      'POST /api/team/invitations': { email: 'new@elsewhere.example', role: 'member' },
      'PUT /api/team/members/:id/role': { role: 'reader' },
      'POST /api/team/members/:id/remove': { connections: 'pause' },
      'POST /api/team/leave': { connections: 'pause' },
      'POST /api/team/delete': { name: 'Quillmere Garden' },
      'POST /api/account/delete': { password: 'wrong' },
      'PUT /api/account/password': { old: 'elsewhere', password: 'elsewhere' },
      'POST /api/account/workspaces': { name: '', zone: 'UTC' },
      'PUT /api/account/workspace': { id: 'nothing' },
      'POST /api/account/passkeys': { name: 'Theirs', response: { id: 'x', response: {} } },
      'PUT /api/ties/:id': { parted: true },
      'PUT /api/ties/by-hand': { rule: rule.id, item: items[0].key, other: items[1].key, same: true },
      'POST /api/categories/change': { do: 'dye', name: 'Theirs', dye: '#4e6b35' },
      'POST /api/views': VIEW,
      'PUT /api/views/:id': { ...VIEW, version: 1 },
      'PUT /api/connections/:id/paused': { paused: true },
      'PUT /api/connections/:id/collections': { takesPart: [] },
      'POST /api/connections/:id/collections': { name: 'Theirs' },
      'PUT /api/connections/:id/settings': FORM,
      'POST /api/connections/:id/settings/effect': FORM,
      'POST /api/connections/:id/settings/count': { takesPart: [], filter: [] },
      'POST /api/connections/:id/settings/search': { takesPart: [], words: '' },
      'PUT /api/connections/:id/credentials': { user: 'x', password: 'x' },
      'POST /api/connecting/services': { description: '{}' },
      'POST /api/connecting/services/trial': { ...GIVEN, description: '{}', list: null },
      'POST /api/connecting/drafts': { ...GIVEN, service: 'no such service' },
      'POST /api/connecting/drafts/:id/count': { takesPart: [], filter: [] },
      'POST /api/connecting/drafts/:id/search': { takesPart: [], words: '' },
      'POST /api/connecting/drafts/:id/keep': FORM,
      'POST /api/doors': { kind: 'capture' },
      'POST /api/files/read': FILE,
      'POST /api/files/bring-in': { ...FILE, takeNew: true, takeChanged: true },
      'POST /api/rules': ruleBody,
      'POST /api/rules/preview': ruleBody,
      'PUT /api/rules/:id/state': { state: 'paused' },
      'PUT /api/rules/order': { ids: [rule.id] },
      'POST /api/rules/paper': { text: '{}' },
      'POST /api/waiting/conflicts': { of: [{ tie: 'nothing', field: 'title' }], take: 'a' },
      'POST /api/waiting/unconfirmed': { of: ['nothing'], answer: 'make' },
      'POST /api/waiting/brake': { ties: ['nothing'], answer: 'go' },
      'POST /api/journal/put-back': { entries: [1, 2, 3] },
      'POST /api/journal/put-back/look': { entries: [1, 2, 3] },
    }
    return listed().map(route => {
      const [method = '', pattern = ''] = route.split(' ')
      const id = ids.find(([of]) => of.test(pattern))?.[1] ?? 'nothing'
      const path = pattern
        .replace('/api', '')
        .replace(':id', id)
        .replace(':key', items[0].key)
        .replace(':kind', 'mail')
        .replace(/:\w+/g, 'nothing')
      return [method, path + (query[pattern] ?? ''), bodies[route]]
    })
  }
  /** Not for members alone: whether the server is up, signing in, and entering by an address that was given. */
  const OPEN = /^\/api\/(health|session|entry(\/.*)?)$|\*/
  const listed = (): string[] => [
    ...new Set(
      makeApp(w.app.ctx, w.app.engine, { web: null, trustedProxies: [] })
        .routes.filter(r => r.path.startsWith('/api/') && r.method !== 'ALL' && !OPEN.test(r.path))
        .map(r => `${r.method} ${r.path.replace(/\/$/, '')}`),
    ),
  ]
  /** What everybody may do in their own workspace, whatever is in ours. */
  const THEIR_OWN =
    /^(GET \/api\/(account|account\/(deletion|export)|team|team\/deletion|cloth|cloth\/search|categories|me|views|connections|rules|rules\/preview\/:watch|journal|journal\/choices|journal\/pass\/:id|waiting\/\w+|live|doors|doors\/messages|connecting\/services|files\/export)|PUT \/api\/(rules\/order|me|team|account\/password)|POST \/api\/(account\/(workspaces|delete)|team\/(invitations|leave)|views|categories\/change|rules\/preview|journal\/put-back\/look|doors|files\/read|files\/bring-in)|DELETE \/api\/(account\/sessions|doors\/:kind|connecting\/services\/:id|connecting\/drafts\/:id))$/

  it('answers nobody who is not signed in', async () => {
    const nobody = new Client(w.client.base)
    const all = await routes()
    expect(all.length).to.be.greaterThan(40)
    for (const [method, path, body] of all)
      expect((await nobody.call(method, path, body)).status, `${method} ${path}`).to.equal(401)
    expect((await nobody.call('GET', '/health')).body).to.deep.equal({ ok: true })
  })

  it('shows a member of another workspace nothing, and lets them change nothing', async () => {
    const state = async () => ({
      rules: (await w.client.call('GET', '/rules')).body.rules.map((r: any) => [r.id, r.state, r.version]),
      connections: (await w.client.call('GET', '/connections')).body.connections.map((c: any) => [
        c.id,
        c.name,
        c.paused,
        c.collections.map((k: any) => [k.name, k.takesPart]),
      ]),
      doors: (await w.client.call('GET', '/doors')).body.doors,
    })
    await w.client.call('POST', '/doors', { kind: 'mail' })
    const before = await state()
    const patterns = listed()
    for (const [i, [method, path, body]] of (await routes()).entries()) {
      if (path === '/live') continue
      const answer = await stranger.call(method, path, body)
      const text = JSON.stringify(answer.body)
      expect(text, `${method} ${path}`).to.not.match(/Festival|Garden Calendars|moonflower|Quillmere|Varga/i)
      if (!THEIR_OWN.test(patterns[i] ?? ''))
        expect(answer.status, `${method} ${path}`).to.be.oneOf([404, 409, 422])
    }
    expect(await state()).to.deep.equal(before)
  })

  it('tells those apart who ask in the same moment, and knows who has just signed out', async () => {
    const gone = new Client(w.client.base)
    expect(await gone.signIn('stranger@elsewhere.example', 'elsewhere')).to.equal(200)
    const token = gone.cookieNow
    await gone.call('DELETE', '/session')
    const asking = [
      w.client,
      stranger,
      new Client(w.client.base, token),
      stranger,
      new Client(w.client.base),
      w.client,
    ]
    const answers = await Promise.all(asking.map(c => c.call('GET', '/me')))
    expect(answers.map(a => a.body.name ?? a.status)).to.deep.equal([
      'Ines Varga',
      'Stranger',
      401,
      'Stranger',
      401,
      'Ines Varga',
    ])
  })

  it('refuses a form that another site has sent', async () => {
    const answer = await fetch(`${w.client.base}/api/session`, {
      method: 'DELETE',
      headers: { 'Content-Type': 'application/x-www-form-urlencoded', Origin: 'https://elsewhere.example' },
    })
    expect(answer.status).to.equal(403)
  })

  it('slows down whoever guesses passwords', async () => {
    const guesser = new Client(w.client.base)
    const statuses: number[] = []
    for (let i = 0; i < 11; i++) statuses.push(await guesser.signIn('anouk@quillmere.example', `guess ${i}`))
    expect(statuses.slice(0, 10)).to.deep.equal(Array(10).fill(403))
    expect(statuses[10]).to.equal(429)
  })

  it('believes no notification that the service did not sign', async () => {
    const { id } = (await w.client.call('GET', '/connections')).body.connections.find(
      (c: any) => c.name === 'Bench List',
    )
    const answer = await fetch(`${w.client.base}/hooks/${id}`, {
      method: 'POST',
      headers: { 'Bench-Signature': 'sha256=00' },
      body: '{}',
    })
    expect(answer.status).to.equal(403)
  })

  it('seals credentials so that a changed byte or another key opens nothing', () => {
    const key = { key: Buffer.alloc(32, 7), old: null }
    const other = { key: Buffer.alloc(32, 8), old: null }
    const sealed = seal({ user: 'ines' }, key)
    expect(unseal(sealed, key)).to.deep.equal({ user: 'ines' })
    expect(() => unseal(sealed, other)).to.throw()
    // A new key opens what the old one sealed, as long as both are given, and seals it anew.
    const changedKey = { key: other.key, old: key.key }
    expect(unseal(sealed, changedKey)).to.deep.equal({ user: 'ines' })
    expect(unseal(resealed(sealed, changedKey) ?? '', other)).to.deep.equal({ user: 'ines' })
    const changed = Buffer.from(sealed, 'base64')
    changed[30] = (changed[30] ?? 0) ^ 1
    expect(() => unseal(changed.toString('base64'), key)).to.throw()
  })
})
