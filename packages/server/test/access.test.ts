import { randomUUID } from 'node:crypto'
import { expect } from 'chai'
import { hashPassword } from '../src/access/sessions.ts'
import { seal, unseal } from '../src/access/secrets.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** Who may call what: nobody, and a member of another workspace, against every route. */
describe('access', function () {
  this.timeout(30_000)
  let w: World
  let stranger: Client

  before(async () => {
    w = await startWorld()
    await until('a rule is there', async () => (await w.client.call('GET', '/journal')).body.lines.length > 0)
    const workspaceId = randomUUID()
    const { db } = w.app.ctx
    await db.insert('INSERT INTO workspaces (id, name, zone) VALUES (:workspaceId, :name, :zone)', {
      workspaceId,
      name: 'Elsewhere',
      zone: 'UTC',
    })
    await db.insert(
      `INSERT INTO members (id, workspace_id, name, email, password_hash, zone)
       VALUES (:id, :workspaceId, 'Stranger', 'stranger@elsewhere.example', :hash, 'UTC')`,
      { id: randomUUID(), workspaceId, hash: await hashPassword('elsewhere') },
    )
    stranger = new Client(w.client.base)
    expect(await stranger.signIn('stranger@elsewhere.example', 'elsewhere')).to.equal(200)
  })
  after(() => w.close())

  async function routes(): Promise<[string, string, object?][]> {
    const { connections } = (await w.client.call('GET', '/connections')).body
    const { rules } = (await w.client.call('GET', '/rules')).body
    const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body
    const connection = connections[0].id as string
    const rule = rules[0]
    return [
      ['GET', `/cloth?from=${weekDay(0)}&days=7`],
      ['POST', `/cloth/${items[0].key}/edit`, { do: 'rename', title: 'Not theirs' }],
      ['GET', '/connections'],
      ['PUT', `/connections/${connection}/collections`, { takesPart: [] }],
      ['POST', `/connections/${connection}/look`],
      ['GET', `/connections/${connection}/problems`],
      ['DELETE', `/connections/${connection}`],
      ['GET', '/rules'],
      ['POST', '/rules/preview', { id: rule.id, a: rule.a, b: rule.b, settings: rule.settings }],
      ['POST', '/rules', { id: rule.id, a: rule.a, b: rule.b, settings: rule.settings }],
      ['PUT', `/rules/${rule.id}/state`, { state: 'paused' }],
      ['DELETE', `/rules/${rule.id}`],
      ['GET', '/journal'],
    ]
  }

  it('answers nobody who is not signed in', async () => {
    const nobody = new Client(w.client.base)
    for (const [method, path, body] of await routes())
      expect((await nobody.call(method, path, body)).status, `${method} ${path}`).to.equal(401)
    expect((await nobody.call('GET', '/health')).body).to.deep.equal({ ok: true })
  })

  it('shows a member of another workspace nothing, and lets them change nothing', async () => {
    const before = (await w.client.call('GET', '/rules')).body.rules
    for (const [method, path, body] of await routes()) {
      const answer = await stranger.call(method, path, body)
      const text = JSON.stringify(answer.body)
      expect(text, `${method} ${path}`).to.not.match(/Festival|Garden Calendars|moonflower/i)
      if (method !== 'GET' && !path.endsWith('/preview'))
        expect(answer.status, `${method} ${path}`).to.be.oneOf([404, 422])
    }
    const after = (await w.client.call('GET', '/rules')).body.rules
    expect(after.map((r: any) => [r.id, r.state])).to.deep.equal(before.map((r: any) => [r.id, r.state]))
    expect((await w.client.call('GET', '/connections')).body.connections).to.have.length(3)
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
    const key = Buffer.alloc(32, 7)
    const sealed = seal({ user: 'ines' }, key)
    expect(unseal(sealed, key)).to.deep.equal({ user: 'ines' })
    expect(() => unseal(sealed, Buffer.alloc(32, 8))).to.throw()
    const changed = Buffer.from(sealed, 'base64')
    changed[30] = (changed[30] ?? 0) ^ 1
    expect(() => unseal(changed.toString('base64'), key)).to.throw()
  })
})
