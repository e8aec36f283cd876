import { newEvent, type Task, zoned } from '@loom/core'
import { expect } from 'chai'
import { connect, type Connector, outbound, ServiceError } from '../src/index.ts'
import { eventText, oddDav, type OddDav, taskText } from './support/odd-dav.ts'
import { whole } from './support/pages.ts'
import { closeServers, serve } from './support/server.ts'

/** CalDAV against a server that does everything allowed, only differently. */
describe('CalDAV, with other servers than ours', () => {
  let dav: OddDav
  let calendar: Connector
  const TEAM = '/homes/a/garden%20team/'
  const LOANS = '/homes/b/loans/'
  const open = (address: string, timeoutMs = 3000, maxBytes = 3_000_000): Connector => {
    const host = address.replace(/^https?:\/\//, '').replace(/\/.*$/, '')
    const http = outbound({ allowed: [host], timeoutMs, maxBytes })
    return connect(
      { kind: 'caldav', address, credentials: { user: 'ines', password: 'x' } },
      { http, now: Date.now, zone: null },
    )
  }

  beforeEach(async () => {
    dav = await oddDav()
    calendar = open(dav.address)
  })
  afterEach(closeServers)

  const put = (calendarPath: string, n: number): void => {
    for (let i = 0; i < n; i++) dav.put(`${calendarPath}e${i}.ics`, eventText(`e${i}@odd`, `Event ${i}`))
  }
  const requests = (what: string): number => dav.log.filter(l => l.startsWith(what)).length

  it('goes from a bare address by the well-known one to every home set, and says what cannot take part', async () => {
    const { name, collections } = await calendar.discover()
    expect(name).to.equal('Ines')
    expect(collections.map(c => [c.name, c.itemKind, c.writable, c.whyNot])).to.deep.equal([
      ['Garden team', 'event', true, null],
      ['Garden team: tasks', 'task', true, null],
      ['Loans', 'event', false, null],
      ['Free times', 'event', false, 'It holds neither events nor tasks, but VFREEBUSY.'],
      ['Trustees', 'event', false, 'The server shows it to this account, but gives it no right to read it.'],
      ['Cards', 'event', false, 'It is an address book, not a calendar.'],
      ['2024', 'event', false, null],
      ['Oldest', 'event', false, 'It is a folder that lies deeper than calendars are looked for.'],
    ])
  })

  it('takes a mail address for the server of its domain', async () => {
    const error = await open('ines@garden.invalid')
      .discover()
      .catch((e: unknown) => e)
    expect(error).to.be.instanceOf(ServiceError)
    expect((error as ServiceError).message).to.equal('There is no server called garden.invalid.')
  })

  it('says of an address that is no calendar server what it is instead', async () => {
    const page = await serve(() => ({ body: '<!doctype html><h1>Welcome</h1>' }))
    const nothing = await serve(() => ({ status: 404 }))
    for (const [host, words] of [
      [page, 'answers with a web page, not as a CalDAV server'],
      [nothing, 'answers, but not as a CalDAV server'],
    ] as const) {
      const error = await open(`http://${host}`)
        .discover()
        .catch((e: unknown) => e)
      expect((error as ServiceError).message).to.contain(words)
    }
  })

  it('fetches in batches, goes on where an answer was cut short, and then only what changed', async () => {
    dav.habits.page = 150
    put(TEAM, 420)
    dav.log.length = 0
    const first = await whole(calendar, TEAM, null)
    expect(first.items).to.have.length(420)
    expect([requests('sync-collection'), requests('calendar-multiget')]).to.deep.equal([3, 3])
    dav.put(`${TEAM}e7.ics`, eventText('e7@odd', 'Changed'))
    dav.objects.delete(`${TEAM}e8.ics`)
    const second = await whole(calendar, TEAM, first.token)
    expect(second.items.map(i => i.item.summary)).to.deep.equal(['Changed'])
    expect(second.full).to.equal(false)
  })

  it('fetches fewer at once where so many are too large or take too long, and lists what alone is too large', async () => {
    put(TEAM, 300)
    const long = (i: number, notes: string): void =>
      dav.put(
        `${TEAM}e${i}.ics`,
        eventText(`e${i}@odd`, `Event ${i}`).replace('END:VEVENT', `DESCRIPTION:${notes}\r\nEND:VEVENT`),
      )
    for (let i = 100; i < 180; i++) long(i, 'Long '.repeat(10_000))
    long(130, 'Far too long '.repeat(300_000))
    const all = await whole(calendar, TEAM, null)
    expect(all.items).to.have.length(299)
    expect(all.problems.map(p => [p.remoteId, p.reason, p.revision !== ''])).to.deep.equal([
      [`${TEAM}e130.ics`, 'It is larger than what is read of one event.', true],
    ])
    expect(all.left).to.deep.equal([])
    expect(all.token).to.match(/^t/)
    expect(requests('calendar-multiget'), 'the others are not asked for one by one').to.be.below(30)
    const alone = await calendar.read(TEAM, `${TEAM}e130.ics`)
    expect(alone.kind).to.equal('problem')

    dav.habits.atOnce = 60
    const slow = await whole(open(dav.address, 400), TEAM, null)
    expect(slow.items).to.have.length(299)
    dav.habits.atOnce = 10
    const error = await whole(open(dav.address, 400), TEAM, null).catch((e: unknown) => e)
    expect((error as ServiceError).trouble, 'not even a few').to.equal('timeout')
  })

  it('lists in parts what is too much to be listed at once', async () => {
    dav.habits.page = Infinity
    put(TEAM, 12_000)
    dav.log.length = 0
    const all = await whole(open(dav.address, 3000, 1_000_000), TEAM, null)
    expect(new Set(all.items.map(i => i.remoteId)).size).to.equal(12_000)
    expect(requests('sync-collection'), 'all at once, then by five thousand').to.equal(4)
  })

  it('starts anew when its token is refused, without fetching what it holds', async () => {
    put(TEAM, 6)
    const first = await whole(calendar, TEAM, null)
    const held = new Map(first.items.map(i => [i.remoteId, i.revision]))
    dav.habits.staleTokens = true
    dav.put(`${TEAM}e2.ics`, eventText('e2@odd', 'Changed meanwhile'))
    const pages = []
    for await (const page of calendar.delta(TEAM, first.token, { revisions: async () => held }))
      pages.push(page)
    expect(pages.every(p => p.full)).to.equal(true)
    expect(pages.flatMap(p => p.items.map(i => i.item.summary))).to.deep.equal(['Changed meanwhile'])
    expect(pages.flatMap(p => p.unchanged)).to.have.length(5)
  })

  it('does with ctags and etags where there is no sync-collection', async () => {
    dav.habits.sync = false
    put(LOANS, 3)
    const first = await whole(calendar, LOANS, null)
    expect([first.items.length, first.full]).to.deep.equal([3, true])
    dav.log.length = 0
    const second = await whole(calendar, LOANS, first.token)
    expect([second.items, second.left, second.full]).to.deep.equal([[], [], false])
    expect(dav.log, 'one question is enough when nothing changed').to.have.length(1)
    dav.put(`${LOANS}e1.ics`, eventText('e1@odd', 'Loan 91'))
    const held = new Map(first.items.map(i => [i.remoteId, i.revision]))
    for await (const page of calendar.delta(LOANS, second.token, { revisions: async () => held }))
      expect(page.items.map(i => i.item.summary)).to.deep.equal(['Loan 91'])
  })

  it('tells the tasks of a calendar from its events, and edits each in place', async () => {
    dav.put(
      `${TEAM}walk.ics`,
      eventText('walk@odd', 'Walk', ['X-KEEP;X=1:as it is', 'CATEGORIES:a', 'CATEGORIES:b']),
    )
    dav.put(`${TEAM}oil.ics`, taskText('oil@odd', 'Oil the hinges'))
    const events = await whole(calendar, TEAM, null)
    const tasks = await whole(calendar, `${TEAM}#tasks`, null)
    expect(events.items.map(i => i.item.summary)).to.deep.equal(['Walk'])
    expect(tasks.items.map(i => [i.item.summary, (i.item as Task).due])).to.deep.equal([
      ['Oil the hinges', { kind: 'date', date: '2026-11-27' }],
    ])
    const [task] = tasks.items
    const [event] = events.items
    const results = await calendar.write([
      {
        op: 'patch',
        collection: `${TEAM}#tasks`,
        remoteId: task?.remoteId ?? '',
        revision: task?.revision ?? '',
        patch: { status: 'completed' },
      },
      {
        op: 'patch',
        collection: TEAM,
        remoteId: event?.remoteId ?? '',
        revision: event?.revision ?? '',
        patch: { categories: ['c'] },
      },
    ])
    expect(results.map(r => r.kind)).to.deep.equal(['done', 'done'])
    expect(dav.objects.get(`${TEAM}oil.ics`)?.text).to.contain('STATUS:COMPLETED')
    expect(dav.objects.get(`${TEAM}oil.ics`)?.text).to.contain('X-ODD:keep')
    const walk = dav.objects.get(`${TEAM}walk.ics`)?.text ?? ''
    expect(walk).to.contain('X-KEEP;X=1:as it is')
    expect(walk.match(/CATEGORIES.*/g)).to.deep.equal(['CATEGORIES:c'])
  })

  it('believes only a strong etag; what the server made of our text is read again', async () => {
    const time = { anchor: zoned('2026-11-25T10:00:00', 'Europe/Dublin'), minutes: 60 }
    const create = (uid: string) =>
      calendar.write([
        { op: 'create', collection: TEAM, item: newEvent(uid, time, { summary: uid }), triedAgoMs: null },
      ])
    const [strong] = await create('strong@odd')
    dav.habits.putTag = 'weak'
    const [weak] = await create('weak@odd')
    dav.habits.putTag = 'none'
    dav.habits.rewrite = text => text.replace('SUMMARY:none@odd', 'SUMMARY:Made tidy')
    const [none] = await create('none@odd')
    expect([strong, weak, none].map(r => r?.kind === 'done' && r.ours)).to.deep.equal([true, false, false])
    expect(none?.kind === 'done' && none.item?.item.summary).to.equal('Made tidy')
  })

  it('writes to a server that has weak etags only, upon what it read just before', async () => {
    dav.habits.weakTags = true
    put(TEAM, 1)
    const [seen] = (await whole(calendar, TEAM, null)).items
    const remoteId = seen?.remoteId ?? ''
    const patch = (revision: string, summary: string) =>
      calendar.write([{ op: 'patch', collection: TEAM, remoteId, revision, patch: { summary } }])
    const [done] = await patch(seen?.revision ?? '', 'Renamed')
    expect(done?.kind).to.equal('done')
    const after = done?.kind === 'done' ? (done.item?.revision ?? '') : ''
    expect((await patch(seen?.revision ?? '', 'Upon something old'))[0]?.kind).to.equal('conflict')
    const remove = (revision: string) =>
      calendar.write([{ op: 'delete', collection: TEAM, remoteId, revision }])
    expect((await remove(seen?.revision ?? ''))[0]?.kind).to.equal('conflict')
    expect(dav.objects.get(remoteId)?.text).to.contain('SUMMARY:Renamed')
    expect((await remove(after))[0]?.kind).to.equal('done')
    expect(dav.objects.has(remoteId)).to.equal(false)
  })

  it('follows hrefs that are whole addresses', async () => {
    dav.habits.absolute = true
    put(TEAM, 2)
    const { collections } = await calendar.discover()
    const team = collections.find(c => c.name === 'Garden team')?.remoteId ?? ''
    expect((await whole(calendar, team, null)).items).to.have.length(2)
  })

  it('makes a calendar and finds it', async () => {
    const made = await calendar.makeCollection?.('Night walks', '#4E6B35')
    expect([made?.name, made?.writable]).to.deep.equal(['Night walks', true])
  })

  it('keeps an object as it came when it is brought in from a file', async () => {
    const text = eventText('series@odd', 'Moth count', ['RRULE:FREQ=WEEKLY;COUNT=4', 'X-KEEP:yes'])
    const item = newEvent('series@odd', {
      anchor: zoned('2026-11-25T10:00:00', 'Europe/Dublin'),
      minutes: 60,
    })
    await calendar.write([{ op: 'create', collection: TEAM, item, triedAgoMs: null, original: text }])
    expect([...dav.objects.values()].map(o => o.text)).to.deep.equal([text])
  })

  it('does not take half an event for one that cannot be understood', async () => {
    put(TEAM, 1)
    const path = `${TEAM}e0.ics`
    const whole = dav.objects.get(path)?.text ?? ''
    dav.objects.set(path, { text: whole.slice(0, whole.length / 2), version: 2 })
    const error = await calendar.read(TEAM, path).catch((e: unknown) => e)
    expect(error).to.be.instanceOf(ServiceError)
    expect((error as ServiceError).message).to.match(/sent an event that breaks off/)
    dav.objects.set(path, { text: whole.replace(/^SUMMARY:.*$/m, 'DTSTART:never'), version: 3 })
    expect((await calendar.read(TEAM, path)).kind).to.equal('problem')
  })

  it('says that an answer breaks off, or is made to do harm, and reads no further', async () => {
    const bomb = Array.from({ length: 12 }, (_, i) => `<!ENTITY b${i + 1} "${`&b${i};`.repeat(20)}">`).join(
      '',
    )
    for (const body of [
      '<d:multistatus xmlns:d="DAV:"><d:response><d:href>/x',
      `<!DOCTYPE x [<!ENTITY b0 "boom">${bomb}]><d:multistatus xmlns:d="DAV:"><d:response><d:href>&b12;</d:href></d:response></d:multistatus>`,
    ]) {
      const host = await serve(() => ({ status: 207, body }))
      const error = await open(`http://${host}`)
        .discover()
        .catch((e: unknown) => e)
      expect(error).to.be.instanceOf(ServiceError)
    }
  })
})
