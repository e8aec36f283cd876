import { randomUUID } from 'node:crypto'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { expect } from 'chai'
import { connectionOf, draftOf, keep, readOnce } from './support/connecting.ts'
import { eventText } from './support/garden.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** One bad item, series, connection or moment harms only itself, and says so where people look. */
describe('walls', function () {
  this.timeout(90_000)
  let w: World
  let server: Server
  let base = ''
  const files = new Map<string, string>()

  before(async () => {
    server = createServer((q, a) => {
      const text = files.get(q.url ?? '')
      if (text === undefined) a.writeHead(404).end()
      else a.writeHead(200, { 'Content-Type': 'text/calendar' }).end(text)
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

  const day = (n: number): string => weekDay(n).replace(/-/g, '')
  const event = (uid: string, ...lines: string[]): string =>
    ['BEGIN:VEVENT', `UID:${uid}`, ...lines, 'END:VEVENT', ''].join('\r\n')
  const good = (uid: string, n = 2): string =>
    event(uid, `DTSTART:${day(n)}T100000Z`, `DTEND:${day(n)}T110000Z`, `SUMMARY:Good ${uid}`)
  const calendar = (...events: string[]): string =>
    `BEGIN:VCALENDAR\r\nVERSION:2.0\r\n${events.join('')}END:VCALENDAR\r\n`
  const start = `DTSTART:${day(2)}T100000Z`
  const SLOPPY: Record<string, string[]> = {
    'date-alone': [`DTSTART:${day(2)}`],
    'no-exception': [`DTSTART;VALUE=DATE:${day(2)}`, 'RRULE:FREQ=DAILY', 'EXDATE:nonsense'],
    'for-ever': [start, 'DURATION:P99999999W'],
    'too-late': [start, 'DTEND:3000001127T100000Z'],
    'far-apart': [start, 'RRULE:FREQ=YEARLY;INTERVAL=300000'],
    [`long-${'u'.repeat(496)}`]: [start],
    titled: [start, `SUMMARY:${'t'.repeat(70_000)}`],
  }
  const sloppy = Object.entries(SLOPPY).map(([uid, lines]) => event(uid, ...lines))
  const cloth = (days = 7) => w.client.call('GET', `/cloth?from=${weekDay(0)}&days=${days}`)
  const titles = async (): Promise<string[]> => (await cloth()).body.items.map((i: any) => i.title)

  async function connect(path: string, name: string): Promise<string> {
    const begun = await w.client.call('POST', '/connecting/drafts', {
      service: 'ics-feed',
      address: base + path,
    })
    expect(begun.status).to.equal(201)
    const found = await draftOf(w, begun.body.draft)
    const asked = { takesPart: ['feed'], filter: [], meanings: {} }
    await until('it is counted', async () => {
      const { body } = await w.client.call('POST', `/connecting/drafts/${found.id}/count`, asked)
      return !body.reading
    })
    const id = await keep(w, found, { name })
    await readOnce(w, id)
    return id
  }

  it('a feed in which everything is sloppy but two: those come in, each of the others is listed with its reason', async () => {
    files.set('/sloppy.ics', calendar(good('one'), ...sloppy, good('two')))
    const id = await connect('/sloppy.ics', 'Sloppy')
    expect(await titles()).to.include.members(['Good one', 'Good two'])
    const { problems } = (await w.client.call('GET', `/connections/${id}/problems`)).body
    expect(problems).to.have.length(sloppy.length)
    for (const p of problems) expect(p.reason).to.match(/^[A-Z].{10,}/s)
    expect((await connectionOf(w, id)).state).to.equal('ok')
    // One that turns bad later goes from the Cloth; mended, it is there again.
    files.set('/sloppy.ics', calendar(good('one'), event('two', `DTSTART:${day(2)}`), good('three')))
    await w.client.call('POST', `/connections/${id}/look`)
    await until('the bad one is out of sight', async () => !(await titles()).includes('Good two'))
    expect(await titles()).to.include.members(['Good one', 'Good three'])
    files.set('/sloppy.ics', calendar(good('one'), good('two'), good('three')))
    await w.client.call('POST', `/connections/${id}/look`)
    await until('it is back', async () => (await titles()).includes('Good two'))
  })

  it('a file in which most is sloppy: the good ones can be brought in', async () => {
    const text = calendar(good('file-one'), ...sloppy, good('file-two'))
    const read = await w.client.call('POST', '/files/read', { text, into: { task: null, event: null } })
    expect([read.status, read.body.counts?.new]).to.deep.equal([200, 2])
    expect(read.body.counts.problems).to.equal(sloppy.length)
  })

  it('an item that the database refuses is alone in that: halved out, listed, and the rest is in', async () => {
    const { db } = w.app.ctx
    await db.insert(
      `CREATE TRIGGER refuses BEFORE INSERT ON mirrors FOR EACH ROW
       IF NEW.uid = 'refused' THEN SIGNAL SQLSTATE '22001' SET MESSAGE_TEXT = 'Data too long'; END IF`,
    )
    try {
      const many = Array.from({ length: 30 }, (_, i) => good(`many-${i}`))
      files.set('/refused.ics', calendar(...many.slice(0, 17), good('refused'), ...many.slice(17)))
      const id = await connect('/refused.ics', 'Refused')
      const { problems } = (await w.client.call('GET', `/connections/${id}/problems`)).body
      expect(problems.map((p: any) => [p.remoteId, p.reason])).to.deep.equal([
        ['refused', 'It has a value that there is no room for here.'],
      ])
      expect((await titles()).filter(t => t.startsWith('Good many-'))).to.have.length(30)
    } finally {
      await db.run('DROP TRIGGER refuses')
    }
  })

  it('a write that cannot be kept is refused to whoever made it, and the next goes through', async () => {
    const { db } = w.app.ctx
    await db.insert(
      `CREATE TRIGGER refuses BEFORE INSERT ON own_items FOR EACH ROW
       IF NEW.item LIKE '%Refuse me%' THEN SIGNAL SQLSTATE '22001' SET MESSAGE_TEXT = 'Data too long'; END IF`,
    )
    const make = (title: string) =>
      w.client.call('POST', '/cloth/make', { what: 'task', title, start: null, into: null, for: null })
    try {
      await make('Refuse me')
      await make('Take me')
      await until('the other is there', async () =>
        (await cloth()).body.items.some((i: any) => i.title === 'Take me' && !i.pending),
      )
      await until('the first is refused', async () =>
        (await w.client.call('GET', '/journal?outcome=refused')).body.lines.some(
          (l: any) => l.title === 'Refuse me' && /no room/.test(l.reason),
        ),
      )
      expect(await titles()).to.not.include('Refuse me')
    } finally {
      await db.run('DROP TRIGGER refuses')
    }
  })

  it('four hundred series of every second are drawn once each, say so, and hold nobody up', async () => {
    const seconds = Array.from({ length: 400 }, (_, i) =>
      event(`s${i}`, start, 'DURATION:PT1S', `SUMMARY:Tick ${i}`, 'RRULE:FREQ=SECONDLY'),
    )
    files.set('/seconds.ics', calendar(...seconds, good('beside')))
    const id = await connect('/seconds.ics', 'Seconds')
    const { status, body } = await cloth(42)
    expect(status).to.equal(200)
    const ticks = body.items.filter((i: any) => i.title.startsWith('Tick '))
    expect(ticks).to.have.length(400)
    expect(ticks[0]).to.deep.include({
      movable: false,
      tooOften: 'It repeats every second, which is too often to be shown date by date.',
    })
    expect(body.items.map((i: any) => i.title)).to.include('Good beside')
    expect(JSON.stringify(body).length).to.be.lessThan(2_000_000)
    await w.client.call('DELETE', `/connections/${id}`)
  })

  it('a calendar of thousands of hourly series leaves the others whole', async () => {
    const hourly = Array.from({ length: 300 }, (_, i) =>
      event(`h${i}`, start, 'DURATION:PT5M', `SUMMARY:Hour ${i}`, 'RRULE:FREQ=HOURLY'),
    )
    files.set('/hourly.ics', calendar(...hourly))
    await w.garden.put(
      'garden-team',
      'daily.ics',
      eventText('daily', 'Daily round', weekDay(0), '08:00', '08:15', ['RRULE:FREQ=DAILY']),
    )
    const id = await connect('/hourly.ics', 'Hourly')
    await until('the daily one is whole', async () => {
      const { items } = (await cloth(42)).body
      return items.filter((i: any) => i.title === 'Daily round').length === 42 && items.length < 26_000
    })
    await w.client.call('DELETE', `/connections/${id}`)
  })

  it('a request that comes four times at once is carried out once, and answered alike', async () => {
    const headers = (key: string) => ({ 'Idempotency-Key': key })
    const body = { what: 'task', title: 'Only once', start: null, into: null, for: null }
    const answers = await Promise.all(
      [1, 2, 3, 4].map(() => w.client.call('POST', '/cloth/make', body, headers('once-0123456789'))),
    )
    expect(new Set(answers.map(a => JSON.stringify(a))).size).to.equal(1)
    expect(answers[0]?.status).to.equal(201)
    const later = await w.client.call('POST', '/cloth/make', body, headers('once-0123456789'))
    expect(later).to.deep.equal(answers[0])
    await w.client.call('POST', '/cloth/make', body, headers('another-0123456789'))
    await until('two are there', async () => {
      const made = (await cloth()).body.items.filter((i: any) => i.title === 'Only once' && !i.pending)
      return made.length === 2
    })
    expect((await w.client.call('POST', '/cloth/make', body, headers('?'))).status).to.equal(400)
  })

  it('many edits at once are all taken', async () => {
    const make = (i: number) =>
      w.client.call('POST', '/cloth/make', {
        what: 'task',
        title: `Load ${i}`,
        start: null,
        into: null,
        for: null,
      })
    expect(
      (await Promise.all(Array.from({ length: 20 }, (_, i) => make(i)))).map(a => a.status),
    ).to.deep.equal(Array(20).fill(201))
    const tasks: any[] = await until('they are there', async () => {
      const made = (await cloth()).body.items.filter((i: any) => /^Load \d+$/.test(i.title) && !i.pending)
      return made.length === 20 && made
    })
    const edits = Array.from({ length: 300 }, (_, i) =>
      w.client.call('POST', `/cloth/${tasks[i % 20].key}/edit`, { do: 'estimate', minutes: 15 + (i % 40) }),
    )
    const statuses = (await Promise.all(edits)).map(a => a.status)
    expect(statuses.filter(s => s !== 200)).to.deep.equal([])
  })

  it('commits that refer to a workspace and then raise its counter all get through', async () => {
    const { db } = w.app.ctx
    const home = await db.one<{ workspace_id: string; id: string }>(
      'SELECT workspace_id, id FROM members ORDER BY id LIMIT 1',
    )
    const { workspace_id: workspace = '', id: member = '' } = home ?? {}
    const draft = (): Promise<unknown> =>
      db.commit(async sql => {
        await sql.models.drafts.create(
          {
            id: randomUUID(),
            workspace_id: workspace,
            member_id: member,
            service: 'a test',
            input: '',
            expires_at: 0,
          },
          sql.within,
        )
        // Long enough for the others to have come as far.
        await sql.rows('SELECT SLEEP(0.05)')
        sql.tell(workspace, { topics: ['connections'] })
      })
    await Promise.all(Array.from({ length: 40 }, draft))
    expect(await db.models.drafts.count({ where: { service: 'a test' } })).to.equal(40)
    await db.models.drafts.destroy({ where: { service: 'a test' } })
  })

  it('connections are kept while others are imported and people edit', async () => {
    const list = (await cloth()).body.items.filter((i: any) => /^Load \d+$/.test(i.title))
    for (let n = 0; n < 6; n++)
      files.set(
        `/import-${n}.ics`,
        calendar(...Array.from({ length: 300 }, (_, i) => good(`import-${n}-${i}`, i % 7))),
      )
    const statuses: number[] = []
    let done = false
    const editing = (async () => {
      for (let i = 0; !done; i++)
        statuses.push(
          (
            await w.client.call('POST', `/cloth/${list[i % list.length].key}/edit`, {
              do: 'estimate',
              minutes: 15 + (i % 40),
            })
          ).status,
        )
    })()
    const kept = await Promise.all(
      Array.from({ length: 6 }, (_, n) => connect(`/import-${n}.ics`, `Import ${n}`)),
    )
    for (const id of kept) expect((await readOnce(w, id)).collections[0].items).to.equal(300)
    done = true
    await editing
    expect(statuses.filter(s => s !== 200)).to.deep.equal([])
    expect(statuses.length).to.be.greaterThan(2)
  })

  it('while connections to the database are killed, the server goes on, and nothing is lost that was confirmed', async () => {
    const { db, log } = w.app.ctx
    log.level = 'silent'
    const unhandled: unknown[] = []
    const hear = (error: unknown): void => void unhandled.push(error)
    process.on('unhandledRejection', hear)
    const kill = async (): Promise<void> => {
      const rows = await db
        .rows<{ id: number }>(
          'SELECT id FROM information_schema.processlist WHERE db = DATABASE() AND id <> CONNECTION_ID()',
        )
        .catch(() => [])
      for (const { id } of rows) await db.run(`KILL ${id}`).catch(() => undefined)
    }
    const list = (await cloth()).body.sources.find((s: any) => s.name === 'Festival').id
    const confirmed: string[] = []
    for (let round = 0; round < 12; round++) {
      const title = `Through ${round}`
      const making = w.client.call('POST', '/cloth/make', {
        what: 'task',
        title,
        start: null,
        into: list,
        for: null,
      })
      await kill()
      if ((await making).status === 201) confirmed.push(title)
    }
    await until(
      'everything that was confirmed is at its service, once',
      async () => {
        const texts = (await w.bench.listed('festival')).map(t => t.text)
        return confirmed.every(t => texts.filter(x => x === t).length === 1)
      },
      30_000,
    )
    await until(
      'all connections are well again',
      async () => {
        const { status, body } = await w.client.call('GET', '/connections')
        return status === 200 && body.connections.every((c: any) => c.state === 'ok')
      },
      30_000,
    )
    process.off('unhandledRejection', hear)
    expect(unhandled).to.deep.equal([])
    expect(confirmed.length).to.be.above(0)
  })
})
