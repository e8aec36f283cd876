import { expect } from 'chai'
import { makeApp } from '../src/http/app.ts'
import { Client, startWorld, type World } from './support/world.ts'

/** Signing in by an identity provider: the stand-in's, which is a real one. */
describe('an identity provider', function () {
  this.timeout(30_000)
  let w: World
  before(async () => {
    w = await startWorld()
  })
  after(() => w.close())

  /** What the application is told by its server of whoever asks. */
  const FROM_HERE = { incoming: { socket: { remoteAddress: '127.0.0.1' } } }
  const PASS = { tobias: 'pass-2', impostor: 'pass-7', pia: 'pass-8', nobody: '' }
  type Ask = (path: string, cookie: string) => Promise<Response>
  const atServer: Ask = (path, cookie) =>
    fetch(new URL(path, w.client.base), { headers: { Cookie: cookie }, redirect: 'manual' })
  const cookieOf = (answer: Response, name: string): string =>
    answer.headers
      .getSetCookie()
      .map(c => c.split(';')[0] ?? '')
      .find(c => c.startsWith(`${name}=`)) ?? ''

  /** Goes there as somebody. Returns where one is sent back to, and the cookie that knows of it. */
  async function there(sub: string, ask: Ask = atServer): Promise<{ back: string; cookie: string }> {
    const begun = await ask('/api/entry/provider', '')
    const asked = new URL(begun.headers.get('location') ?? '')
    const q = asked.searchParams
    expect([q.get('response_type'), q.get('code_challenge_method')]).to.deep.equal(['code', 'S256'])
    const form = new URLSearchParams({ sub })
    for (const name of ['redirect_uri', 'state', 'code_challenge', 'nonce', 'client_id'])
      form.set(name, q.get(name) ?? '')
    const answer = await fetch(asked.origin + asked.pathname, {
      method: 'POST',
      body: form,
      redirect: 'manual',
    })
    return { back: answer.headers.get('location') ?? '', cookie: cookieOf(begun, 'loom_entry') }
  }
  const home = async (
    { back, cookie }: { back: string; cookie: string },
    ask: Ask = atServer,
  ): Promise<{ to: string; session: string }> => {
    const { pathname, search } = new URL(back)
    const answer = await ask(pathname + search, cookie)
    return { to: answer.headers.get('location') ?? '', session: cookieOf(answer, 'loom_session') }
  }

  it('knows a user by a verified mail address, and from then on by who they are there', async () => {
    const { to, session } = await home(await there(PASS.tobias))
    expect(to).to.equal('/cloth')
    const me = async (cookie: string) => (await new Client(w.client.base, cookie).call('GET', '/me')).body
    expect((await me(session)).name).to.equal('Tobias Lund')
    await w.app.ctx.db.run(
      `UPDATE users SET email = 'lund@elsewhere.example' WHERE email = 'tobias@quillmere.example'`,
    )
    const again = await home(await there(PASS.tobias))
    expect((await me(again.session)).name).to.equal('Tobias Lund')
  })

  it('lets nobody in by a mail address that it has not verified, by no, or by what is not theirs', async () => {
    expect(await home(await there(PASS.impostor))).to.deep.equal({
      to: '/sign-in?no=not-verified',
      session: '',
    })
    expect(await home(await there(PASS.nobody))).to.deep.equal({ to: '/sign-in?no=refused', session: '' })
    const one = await there(PASS.tobias)
    const other = await there(PASS.tobias)
    const refused = { to: '/sign-in?no=refused', session: '' }
    // Another's way back, none that was begun here, a code used twice, and one that was changed.
    expect(await home({ back: one.back, cookie: other.cookie })).to.deep.equal(refused)
    expect(await home({ back: other.back, cookie: '' })).to.deep.equal(refused)
    expect(await home({ back: other.back, cookie: 'loom_entry=nonsense' })).to.deep.equal(refused)
    const third = await there(PASS.tobias)
    expect((await home(third)).to).to.equal('/cloth')
    expect(await home(third)).to.deep.equal(refused)
    const fourth = await there(PASS.tobias)
    expect(await home({ ...fourth, back: fourth.back.replace(/code=./, 'code=_') })).to.deep.equal(refused)
  })

  it('lets whoever is invited in, once, and whoever is of an allowed domain', async () => {
    expect((await home(await there(PASS.pia))).to).to.equal('/sign-in?no=not-invited')
    const options = (domains: string[]) => ({
      web: null,
      trustedProxies: [],
      identity: {
        issuer: `${w.standins}/identity`,
        clientId: 'loom',
        clientSecret: null,
        name: 'Pass',
        domains,
      },
    })
    const at =
      (domains: string[]): Ask =>
      async (path, cookie) =>
        makeApp(w.app.ctx, w.app.engine, options(domains)).request(
          new URL(path, w.client.base),
          {
            headers: { Cookie: cookie },
          },
          FROM_HERE,
        )
    expect(
      (await home(await there(PASS.pia, at(['elsewhere.example'])), at(['elsewhere.example']))).to,
    ).to.equal('/sign-in?no=not-invited')
    await w.client.call('POST', '/team/invitations', { email: 'pia@tarnlane.example', role: 'reader' })
    const { to, session } = await home(await there(PASS.pia))
    expect(to).to.equal('/cloth')
    const pia = new Client(w.client.base, session)
    const { members, me } = (await pia.call('GET', '/team')).body
    expect(members.find((m: any) => m.id === me)).to.include({ name: 'Pia Tarn', role: 'reader' })
    expect((await w.client.call('GET', '/team')).body.invitations).to.deep.equal([])
    // Removed, they are out, whatever the provider says.
    await w.client.call('POST', `/team/members/${me}/remove`)
    expect((await home(await there(PASS.pia))).to).to.equal('/sign-in?no=not-invited')
    await w.app.ctx.db.run(`DELETE FROM identities`)
    await w.app.ctx.db.run(
      `UPDATE users SET email = 'gone@tarnlane.example' WHERE email = 'pia@tarnlane.example'`,
    )
    const domain = at(['tarnlane.example'])
    expect((await home(await there(PASS.pia, domain), domain)).to).to.equal('/cloth')
  })

  it('says so where it does not answer, and is not offered where there is none', async () => {
    const app = (issuer: string | null) =>
      makeApp(w.app.ctx, w.app.engine, {
        web: null,
        trustedProxies: [],
        identity:
          issuer === null ? null : { issuer, clientId: 'x', clientSecret: null, name: 'Pass', domains: [] },
      })
    const at = (path: string) => new URL(path, w.client.base)
    const silent = await app(`${w.standins}/nowhere`).request(at('/api/entry/provider'), {}, FROM_HERE)
    expect(silent.headers.get('location')).to.equal('/sign-in?no=no-answer')
    const none = app(null)
    expect((await none.request(at('/api/entry/provider'), {}, FROM_HERE)).status).to.equal(404)
    expect(await (await none.request(at('/api/entry'))).json()).to.deep.equal({
      begins: false,
      provider: null,
    })
    expect((await w.client.call('GET', '/entry')).body).to.deep.equal({
      begins: false,
      provider: 'Gate Pass',
    })
  })
})
