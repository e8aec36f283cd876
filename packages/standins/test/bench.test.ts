import { createHmac } from 'node:crypto'
import { mkdtempSync } from 'node:fs'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import { listen } from '../src/index.ts'

/** Bench List's own habits, which connectors must live with. */
describe('Bench List', function () {
  this.timeout(20_000)
  const folder = mkdtempSync(join(tmpdir(), 'standins-'))
  let running: Awaited<ReturnType<typeof listen>>
  let receiver: Server
  let refuse = 0
  const heard: { body: string; signature: string }[] = []

  before(async () => {
    running = await listen(folder, 0)
    receiver = createServer((request, response) => {
      let body = ''
      request.on('data', chunk => (body += String(chunk)))
      request.on('end', () => {
        if (refuse-- > 0) {
          response.writeHead(500).end()
          return
        }
        heard.push({ body, signature: String(request.headers['bench-signature']) })
        response.end()
      })
    })
    await new Promise<void>(resolve => receiver.listen(0, '127.0.0.1', resolve))
  })
  after(async () => {
    receiver.close()
    await running.close()
  })

  const call = async (method: string, path: string, body?: object, headers: Record<string, string> = {}) => {
    const answer = await fetch(`http://127.0.0.1:${running.port}/bench/v1${path}`, {
      method,
      headers: { Authorization: 'Bearer bench-key-ines', ...headers },
      ...(body ? { body: JSON.stringify(body) } : {}),
    })
    const text = await answer.text()
    return { status: answer.status, headers: answer.headers, body: text ? (JSON.parse(text) as any) : null }
  }

  it('cuts a text at 120 characters, never inside one', async () => {
    const { body } = await call('POST', '/lists/someday/tasks', { text: `${'x'.repeat(119)}🌒🌓` })
    expect(body.text).to.equal(`${'x'.repeat(119)}🌒`)
  })

  it('knows a client’s own reference again', async () => {
    const once = await call('POST', '/lists/someday/tasks', { text: 'Once', ref: 'ref-1' })
    const twice = await call('POST', '/lists/someday/tasks', { text: 'Once', ref: 'ref-1' })
    expect([once.status, twice.status, twice.body.id]).to.deep.equal([201, 200, once.body.id])
  })

  it('refuses what makes no sense, and keeps what it had', async () => {
    const { body } = await call('POST', '/lists/someday/tasks', { text: 'Sensible' })
    const path = `/tasks/${body.id}`
    for (const wrong of [
      { text: ' ' },
      { weight: 6 },
      { day: '2026-13-01' },
      { hour: '25:00' },
      { list: 'nowhere' },
    ])
      expect((await call('PATCH', path, wrong)).status, JSON.stringify(wrong)).to.equal(422)
    expect((await call('PATCH', path, { text: 7 })).status).to.equal(400)
    expect((await call('PATCH', path, { text: 'Stale' }, { 'If-Match': '99' })).status).to.equal(412)
    expect((await call('GET', path)).body).to.include({ text: 'Sensible', rev: '1' })
  })

  it('has no hour without a day', async () => {
    const { body } = await call('POST', '/lists/someday/tasks', {
      text: 'Hourly',
      day: '2026-11-25',
      hour: '10:00',
    })
    expect((await call('PATCH', `/tasks/${body.id}`, { day: null })).body).to.include({
      day: null,
      hour: null,
    })
  })

  it('leaves ticked and moved tasks out of a listing, and says that they left', async () => {
    const { body: listing } = await call('GET', '/lists/someday/tasks')
    const [a, b] = [
      (await call('POST', '/lists/someday/tasks', { text: 'To tick' })).body.id,
      (await call('POST', '/lists/someday/tasks', { text: 'To move' })).body.id,
    ]
    await call('PATCH', `/tasks/${a}`, { ticked: true })
    await call('PATCH', `/tasks/${b}`, { list: 'repairs' })
    const { body } = await call('GET', `/lists/someday/changes?since=${listing.token}`)
    expect([body.tasks, body.left.sort()]).to.deep.equal([[], [a, b].sort()])
    expect((await call('GET', `/tasks/${a}`)).body).to.include({ ticked: true })
    expect((await call('GET', '/lists/repairs/changes?since=elsewhere.1')).status).to.equal(410)
  })

  it('turns pages in an order that changes do not upset', async () => {
    await call('POST', '/batch', {
      changes: Array.from({ length: 20 }, (_, i) => ({
        op: 'add',
        list: 'repairs',
        set: { text: `Page ${i}` },
      })),
    })
    for (let n = 0; n < 2; n++)
      await call('POST', '/batch', {
        changes: Array.from({ length: 20 }, (_, i) => ({
          op: 'add',
          list: 'repairs',
          set: { text: `More ${n} ${i}` },
        })),
      })
    const ids: string[] = []
    for (let after: string | null = ''; after !== null;) {
      const page: { tasks: { id: string }[]; next: string | null } = (
        await call('GET', `/lists/repairs/tasks?after=${after}`)
      ).body
      expect(page.tasks.length).to.be.at.most(50)
      ids.push(...page.tasks.map(t => t.id))
      after = page.next
    }
    expect(ids.length).to.be.greaterThan(60)
    expect(new Set(ids).size).to.equal(ids.length)
  })

  it('signs its notifications and sends them again until they are taken', async () => {
    const { port } = receiver.address() as AddressInfo
    await call('POST', '/hooks', { url: `http://127.0.0.1:${port}/`, secret: 'between us' })
    refuse = 1
    const { body } = await call('POST', '/lists/someday/tasks', { text: 'Told of' })
    while (!heard.some(h => h.body.includes(body.id))) await new Promise(resolve => setTimeout(resolve, 50))
    const told = heard.find(h => h.body.includes(body.id))
    const wanted = `sha256=${createHmac('sha256', 'between us')
      .update(told?.body ?? '')
      .digest('hex')}`
    expect(told?.signature).to.equal(wanted)
    expect(JSON.parse(told?.body ?? '{}')).to.include({ list: 'someday', task: body.id })
  })

  it('asks to be left alone when it is asked too much, and says for how long', async () => {
    const answers = await Promise.all(Array.from({ length: 60 }, () => call('GET', '/me')))
    const slowed = answers.find(a => a.status === 429)
    expect(slowed?.headers.get('retry-after')).to.equal('1')
  })

  it('still holds everything after it was ended and started again', async () => {
    const other = await listen(folder, 0)
    const answer = await fetch(`http://127.0.0.1:${other.port}/bench/v1/lists/someday/tasks`, {
      headers: { Authorization: 'Bearer bench-key-ines' },
    })
    const { tasks } = (await answer.json()) as { tasks: { text: string }[] }
    expect(tasks.map(t => t.text)).to.include('Told of')
    await other.close()
  })

  it('shows on its page what it holds, and lets one edit it there', async () => {
    const page = `http://127.0.0.1:${running.port}/bench/page`
    await fetch(`${page}/lists/someday`, {
      method: 'POST',
      body: new URLSearchParams({ text: 'By <hand>', day: '2026-11-25', weight: '4' }),
    })
    const html = await (await fetch(page)).text()
    expect(html).to.contain('By &#60;hand&#62;').and.not.contain('By <hand>')
  })
})
