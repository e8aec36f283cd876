import { expect } from 'chai'
import { connectionsLeft } from '../src/data/repositories/tidy.ts'
import { hashOf } from '../src/access/secrets.ts'
import { passwordTrouble } from '../src/access/passwords.ts'
import { readConfig } from '../src/context/config.ts'
import { type Running, startServer } from '../src/server.ts'
import { fixedClock } from './support/clock.ts'
import {
  Client,
  freePort,
  freshDatabase,
  SECRET,
  startWorld,
  until,
  weekDay,
  type World,
} from './support/world.ts'

const tokenOf = (url: string): string => new URL(url).hash.slice(1)
const PASSWORD = 'three moths at dusk'
const HOURS = { from: 540, to: 1020, minutes: [420, 420, 420, 420, 0, 0, 0], off: [] }

/** From an empty database to the first workspace. */
describe('a beginning', function () {
  this.timeout(30_000)
  let app: Running
  let drop: () => Promise<void>
  let base: string
  before(async () => {
    const database = await freshDatabase()
    drop = database.drop
    const port = await freePort()
    base = `http://127.0.0.1:${port}`
    app = await startServer(
      readConfig({
        LOOM_PORT: String(port),
        DATABASE_URL: database.url,
        LOOM_SECRET: SECRET,
        LOOM_SMTP_PORT: '0',
        LOOM_LOG: 'silent',
        LOOM_CHECK: 'yes',
        ...fixedClock(),
      }),
    )
  })
  after(async () => {
    await app.stop()
    await drop()
  })
  const form = (token: string) => ({
    token,
    name: 'Mira Holt',
    email: 'Mira@orchard.example',
    password: PASSWORD,
    workspace: 'North Orchard',
    zone: 'Asia/Kathmandu',
    hours: HOURS,
  })

  it('is told where, once; nobody begins by guessing, nor twice', async () => {
    const nobody = new Client(base)
    expect((await nobody.call('GET', '/entry')).body).to.deep.equal({ begins: true, provider: null })
    const token = tokenOf(app.begin ?? '')
    expect(token).to.match(/^[0-9a-f]{64}$/)
    const guess = await nobody.call('POST', '/entry/begin', form('0'.repeat(64)))
    expect(guess.status).to.equal(404)
    const stored = await app.ctx.db.rows<{ token_hash: string }>('SELECT token_hash FROM entry_links')
    expect(stored).to.deep.equal([{ token_hash: hashOf(token) }])

    const weak = await nobody.call('POST', '/entry/begin', { ...form(token), password: 'password123' })
    expect([weak.status, weak.body.field]).to.deep.equal([422, 'password'])
    const [first, second] = await Promise.all([
      new Client(base).call('POST', '/entry/begin', form(token)),
      new Client(base).call('POST', '/entry/begin', { ...form(token), email: 'late@orchard.example' }),
    ])
    expect([first.status, second.status].sort()).to.deep.equal([200, 404])
    expect((await nobody.call('POST', '/entry/look', { token })).status).to.equal(404)
    expect((await nobody.call('GET', '/entry')).body).to.deep.equal({ begins: false, provider: null })
    expect(await app.ctx.db.rows('SELECT id FROM users')).to.have.length(1)
  })

  it('gives a workspace with its own lists, zone and working week, in which nothing is connected', async () => {
    const [user] = await app.ctx.db.rows<{ email: string }>('SELECT email FROM users')
    const mira = new Client(base)
    expect(await mira.signIn(user?.email.toUpperCase(), PASSWORD)).to.equal(200)
    const me = (await mira.call('GET', '/me')).body
    expect([me.zone, me.settings.hours]).to.deep.equal(['Asia/Kathmandu', HOURS])
    const { connections } = (await mira.call('GET', '/connections')).body
    expect(connections.filter((c: any) => c.kind !== 'own')).to.deep.equal([])
    const today = new Date(app.ctx.now()).toISOString().slice(0, 10)
    expect((await mira.call('GET', `/cloth?from=${today}&days=7`)).body.sources.length).to.be.greaterThan(0)
    const made = await mira.call('POST', '/team/invitations', {
      email: 'pell@orchard.example',
      role: 'member',
    })
    // Without a mail server, the address is there to be copied.
    expect([made.body.mailed, new URL(made.body.link).pathname]).to.deep.equal([false, '/join'])
    expect(
      (await mira.call('POST', '/entry/forgot', { email: 'mira@orchard.example' })).body.mailed,
    ).to.equal(false)
  })

  it('takes no password that stands in the lists of guesses, nor one’s own name', () => {
    const trouble = (password: string) => passwordTrouble(password, ['Mira Holt', 'mira@orchard.example'])
    for (const bad of ['short', '1234567890', 'Password2026!', 'qwertyuiop', 'aaaaaaaaaaaa', 'orchard1234'])
      expect(trouble(bad), bad).to.be.a('string')
    for (const good of [PASSWORD, 'lavender-gate-61', 'Ужин в семь вечера'])
      expect(trouble(good)).to.equal(null)
  })
})

