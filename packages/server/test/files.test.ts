import { expect } from 'chai'
import { eventText, property } from './support/garden.ts'
import { fresh } from './support/connecting.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** Files: looked at before anything comes in, brought in as edits, taken out, and the same again. */
describe('files', function () {
  this.timeout(60_000)
  let w: World
  let ownTasks = ''
  let ownEvents = ''
  let festival = ''
  let visits = ''

  before(async () => {
    w = await startWorld()
    const found = await until('the own lists are read', async () => {
      const { connections } = (await w.client.call('GET', '/connections')).body
      const own = connections.find((c: { kind: string }) => c.kind === 'own')
      const garden = connections.find((c: { name: string }) => c.name === 'Garden Calendars')
      return own && garden?.lastOkAt && { own, garden }
    })
    const idOf = (c: { collections: { id: string; remoteId: string; name: string }[] }, name: string) =>
      c.collections.find(k => k.remoteId === name || k.name === name)?.id ?? ''
    ownTasks = idOf(found.own, 'tasks')
    ownEvents = idOf(found.own, 'events')
    festival = idOf(found.garden, 'Festival work')
    visits = idOf(found.garden, 'House repairs')
    // At its service, and known here to be there.
    await until('the first pass is through', async () => {
      const { rules } = (await w.client.call('GET', '/rules')).body
      const known = rules.every((r: { waiting: number }) => r.waiting === 0)
      return known && (await w.garden.events('festival-work')).length >= 5
    })
  })
  after(() => w.close())

  const into = (event = ownEvents) => ({ task: ownTasks, event })
  const read = async (text: string, given: object = {}) =>
    (await w.client.call('POST', '/files/read', { text, mapping: null, into: into(), ...given })).body
  const bring = async (text: string, given: object = {}) =>
    (
      await w.client.call('POST', '/files/bring-in', {
        text,
        mapping: null,
        into: into(),
        takeNew: true,
        takeChanged: true,
        except: [],
        ...given,
      })
    ).body
  const take = async (query: string): Promise<string> => {
    const { body } = await w.client.call('GET', `/files/export?${query}`)
    return typeof body === 'string' ? body : JSON.stringify(body)
  }
  const download = async (query: string): Promise<{ text: string; headers: Headers }> => {
    const cookie = await fresh(w).session()
    const answer = await fetch(`${w.client.base}/api/files/export?${query}`, { headers: { Cookie: cookie } })
    return { text: await answer.text(), headers: answer.headers }
  }
  const entry = async (title: string) =>
    JSON.parse(await take('format=jscalendar')).entries.find((e: { title: string }) => e.title === title)
  const counts = (r: { counts: Record<string, number> }) => r.counts

  const SERIES = eventText('rounds@elsewhere', 'Night rounds', weekDay(0), '21:00', '22:00', [
    'RRULE:FREQ=WEEKLY;COUNT=6',
    `EXDATE;TZID=Europe/Dublin:${weekDay(7).replace(/-/g, '')}T210000`,
    'X-LANTERNS:four',
    'LOCATION:Night beds',
  ])

  it('separates what is new, changed, the same and not understood, before anything comes in', async () => {
    const [held] = await w.garden.titled('festival-work', 'Festival map proof')
    const unchanged = held?.text ?? ''
    const [other] = await w.garden.titled('festival-work', 'Write lantern brief')
    const changed = (other?.text ?? '').replace('SUMMARY:Write lantern brief', 'SUMMARY:Second lantern brief')
    const fresh = eventText('new@elsewhere', 'Lantern walk', weekDay(2), '19:00', '20:00')
    const broken = eventText('odd@elsewhere', 'Backwards', weekDay(2), '19:00', '18:00')
    const body = [unchanged, changed, fresh, broken]
      .map(t => t.slice(t.indexOf('BEGIN:VEVENT'), t.lastIndexOf('END:VCALENDAR')))
      .join('')
    const zone = unchanged.slice(unchanged.indexOf('BEGIN:VTIMEZONE'), unchanged.indexOf('BEGIN:VEVENT'))
    const text = `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//other//EN\r\n${zone}${body}END:VCALENDAR\r\n`
    // What a rule has just made there is known here a moment later.
    const found = await until('all of it is known here', async () => {
      const looked = await read(text)
      return looked.counts.same === 1 && looked
    })
    expect(found.format).to.equal('ics')
    expect(counts(found)).to.include({ event: 3, task: 0, new: 1, changed: 1, same: 1, problems: 1 })
    expect(found.new[0]).to.include({ title: 'Lantern walk', kind: 'event' })
    expect(found.changed[0].fields).to.deep.equal(['summary'])
    expect(found.problems[0]).to.include({ where: 'Backwards' })
    expect(await entry('Lantern walk'), 'a look changes nothing').to.equal(undefined)

    const done = await bring(text, { except: ['event new@elsewhere'] })
    expect(done).to.include({ made: 0, changed: 1 })
    await until(
      'the change has reached its calendar',
      async () => (await w.garden.titled('festival-work', 'Second lantern brief'))[0],
    )
    expect(await entry('Lantern walk'), 'left out by hand').to.equal(undefined)
    await until('it is known here', async () => counts(await read(text)).same === 2)
    expect(counts(await read(text))).to.include({ changed: 0, same: 2, new: 1 })
  })

  it('brings a series into a calendar at a service, with its exceptions and what we do not know', async () => {
    expect(await bring(SERIES, { into: into(festival) })).to.include({ made: 1 })
    const [event] = await until('it is there', async () => {
      const found = await w.garden.titled('festival-work', 'Night rounds')
      return found.length > 0 && found
    })
    expect(property(event?.text ?? '', 'RRULE')).to.equal('FREQ=WEEKLY;COUNT=6')
    expect(event?.text)
      .to.match(/EXDATE[^:]*:\d{8}T210000/)
      .and.to.contain('X-LANTERNS:four')
    expect(property(event?.text ?? '', 'UID')).to.equal('rounds@elsewhere')
    await until('it is here', async () => counts(await read(SERIES)).same === 1)
    expect(counts(await read(SERIES.replace('COUNT=6', 'COUNT=9')))).to.include({ apart: 1, changed: 0 })
  })

  it('brings tasks and events into lists of its own, where they can be worked with', async () => {
    const todo = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//other//EN',
      'BEGIN:VTODO',
      'UID:seeds@elsewhere',
      'DTSTAMP:20260101T000000Z',
      'SUMMARY:Sort the seeds',
      `DUE;VALUE=DATE:${weekDay(4).replace(/-/g, '')}`,
      'PRIORITY:2',
      'X-TRAY:left',
      'END:VTODO',
      'END:VCALENDAR',
      '',
    ].join('\r\n')
    expect(await bring(todo)).to.include({ made: 1 })
    const item = await until('the task', async () => {
      const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body
      return items.find(
        (i: { title: string; pending: boolean }) => i.title === 'Sort the seeds' && !i.pending,
      )
    })
    expect(item).to.include({ due: weekDay(4), priority: 2 })
    await w.client.call('POST', `/cloth/${item.key}/edit`, { do: 'complete' })
    await until('it is done', async () => (await entry('Sort the seeds'))?.progress === 'completed')
    expect((await download(`format=ics&collections=${ownTasks}`)).text).to.contain('X-TRAY:left')
  })

  for (const format of ['ics', 'jscalendar', 'csv'] as const)
    it(`takes everything out as ${format}, and finds it the same when it is brought in again`, async () => {
      const { text, headers } = await download(`format=${format}`)
      expect(headers.get('content-disposition')).to.match(/attachment; filename="amber-loom-/)
      const found = await read(text)
      const { new: made, changed, problems, same, apart } = found.counts
      expect({ made, changed, problems }).to.deep.equal({ made: 0, changed: 0, problems: 0 })
      // A table tells only the first date of a series, and says so instead of changing it.
      expect(same + apart).to.equal(Number(headers.get('x-items')))
      if (format !== 'csv') expect(apart).to.equal(0)
    })

  it('takes out only what was chosen: lists, statuses, days', async () => {
    const events = JSON.parse(await take(`format=jscalendar&collections=${visits}`)).entries
    expect(events.map((e: { title: string }) => e.title)).to.include('Boiler service, House 1')
    const none = JSON.parse(await take(`format=jscalendar&collections=${visits}&from=2031-01-01`)).entries
    expect(none).to.deep.equal([])
    const filter = encodeURIComponent(JSON.stringify([{ field: 'status', is: ['completed'] }]))
    const done = JSON.parse(await take(`format=jscalendar&collections=${ownTasks}&filter=${filter}`)).entries
    expect(done.map((e: { title: string }) => e.title)).to.deep.equal(['Sort the seeds'])
    expect((await w.client.call('GET', '/files/export?format=ics&filter=[{"field":"x"}]')).status).to.equal(
      422,
    )
    expect((await w.client.call('GET', '/files/export?format=doc')).status).to.equal(400)
  })

  it('reads a table by columns that somebody maps, and remembers how', async () => {
    const table = [
      'Bed;What to do;Until;Weight',
      '14;Plant out the daturas;3.12.2026;2',
      '9;"Tie up; then water";;',
      '3;;5.12.2026;1',
      '7;Never;40.12.2026;1',
    ].join('\r\n')
    const first = await read(table)
    expect(first.table.remembered).to.equal(false)
    const mapping = {
      ...first.table.mapping,
      rows: 'task',
      columns: { title: 'What to do', due: 'Until', priority: 'Weight' },
      order: 'day-first',
    }
    const mapped = await read(table, { mapping })
    expect(mapped.counts).to.include({ new: 2, problems: 2 })
    expect(mapped.new.map((e: { title: string }) => e.title)).to.deep.equal([
      'Plant out the daturas',
      'Tie up; then water',
    ])
    expect(mapped.new[0].when).to.deep.include({ date: '2026-12-03' })
    expect(await bring(table, { mapping })).to.include({ made: 2 })
    await until('they are in', async () => (await read(table)).counts.same === 2)
    const again = await read(table)
    expect(again.table).to.deep.include({ remembered: true, mapping })
    expect(again.counts, 'the same rows are the same tasks').to.include({ new: 0, same: 2 })
  })

  it('says where new things could not go, and brings in the rest', async () => {
    const event = eventText('nowhere@x', 'Nowhere to go', weekDay(1), '08:00', '09:00')
    const done = await bring(event, { into: { task: ownTasks, event: null } })
    expect(done.made).to.equal(0)
    expect(done.left[0]).to.deep.include({ where: 'Nowhere to go' })
    const readOnly = await bring(event, { into: into('00000000-0000-0000-0000-000000000000') })
    expect(readOnly.left).to.have.length(1)
  })

  it('refuses what is no such file, and what is too large, in a sentence', async () => {
    for (const text of ['', 'hello', '<html></html>', '{"a":1}', '[1,2', 'one line without columns']) {
      const answer = await w.client.call('POST', '/files/read', { text, mapping: null, into: into() })
      expect(answer.status, text).to.equal(422)
      expect(answer.body.reason).to.match(/Nothing was brought in\.$/)
    }
    const large = await w.client.call('POST', '/files/read', {
      text: 'x'.repeat(12_100_000),
      mapping: null,
      into: into(),
    })
    expect(large.status).to.be.oneOf([400, 413])
  })

  it('reads ten thousand entries without holding anybody up', async () => {
    const head = 'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//other//EN\r\n'
    const one = (i: number): string =>
      `BEGIN:VEVENT\r\nUID:many-${i}\r\nDTSTAMP:20260101T000000Z\r\nDTSTART:20270101T100000Z\r\nDTEND:20270101T110000Z\r\nSUMMARY:Many ${i}\r\nEND:VEVENT\r\n`
    const text = `${head}${Array.from({ length: 10_000 }, (_, i) => one(i)).join('')}END:VCALENDAR\r\n`
    const reading = read(text)
    let slowest = 0
    let asked = 0
    let over = false
    void reading.finally(() => (over = true))
    while (!over) {
      const started = performance.now()
      await fetch(`${w.client.base}/api/health`)
      slowest = Math.max(slowest, performance.now() - started)
      asked++
    }
    expect((await reading).counts.new).to.equal(10_000)
    expect(asked, 'others were answered meanwhile').to.be.greaterThan(5)
    expect(slowest).to.be.lessThan(1500)
  })

  it('belongs to the workspace of whoever asks', async () => {
    const answer = await fetch(`${w.client.base}/api/files/export?format=ics`)
    expect(answer.status).to.equal(401)
  })
})
