import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { gzipSync } from 'node:zlib'
import { readFileSync } from 'node:fs'
import { expect } from 'chai'
import { connectionOf, draftOf, keep, readOnce } from './support/connecting.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** A server that means harm, or knows no better: each ends in a sentence, and nobody else's sync is held up. */
describe('what a hostile service sends', function () {
  this.timeout(120_000)
  let w: World
  let server: Server
  let base = ''
  const pages = new Map<string, (q: IncomingMessage, a: ServerResponse) => void>()
  const host = (): string => new URL(base).host

  before(async () => {
    server = createServer((q, a) => {
      const answer = pages.get((q.url ?? '').split('?')[0] ?? '')
      if (answer) answer(q, a)
      else a.writeHead(404).end()
    })
    await new Promise<void>(resolve => server.listen(0, '127.0.0.1', () => resolve()))
    const { port } = server.address() as AddressInfo
    base = `http://127.0.0.1:${port}`
    w = await startWorld({ allow: [`127.0.0.1:${port}`] })
    await until('the first pass is through', async () => (await w.garden.events('festival-work')).length >= 5)
  })
  after(async () => {
    server.closeAllConnections()
    server.close()
    await w.close()
  })

  /** Somebody else's change, made while `work` goes on, arrives within a few seconds. */
  let nth = 0
  async function meanwhile<T>(work: Promise<T>): Promise<T> {
    const before = process.memoryUsage().rss
    const title = `Meanwhile ${++nth}`
    const started = Date.now()
    await w.bench.add('festival', { text: title, day: weekDay(3), hour: '14:00' })
    await until(
      'others go on',
      async () => (await w.garden.titled('festival-work', title)).length === 1,
      8_000,
    )
    expect(Date.now() - started).to.be.lessThan(8_000)
    const done = await work
    expect(process.memoryUsage().rss - before, 'memory').to.be.lessThan(400_000_000)
    return done
  }
  const begin = (given: object) => meanwhile(w.client.call('POST', '/connecting/drafts', given))
  const feed = (path: string) => begin({ service: 'ics-feed', address: base + path })
  const calendar = (events: string): string =>
    `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//odd//EN\r\nNAME:Odd\r\n${events}END:VCALENDAR\r\n`
  const event = (uid: string, lines: string[]): string =>
    ['BEGIN:VEVENT', `UID:${uid}`, 'DTSTAMP:20260101T000000Z', ...lines, 'END:VEVENT', ''].join('\r\n')
  const timed = (day: string): string[] => [
    `DTSTART:${day.replace(/-/g, '')}T100000Z`,
    `DTEND:${day.replace(/-/g, '')}T110000Z`,
  ]
  const serve = (path: string, body: string | Buffer, headers: Record<string, string> = {}): void =>
    void pages.set(path, (_q, a) =>
      a.writeHead(200, { 'Content-Type': 'text/calendar', ...headers }).end(body),
    )

  it('a feed of 200 MB, and one without end', async () => {
    const block = Buffer.alloc(1_000_000, 'X-NOISE:aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa\r\n')
    let sent = 0
    pages.set('/large.ics', (_q, a) => {
      a.writeHead(200, { 'Content-Type': 'text/calendar' })
      a.write('BEGIN:VCALENDAR\r\n')
      const more = (): void => {
        while (sent < 200 && !a.destroyed) {
          sent++
          if (!a.write(block)) return void a.once('drain', more)
        }
        a.end()
      }
      more()
    })
    const answer = await feed('/large.ics')
    expect(answer.status).to.equal(422)
    expect(answer.body.reason).to.match(/larger than|too large|more than/i)
    expect(sent, 'it was not read to its end').to.be.lessThan(60)
  })

  it('a small answer that unpacks to hundreds of megabytes', async () => {
    serve('/bomb.ics', gzipSync(Buffer.alloc(300_000_000, 'A'), { level: 9 }), { 'Content-Encoding': 'gzip' })
    const answer = await feed('/bomb.ics')
    expect(answer.status).to.equal(422)
    expect(answer.body.reason).to.match(/larger than|too large|more than/i)
  })

  it('entities that unfold into each other, from a CalDAV server', async () => {
    const entities = Array.from(
      { length: 12 },
      (_, i) => `<!ENTITY e${i + 1} "${`&e${i};`.repeat(10)}">`,
    ).join('')
    const xml = `<?xml version="1.0"?><!DOCTYPE d [<!ENTITY e0 "lol">${entities}]><D:multistatus xmlns:D="DAV:"><D:response><D:href>&e12;</D:href></D:response></D:multistatus>`
    for (const path of ['/', '/.well-known/caldav'])
      pages.set(path, (_q, a) => a.writeHead(207, { 'Content-Type': 'application/xml' }).end(xml))
    const answer = await begin({ service: 'caldav', address: base, user: 'a', password: 'b' })
    expect(answer.status).to.equal(422)
    expect(answer.body.reason).to.contain(host())
    pages.delete('/')
    pages.delete('/.well-known/caldav')
  })

  it('XML nested a hundred thousand deep', async () => {
    const xml = `<?xml version="1.0"?>${'<a>'.repeat(100_000)}${'</a>'.repeat(100_000)}`
    for (const path of ['/', '/.well-known/caldav'])
      pages.set(path, (_q, a) => a.writeHead(207, { 'Content-Type': 'application/xml' }).end(xml))
    const answer = await begin({ service: 'caldav', address: base, user: 'a', password: 'b' })
    expect(answer.status).to.equal(422)
    expect(answer.body.reason).to.be.a('string')
    pages.delete('/')
    pages.delete('/.well-known/caldav')
  })

  it('JSON nested a hundred thousand deep, where a list was expected', async () => {
    const description = readFileSync(
      new URL('../../../docs/examples/seed-slips.json', import.meta.url),
      'utf8',
    )
    const { id } = (await w.client.call('POST', '/connecting/services', { description })).body
    pages.set('/slips/hello', (_q, a) => a.end('['.repeat(100_000) + ']'.repeat(100_000)))
    const answer = await begin({ service: id, address: `${base}/slips`, key: 'x' })
    expect(answer.status).to.equal(422)
    expect(answer.body.reason).to.match(/not as|sent/)
  })

  it('redirects in a circle, and one into the house', async () => {
    pages.set('/a.ics', (_q, a) => a.writeHead(302, { Location: '/b.ics' }).end())
    pages.set('/b.ics', (_q, a) => a.writeHead(302, { Location: '/a.ics' }).end())
    expect((await feed('/a.ics')).body.reason).to.match(/redirect|sends us on|in a circle/i)
    const { hostname, port } = new URL(process.env.TEST_DATABASE_URL ?? '')
    pages.set('/in.ics', (_q, a) => a.writeHead(302, { Location: `http://${hostname}:${port}/x` }).end())
    expect((await feed('/in.ics')).body.reason).to.match(/private address/)
    pages.set('/file.ics', (_q, a) => a.writeHead(302, { Location: 'file:///etc/passwd' }).end())
    expect((await feed('/file.ics')).status).to.equal(422)
  })

  it('an answer that drips, a byte now and then', async () => {
    pages.set('/drip.ics', (_q, a) => {
      a.writeHead(200, { 'Content-Type': 'text/calendar' })
      const timer = setInterval(() => a.write('B'), 200)
      a.on('close', () => clearInterval(timer))
    })
    const started = Date.now()
    const answer = await feed('/drip.ics')
    expect(answer.status).to.equal(422)
    expect(Date.now() - started).to.be.lessThan(15_000)
  })

  it('a series of a thousand million, a title of 5 MB, a thousand categories, and a year 9999', async () => {
    const events = [
      event('many', [...timed(weekDay(1)), 'SUMMARY:Every minute', 'RRULE:FREQ=MINUTELY;COUNT=1000000000']),
      event('seconds', [...timed(weekDay(1)), 'SUMMARY:Every second', 'RRULE:FREQ=SECONDLY']),
      event('never', [
        ...timed(weekDay(1)),
        'SUMMARY:Never again',
        'RRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30',
      ]),
      event('long', [...timed(weekDay(2)), `SUMMARY:${'long '.repeat(1_000_000)}`]),
      event('marked', [
        ...timed(weekDay(2)),
        'SUMMARY:Marked',
        `CATEGORIES:${Array.from({ length: 1000 }, (_, i) => `c${i}`).join(',')}`,
      ]),
      event('far', ['DTSTART:99990101T000000Z', 'DTEND:99991231T000000Z', 'SUMMARY:Far']),
      event('good', [...timed(weekDay(2)), 'SUMMARY:A good one']),
    ]
    serve('/odd.ics', calendar(events.join('')))
    const answer = await feed('/odd.ics')
    expect(answer.status).to.equal(201)
    const id = await keep(w, await draftOf(w, answer.body.draft), { name: 'Odd' })
    await meanwhile(readOnce(w, id))
    const { problems } = (await w.client.call('GET', `/connections/${id}/problems`)).body
    const about = (uid: string) => problems.find((p: { remoteId: string }) => p.remoteId.includes(uid))
    expect(about('long').reason).to.match(/larger than 1 MB/)
    expect(about('long').original.length, 'kept for a look, cut').to.be.at.most(2000)
    for (const days of [0, 7, 70]) {
      const started = Date.now()
      const { status, body } = await w.client.call('GET', `/cloth?from=${weekDay(days)}&days=7`)
      expect(status).to.equal(200)
      expect(Date.now() - started, 'the Cloth opens').to.be.lessThan(8_000)
      expect(body.items.length).to.be.lessThan(6_000)
      if (days === 0) expect(body.items.map((i: { title: string }) => i.title)).to.include('A good one')
    }
    expect((await connectionOf(w, id)).state).to.equal('ok')
  })

  it('a hundred thousand tiny calendars, named by a server', async () => {
    const responses = Array.from(
      { length: 100_000 },
      (_, i) =>
        `<D:response><D:href>/c/${i}/</D:href><D:propstat><D:prop><D:resourcetype><D:collection/><C:calendar/></D:resourcetype><D:displayname>c${i}</D:displayname></D:prop><D:status>HTTP/1.1 200 OK</D:status></D:propstat></D:response>`,
    ).join('')
    const home = `<D:response><D:href>/</D:href><D:propstat><D:prop><D:current-user-principal><D:href>/</D:href></D:current-user-principal><C:calendar-home-set><D:href>/</D:href></C:calendar-home-set></D:prop><D:status>HTTP/1.1 200 OK</D:status></D:propstat></D:response>`
    const xml = (inner: string): string =>
      `<?xml version="1.0"?><D:multistatus xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav">${inner}</D:multistatus>`
    pages.set('/', (q, a) =>
      a
        .writeHead(207, { 'Content-Type': 'application/xml' })
        .end(xml(q.headers.depth === '1' ? responses : home)),
    )
    const answer = await begin({ service: 'caldav', address: base, user: 'a', password: 'b' })
    expect(answer.status).to.be.oneOf([201, 422])
    if (answer.status === 201) {
      const found = await draftOf(w, answer.body.draft)
      expect(found.account.collections.length).to.be.lessThan(5_000)
    }
    pages.delete('/')
  })
})
