import { createHash } from 'node:crypto'
import { gunzipSync } from 'node:zlib'
import { splitCalendar, parseEvent, parseTask, plainView } from '@loom/core'
import { expect } from 'chai'
import { convertIcsCalendar } from 'ts-ics'
import { eventText } from './support/garden.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** Secret addresses that calendar programs read again and again. */
describe('a feed', function () {
  this.timeout(40_000)
  let w: World
  let lists: Map<string, string>
  before(async () => {
    w = await startWorld()
    await until('a rule is there', async () => (await w.client.call('GET', '/journal')).body.lines.length > 0)
    lists = new Map((await w.client.call('GET', '/sharing')).body.lists.map((l: any) => [l.name, l.id]))
    const put = (name: string, title: string, hour: string, more: string[] = []) =>
      w.garden.put(
        'garden-team',
        `${name}.ics`,
        eventText(name, title, weekDay(8), `${hour}:00`, `${hour}:40`, more),
      )
    await put('open', 'Zorblax round', '10', ['LOCATION:House 2', 'DESCRIPTION:Bring boots'])
    await put('sealed', 'Quentle round', '13', ['CLASS:PRIVATE'])
    await put('weekly', 'Vimble round', '15', ['RRULE:FREQ=WEEKLY;COUNT=3'])
    await w.bench.add('repairs', { text: 'Mend the floop', finish_by: weekDay(9) })
    await until('they are here', async () => {
      const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(7)}&days=7`)).body
      const has = (title: string) => items.some((i: any) => i.title === title)
      return has('Zorblax round') && has('Vimble round') && has('Mend the floop')
    })
  })
  after(() => w.close())

  const terms = (more: object = {}) => ({
    lists: [lists.get('Garden team'), lists.get('Small repairs')],
    level: 'title',
    weeks: 4,
    expires: null,
    opens: 'feed',
    ...more,
  })
  const make = async (more: object = {}, who: Client = w.client) =>
    (await who.call('POST', '/links', { name: 'Trustees', ...terms(more) })).body as {
      id: string
      link: string
    }
  const at = (link: string): string => `${w.client.base}${new URL(link).pathname}`
  const get = (link: string, headers: Record<string, string> = {}, method = 'GET') =>
    fetch(at(link), { headers, method })
  const textOf = async (link: string): Promise<string> => (await get(link)).text()
  const titles = (text: string): string[] =>
    (convertIcsCalendar(undefined, text).events ?? []).map(e => e.summary)

  it('tells what its level shows: each date by itself, what is private as busy, and nothing of other lists', async () => {
    const all = await textOf((await make({ level: 'everything' })).link)
    const parts = splitCalendar(all)?.parts.map(p => parseEvent(p.text)) ?? []
    const open = parts.find(e => e.summary === 'Zorblax round')
    expect([open?.location, open?.description, open?.time.minutes]).to.deep.equal([
      'House 2',
      'Ines Varga\nBring boots',
      40,
    ])
    const dates = titles(all).filter(t => t === 'Vimble round')
    expect(dates, 'those of three weeks').to.have.length(3)
    expect(titles(all)).to.include('Busy')
    expect(all).to.not.match(/Quentle|sealed|open@|@quillmere/)
    const plain = await textOf((await make()).link)
    expect(plain)
      .to.match(/Zorblax/)
      .and.not.match(/House 2|boots/)
    const busy = await textOf((await make({ level: 'busy' })).link)
    expect(new Set(titles(busy))).to.deep.equal(new Set(['Busy']))
  })

  it('tells tasks as to-dos where that is wished, with those that have no day', async () => {
    const text = await textOf((await make({ tasksAs: 'to-dos' })).link)
    const tasks = (splitCalendar(text)?.parts ?? [])
      .filter(p => p.kind === 'task')
      .map(p => parseTask(p.text))
    const floop = tasks.find(t => t.summary === 'Mend the floop')
    expect(floop?.due).to.deep.equal({ kind: 'date', date: weekDay(9) })
    expect(titles(await textOf((await make()).link))).to.not.include('Mend the floop')
  })

  it('shows whoever makes one what it would tell before there is one', async () => {
    const span = { from: weekDay(7), days: 7, zone: 'Europe/Dublin' }
    const look = (more: object = {}) => w.client.call('POST', '/links/look', { ...terms(more), span })
    const shown = (await look()).body.items.map((i: any) => i.title)
    expect(shown).to.include('Zorblax round').and.not.include('Quentle round')
    const made = await make()
    expect(new Set(titles(await textOf(made.link)))).to.include.all.keys(...new Set<string>(shown))
    const none = await look({ level: 'busy', person: (await w.client.call('GET', '/team')).body.me })
    expect(none.status).to.equal(422)
    const foreign = await look({ lists: ['nothing'] })
    expect(foreign.body.reason).to.match(/not yours to share/)
  })

  it('of one person tells what is theirs, and of a view what that shows', async () => {
    const { members } = (await w.client.call('GET', '/team')).body
    const ines = members.find((m: any) => m.name === 'Ines Varga').id
    const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=28`)).body
    const theirs = new Set(items.filter((i: any) => (i.people ?? []).includes(ines)).map((i: any) => i.title))
    const every = [...lists].flatMap(([, id]) => [id])
    const text = await textOf((await make({ person: ines, lists: every, tasksAs: 'to-dos' })).link)
    const told = (splitCalendar(text)?.parts ?? []).map(p =>
      p.kind === 'task' ? parseTask(p.text).summary : parseEvent(p.text).summary,
    )
    expect(told).to.include('Zorblax round')
    for (const title of told) expect([...theirs], title).to.include(title)
    const filter = [{ field: 'words', of: ['Zorblax'], without: false }]
    const view = { name: 'Zorblaxes', icon: 'leaf', body: { ...plainView, filter } }
    const { id } = (await w.client.call('POST', '/views', view)).body
    expect(titles(await textOf((await make({ view: id })).link))).to.deep.equal(['Zorblax round'])
  })

  it('of free and busy tells when time is taken, in quarters, and not by what', async () => {
    const text = await textOf((await make({ opens: 'availability', level: 'everything' })).link)
    expect(text)
      .to.match(/BEGIN:VFREEBUSY/)
      .and.not.match(/SUMMARY|round|Busy|@quillmere/)
    const stamp = weekDay(8).replace(/-/g, '')
    // Forty minutes are three quarters; what is private takes time as well.
    expect(
      text.match(new RegExp(`FREEBUSY;FBTYPE=BUSY:${stamp}T\\d\\d(00|15|30|45)00Z/`, 'g')),
    ).to.have.length.of.at.least(3)
  })

  it('of one’s own time counts what is one’s own, private as well, and is made for nobody else', async () => {
    const { me, members } = (await w.client.call('GET', '/team')).body
    await w.garden.put(
      'garden-team',
      'foreign.ics',
      eventText('foreign', 'Trundle', weekDay(10), '21:00', '22:00', ['CLASS:PRIVATE']),
    )
    const own = { opens: 'availability', person: me, lists: [lists.get('Garden team')] }
    const stamp = `${weekDay(10).replace(/-/g, '')}T2[01]0000Z/`
    const { link } = await make(own)
    await until('it is taken', async () => new RegExp(`BUSY:${stamp}`).test(await textOf(link)))
    const other = members.find((m: any) => m.id !== me).id
    const refused = await w.client.call('POST', '/links', {
      name: 'Theirs',
      ...terms({ ...own, person: other }),
    })
    expect(refused.status).to.equal(422)
    const span = { from: weekDay(7), days: 7, zone: 'Europe/Dublin' }
    const { items } = (await w.client.call('POST', '/links/look', { ...terms(own), span })).body
    expect(new Set(items.map((i: any) => i.title))).to.deep.equal(new Set(['Busy']))
  })

  it('tells nothing of before its first day, and no page of days does', async () => {
    const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(7)}&days=7`)).body
    const day = (i: any): string =>
      i.place.date ?? i.place.from ?? new Date(i.place.endMs).toISOString().slice(0, 10)
    expect(
      items.some((i: any) => i.place.kind !== 'none' && day(i) < weekDay(7)),
      'something is left over',
    ).to.equal(true)
    const span = { from: weekDay(7), days: 7, zone: 'Europe/Dublin' }
    const every = { level: 'everything', lists: [...lists.values()] }
    const shown = (await w.client.call('POST', '/links/look', { ...terms(every), span })).body.items
    expect(shown.filter((i: any) => day(i) < weekDay(7)).map((i: any) => i.title)).to.deep.equal([])
  })

  it('answers as calendar programs ask: HEAD, gzip, and 304 until something of it changes', async () => {
    const { link } = await make()
    const first = await get(link, { 'Accept-Encoding': 'identity' })
    const etag = first.headers.get('etag') ?? ''
    expect(first.headers.get('content-type')).to.equal('text/calendar; charset=utf-8')
    expect(first.headers.get('cache-control')).to.equal('private, no-cache')
    const head = await get(link, {}, 'HEAD')
    expect([head.status, head.headers.get('etag'), await head.text()]).to.deep.equal([200, etag, ''])
    for (const named of [etag, `"x", ${etag.replace('W/', '')}`, '*']) {
      const same = await get(link, { 'If-None-Match': named })
      expect([same.status, await same.text()], named).to.deep.equal([304, ''])
    }
    const raw = await new Promise<Buffer>((resolve, reject) => {
      void import('node:http').then(({ get: ask }) =>
        ask(at(link), { headers: { 'accept-encoding': 'gzip' } }, res => {
          const chunks: Buffer[] = []
          res.on('data', (c: Buffer) => chunks.push(c))
          res.on('end', () => resolve(Buffer.concat(chunks)))
        }).on('error', reject),
      )
    })
    expect(gunzipSync(raw).toString()).to.equal(await first.text())
    // What it does not tell is no change of it.
    await w.garden.put(
      'garden-team',
      'open.ics',
      eventText('open', 'Zorblax round', weekDay(8), '10:00', '10:40', ['LOCATION:House 3']),
    )
    await until('it has moved house', async () => {
      const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(7)}&days=7`)).body
      return items.some((i: any) => i.location === 'House 3')
    })
    expect((await get(link, { 'If-None-Match': etag })).status).to.equal(304)
    await w.garden.put(
      'garden-team',
      'open.ics',
      eventText('open', 'Zorblax hour', weekDay(8), '10:00', '10:40'),
    )
    await until('it is told', async () => (await textOf(link)).includes('Zorblax hour'))
    expect((await get(link, { 'If-None-Match': etag })).status).to.equal(200)
    await w.garden.put(
      'garden-team',
      'open.ics',
      eventText('open', 'Zorblax round', weekDay(8), '10:00', '10:40'),
    )
    await until('as before', async () => (await textOf(link)).includes('Zorblax round'))
  })

  it('names each thing the same each time, and to no two readers alike', async () => {
    const [one, other] = [await make(), await make()]
    const uids = (text: string): string[] => [...text.matchAll(/^UID:(.*)$/gm)].map(m => m[1] ?? '')
    const [first, again, theirs] = [await textOf(one.link), await textOf(one.link), await textOf(other.link)]
    expect(uids(first)).to.deep.equal(uids(again))
    expect(new Set(uids(first)).size).to.equal(uids(first).length)
    expect(uids(first).filter(u => uids(theirs).includes(u))).to.deep.equal([])
    const token = new URL(one.link).pathname.slice(6, -4)
    const { db } = w.app.ctx
    const [row] = await db.rows<any>('SELECT * FROM links WHERE id = ?', [one.id] as never)
    expect(JSON.stringify(row)).to.not.contain(token)
    expect(row.token_hash.toString()).to.contain(createHash('sha256').update(token).digest('hex').slice(0, 8))
  })

  it('opens nothing else, and nothing at all once it is ended, its list is taken out, or its maker has left', async () => {
    const { id, link } = await make()
    const token = new URL(link).pathname.slice(6, -4)
    const asPage = await fetch(`${w.client.base}/api/guest?from=${weekDay(0)}&days=7&zone=UTC`, {
      headers: { 'Loom-Link': token },
    })
    expect(asPage.status).to.equal(404)
    const page = (await w.client.call('POST', '/links', { name: 'Page', ...terms({ opens: 'page' }) })).body
      .link
    expect((await get(`${w.client.base}/feed/${page.split('#')[1]}.ics`)).status).to.equal(404)
    expect((await get(`${w.client.base}/feed/${'0'.repeat(64)}.ics`)).status).to.equal(404)
    const team = lists.get('Garden team')
    const change = { list: team, to: { kind: 'link', id }, level: 'nothing' }
    expect((await w.client.call('PUT', '/sharing', { changes: [change] })).status).to.equal(200)
    expect(await textOf(link)).to.not.match(/Zorblax/)
    await w.client.call('DELETE', `/links/${id}`)
    const ended = await get(link)
    expect([ended.status, ended.headers.get('cache-control')]).to.deep.equal([404, 'no-store'])
    expect(await ended.text()).to.match(/not valid/)
  })

  it('answers a thousand readers of what has not changed in a few milliseconds each', async () => {
    const { link } = await make()
    const etag = (await get(link)).headers.get('etag') ?? ''
    const started = performance.now()
    const READERS = 1000
    for (let n = 0; n < READERS; n += 20)
      await Promise.all(
        Array.from({ length: 20 }, async () => {
          const answer = await get(link, { 'If-None-Match': etag })
          expect(answer.status).to.equal(304)
        }),
      )
    const each = (performance.now() - started) / READERS
    console.log(`      ${each.toFixed(2)} ms each`)
    // Whoever asks takes its part of that, in the same process.
    expect(each).to.be.below(15)
  })
})
