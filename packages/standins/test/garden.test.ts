import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import { DAVClient } from 'tsdav'
import { listen } from '../src/index.ts'

/** Garden Calendars, tried with an independent CalDAV client: whoever shares a mistake cannot see it. */
describe('Garden Calendars, with another client library', () => {
  let running: Awaited<ReturnType<typeof listen>>
  let client: DAVClient
  const event = (uid: string, summary: string): string =>
    [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//test//EN',
      'BEGIN:VEVENT',
      `UID:${uid}`,
      'DTSTAMP:20261101T000000Z',
      'DTSTART:20261125T100000Z',
      'DTEND:20261125T110000Z',
      `SUMMARY:${summary}`,
      'X-ODD;P="a:b":kept,  as it is \\, with\t tabs',
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ].join('\r\n')

  before(async () => {
    running = await listen(mkdtempSync(join(tmpdir(), 'standins-')), 0)
    client = new DAVClient({
      serverUrl: `http://127.0.0.1:${running.port}`,
      credentials: { username: 'ines', password: 'moonflower' },
      authMethod: 'Basic',
      defaultAccountType: 'caldav',
    })
    await client.login()
  })
  after(() => running.close())

  const calendarNamed = async (name: string) => {
    const found = (await client.fetchCalendars()).find(c => c.displayName === name)
    if (!found) throw new Error(`no calendar ${name}`)
    return found
  }

  it('is discovered from the bare host', async () => {
    const names = (await client.fetchCalendars()).map(c => c.displayName)
    expect(names).to.include.members(['Garden team', 'Teaching', 'Festival work'])
    expect(names).to.not.include('Glasshouses')
  })

  it('keeps an object byte for byte, and refuses writes whose precondition fails', async () => {
    const calendar = await calendarNamed('Teaching')
    const made = await client.createCalendarObject({
      calendar,
      filename: 'one.ics',
      iCalString: event('one@x', 'One'),
    })
    expect(made.status).to.equal(201)
    const url = new URL('one.ics', calendar.url).href
    const [object] = await client.fetchCalendarObjects({ calendar, objectUrls: [url] })
    const headers = { Authorization: `Basic ${btoa('ines:moonflower')}` }
    expect(await (await fetch(url, { headers })).text()).to.equal(event('one@x', 'One'))
    expect(object?.etag).to.equal(made.headers.get('etag'))

    const again = await client.createCalendarObject({
      calendar,
      filename: 'one.ics',
      iCalString: event('one@x', 'Two'),
    })
    expect(again.status, 'If-None-Match: *').to.equal(412)
    const stale = await client.updateCalendarObject({
      calendarObject: { url, data: event('one@x', 'Three'), etag: '"stale"' },
    })
    expect(stale.status, 'If-Match').to.equal(412)
    const twin = await client.createCalendarObject({
      calendar,
      filename: 'two.ics',
      iCalString: event('one@x', 'Twin'),
    })
    expect(twin.status, 'no-uid-conflict').to.equal(403)
    const gone = await client.deleteCalendarObject({ calendarObject: { url, etag: object?.etag } })
    expect(gone.status).to.equal(204)
  })

  it('answers a time range', async () => {
    const calendar = await calendarNamed('Festival work')
    await client.createCalendarObject({
      calendar,
      filename: 'far.ics',
      iCalString: event('far@x', 'Far').replace(/2026112/g, '2031112'),
    })
    const inRange = await client.fetchCalendarObjects({
      calendar,
      timeRange: { start: '2031-11-01T00:00:00Z', end: '2031-12-01T00:00:00Z' },
    })
    expect(inRange.map(o => /SUMMARY:(.*)\r/.exec(String(o.data))?.[1])).to.deep.equal(['Far'])
  })

  it('tells what changed since a token, deletions included, and refuses a token it never gave', async () => {
    const calendar = await calendarNamed('Teaching')
    const sync = (syncToken: string) =>
      client.syncCollection({ url: calendar.url, props: { 'd:getetag': {} }, syncLevel: 1, syncToken })
    const first = await sync('')
    const token = String((first[0]?.raw as { multistatus: { syncToken: string } }).multistatus.syncToken)
    await client.createCalendarObject({ calendar, filename: 'new.ics', iCalString: event('new@x', 'New') })
    const url = new URL('new.ics', calendar.url).href
    const changed = await sync(token)
    expect(changed.map(r => [r.href, r.status])).to.deep.equal([[new URL(url).pathname, 207]])
    await client.deleteCalendarObject({ calendarObject: { url, etag: '' } })
    expect((await sync(token)).map(r => r.status)).to.deep.equal([404])
    expect((await sync('urn:not:ours'))[0]?.status).to.equal(403)
  })

  it('makes a calendar', async () => {
    const url = `http://127.0.0.1:${running.port}/garden/dav/calendars/ines/made/`
    await client.makeCalendar({ url, props: { displayname: 'Made here' } })
    expect((await calendarNamed('Made here')).url).to.equal(url)
  })

  it('lets nobody in with a wrong password', async () => {
    const answer = await fetch(`http://127.0.0.1:${running.port}/garden/dav/`, {
      method: 'PROPFIND',
      headers: { Authorization: `Basic ${btoa('ines:wrong')}` },
    })
    expect(answer.status).to.equal(401)
  })
})
