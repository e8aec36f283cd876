import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { expect } from 'chai'
import { draftOf, keep } from './support/connecting.ts'
import { eventText, property } from './support/garden.ts'
import { freePort, startWorld, until, weekDay, type World } from './support/world.ts'

/** Services that fail in all the ways they do: nothing is lost, nothing is doubled, and it is said. */
describe('trouble at the services', function () {
  this.timeout(60_000)
  let w: World
  const FESTIVAL = 'festival-work'

  before(async () => {
    w = await startWorld()
    await until('the first pass is through', async () => (await w.garden.events(FESTIVAL)).length >= 5)
  })
  after(() => w.close())
  afterEach(async () => {
    await w.fault('garden', {})
    await w.fault('bench', {})
  })

  const connection = async (name: string) =>
    (await w.client.call('GET', '/connections')).body.connections.find(
      (c: { name: string }) => c.name === name,
    )
  const inStep = () =>
    until(
      'both are in step',
      async () => {
        const { body } = await w.client.call('GET', '/connections')
        const { body: rules } = await w.client.call('GET', '/rules')
        return (
          body.connections.every((c: { state: string }) => c.state === 'ok') &&
          rules.rules.every((r: { waiting: number }) => r.waiting === 0)
        )
      },
      30_000,
    )

  it('makes one event when the answer to its creation is lost', async () => {
    await w.fault('garden', { drop: 'after', method: 'PUT', times: 1 })
    await w.bench.add('festival', { text: 'Lost answer', day: weekDay(3), hour: '11:00' })
    await until('the event', async () => (await w.garden.titled(FESTIVAL, 'Lost answer'))[0])
    await inStep()
    expect(await w.garden.titled(FESTIVAL, 'Lost answer')).to.have.length(1)
    await until('it is in the journal once', async () => {
      const { lines } = (await w.client.call('GET', '/journal')).body
      return (
        lines.filter(
          (l: { title: string; outcome: string }) => l.title === 'Lost answer' && l.outcome === 'done',
        ).length === 1
      )
    })
  })

  /** Something has changed at the service, and neither a token nor a notification told of it. */
  async function missChange(connectionId: string): Promise<() => Promise<string | undefined>> {
    const db = w.app.ctx.db
    const task = await db.one<{ id: string }>(
      `SELECT id FROM mirrors WHERE connection_id = :connectionId AND item LIKE '%Call bus company%'`,
      { connectionId },
    )
    await db.run(
      `UPDATE mirrors SET revision = 'older', item = JSON_SET(item, '$.summary', 'As it was once') WHERE id = :id`,
      { id: task?.id },
    )
    return async () =>
      (
        await db.one<{ title: string }>(
          `SELECT JSON_VALUE(item, '$.summary') AS title FROM mirrors WHERE id = :id`,
          { id: task?.id },
        )
      )?.title
  }

  it('heals by a full comparison what tokens and notifications have missed', async () => {
    const bench = await connection('Bench List')
    await inStep()
    const title = await missChange(bench.id)
    expect(await title()).to.equal('As it was once')
    expect((await w.client.call('POST', `/connections/${bench.id}/compare`)).status).to.equal(200)
    await until('it reads as it is', async () => (await title()) === 'Call bus company')
  })

  it('heals, too, where that is asked for while the service is being read', async () => {
    const bench = await connection('Bench List')
    await inStep()
    const title = await missChange(bench.id)
    await w.whileBeingRead('bench')
    expect(await title()).to.equal('As it was once')
    expect((await w.client.call('POST', `/connections/${bench.id}/compare`)).status).to.equal(200)
    await w.fault('bench', {})
    await until('it reads as it is', async () => (await title()) === 'Call bus company')
  })

  it('makes one task when the answer to its creation is lost', async () => {
    await w.fault('bench', { drop: 'after', method: 'POST', times: 1 })
    await w.garden.put(FESTIVAL, 'once.ics', eventText('once@x', 'Only once', weekDay(4), '16:00', '16:30'))
    await until('the task', async () => (await w.bench.titled('festival', 'Only once'))[0])
    await inStep()
    expect(await w.bench.titled('festival', 'Only once')).to.have.length(1)
  })

  it('confirms an edit whose answer was lost, and does not make it twice', async () => {
    await w.fault('garden', { drop: 'after', method: 'PUT', times: 1 })
    const [task] = await w.bench.titled('festival', 'Lost answer')
    await w.bench.edit(task?.id ?? '', { hour: '12:15' })
    await until('the event has moved', async () => {
      const [event] = await w.garden.titled(FESTIVAL, 'Lost answer')
      return property(event?.text ?? '', 'DTSTART')?.endsWith('T121500')
    })
    await inStep()
    const { lines } = (await w.client.call('GET', '/journal')).body
    const moves = lines.filter(
      (l: { title: string; op: string }) => l.title === 'Lost answer' && l.op === 'patch',
    )
    expect(moves).to.have.length(1)
  })

  for (const [name, faults, words] of [
    ['asks to slow down', { status: 429, retryAfter: 1 }, 'slow down'],
    ['has trouble of its own', { status: 500 }, 'trouble of its own'],
    ['answers with a web page', { html: true }, 'web page'],
    ['takes the request and hangs', { hang: true }, 'did not answer within'],
    ['drops the connection', { drop: 'before' }, 'broke off'],
  ] as const)
    it(`says so when a service ${name}, goes on by itself, and loses nothing`, async () => {
      await w.fault('garden', faults)
      await until(
        'it is said',
        async () => (await connection('Garden Calendars'))?.trouble?.includes(words),
        20_000,
      )
      const title = `While it ${name}`
      await w.bench.add('festival', { text: title, day: weekDay(3), hour: '14:00' })
      await until('the task is seen meanwhile', async () => {
        const { body } = await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)
        return body.items.some((i: { title: string }) => i.title === title)
      })
      await w.fault('garden', {})
      await until('the event', async () => (await w.garden.titled(FESTIVAL, title)).length === 1, 30_000)
      await inStep()
    })

  it('is seen to have recovered by what comes next, however slowly that is written down', async () => {
    const { db } = w.app.ctx
    const commit = db.commit.bind(db)
    const random = Math.random.bind(Math)
    await w.fault('garden', { status: 500 })
    await until('it is said', async () => (await connection('Garden Calendars'))?.state === 'failing', 20_000)
    try {
      db.commit = async work => {
        await new Promise(resolve => setTimeout(resolve, 400))
        return commit(work)
      }
      // Its first glance is due at once.
      Math.random = () => 0
      await w.fault('garden', {})
      await until('it is well', async () => (await connection('Garden Calendars'))?.state === 'ok', 30_000)
    } finally {
      db.commit = commit
      Math.random = random
    }
    const text = eventText('after-all@x', 'Seen after all', weekDay(4), '08:00', '08:30')
    await w.garden.put(FESTIVAL, 'after-all.ics', text)
    await until('it is seen', async () => {
      const { body } = await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)
      return body.items.some((i: { title: string }) => i.title === 'Seen after all')
    })
    await inStep()
  })

  it('keeps what it cannot understand, lists it with the reason, and goes on', async () => {
    const good = eventText('odd@x', 'An odd one', weekDay(4), '10:00', '10:30')
    await w.garden.put(FESTIVAL, 'odd.ics', good.replace('T103000', 'T093000'))
    await w.garden.put(
      FESTIVAL,
      'after.ics',
      eventText('after@x', 'After the odd one', weekDay(4), '11:00', '11:30'),
    )
    await until(
      'what came after is there',
      async () => (await w.bench.titled('festival', 'After the odd one'))[0],
    )
    const { id } = await connection('Garden Calendars')
    const { problems } = (await w.client.call('GET', `/connections/${id}/problems`)).body
    expect(problems).to.have.length(1)
    expect(problems[0].reason).to.equal('It ends before it starts.')
    expect(problems[0].original).to.contain('An odd one')
    await w.garden.put(FESTIVAL, 'odd.ics', good)
    await until('put right, it takes part', async () => (await w.bench.titled('festival', 'An odd one'))[0])
    expect((await w.client.call('GET', `/connections/${id}/problems`)).body.problems).to.have.length(0)
  })

  it('takes a list that has vanished for frozen, not for empty', async () => {
    const before = (await w.bench.listed('festival')).length
    const removed = await fetch(w.garden.url(FESTIVAL), {
      method: 'DELETE',
      headers: { Authorization: `Basic ${btoa('ines:moonflower')}` },
    })
    expect(removed.status).to.equal(204)
    await until('the rule says why it waits', async () =>
      (await w.client.call('GET', '/rules')).body.rules[0].notices.some((n: string) =>
        n.includes('can no longer be found'),
      ),
    )
    expect(await w.bench.listed('festival'), 'no task lost its date for it').to.have.length(before)
    const { body } = await w.client.call('GET', '/journal')
    expect(body.lines.some((l: { cause: string }) => l.cause === 'event-deleted')).to.equal(false)
  })
})

