import { expect } from 'chai'
import { plainSettings, plainView } from '@loom/core'
import { Hono } from 'hono'
import { Sessions } from '../src/access/sessions.ts'
import { firstAsked } from '../src/http/first-asked.ts'
import { now } from './support/clock.ts'
import { eventText } from './support/garden.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

describe('views, people’s settings, and looking for things', function () {
  this.timeout(40_000)
  let w: World
  before(async () => {
    w = await startWorld()
    await until('the first pass is through', async () => (await w.garden.events('festival-work')).length >= 5)
  })
  after(() => w.close())

  const views = async () => (await w.client.call('GET', '/views')).body.views as any[]
  const cloth = async (days = 7) =>
    (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=${days}`)).body

  it('keeps a view to oneself, to those it is for, or to all, who look by it or change it as well', async () => {
    const tobias = new Client(w.client.base)
    const anouk = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    await anouk.signIn('anouk@quillmere.example')
    const { me } = (await tobias.call('GET', '/team')).body
    const body = { ...plainView, span: 'month', group: 'person' }
    const everybody = { kind: 'everybody' }
    const one = { kind: 'person', id: me }
    const wanted: [string, object[]][] = [
      ['All change', [{ to: everybody, level: 'change' }]],
      ['All look', [{ to: everybody, level: 'everything' }]],
      ['Mine', []],
      ['Tobias looks', [{ to: one, level: 'everything' }]],
    ]
    for (const [name, grants] of wanted)
      expect((await w.client.call('POST', '/views', { name, icon: 'leaf', body, grants })).status).to.equal(
        201,
      )
    const known = async (who: Client) =>
      ((await who.call('GET', '/views')).body.views as any[]).map(v => [
        v.name,
        v.right,
        v.for,
        v.grants !== null,
      ])
    expect(await known(w.client)).to.deep.equal([
      ['All change', 'own', 'everybody', true],
      ['All look', 'own', 'everybody', true],
      ['Mine', 'own', 'me', true],
      ['Tobias looks', 'own', 'some', true],
    ])
    expect(await known(tobias)).to.deep.equal([
      ['All change', 'change', 'everybody', false],
      ['All look', 'look', 'everybody', false],
      ['Tobias looks', 'look', 'some', false],
    ])
    expect((await known(anouk)).map(v => v[0])).to.deep.equal(['All change', 'All look'])
    const [change, look, mine, his] = await views()
    const put = (who: Client, view: any, more: object = {}) =>
      who.call('PUT', `/views/${view.id}`, {
        name: view.name,
        icon: 'leaf',
        body: plainView,
        version: view.version,
        ...more,
      })
    expect((await put(tobias, mine)).status, 'not known of').to.equal(404)
    expect((await put(tobias, look)).body.reason).to.match(/for you to look by/)
    expect((await put(anouk, his)).status).to.equal(404)
    expect((await put(tobias, change, { grants: [] })).body.reason, 'it is not theirs to take away').to.match(
      /Only whoever it belongs to/,
    )
    expect((await tobias.call('DELETE', `/views/${change.id}`)).status).to.equal(404)
    expect((await put(tobias, change)).status).to.equal(200)
    // Of two who change it, the later is told; and what they may is asked anew at each.
    expect((await put(w.client, change)).body.reason).to.match(/changed this view meanwhile/)
    expect((await put(w.client, { ...change, version: 2 }, { grants: [] })).status).to.equal(200)
    expect((await put(tobias, { ...change, version: 3 })).status).to.equal(404)
    const nobody = [{ to: { kind: 'person', id: 'nobody' }, level: 'change' }]
    expect((await put(w.client, { ...change, version: 3 }, { grants: nobody })).status).to.equal(409)
    expect(
      (await put(w.client, { ...change, version: 3 }, { grants: [{ to: everybody, level: 'busy' }] })).status,
    ).to.equal(400)
    // Of whoever leaves, coordinators look after what was shared; what was not stays theirs.
    await w.app.ctx.db.run(`UPDATE members SET left_at = 1 WHERE name = 'Ines Varga'`)
    await w.app.ctx.db.run(`UPDATE members SET role = 'coordinator' WHERE name = 'Anouk Thapa'`)
    const late = new Client(w.client.base)
    await late.signIn('anouk@quillmere.example')
    expect((await known(late)).map(v => v.slice(0, 2))).to.deep.equal([
      ['All look', 'own'],
      ['Tobias looks', 'own'],
    ])
    await w.app.ctx.db.run(`UPDATE members SET left_at = NULL WHERE name = 'Ines Varga'`)
    await w.app.ctx.db.run(`UPDATE members SET role = 'member' WHERE name = 'Anouk Thapa'`)
    for (const view of await views()) await w.client.call('DELETE', `/views/${view.id}`)
    expect(await w.app.ctx.db.rows('SELECT 1 FROM view_grants')).to.deep.equal([])
  })

  it('refuses a view it does not understand and says so', async () => {
    const body = { ...plainView, span: 'fortnight' }
    expect((await w.client.call('POST', '/views', { name: 'x', icon: 'leaf', body })).status).to.equal(400)
  })

  it('draws a meeting once that is in several calendars, also one that repeats', async () => {
    const meeting = eventText('council', 'Council', weekDay(2), '15:00', '16:00')
    const weekly = eventText('tea', 'Tea round', weekDay(0), '16:00', '16:15', ['RRULE:FREQ=DAILY;COUNT=5'])
    const other = eventText('council-2', 'Council', weekDay(2), '15:00', '16:00')
    for (const calendar of ['house-repairs', 'garden-team']) {
      await w.garden.put(calendar, 'council.ics', meeting)
      await w.garden.put(calendar, 'tea.ics', weekly)
    }
    await w.garden.put('garden-team', 'other.ics', other)
    const found = await until('all is here', async () => {
      const items = (await cloth()).items.filter((i: any) => ['Council', 'Tea round'].includes(i.title))
      return items.filter((i: any) => i.sources.length === 2).length === 6 && items
    })
    expect(
      found
        .filter((i: any) => i.title === 'Council')
        .map((i: any) => i.sources.length)
        .sort(),
    ).to.deep.equal([1, 2])
    expect(found.filter((i: any) => i.title === 'Tea round')).to.have.length(5)
    // What is held in one of them alone is another meeting.
    await w.garden.put('house-repairs', 'council.ics', meeting.replace(/T150000/, 'T143000'))
    await until(
      'both are to be seen',
      async () => (await cloth()).items.filter((i: any) => i.title === 'Council').length === 3,
    )
  })

  it('takes hours, days off and holidays from a calendar into everybody’s rows @days', async () => {
    const hours = {
      ...plainSettings.hours,
      from: 540,
      minutes: [480, 0, 480, 480, 480, 0, 0],
      off: [weekDay(3)],
    }
    const day = weekDay(4).replace(/-/g, '')
    await w.garden.put(
      'garden-team',
      'closed.ics',
      `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:closed\r\nDTSTAMP:20260101T000000Z\r\nDTSTART;VALUE=DATE:${day}\r\nSUMMARY:Closed\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`,
    )
    const team = (await cloth()).sources.find((s: any) => s.name === 'Garden team').id
    await w.client.call('PUT', '/me', { settings: { hours, holidays: team } })
    const mine = await until('the closed day is off', async () => {
      const { people, me } = await cloth()
      const found = people.find((p: any) => p.id === me)
      return found.hours.off.includes(weekDay(4)) && found
    })
    expect([mine.hours.from, mine.hours.minutes[1], mine.hours.off.includes(weekDay(3))]).to.deep.equal([
      540,
      0,
      true,
    ])
    const { people } = await cloth()
    expect(people.find((p: any) => p.name === 'Anouk Thapa')).to.deep.include({ zone: 'Asia/Kathmandu' })
    expect((await w.client.call('PUT', '/me', { zone: 'Mars/Olympus', settings: {} })).status).to.equal(400)
    expect(
      (await w.client.call('PUT', '/me', { settings: { hours: { ...hours, from: 1200, to: 600 } } })).status,
    ).to.equal(400)
  })

  it('finds by every word, done or not, seen or not, and takes what is typed as text', async () => {
    await w.bench.add('festival', { text: '100% wax for lamps', details: 'from the beekeeper' })
    const look = async (q: string) =>
      (await w.client.call('GET', `/cloth/search?q=${encodeURIComponent(q)}`)).body.items.map(
        (i: any) => i.title,
      )
    await until('it is here', async () => (await look('wax beekeeper')).length === 1)
    expect(await look('100% WAX')).to.deep.equal(['100% wax for lamps'])
    expect(await look('%')).to.deep.equal(['100% wax for lamps'])
    expect(await look('wax trombone')).to.deep.equal([])
    expect(await look('  ')).to.deep.equal([])
    // What the words of the field name is a filter: the list, whose it is, how urgent, due when.
    const list = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=1`)).body.sources.find(
      (s: any) => s.name === 'Small repairs',
    )
    const by = async (q: string, filter: unknown) => {
      const query = `q=${encodeURIComponent(q)}&filter=${encodeURIComponent(JSON.stringify(filter))}`
      const { status, body } = await w.client.call('GET', `/cloth/search?${query}`)
      return status === 200 ? body.items.map((i: any) => i.title) : status
    }
    const inList = [{ field: 'list', is: [list.id] }]
    expect(await by('repair', inList)).to.deep.equal(['Repair vent motor, House 3'])
    const all: string[] = await by('', inList)
    expect(all).to.include('Repaint sign').and.not.include('100% wax for lamps')
    expect(await by('repaint', [...inList, { field: 'due', within: -1 }])).to.deep.equal([])
    expect(await by('', [{ field: 'poem', is: [] }])).to.equal(400)
    // Tied work is one thing, whichever of the two sides holds the words.
    expect(await look('festival map proof')).to.deep.equal(['Festival map proof'])
  })

  it('tells the browser with the page which days it will ask for: those of the saved view, at the day asked for', async () => {
    const { ctx } = w.app
    const pages = new Hono().get('/cloth', firstAsked(ctx, new Sessions(ctx.db)), c => c.text('page'))
    const told = async (address: string, cookie = w.client.cookieNow): Promise<string[]> => {
      const answer = await pages.request(address, { headers: { Cookie: cookie } })
      expect(await answer.text()).to.equal('page')
      return [...(answer.headers.get('link') ?? '').matchAll(/<([^>]+)>/g)].map(m => m[1] ?? '')
    }
    const first = ['/api/me', '/api/views']
    expect(await told('/cloth', ''), 'nobody').to.deep.equal([])
    expect(await told('/cloth', 'loom_session=no%00such')).to.deep.equal([])
    expect(await told('/cloth')).to.deep.equal([...first, `/api/cloth?from=${weekDay(0)}&days=7`])
    expect(await told('/cloth?at=2026-02-11')).to.deep.equal([...first, '/api/cloth?from=2026-02-09&days=7'])
    expect(await told('/cloth?at=2026-02-31-')).to.deep.equal([
      ...first,
      `/api/cloth?from=${weekDay(0)}&days=7`,
    ])
    const month = { name: 'Month first', icon: 'leaf', body: { ...plainView, span: 'month' } }
    const { id } = (await w.client.call('POST', '/views', month)).body
    const ofMonth = [...first, '/api/cloth?from=2026-01-26&days=35']
    expect(await told(`/cloth?at=2026-02-11&view=${id}`)).to.deep.equal(ofMonth)
    await w.client.call('PUT', '/me', { settings: { ...plainSettings, view: id } })
    expect(await told('/cloth?at=2026-02-11'), 'the view that opens first').to.deep.equal(ofMonth)
    expect(await told('/cloth?at=2026-02-11&view=none')).to.deep.equal([
      ...first,
      '/api/cloth?from=2026-02-09&days=7',
    ])
    await w.client.call('PUT', '/me', { settings: plainSettings })
    await w.client.call('DELETE', `/views/${id}`)
  })
})

