import { expect } from 'chai'
import { readConfig } from '../src/context/config.ts'
import { takeLease } from '../src/data/leases.ts'
import { type Running, startServer } from '../src/server.ts'
import { Client, freePort, startWorld, until, weekDay, type World } from './support/world.ts'

/** Two server processes' worth of engines on one database: they share the work and do nothing twice. */
describe('two servers on one database', function () {
  this.timeout(40_000)
  let w: World
  let second: Running
  let there: Client

  before(async () => {
    w = await startWorld()
    const port = await freePort()
    second = await startServer(readConfig({ ...w.environment, LOOM_PORT: String(port) }))
    there = new Client(`http://127.0.0.1:${port}`)
    await there.signIn()
  })
  after(async () => {
    await second.stop()
    await w.close()
  })

  it('make one event for each task, whoever was first', async () => {
    const titles = Array.from({ length: 12 }, (_, i) => `Shared work ${i}`)
    for (const [i, text] of titles.entries())
      await w.bench.add('festival', { text, day: weekDay(i % 5), hour: '10:00' })
    await until('all events are there', async () => {
      const events = await w.garden.events('festival-work')
      return titles.every(t => events.some(e => e.text.includes(`SUMMARY:${t}\r`)))
    })
    await until(
      'nothing waits',
      async () => (await w.client.call('GET', '/rules')).body.rules[0].waiting === 0,
    )
    for (const t of titles) expect(await w.garden.titled('festival-work', t), t).to.have.length(1)
    const { lines } = (await there.call('GET', '/journal')).body
    for (const t of titles)
      expect(
        lines.filter((l: any) => l.title === t),
        t,
      ).to.have.length(1)
  })

  it('end at either what was signed out of at the other', async () => {
    const elsewhere = new Client(there.base)
    await elsewhere.signIn()
    const stream = await fetch(`${there.base}/api/live`, { headers: { Cookie: elsewhere.cookieNow } })
    let said: string | null = null
    const end = stream.text().then(text => void (said = text))
    const { sessions } = (await elsewhere.call('GET', '/account')).body
    const { id } = sessions.find((one: { here: boolean }) => one.here)
    expect((await w.client.call('DELETE', `/account/sessions/${id}`)).status).to.equal(200)
    // Sooner than by the beat, at which a stream looks anyway.
    await until('the stream has ended', async () => said !== null, 8_000)
    await end
    expect(said).to.match(/event: ended/)
  })

  it('tell a client of either what was done at the other', async () => {
    const leave = new AbortController()
    const cookie = await fetch(`${there.base}/api/session`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Origin: there.base },
      body: JSON.stringify({ email: 'ines@quillmere.example', password: 'night-flowering' }),
    })
    const live = await fetch(`${there.base}/api/live`, {
      headers: { Cookie: cookie.headers.get('set-cookie')?.split(';')[0] ?? '' },
      signal: leave.signal,
    })
    const { body } = await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)
    const item = body.items.find((i: { title: string }) => i.title === 'Shared work 1')
    await w.client.call('POST', `/cloth/${item.key}/edit`, { do: 'rename', title: 'Shared and told' })
    const reader = live.body?.getReader()
    let text = ''
    while (!/"topics":\["cloth"/.test(text)) text += new TextDecoder().decode((await reader?.read())?.value)
    expect(text).to.match(/event: change/)
    const numbers = [...text.matchAll(/^id: (\d+)$/gm)].map(m => Number(m[1]))
    expect(numbers).to.deep.equal([...numbers].sort((x, y) => x - y))
    leave.abort()
  })

  it('give a lease to one at a time, and a lost one commits nothing', async () => {
    const { db } = w.app.ctx
    const workspace = await db.one<{ id: string }>('SELECT id FROM workspaces LIMIT 1')
    const id = workspace?.id ?? ''
    const all = await Promise.all(Array.from({ length: 12 }, () => takeLease(w.app.ctx, id, 'a test')))
    const [lease, ...more] = all.filter(l => l !== null)
    expect(more).to.deep.equal([])
    expect(await takeLease(w.app.ctx, id, 'a test')).to.equal(null)
    await db.run(`UPDATE leases SET expires_at = 0 WHERE resource = 'a test'`)
    const again = await Promise.all(Array.from({ length: 12 }, () => takeLease(w.app.ctx, id, 'a test')))
    const [next, ...others] = again.filter(l => l !== null)
    expect(next).to.not.equal(undefined)
    expect(others).to.deep.equal([])
    let lost = ''
    await db
      .commit(sql => lease?.check(sql) ?? Promise.resolve())
      .catch((e: unknown) => (lost = (e as Error).constructor.name))
    expect(lost).to.equal('LeaseLost')
    await db.commit(sql => next?.check(sql) ?? Promise.resolve())
    await lease?.release()
    await db.commit(sql => next?.check(sql) ?? Promise.resolve())
    await next?.release()
  })
})