describe('connecting a service', function () {
  this.timeout(40_000)
  let w: World
  let web: Server
  let silent: Server
  let closed = 0
  const addressOf = (server: Server): string => `127.0.0.1:${(server.address() as AddressInfo).port}`
  const listening = (server: Server): Promise<Server> =>
    new Promise(resolve => server.listen(0, '127.0.0.1', () => resolve(server)))

  before(async () => {
    closed = await freePort()
    web = await listening(
      createServer((_q, a) => a.setHeader('Content-Type', 'text/html').end('<!doctype html><h1>Hello</h1>')),
    )
    silent = await listening(createServer(() => undefined))
    w = await startWorld({ allow: [addressOf(web), addressOf(silent), `127.0.0.1:${closed}`] })
  })
  after(async () => {
    web.close()
    silent.closeAllConnections()
    silent.close()
    await w.close()
  })

  const credentials = { user: 'ines', password: 'moonflower' }
  const cases = (): [string, object, RegExp][] => [
    [
      'nobody listens',
      { service: 'caldav', address: `http://127.0.0.1:${closed}`, ...credentials },
      /^No server answers at 127\.0\.0\.1:\d+\.$/,
    ],
    [
      'the password is wrong',
      { service: 'caldav', address: w.standins, user: 'ines', password: 'x' },
      /did not accept these credentials/,
    ],
    [
      'it is a web page',
      { service: 'caldav', address: `http://${addressOf(web)}`, ...credentials },
      /web page, not as a CalDAV server/,
    ],
    [
      'it is not CalDAV',
      {
        service: 'caldav',
        address: `${w.standins}/control/garden/faults`,
        user: 'x',
        password: 'x',
      },
      /did not accept|not as a CalDAV/,
    ],
    [
      'it is not Bench List',
      { service: 'bench-list', address: `http://${addressOf(web)}`, key: 'k' },
      /web page, not as Bench List/,
    ],
    [
      'the key is wrong',
      { service: 'bench-list', address: `${w.standins}/bench`, key: 'no' },
      /did not accept/,
    ],
    [
      'it hangs',
      { service: 'caldav', address: `http://${addressOf(silent)}`, ...credentials },
      /did not answer within 9 seconds/,
    ],
    [
      'its consent page is to be of another service',
      { service: 'repairs-board', address: `${w.standins}/bench` },
      /not as Repairs Board/,
    ],
    [
      'its consent page is to be of a web page',
      { service: 'repairs-board', address: `http://${addressOf(web)}` },
      /web page, not as Repairs Board/,
    ],
    [
      'it is a private address',
      { service: 'caldav', address: 'http://10.0.0.7', ...credentials },
      /private address/,
    ],
    ['it is no address', { service: 'caldav', address: 'http://', ...credentials }, /is not an address/],
  ]

  it('says in a sentence what is wrong, within ten seconds, and keeps nothing', async () => {
    const before = (await w.client.call('GET', '/connections')).body.connections.length
    for (const [what, input, words] of cases()) {
      const started = Date.now()
      const answer = await w.client.call('POST', '/connecting/drafts', input)
      expect(answer.status, what).to.equal(422)
      expect(answer.body.reason, what).to.match(words)
      expect(Date.now() - started, what).to.be.lessThan(10_000)
    }
    expect((await w.client.call('GET', '/connections')).body.connections).to.have.length(before)
  })

  it('finds the collections, keeps the credentials unreadable, and reads only what was chosen', async () => {
    const given = { service: 'caldav', address: w.standins, user: 'tobias', password: 'glasshouse' }
    const { draft } = (await w.client.call('POST', '/connecting/drafts', given)).body
    const begun = await draftOf(w, draft)
    const found = begun.account
    expect(found.collections.map(c => c.name)).to.deep.equal(['Glasshouses', 'Glasshouses: tasks'])
    await fetch(`${w.standins}/garden/dav/calendars/tobias/houses/shade.ics`, {
      method: 'PUT',
      headers: { Authorization: `Basic ${btoa('tobias:glasshouse')}` },
      body: eventText('shade@x', 'Shade House 2', weekDay(2), '10:00', '11:00'),
    })
    const made = { id: await keep(w, begun, { name: 'Tobias', takesPart: [] }) }
    const row = await w.app.ctx.db.one<{ credentials: string }>(
      'SELECT credentials FROM connections WHERE id = :id',
      made,
    )
    expect(row?.credentials).to.not.contain('glasshouse')
    const count = async (): Promise<number> => {
      const { body } = await w.client.call('GET', '/connections')
      return body.connections.find((c: { id: string }) => c.id === made.id).collections[0].items
    }
    await until('it was looked at', async () => {
      const { body } = await w.client.call('GET', '/connections')
      return body.connections.find((c: { id: string }) => c.id === made.id).lastOkAt !== null
    })
    expect(await count()).to.equal(0)
    await w.client.call('PUT', `/connections/${made.id}/collections`, {
      takesPart: [found.collections[0]?.remoteId],
    })
    await until('chosen, it is read', async () => (await count()) === 3)
  })
})
