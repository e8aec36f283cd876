import { expect } from 'chai'
import { Secret, TOTP } from 'otpauth'
import { Client, startWorld, until, type World } from './support/world.ts'

/** One-time codes, and workspaces that want more than a password. */
describe('more than a password', function () {
  this.timeout(40_000)
  let w: World
  let tobias: Client
  let key = ''
  let recovery: string[] = []
  before(async () => {
    w = await startWorld()
    tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
  })
  after(() => w.close())

  /** @param steps of thirty seconds that the telephone is ahead */
  const code = (steps = 0): string =>
    new TOTP({ secret: Secret.fromBase32(key) }).generate({ timestamp: Date.now() + steps * 30_000 })
  const second = (who: Client, path: string, given: string) =>
    who.call('POST', `/account/second${path}`, { code: given })
  const fresh = async (email = 'tobias@quillmere.example'): Promise<Client> => {
    const client = new Client(w.client.base)
    expect(await client.signIn(email)).to.equal(200)
    return client
  }
  /** Each code counts once: what a test before this one gave is forgotten. */
  const asIfLater = () => w.app.ctx.db.run('UPDATE users SET totp_step = 0')
  const untried = () => w.app.ctx.db.run(`DELETE FROM limits WHERE name LIKE 'codes%'`)

  it('codes are in use once one of them is confirmed, and then every new session needs one', async () => {
    const begun = (await tobias.call('POST', '/account/second/codes')).body
    key = begun.key
    expect(begun.uri).to.match(/^otpauth:\/\/totp\/Amber%20Loom:tobias%40quillmere.example\?/)
    expect((await (await fresh()).call('GET', '/team')).status, 'not confirmed yet').to.equal(200)
    expect((await second(tobias, '/codes/confirm', '000000')).status).to.equal(403)
    const confirmed = await second(tobias, '/codes/confirm', code())
    recovery = confirmed.body.recovery
    expect(new Set(recovery).size).to.equal(8)
    expect((await tobias.call('POST', '/account/second/codes')).status, 'not set up over it').to.equal(409)
    expect((await tobias.call('GET', '/team')).status, 'where it was set up').to.equal(200)
    const other = await fresh()
    const refused = await other.call('GET', '/team')
    expect([refused.status, refused.body.needs]).to.deep.equal([403, 'second'])
    for (const path of ['/codes', '/codes/off', '/codes/recovery', '/codes/confirm'])
      expect((await second(other, path, code())).body.needs, path).to.equal('second')
    for (const [method, path] of [
      ['GET', '/cloth/search?q=a'],
      ['GET', '/live'],
      ['GET', '/account/export'],
      ['POST', '/account/passkeys/options'],
      ['PUT', '/account/password'],
    ] as const)
      expect((await other.call(method, path)).body.needs, path).to.equal('second')
    expect((await other.call('GET', '/session')).body.owes).to.equal('proof')
    // The database holds no secret as it is.
    const [row] = await w.app.ctx.db.rows<{ s: string }>(
      'SELECT totp_secret AS s FROM users WHERE totp_at > 0',
    )
    expect(row?.s).to.not.include(key)
  })

  it('a code counts once, from a step before to a step after, for clocks that differ', async () => {
    const other = await fresh()
    expect((await second(other, '/code', code())).status, 'used to confirm').to.equal(403)
    for (const [steps, status] of [
      [-3, 403],
      [3, 403],
      [-1, 200],
      [1, 200],
    ] as const) {
      await asIfLater()
      await untried()
      const late = await fresh()
      expect((await second(late, '/code', code(steps))).status, `${steps} steps`).to.equal(status)
      expect((await late.call('GET', '/team')).status).to.equal(status)
    }
    await asIfLater()
    await untried()
    const two = await Promise.all([fresh(), fresh()])
    const now = code()
    const both = await Promise.all(two.map(c => second(c, '/code', now)))
    expect(both.map(b => b.status).sort(), 'the same code at once').to.deep.equal([200, 403])
  })

  it('guesses are slowed down, whatever session they come from', async () => {
    await untried()
    const statuses: number[] = []
    for (let i = 0; i < 10; i++)
      statuses.push((await second(await fresh(), '/code', String(100_000 + i))).status)
    expect(statuses.filter(s => s === 429).length).to.be.greaterThan(0)
    await asIfLater()
    expect((await second(await fresh(), '/code', code())).status, 'also with the right one').to.equal(429)
    await untried()
  })

  it('a recovery code stands in for the telephone, once, however it is typed', async () => {
    const [first = '', next = ''] = recovery
    const other = await fresh()
    expect((await second(other, '/code', ` ${first.toUpperCase().replace('-', ' ')} `)).status).to.equal(200)
    expect((await second(await fresh(), '/code', first)).status).to.equal(403)
    expect((await other.call('GET', '/account/second')).body.codes.left).to.equal(7)
    await asIfLater()
    const renewed = (await second(other, '/codes/recovery', code())).body.recovery
    expect(renewed).to.have.length(8)
    expect((await second(await fresh(), '/code', next)).status, 'one of before').to.equal(403)
    await untried()
    await asIfLater()
    expect((await second(other, '/codes/off', '123456')).status).to.equal(403)
    expect((await second(other, '/codes/off', renewed[0])).status).to.equal(200)
    expect((await (await fresh()).call('GET', '/team')).status).to.equal(200)
  })

  it('a workspace may want it of everybody: whoever has nothing sets it up, and does nothing else before', async () => {
    const wants = (who: Client, on: boolean) => who.call('PUT', '/team/second', { wants: on })
    expect((await wants(tobias, true)).status, 'no coordinator').to.equal(403)
    expect((await wants(w.client, true)).body.reason, 'not locked out oneself').to.match(/for yourself first/)
    key = (await w.client.call('POST', '/account/second/codes')).body.key
    expect((await second(w.client, '/codes/confirm', code())).status).to.equal(200)
    expect((await w.client.call('GET', '/team')).body.without).to.have.length(2)
    // Somebody has the Cloth open: that it is wanted now holds there as well.
    const open = await fetch(`${w.client.base}/api/live`, { headers: { Cookie: tobias.cookieNow } })
    let isOver = false
    const reading = open.text().then(() => (isOver = true))
    expect((await wants(w.client, true)).status).to.equal(200)
    const refused = await tobias.call('GET', '/team')
    expect([refused.status, refused.body.needs], 'also where they are signed in').to.deep.equal([
      403,
      'second',
    ])
    expect((await tobias.call('GET', '/session')).body.owes).to.equal('setup')
    expect((await tobias.call('GET', '/account/second')).body).to.deep.equal({
      owes: true,
      required: true,
      codes: null,
      passkeys: 0,
    })
    expect((await w.client.call('GET', '/team')).status, 'who has given one').to.equal(200)
    await until('his page is told nothing more', async () => isOver, 2_000)
    await reading
    key = (await tobias.call('POST', '/account/second/codes')).body.key
    expect((await second(tobias, '/codes/confirm', code())).status).to.equal(200)
    expect((await tobias.call('GET', '/team')).status).to.equal(200)
    expect((await wants(w.client, false)).status).to.equal(200)
    const anouk = await fresh('anouk@quillmere.example')
    expect((await anouk.call('GET', '/team')).status).to.equal(200)
  })

  it('a passkey of somebody else proves nothing', async () => {
    const site = new Client(w.client.base.replace('127.0.0.1', 'localhost'))
    await site.signIn('tobias@quillmere.example')
    const options = await site.call('POST', '/account/second/passkey/options')
    expect([options.status, options.body.reason]).to.deep.equal([200, undefined])
    const response = { id: 'bm9ib2R5', rawId: 'bm9ib2R5', type: 'public-key', response: {} }
    const answer = await site.call('POST', '/account/second/passkey', { response })
    expect(answer.status).to.be.oneOf([400, 403])
    expect((await site.call('GET', '/team')).body.needs).to.equal('second')
  })
})