describe('what the Cloth is given', function () {
  this.timeout(40_000)
  let w: World
  before(async () => {
    w = await startWorld()
    await until('the first pass is through', async () => (await w.garden.events('festival-work')).length >= 5)
  })
  after(() => w.close())

  const given = async (from: string, days: number) =>
    (await w.client.call('GET', `/cloth?from=${from}&days=${days}`)).body
  const titles = async (from: string, days = 7): Promise<string[]> =>
    (await given(from, days)).items.map((i: any) => i.title)

  it('is given to forty at once, more than there are connections to the database', async () => {
    const asked = await Promise.all(Array.from({ length: 40 }, () => given(weekDay(0), 7)))
    expect(new Set(asked.map(a => a.items?.length)).size).to.equal(1)
    expect(asked[0].items).not.to.have.length(0)
  })

  it('holds what is left over from days that are not shown, and nothing else of them @days', async () => {
    await w.bench.add('festival', { text: 'Left over', day: weekDay(-20), hour: '10:00' })
    await w.bench.add('festival', { text: 'Far ahead', day: weekDay(40), hour: '10:00' })
    const next = await until('it is known', async () => {
      // Two additions are two readings: the second may come after the first is to be seen.
      if (!(await titles(weekDay(35))).includes('Far ahead')) return
      const found = await titles(weekDay(7))
      return found.includes('Left over') && found
    })
    expect(next).not.to.include('Far ahead')
    // A month is more than any week; more than six weeks is not asked for at once.
    expect((await given(weekDay(0), 42)).items.length).to.be.above(next.length)
    expect((await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=43`)).status).to.equal(400)
  })

  it('says whose each item is: whom a task is given to, else whose account it comes from', async () => {
    const { items, people } = await given(weekDay(0), 7)
    const nameOf = (id: string): string => people.find((p: any) => p.id === id)?.name
    const proof = items.find((i: any) => i.title === 'Festival map proof')
    expect(proof.people.map(nameOf)).to.deep.equal(['Ines Varga'])
    const tobias = people.find((p: any) => p.name === 'Tobias Lund').id
    const made = await w.client.call('POST', '/cloth/make', {
      what: 'task',
      title: 'For Tobias',
      start: null,
      into: null,
      for: tobias,
    })
    expect(made.status).to.equal(201)
    const his = await until('it is his', async () =>
      (await given(weekDay(0), 7)).items.find((i: any) => i.title === 'For Tobias' && !i.pending),
    )
    expect(his.people.map(nameOf)).to.deep.equal(['Tobias Lund'])
    // Where their service knows nobody of that name, the title still says it.
    const bench = (await given(weekDay(0), 1)).sources.find((s: any) => s.name === 'Ideas').id
    const elsewhere = { what: 'task', title: 'Ask about moths', start: null, into: bench, for: tobias }
    await w.client.call('POST', '/cloth/make', elsewhere)
    const told = await until('it says so there', async () =>
      (await titles(weekDay(0))).find(t => t.startsWith('Ask about moths')),
    )
    expect(told).to.equal('Ask about moths (for Tobias Lund)')
    await w.client.call('POST', `/cloth/${his.key}/edit`, { do: 'give', to: null })
    // It lies in Ines's own intake: given to nobody, it is hers.
    const nobody = await until('it is his no longer', async () =>
      (await given(weekDay(0), 7)).items.find(
        (i: any) => i.title === 'For Tobias' && i.people.map(nameOf).join() === 'Ines Varga',
      ),
    )
    const refused = await w.client.call('POST', `/cloth/${nobody.key}/edit`, {
      do: 'give',
      to: 'no such member',
    })
    expect(refused.body.reason).to.match(/no account at its service/)
  })

  it('names each source with its connection and owner, our own lists last', async () => {
    const { sources } = await given(weekDay(0), 1)
    const own = sources.map((s: any) => s.own)
    expect(own).to.deep.equal([...own].sort())
    expect(sources.find((s: any) => s.name === 'Festival')).to.include({
      service: 'Bench List',
      owner: 'Ines Varga',
      itemKind: 'task',
      writable: 1,
    })
  })
})

describe('the daily summary', function () {
  this.timeout(40_000)
  let w: World
  before(async () => {
    w = await startWorld()
    await until('the first pass is through', async () => (await w.garden.events('festival-work')).length >= 5)
  })
  after(() => w.close())

  const letters = async () =>
    ((await (await fetch(`${w.standins}/mailbox/messages`)).json()) as { letters: any[] }).letters

  it('tells whoever asked for it what sync changed the day before, once, and nobody else @days', async () => {
    await until('it is in the journal', async () =>
      (await w.client.call('GET', '/journal')).body.lines.some((l: any) => l.title === 'Label night beds'),
    )
    // What was written today is told tomorrow.
    // Somewhere it is day, whenever this runs.
    const hourIn = (zone: string): number =>
      Number(new Intl.DateTimeFormat('en-GB', { timeZone: zone, hour: '2-digit' }).format(now()))
    const zone = ['Europe/Dublin', 'Asia/Tokyo', 'America/Los_Angeles'].find(z => hourIn(z) >= 7)
    await w.client.call('PUT', '/me', { zone, settings: { dailySummary: true } })
    await w.app.ctx.db.run('UPDATE journal SET at = :at', { at: now() - 86_400_000 })
    const { lists } = (await w.client.call('GET', '/sharing')).body
    const { id: list } = lists.find((l: any) => l.name === 'Festival')
    const busy = { changes: [{ list, to: { kind: 'everybody' }, level: 'busy' }] }
    expect((await w.client.call('PUT', '/sharing', busy)).status).to.equal(200)
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    expect((await tobias.call('POST', '/requests', { ask: 'see', list, level: 'title' })).status).to.equal(
      201,
    )
    expect(await w.app.summary.sendDue()).to.equal(1)
    expect(await w.app.summary.sendDue(), 'a second time').to.equal(0)
    const [letter, ...more] = await until('the letter', async () => {
      const all = await letters()
      return all.length > 0 && all
    })
    expect(more).to.have.length(0)
    expect(letter.to).to.deep.equal(['ines@quillmere.example'])
    expect(letter.subject).to.match(/changes by sync$/)
    expect(letter.text)
      .to.contain('Festival ⇄ Festival work')
      .and.contain('Label night beds')
      .and.contain('1 request waits for your answer')
      .and.contain('/journal')
  })

  it('is tried again when the mail server does not take it', async () => {
    await w.app.ctx.db.run('UPDATE members SET summary_sent = NULL, email = :bad WHERE email LIKE :ines', {
      bad: 'x'.repeat(300),
      ines: 'ines@%',
    })
    expect(await w.app.summary.sendDue()).to.equal(0)
    const row = await w.app.ctx.db.one<{ summary_sent: string | null }>(
      `SELECT summary_sent FROM members WHERE daily_summary = 1`,
    )
    expect(row?.summary_sent).to.equal(null)
    // Whoever waits for it is told, and it is not tried at once.
    expect((await w.client.call('GET', '/me')).body.summaryTrouble).to.match(/did not take it/)
    await w.app.ctx.db.run('UPDATE members SET email = :good WHERE daily_summary = 1', {
      good: 'ines@quillmere.example',
    })
    expect(await w.app.summary.sendDue(), 'at once').to.equal(0)
    await w.app.ctx.db.run('UPDATE members SET summary_next_at = 0 WHERE daily_summary = 1')
    expect(await w.app.summary.sendDue()).to.equal(1)
    expect((await w.client.call('GET', '/me')).body.summaryTrouble).to.equal(null)
  })
})
