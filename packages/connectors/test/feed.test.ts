import { gzipSync } from 'node:zlib'
import { expect } from 'chai'
import { connect, type Connector, outbound, ServiceError } from '../src/index.ts'
import { whole } from './support/pages.ts'
import { type Answered, closeServers, serve } from './support/server.ts'

/** Feeds as they are found: moved, compressed, emptied, broken, enormous. */
describe('iCalendar feeds', () => {
  afterEach(closeServers)
  let answer: Answered = {}
  let asked: { match: string; since: string } = { match: '', since: '' }
  let host = ''

  const event = (uid: string, lines: string[] = []): string =>
    [
      'BEGIN:VEVENT',
      `UID:${uid}`,
      'DTSTAMP:20260101T000000Z',
      'DTSTART:20261125T100000Z',
      'DTEND:20261125T113000Z',
      `SUMMARY:Visit ${uid}`,
      ...lines,
      'END:VEVENT',
    ].join('\r\n')
  const feed = (...events: string[]): string =>
    `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nNAME:Visits\r\nREFRESH-INTERVAL;VALUE=DURATION:PT2H\r\n${events.map(e => `${e}\r\n`).join('')}END:VCALENDAR\r\n`
  const open = (address: string, maxBytes = 2_000_000): Connector =>
    connect(
      { kind: 'ics-feed', address, credentials: {} },
      { http: outbound({ allowed: [host], timeoutMs: 3000, maxBytes }), now: Date.now, zone: null },
    )
  const trouble = async (work: Promise<unknown>): Promise<ServiceError> => {
    const error = await work.then(
      () => null,
      (e: unknown) => e,
    )
    expect(error).to.be.instanceOf(ServiceError)
    return error as ServiceError
  }

  beforeEach(async () => {
    host = await serve(({ header }) => {
      asked = { match: header('if-none-match'), since: header('if-modified-since') }
      return answer
    })
  })

  it('are read from webcal addresses, compressed, and rest as long as they ask', async () => {
    answer = {
      headers: { 'Content-Encoding': 'gzip', ETag: '"1"' },
      body: gzipSync(feed(event('a'), event('b', ['RRULE:FREQ=WEEKLY;COUNT=3']))),
    }
    const visits = open(`webcal://${host}/v.ics`)
    const { collections, name } = await visits.discover()
    expect([name, collections.map(c => [c.writable, c.count])]).to.deep.equal(['Visits', [[false, 2]]])
    const { items } = await whole(visits, 'feed', null)
    expect(items.map(i => [i.item.summary, i.item.recurring])).to.deep.equal([
      ['Visit a', false],
      ['Visit b', true],
    ])
    expect(visits.restMs()).to.equal(2 * 3_600_000)
    expect(
      (await visits.write([{ op: 'delete', collection: 'feed', remoteId: 'a', revision: '' }]))[0],
    ).to.deep.equal({
      kind: 'refused',
      reason: 'A feed can only be read.',
    })
  })

  it('are asked only whether they changed, and stamping everything anew is no change', async () => {
    answer = {
      headers: { ETag: '"1"', 'Last-Modified': 'Tue, 24 Nov 2026 10:00:00 GMT' },
      body: feed(event('a')),
    }
    const visits = open(`http://${host}/v.ics`)
    const first = await whole(visits, 'feed', null)
    answer = { status: 304 }
    const second = await whole(visits, 'feed', first.token)
    expect(asked).to.deep.equal({ match: '"1"', since: 'Tue, 24 Nov 2026 10:00:00 GMT' })
    expect([second.items, second.full, second.token]).to.deep.equal([[], false, first.token])
    answer = { body: feed(event('a').replace('20260101', '20261124')) }
    const third = await whole(visits, 'feed', first.token)
    expect(third.items[0]?.revision).to.equal(first.items[0]?.revision)
  })

  it('that shrink to nothing, turn into a page, break off or vanish change nothing and say why', async () => {
    answer = { body: feed(...['a', 'b', 'c', 'd', 'e'].map(u => event(u))) }
    const visits = open(`http://${host}/v.ics`)
    const { token } = await whole(visits, 'feed', null)
    const cases: [Answered, RegExp][] = [
      [{ body: feed() }, /sent an empty calendar where there were 5 events\. They stay/],
      [{ body: '<!doctype html><h1>Parked</h1>' }, /answers with a web page instead of a calendar/],
      [{ body: feed(event('a')).slice(0, 200) }, /breaks off/],
      [{ body: 'hello' }, /not with a calendar/],
      [{ status: 404 }, /holds no feed at this address any more/],
      [{ status: 500 }, /trouble of its own/],
      [{ status: 403 }, /did not give the feed \(status 403\)/],
    ]
    for (const [broken, words] of cases) {
      answer = broken
      expect((await trouble(whole(visits, 'feed', token))).message).to.match(words)
    }
    answer = { body: feed(event('a')) }
    expect((await whole(visits, 'feed', token)).items, 'fewer is no trouble').to.have.length(1)
  })

  it('keep what they say that is not understood apart from the rest', async () => {
    answer = {
      body: feed(
        event('good'),
        event('bad').replace(/DTSTART.*\r\n/, ''),
        'BEGIN:VTODO\r\nUID:task\r\nSUMMARY:x\r\nEND:VTODO',
        event('long').replace('Visit long', 'x'.repeat(20_000)),
      ),
    }
    const visits = open(`http://${host}/v.ics`)
    const { items, problems } = await whole(visits, 'feed', null)
    expect(items.map(i => i.remoteId)).to.deep.equal(['good'])
    expect(problems.map(p => p.reason)).to.have.members([
      'It has no start.',
      'It is a task in a feed of events.',
      'Its title is 20000 characters long.',
    ])
  })

  it('that are enormous, or swell when they are unpacked, end in a sentence', async () => {
    answer = { body: Buffer.alloc(3_000_000, 'x') }
    expect((await trouble(open(`http://${host}/v.ics`).discover())).message).to.contain(
      'more than is sensible',
    )
    answer = { headers: { 'Content-Encoding': 'gzip' }, body: gzipSync(Buffer.alloc(200_000_000)) }
    const before = process.memoryUsage().rss
    expect((await trouble(open(`http://${host}/v.ics`).discover())).message).to.contain(
      'more than is sensible',
    )
    expect(process.memoryUsage().rss - before, 'it is not unpacked whole').to.be.lessThan(100_000_000)
  }).timeout(10_000)

  it('let others have their turn while they are read', async () => {
    answer = { body: feed(...Array.from({ length: 4000 }, (_, i) => event(`n${i}`))) }
    let turns = 0
    const timer = setInterval(() => turns++, 1)
    const visits = open(`http://${host}/v.ics`)
    await visits.discover()
    const atStart = turns
    const { items } = await whole(visits, 'feed', null)
    clearInterval(timer)
    expect(items).to.have.length(4000)
    expect(turns - atStart, 'others had their turn').to.be.greaterThan(10)
  }).timeout(20_000)
})