describe('a team', function () {
  this.timeout(40_000)
  let w: World
  before(async () => {
    w = await startWorld()
  })
  after(() => w.close())

  const invite = async (email: string, role = 'member') =>
    (await w.client.call('POST', '/team/invitations', { email, role })).body
  async function joined(name: string, role = 'member'): Promise<{ client: Client; id: string }> {
    const email = `${name.toLowerCase()}@quillmere.example`
    const { link } = await invite(email, role)
    const client = new Client(w.client.base)
    const body = { token: tokenOf(link), name, password: PASSWORD, zone: 'Europe/Dublin' }
    const answer = await client.call('POST', '/entry/join', body)
    expect(answer.status, JSON.stringify(answer.body)).to.equal(200)
    return { client, id: (await client.call('GET', '/team')).body.me }
  }
  const letters = async (): Promise<any[]> =>
    ((await (await fetch(`${w.standins}/mailbox/messages`)).json()) as { letters: any[] }).letters

  it('is joined by an address that comes by mail, once, for one mail address', async () => {
    const made = await invite('Rosa@quillmere.example')
    expect(made.mailed).to.equal(true)
    const letter = await until('the letter is there', async () =>
      (await letters()).find(l => JSON.stringify(l).includes('rosa@quillmere.example')),
    )
    expect(JSON.stringify(letter)).to.include('Ines Varga invites you')
    const token = tokenOf(made.link)
    const nobody = new Client(w.client.base)
    const look = (await nobody.call('POST', '/entry/look', { token })).body
    expect(look).to.include({
      purpose: 'invite',
      by: 'Ines Varga',
      email: 'rosa@quillmere.example',
      known: false,
    })
    const form = { token, name: 'Rosa Lind', password: PASSWORD, zone: 'Europe/Dublin' }
    const both = await Promise.all(
      [1, 2].map(() => new Client(w.client.base).call('POST', '/entry/join', form)),
    )
    expect(both.map(a => a.status).sort()).to.deep.equal([200, 404])
    expect((await nobody.call('POST', '/entry/look', { token })).status).to.equal(404)
    const { members } = (await w.client.call('GET', '/team')).body
    expect(members.filter((m: any) => m.name === 'Rosa Lind')).to.have.length(1)
    expect(
      (await w.client.call('POST', '/team/invitations', { email: 'rosa@quillmere.example', role: 'reader' }))
        .status,
    ).to.equal(409)
  })

  it('knows whoever has an account elsewhere by their password, and lets them change between workspaces', async () => {
    const { client } = await joined('Selma')
    expect(
      (await client.call('POST', '/account/workspaces', { name: 'Selma’s own', zone: 'UTC' })).status,
    ).to.equal(200)
    const here = async () => (await client.call('GET', '/session')).body.workspaceId
    const own = await here()
    const all = (await client.call('GET', '/account')).body.workspaces
    expect(all.map((x: any) => x.name)).to.have.members(['Selma’s own', 'Quillmere Garden'])
    const { link } = (
      await client.call('POST', '/team/invitations', { email: 'tobias@quillmere.example', role: 'reader' })
    ).body
    const tobias = new Client(w.client.base)
    const wrong = { token: tokenOf(link), password: 'not his password' }
    expect((await tobias.call('POST', '/entry/join', wrong)).status).to.equal(403)
    expect(
      (await tobias.call('POST', '/entry/join', { ...wrong, password: 'night-flowering' })).status,
    ).to.equal(200)
    expect((await tobias.call('GET', '/session')).body.workspaceId).to.equal(own)
    const back = all.find((x: any) => x.name === 'Quillmere Garden').id
    expect((await client.call('PUT', '/account/workspace', { id: back })).status).to.equal(200)
    expect(await here()).to.equal(back)
    const w2 = (await w.client.call('GET', '/account')).body.workspaces
    expect((await w.client.call('PUT', '/account/workspace', { id: own })).status).to.equal(404)
    expect(w2).to.have.length(1)
  })

  it('a reader sees, and is refused by every route that changes something', async () => {
    const { client } = await joined('Wil', 'reader')
    expect((await client.call('GET', '/cloth?from=2026-11-25&days=7')).status).to.equal(200)
    for (const [method, path, body] of [
      ['POST', '/cloth/make', {}],
      ['POST', '/rules', {}],
      ['DELETE', '/connections/nothing'],
      ['PUT', '/team', { name: 'Mine', zone: 'UTC' }],
      ['POST', '/team/invitations', { email: 'x@quillmere.example', role: 'coordinator' }],
      ['POST', '/files/read', {}],
      ['PUT', '/views/nothing', {}],
    ] as const)
      expect((await client.call(method, path, body)).status, `${method} ${path}`).to.equal(403)
    expect((await client.call('PUT', '/me', { settings: { clock: '12' } })).status).to.equal(200)
    const { invitations } = (await client.call('GET', '/team')).body
    expect(invitations).to.deep.equal([])
  })

  it('two coordinators who remove one another: one of them stays', async () => {
    const { client: olga, id: olgaId } = await joined('Olga', 'coordinator')
    const { client: petr, id: petrId } = await joined('Petr', 'coordinator')
    const { me: ines } = (await w.client.call('GET', '/team')).body
    await w.client.call('PUT', `/team/members/${ines}/role`, { role: 'coordinator' })
    const answers = await Promise.all([
      olga.call('POST', `/team/members/${petrId}/remove`),
      petr.call('POST', `/team/members/${olgaId}/remove`),
    ])
    expect(answers.map(a => a.status).filter(s => s === 200)).to.have.length(1)
    const still = (await w.client.call('GET', '/team')).body.members.map((m: any) => m.id)
    expect([olgaId, petrId].filter(id => still.includes(id))).to.have.length(1)
  })

  it('the last coordinator stays one; whoever is removed is out at once, stream and all', async () => {
    const { members, me } = (await w.client.call('GET', '/team')).body
    for (const m of members)
      if (m.role === 'coordinator' && m.id !== me)
        await w.client.call('PUT', `/team/members/${m.id}/role`, { role: 'member' })
    const refused = await w.client.call('PUT', `/team/members/${me}/role`, { role: 'member' })
    expect([refused.status, refused.body.reason]).to.deep.equal([
      403,
      'A workspace needs a coordinator. Make somebody else one first.',
    ])
    expect((await w.client.call('POST', '/team/leave', { connections: 'pause' })).status).to.equal(403)

    const { client: hugo, id } = await joined('Hugo')
    const stream = await fetch(`${w.client.base}/api/live`, { headers: { Cookie: hugo.cookieNow } })
    const said = stream.text()
    expect(
      (await w.client.call('POST', `/team/members/${id}/remove`, { connections: 'pause' })).status,
    ).to.equal(200)
    expect((await hugo.call('GET', '/me')).status).to.equal(401)
    expect(await said).to.match(/event: ended/)
    const again = await new Client(w.client.base).signIn('hugo@quillmere.example', PASSWORD)
    expect(again).to.equal(403)
    // Invited once more, they are who they were.
    const back = new Client(w.client.base)
    const { link } = await invite('hugo@quillmere.example')
    expect(
      (await back.call('POST', '/entry/join', { token: tokenOf(link), password: PASSWORD })).status,
    ).to.equal(200)
    expect((await back.call('GET', '/team')).body.me).to.equal(id)
  })

  it('a forgotten password: by mail, once; whoever was signed in with the old one is out', async () => {
    const { client } = await joined('Kaja')
    const nobody = new Client(w.client.base)
    const known = await nobody.call('POST', '/entry/forgot', { email: 'kaja@quillmere.example' })
    const unknown = await nobody.call('POST', '/entry/forgot', { email: 'nobody@quillmere.example' })
    expect(known.body).to.deep.equal(unknown.body)
    const letter = await until('the letter is there', async () =>
      (await letters()).find(l => /new-password/.test(JSON.stringify(l)) && /kaja/.test(JSON.stringify(l))),
    )
    const token =
      /new-password#([0-9a-f]{64})/.exec(JSON.stringify(letter).replace(/=\\r\\n/g, ''))?.[1] ?? ''
    const body = { token, password: 'a kettle full of rain' }
    expect((await nobody.call('POST', '/entry/new-password', body)).status).to.equal(200)
    expect((await nobody.call('GET', '/me')).body.name).to.equal('Kaja')
    expect((await client.call('GET', '/me')).status).to.equal(401)
    expect((await nobody.call('POST', '/entry/new-password', body)).status).to.equal(404)
    expect(await client.signIn('kaja@quillmere.example', PASSWORD)).to.equal(403)
  })

  it('sessions are listed with their device, each can be ended, and a new password ends the others', async () => {
    const { client } = await joined('Juno')
    const other = new Client(w.client.base)
    const body = { email: 'juno@quillmere.example', password: PASSWORD }
    const agent = 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0'
    await other.call('POST', '/session', body, { 'User-Agent': agent })
    const { sessions } = (await client.call('GET', '/account')).body
    expect(sessions.map((s: any) => [s.device === 'Firefox on Linux', s.here])).to.have.deep.members([
      [true, false],
      [false, true],
    ])
    const there = sessions.find((s: any) => !s.here)
    // Nobody ends a session that is not theirs.
    expect((await w.client.call('DELETE', `/account/sessions/${there.id}`)).status).to.equal(404)
    expect((await client.call('DELETE', `/account/sessions/${there.id}`)).status).to.equal(200)
    expect((await other.call('GET', '/me')).status).to.equal(401)
    await other.call('POST', '/session', body)
    const change = { old: PASSWORD, password: 'a kettle full of rain' }
    expect(
      (await client.call('PUT', '/account/password', { ...change, old: 'wrong one, that' })).status,
    ).to.equal(403)
    expect((await client.call('PUT', '/account/password', change)).body).to.deep.equal({ ended: 1 })
    expect((await other.call('GET', '/me')).status).to.equal(401)
    expect((await client.call('GET', '/me')).status).to.equal(200)
  })

  it('a passkey that nobody made here, or a challenge that nobody gave, opens nothing', async () => {
    const nobody = new Client(w.client.base)
    // By a number there are none.
    expect((await nobody.call('POST', '/entry/passkey/options')).status).to.equal(422)
    const byName = new Client(w.client.base.replace('127.0.0.1', 'localhost'))
    const options = (await byName.call('POST', '/entry/passkey/options')).body
    expect(options.challenge).to.match(/^[\w-]{20,}$/)
    const said = { type: 'webauthn.get', challenge: options.challenge, origin: byName.base }
    const clientDataJSON = Buffer.from(JSON.stringify(said)).toString('base64url')
    const forged = {
      id: 'bm9ib2R5cw',
      rawId: 'bm9ib2R5cw',
      type: 'public-key',
      clientExtensionResults: {},
      response: { clientDataJSON, authenticatorData: 'AAAA', signature: 'AAAA' },
    }
    for (const response of [forged, { ...forged, id: 'x'.repeat(2000) }, { id: 'x' }, 7])
      expect((await byName.call('POST', '/entry/passkey', { response })).status).to.be.oneOf([400, 403])
    await w.app.ctx.db.run(
      `INSERT INTO passkeys SELECT UUID(), SHA2('bm9ib2R5cw', 256), 'bm9ib2R5cw', id, 'AAAA', 0, '', 'broken', 0, NULL FROM users LIMIT 1`,
    )
    expect((await byName.call('POST', '/entry/passkey', { response: forged })).status).to.equal(403)
    expect(
      (await w.client.call('POST', '/account/passkeys', { name: 'x', response: forged })).status,
    ).to.equal(422)
    // What a browser is asked to sign is no address by which anybody enters.
    expect((await byName.call('POST', '/entry/look', { token: '0'.repeat(64) })).status).to.equal(404)
  })

  it('an invitation can be sent anew and withdrawn, and ends in time', async () => {
    const first = await invite('nora@quillmere.example')
    const again = (await w.client.call('POST', `/team/invitations/${first.id}/renew`)).body
    const look = async (link: string) =>
      (await new Client(w.client.base).call('POST', '/entry/look', { token: tokenOf(link) })).status
    expect([await look(first.link), await look(again.link)]).to.deep.equal([404, 200])
    await w.app.ctx.db.run('UPDATE entry_links SET expires_at = 1 WHERE id = :id', { id: again.id })
    expect(await look(again.link)).to.equal(404)
    const third = await invite('nora@quillmere.example')
    expect((await w.client.call('DELETE', `/team/invitations/${third.id}`)).status).to.equal(200)
    expect(await look(third.link)).to.equal(404)
  })

  it('what whoever leaves hands over is the team’s; of whoever is removed it is hidden, and gone in thirty days', async () => {
    const { client: vera, id } = await joined('Vera')
    const { id: other } = await joined('Lars')
    const { db } = w.app.ctx
    const [one, two] = await db.rows<{ id: string }>(
      `SELECT id FROM connections WHERE kind <> 'own' ORDER BY name`,
    )
    await db.run('UPDATE connections SET owner_id = :owner WHERE id = :id', { owner: id, id: one?.id })
    await db.run('UPDATE connections SET owner_id = :owner WHERE id = :id', { owner: other, id: two?.id })
    const { members } = (await w.client.call('GET', '/team')).body
    expect(members.find((m: any) => m.id === id).connections).to.have.length(1)
    await vera.call('POST', '/team/leave', { connections: 'hand-over' })
    // Whoever removes somebody is not handed what is theirs, whatever they ask for.
    await w.client.call('POST', `/team/members/${other}/remove`, { connections: 'hand-over' })
    const now = (await w.client.call('GET', '/connections')).body.connections
    const state = (which?: string) =>
      now.filter((c: any) => c.id === which).map((c: any) => [c.paused, c.owner ?? null, c.tends])
    expect(state(one?.id)).to.deep.equal([[false, null, true]])
    expect(state(two?.id)).to.deep.equal([])
    const { sources } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body
    expect(sources.map((s: any) => s.connection))
      .to.include(one?.id)
      .and.not.include(two?.id)
    const left = () => connectionsLeft(db, { before: w.app.ctx.now() - 30 * 86_400_000 })
    expect(await left()).to.deep.equal([])
    await db.run('UPDATE members SET left_at = left_at - 31 * 86400000 WHERE id = :id', { id: other })
    expect((await left()).map(l => l.id)).to.deep.equal([two?.id])
  })
})
