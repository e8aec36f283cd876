import { expect } from 'chai'
import { resealed, seal, unseal } from '../src/access/secrets.ts'
import { everyRoute } from './support/every-route.ts'
import { elsewhere } from './support/elsewhere.ts'
import { Client, startWorld, until, type World } from './support/world.ts'

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

  /** What everybody may do in their own workspace, whatever is in ours. */
  const THEIR_OWN =
    /^(GET \/api\/(account|account\/(deletion|export|second)|team|team\/(deletion|export)|cloth|cloth\/search|categories|me|planning|planning\/(waits|kept-up|ways|new)|views|connections|rules|rules\/preview\/:watch|journal|journal\/choices|journal\/pass\/:id|waiting\/\w+|live|doors|doors\/messages|connecting\/services|files\/export|sharing|sharing\/log|links|offers|invitations|reminders|reminders\/(items|push)|requests|comments|chat|chat\/told|time\/(entries|clock|taken|slipping|report|report\/file|team|team\/file))|PUT \/api\/(rules\/order|me|planning|team|account\/password|team\/second|presence\/:page)|POST \/api\/(reminders\/push|chat\/messages|offers\/look|planning\/(apply|new\/seen|kept-up\/seen)|time\/(entries|confirm|clock|clock\/stop)|account\/(workspaces|delete|second\/(code|codes|codes\/(confirm|off|recovery)|passkey|passkey\/options))|team\/(invitations|leave)|views|categories\/change|rules\/preview|journal\/put-back\/look|doors|files\/read|files\/bring-in)|DELETE \/api\/(presence\/:page|account\/sessions|doors\/:kind|connecting\/services\/:id|connecting\/drafts\/:id))$/

  it('answers nobody who is not signed in', async () => {
    const nobody = new Client(w.client.base)
    const all = await everyRoute(w)
    expect(all.length).to.be.greaterThan(40)
    for (const { method, path, body } of all)
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
    for (const { pattern, method, path, body } of await everyRoute(w)) {
      if (path === '/live') continue
      const answer = await stranger.call(method, path, body)
      const text = JSON.stringify(answer.body)
      expect(text, `${method} ${path}`).to.not.match(/Festival|Garden Calendars|moonflower|Quillmere|Varga/i)
      if (!THEIR_OWN.test(pattern)) expect(answer.status, `${method} ${path}`).to.be.oneOf([404, 409, 422])
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
