import { connect, outbound } from '@loom/connectors'
import { parseEvent, parseTask } from '@loom/core'
import { expect } from 'chai'
import { DAVClient } from 'tsdav'
import { eventText } from './support/garden.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** Lists that are read as calendars by an independent CalDAV client. */
describe('calendars to be read', function () {
  this.timeout(60_000)
  let w: World
  let lists: Map<string, string>
  before(async () => {
    w = await startWorld()
    await until('a rule is there', async () => (await w.client.call('GET', '/journal')).body.lines.length > 0)
    lists = new Map((await w.client.call('GET', '/sharing')).body.lists.map((l: any) => [l.name, l.id]))
    await put('open', 'Zorblax round', '10')
    await put('sealed', 'Quentle round', '13', ['CLASS:PRIVATE'])
    await w.bench.add('repairs', { text: 'Mend the floop', finish_by: weekDay(9) })
    await until('they are here', async () => {
      const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(7)}&days=7`)).body
      const has = (title: string) => items.some((i: any) => i.title === title)
      return has('Zorblax round') && has('Mend the floop') && has('Quentle round')
    })
  })
  after(() => w.close())

  const put = (name: string, title: string, hour: string, more: string[] = []) =>
    w.garden.put(
      'garden-team',
      `${name}.ics`,
      eventText(name, title, weekDay(8), `${hour}:00`, `${hour}:40`, more),
    )
  const make = async (more: object = {}): Promise<{ id: string; link: string; password: string }> => {
    const terms = {
      name: 'My phone',
      opens: 'caldav',
      lists: [lists.get('Garden team'), lists.get('Small repairs')],
      level: 'title',
      tasksAs: 'to-dos',
      weeks: 4,
      expires: null,
      ...more,
    }
    return (await w.client.call('POST', '/links', terms)).body
  }
  const signedIn = async (password: string): Promise<DAVClient> => {
    const client = new DAVClient({
      serverUrl: `${w.client.base}/dav/`,
      credentials: { username: 'anything', password },
      authMethod: 'Basic',
      defaultAccountType: 'caldav',
    })
    await client.login()
    return client
  }
  const calendarNamed = async (client: DAVClient, name: string) => {
    const calendar = (await client.fetchCalendars()).find(c => c.displayName === name)
    if (!calendar) throw new Error(`there is no calendar ${name}`)
    return calendar
  }
  const auth = (password: string): string => `Basic ${Buffer.from(`x:${password}`).toString('base64')}`
  const ask = (method: string, path: string, password: string, body?: string, headers: object = {}) =>
    fetch(`${w.client.base}${path}`, {
      method,
      headers: { Authorization: auth(password), 'Content-Type': 'application/xml', ...headers },
      ...(body !== undefined && { body }),
    })

  it('are found from the address alone, and hold what the level shows', async () => {
    const { link, password } = await make()
    expect(new URL(link).pathname).to.equal('/dav/')
    const client = await signedIn(password)
    const calendars = await client.fetchCalendars()
    expect(calendars.map(c => c.displayName).sort()).to.deep.equal(['Garden team', 'Small repairs'])
    const team = await calendarNamed(client, 'Garden team')
    const found = await client.fetchCalendarObjects({ calendar: team })
    const events = found.map(o => parseEvent(String(o.data)))
    expect(events.map(e => e.summary)).to.include.members(['Zorblax round', 'Busy'])
    expect(JSON.stringify(found)).to.not.match(/Quentle/)
    const repairs = await calendarNamed(client, 'Small repairs')
    const todos = await client.fetchCalendarObjects({
      calendar: repairs,
      filters: {
        'comp-filter': {
          _attributes: { name: 'VCALENDAR' },
          'comp-filter': { _attributes: { name: 'VTODO' } },
        },
      },
    })
    const floop = todos.map(o => parseTask(String(o.data))).find(t => t.summary === 'Mend the floop')
    expect(floop?.due).to.deep.equal({ kind: 'date', date: weekDay(9) })
    const ofDay = await client.fetchCalendarObjects({
      calendar: team,
      timeRange: { start: `${weekDay(8)}T10:00:00Z`, end: `${weekDay(8)}T10:30:00Z` },
    })
    expect(ofDay.map(o => parseEvent(String(o.data)).summary)).to.include('Zorblax round')
    const ofNight = await client.fetchCalendarObjects({
      calendar: team,
      timeRange: { start: `${weekDay(8)}T01:00:00Z`, end: `${weekDay(8)}T01:30:00Z` },
    })
    expect(ofNight.map(o => parseEvent(String(o.data)).summary)).to.not.include('Zorblax round')
  })

  it('tell only what is otherwise since the last time, and say so when they no longer know', async () => {
    const { password } = await make()
    const client = await signedIn(password)
    const team = await calendarNamed(client, 'Garden team')
    const all = await client.fetchCalendarObjects({ calendar: team })
    const sync = (token: string) =>
      ask(
        'REPORT',
        new URL(team.url).pathname,
        password,
        `<d:sync-collection xmlns:d="DAV:"><d:sync-token>${token}</d:sync-token><d:sync-level>1</d:sync-level><d:prop><d:getetag/></d:prop></d:sync-collection>`,
      )
    const token = String(team.syncToken)
    const none = await (await sync(token)).text()
    expect(none).to.not.match(/<D:response>/)
    await put('open', 'Zorblax round', '11')
    await put('fresh', 'Vimble round', '15')
    await until('they are here', async () => {
      const text = await (await sync(token)).text()
      return (text.match(/<D:response>/g) ?? []).length === 2 && text
    })
    const begun = await (await sync('')).text()
    expect((begun.match(/<D:response>/g) ?? []).length).to.be.at.least(all.length)
    const unknown = await sync('data:,another-server')
    expect(unknown.status).to.equal(403)
    expect(await unknown.text()).to.match(/valid-sync-token/)
    const ctag = await client.isCollectionDirty({ collection: team })
    expect(ctag.isDirty).to.equal(true)
  })

  it('are changed by nobody, opened by no other secret, and gone when they are ended', async () => {
    const { id, password } = await make()
    const feed = (
      await w.client.call('POST', '/links', {
        name: 'Feed',
        opens: 'feed',
        lists: [lists.get('Garden team')],
        level: 'title',
        weeks: 2,
        expires: null,
      })
    ).body.link as string
    const ofFeed = /([0-9a-f]{64})/.exec(feed)?.[1] ?? ''
    const path = `/dav/calendars/${lists.get('Garden team')}/`
    for (const wrong of ['', 'f'.repeat(64), ofFeed, password.slice(1)])
      expect((await ask('PROPFIND', '/dav/', wrong)).status).to.equal(401)
    expect((await fetch(`${w.client.base}/feed/${password}.ics`)).status).to.equal(404)
    for (const method of ['PUT', 'DELETE', 'PROPPATCH', 'MKCALENDAR', 'MOVE'])
      expect(
        (await ask(method, `${path}x.ics`, password, method === 'DELETE' ? undefined : '<x/>')).status,
        method,
      ).to.equal(403)
    expect(
      (await ask('PROPFIND', `/dav/calendars/${lists.get('Festival work')}/`, password)).status,
      'not shown',
    ).to.equal(404)
    expect((await ask('PROPFIND', path, password, 'no xml')).status).to.equal(400)
    const bomb =
      '<!DOCTYPE x [<!ENTITY a "aaaa">]><d:propfind xmlns:d="DAV:"><d:prop>&a;</d:prop></d:propfind>'
    expect((await ask('PROPFIND', path, password, bomb)).status).to.equal(400)
    const filtered = `<c:calendar-query xmlns:d="DAV:" xmlns:c="urn:ietf:params:xml:ns:caldav"><d:prop><d:getetag/></d:prop><c:filter><c:comp-filter name="VCALENDAR"><c:comp-filter name="VEVENT"><c:prop-filter name="SUMMARY"/></c:comp-filter></c:comp-filter></c:filter></c:calendar-query>`
    const refused = await ask('REPORT', path, password, filtered)
    expect([refused.status, /supported-filter/.test(await refused.text())]).to.deep.equal([403, true])
    const options = await fetch(`${w.client.base}/dav/`, { method: 'OPTIONS' })
    expect(options.headers.get('dav')).to.match(/calendar-access/)
    const known = await fetch(`${w.client.base}/.well-known/caldav`, { redirect: 'manual' })
    expect(known.headers.get('location')).to.equal('/dav/')
    await w.client.call('DELETE', `/links/${id}`)
    expect((await ask('PROPFIND', '/dav/', password)).status).to.equal(401)
  })

  it('are found by our own connector as well, as calendars that cannot be written to', async () => {
    const { link, password } = await make()
    const connector = connect(
      {
        kind: 'caldav',
        address: link.replace(/^https?:\/\/[^/]+/, w.client.base),
        credentials: { user: 'x', password },
      },
      {
        http: outbound({ allowed: [new URL(w.client.base).host], timeoutMs: 4000, maxBytes: 20_000_000 }),
        now: () => Date.now(),
        zone: 'UTC',
        meanings: {},
        pace: null,
        onTokens: () => Promise.resolve(),
      },
    )
    const { collections } = await connector.discover()
    const told = collections.map(c => [c.name, c.writable])
    expect(told).to.deep.include.members([
      ['Garden team', false],
      ['Small repairs', false],
    ])
  })
})
