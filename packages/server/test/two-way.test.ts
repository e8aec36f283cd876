import { expect } from 'chai'
import { eventText, property } from './support/garden.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** One rule between a task list and a calendar, tried from both ends through the services' own protocols. */
describe('a rule, both ways, against real services', function () {
  this.timeout(40_000)
  let w: World
  const FESTIVAL = 'festival-work'

  before(async () => {
    w = await startWorld()
    await until('the first pass is through', async () => (await w.garden.events(FESTIVAL)).length >= 5)
  })
  after(() => w.close())

  const eventTitled = (title: string) =>
    until(`an event "${title}"`, async () => (await w.garden.titled(FESTIVAL, title))[0])
  const itemTitled = (title: string, days = 7) =>
    until(`"${title}" on the Cloth`, async () => {
      const { body } = await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=${days}`)
      return body.items.find((i: { title: string }) => i.title === title)
    })
  const edit = async (title: string, what: object) => {
    const item = await itemTitled(title)
    return w.client.call('POST', `/cloth/${item.key}/edit`, what)
  }
  const journal = async () => (await w.client.call('GET', '/journal')).body.lines as any[]

  it('matches what is on both sides already, and makes an event for each other task with an hour', async () => {
    expect(await w.garden.titled(FESTIVAL, 'Festival map proof')).to.have.length(1)
    const made = (await w.garden.events(FESTIVAL)).map(e => property(e.text, 'SUMMARY')).sort()
    expect(made).to.deep.equal([
      'Festival map proof',
      'Label night beds',
      'Lantern delivery',
      'Order moonflower plugs',
      'Write lantern brief',
    ])
    expect(await w.bench.titled('festival', 'Lantern delivery'), 'older than the rule').to.have.length(0)
  })

  it('turns a placed task into an event, and leaves its deadline alone', async () => {
    const answer = await edit('Print route cards', {
      do: 'place',
      start: { kind: 'zoned', local: `${weekDay(2)}T10:00:00`, zone: 'Europe/Dublin' },
      minutes: 45,
    })
    expect(answer.status).to.equal(200)
    const event = await eventTitled('Print route cards')
    expect(property(event.text, 'DTSTART')).to.equal(`${weekDay(2).replace(/-/g, '')}T100000`)
    expect(property(event.text, 'DTEND')).to.equal(`${weekDay(2).replace(/-/g, '')}T104500`)
    const [task] = await w.bench.titled('festival', 'Print route cards')
    expect(task).to.include({ day: weekDay(2), hour: '10:00', finish_by: weekDay(4) })
  })

  it('carries a move in the calendar to the task, told in its zone, and writes nothing back', async () => {
    const event = await eventTitled('Print route cards')
    const date = weekDay(3).replace(/-/g, '')
    await w.garden.edit(FESTIVAL, event, text =>
      text
        .replace(/DTSTART;TZID=Europe.*/, `DTSTART;TZID=Asia/Kathmandu:${date}T170000`)
        .replace(/DTEND;TZID=Europe.*/, `DTEND;TZID=Asia/Kathmandu:${date}T180000`),
    )
    const moved = (await w.garden.get(FESTIVAL, event.name)).etag
    await until(
      'the task follows',
      async () => (await w.bench.titled('festival', 'Print route cards'))[0]?.hour === '11:15',
    )
    await until('it is in the journal', async () =>
      (await journal()).some(l => l.title === 'Print route cards' && l.cause === 'event-edited'),
    )
    expect((await w.garden.get(FESTIVAL, event.name)).etag, 'no echo').to.equal(moved)
    // Whatever would still come back would come with, or before, this.
    const [task] = await w.bench.titled('festival', 'Print route cards')
    await w.bench.edit(task?.id ?? '', { details: 'A3' })
    const after = await until('a later edit has arrived', async () => {
      const now = await w.garden.get(FESTIVAL, event.name)
      return property(now.text, 'DESCRIPTION') === 'A3' && now.text
    })
    expect(after).to.contain(`DTSTART;TZID=Asia/Kathmandu:${date}T170000`)
    expect(after, 'its length is not that of the estimate').to.contain(
      `DTEND;TZID=Asia/Kathmandu:${date}T180000`,
    )
  })

  it('marks the event of a ticked task and shows it free; taking the mark off reopens the task', async () => {
    const [task] = await w.bench.titled('festival', 'Write lantern brief')
    await w.bench.edit(task?.id ?? '', { ticked: true })
    const marked = await eventTitled('✓ Write lantern brief')
    expect(property(marked.text, 'TRANSP')).to.equal('TRANSPARENT')
    expect((await itemTitled('Write lantern brief')).done).to.equal(true)
    await w.garden.edit(FESTIVAL, marked, t => t.replace('SUMMARY:✓ ', 'SUMMARY:'))
    await until('the task is open', async () => (await w.bench.get(task?.id ?? ''))?.ticked === false)
    await until(
      'the event is busy again',
      async () => property((await eventTitled('Write lantern brief')).text, 'TRANSP') === 'OPAQUE',
    )
    await w.garden.edit(FESTIVAL, await eventTitled('Write lantern brief'), t =>
      t.replace('SUMMARY:', 'SUMMARY:✓ '),
    )
    await until(
      'marking it in the calendar ticks the task',
      async () => (await w.bench.get(task?.id ?? ''))?.ticked === true,
    )
  })

  it('keeps every byte of an event that it does not change', async () => {
    const [event] = await w.garden.titled(FESTIVAL, 'Festival map proof')
    const extra = [
      'ATTACH;FMTTYPE=image/png:https://quillmere.example/map.png',
      'X-ODD;P="a:b;c":kept,  as it is\t, and folded over a line that is longer than seventy-five octet',
      ' s: see',
      'BEGIN:VALARM',
      'ACTION:DISPLAY',
      'TRIGGER:-PT15M',
      'DESCRIPTION:Reminder',
      'END:VALARM',
    ].join('\r\n')
    await w.garden.edit(FESTIVAL, event ?? { name: '', etag: '', text: '' }, t =>
      t.replace('END:VEVENT', `${extra}\r\nEND:VEVENT`),
    )
    await edit('Festival map proof', { do: 'rename', title: 'Festival map, second proof' })
    const renamed = await eventTitled('Festival map, second proof')
    const lines = (text: string): string[] =>
      text.split('\r\n').filter(l => !/^(SUMMARY|DTSTAMP|LAST-MODIFIED)/.test(l))
    const before = (event?.text ?? '').replace('END:VEVENT', `${extra}\r\nEND:VEVENT`)
    expect(lines(renamed.text)).to.deep.equal(lines(before))
  })

  it('keeps two edits of different fields made at once', async () => {
    const [task] = await w.bench.titled('festival', 'Label night beds')
    const event = await eventTitled('Label night beds')
    await Promise.all([
      w.bench.edit(task?.id ?? '', { text: 'Label the night beds' }),
      w.garden.edit(FESTIVAL, event, t =>
        t.replace(/(DTSTART;TZID.*)T153/, '$1T123').replace(/(DTEND;TZID.*)T16/, '$1T13'),
      ),
    ])
    const after = await eventTitled('Label the night beds')
    expect(property(after.text, 'DTSTART')).to.match(/T123000$/)
    await until(
      'the task has the new hour',
      async () => (await w.bench.get(task?.id ?? ''))?.hour === '12:30',
    )
  })

  it('decides between two edits of one field, and keeps the one that lost in the journal', async () => {
    await w.fault('garden', { status: 503, retryAfter: 1 })
    await w.fault('bench', { status: 503, retryAfter: 1 })
    await until('neither service answers', async () => {
      const { body } = await w.client.call('GET', '/connections')
      return body.connections.every(
        (c: { kind: string; state: string }) => c.kind === 'own' || c.state === 'slowed',
      )
    })
    await w.fault('bench', {})
    await w.fault('garden', {})
    const [task] = await w.bench.titled('festival', 'Order moonflower plugs')
    const [event] = await w.garden.titled(FESTIVAL, 'Order moonflower plugs')
    await Promise.all([
      w.bench.edit(task?.id ?? '', { text: 'Order plugs, tray of 40' }),
      w.garden.edit(FESTIVAL, event ?? { name: '', etag: '', text: '' }, t =>
        t.replace('SUMMARY:Order moonflower plugs', 'SUMMARY:Order plugs and pots'),
      ),
    ])
    const title = await until('both sides agree', async () => {
      const there = (await w.bench.get(task?.id ?? ''))?.text
      const here = property((await w.garden.get(FESTIVAL, event?.name ?? '')).text, 'SUMMARY')?.replace(
        /\\,/g,
        ',',
      )
      return there === here && there
    })
    const lost = title === 'Order plugs and pots' ? 'Order plugs, tray of 40' : 'Order plugs and pots'
    const known = await until('the other is in the journal', async () =>
      (await journal()).some(l => l.fields.some((f: { before: unknown }) => f.before === lost)),
    )
    expect(known).to.equal(true)
  })

  it('takes the date from a task whose event was deleted, and does not make the event again', async () => {
    const event = await eventTitled('Print route cards')
    await w.garden.remove(FESTIVAL, event.name)
    await until(
      'the task lost its date',
      async () => (await w.bench.titled('festival', 'Print route cards'))[0]?.day === null,
    )
    await until(
      'it is on the shelf',
      async () => (await itemTitled('Print route cards')).place.kind === 'none',
    )
    expect(await w.garden.titled(FESTIVAL, 'Print route cards')).to.have.length(0)
  })

  it('removes the event of a deleted task', async () => {
    const task = await w.bench.add('festival', { text: 'Hang test lantern', day: weekDay(3), hour: '17:00' })
    await eventTitled('Hang test lantern')
    await w.bench.remove(task.id)
    await until(
      'the event is gone',
      async () => (await w.garden.titled(FESTIVAL, 'Hang test lantern')).length === 0,
    )
  })

  it('makes a task of an event that is new in the calendar, but not of an invitation or a series', async () => {
    const at = [weekDay(4), '13:00', '14:00'] as const
    await w.garden.put(
      FESTIVAL,
      'inv.ics',
      eventText('inv@x', 'An invitation', ...at, ['ATTENDEE:mailto:guest@x.example']),
    )
    await w.garden.put(FESTIVAL, 'series.ics', eventText('series@x', 'A series', ...at, ['RRULE:FREQ=DAILY']))
    await w.garden.put(FESTIVAL, 'new.ics', eventText('new@x', 'Tune the glass bells', ...at))
    const task = await until(
      'the task',
      async () => (await w.bench.titled('festival', 'Tune the glass bells'))[0],
    )
    expect(task).to.include({ day: weekDay(4), hour: '13:00' })
    expect((await w.bench.listed('festival')).map(t => t.text)).to.not.include.members(['An invitation'])
    const item = await until('the two are one', async () => {
      const found = await itemTitled('Tune the glass bells')
      return found.kind === 'tied' && found
    })
    expect((item.place.endMs - item.place.startMs) / 60_000).to.equal(60)
  })

  it('removes the event of a task that goes back to the shelf, and undo brings both back', async () => {
    const answer = await edit('Tune the glass bells', { do: 'unplace' })
    await until(
      'the event is gone',
      async () => (await w.garden.titled(FESTIVAL, 'Tune the glass bells')).length === 0,
    )
    await edit('Tune the glass bells', answer.body.inverse)
    const event = await eventTitled('Tune the glass bells')
    expect(property(event.text, 'DTSTART')).to.match(/T130000$/)
    expect(property(event.text, 'DTEND')).to.match(/T140000$/)
  })

  it('lets the tie follow an item that moves to another calendar or list', async () => {
    const event = await eventTitled('Tune the glass bells')
    await w.garden.put('teaching', 'moved.ics', event.text)
    await w.garden.remove(FESTIVAL, event.name)
    const [task] = await w.bench.titled('festival', 'Tune the glass bells')
    await w.bench.edit(task?.id ?? '', { list: 'repairs' })
    await w.bench.edit(task?.id ?? '', { text: 'Tune all glass bells' })
    const moved = await until(
      'the event in its new calendar has the new title',
      async () => (await w.garden.titled('teaching', 'Tune all glass bells'))[0],
    )
    expect(moved.name).to.equal('moved.ics')
    expect(await w.bench.get(task?.id ?? '')).to.include({ day: weekDay(4), hour: '13:00' })
  })

  it('says why an edit is not taken, and shows what stands at the service', async () => {
    const item = await itemTitled('Volunteer induction')
    const taken = await w.client.call('POST', `/cloth/${item.key}/edit`, { do: 'complete' })
    expect([taken.status, taken.body.reason]).to.deep.equal([409, 'An event has nothing to complete.'])
    const series = await itemTitled('Morning walk-round')
    const moved = await w.client.call('POST', `/cloth/${series.key}/edit`, {
      do: 'place',
      start: { kind: 'zoned', local: `${weekDay(2)}T10:00:00`, zone: 'Europe/Dublin' },
    })
    expect(moved.body.reason).to.equal('It repeats. Say which of its dates you mean.')
  })
})
