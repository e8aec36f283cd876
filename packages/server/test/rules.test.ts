import { defaultSettings } from '@loom/core'
import { expect } from 'chai'
import { eventText, property } from './support/garden.ts'
import { RuleDesk } from './support/rules.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** What rules of every kind do at the services, and what waits for a person. */
describe('rules of every kind', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk

  beforeEach(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
  })
  afterEach(() => w.close())

  const at = (days: number, hour: string) => ({ day: weekDay(days), hour })
  const titles = async (calendar: string): Promise<string[]> =>
    (await w.garden.events(calendar)).map(e => property(e.text, 'SUMMARY')?.replace(/\\,/g, ',') ?? '').sort()
  const eventTitled = (calendar: string, title: string) =>
    until(`an event "${title}"`, async () => (await w.garden.titled(calendar, title))[0])
  const retitle = (calendar: string, from: string, to: string) =>
    eventTitled(calendar, from).then(e =>
      w.garden.edit(calendar, e, t => t.replace(/^SUMMARY:.*/m, `SUMMARY:${to}`)),
    )

  it('keeps the mark that somebody put on an event, whatever becomes of its task meanwhile', async () => {
    await desk.save('Small repairs', 'House repairs', {})
    await desk.settled()
    const [task] = await w.bench.titled('repairs', 'Repair vent motor, House 3')
    const id = task?.id ?? ''
    const [event] = (await w.garden.events('house-repairs')).filter(e => e.name === 'vent-motor.ics')
    if (!event) throw new Error('no event')
    await w.fault('bench', { status: 503 })
    await w.garden.edit('house-repairs', event, t => t.replace(/SUMMARY:/, 'SUMMARY:✓ '))
    // The first of the two writes arrives: the event is shown free.
    await until('it is shown free', async () =>
      (await w.garden.events('house-repairs')).some(
        e => e.name === event.name && /TRANSP:TRANSPARENT/.test(e.text),
      ),
    )
    // The second is refused: somebody has edited the task by then.
    await desk.unseen(async () => {
      await w.fault('bench', {})
      await w.bench.edit(id, { details: 'Bring the long ladder.' })
    })
    await until('the task is done', async () => (await w.bench.get(id))?.ticked, 20_000)
    await desk.settled()
    const [after] = (await w.garden.events('house-repairs')).filter(e => e.name === event.name)
    expect(property(after?.text ?? '', 'SUMMARY')).to.match(/^✓ /)
  })

  it('proposes what may be the same by its title alone, ties what a person says, and parts what they say is not', async () => {
    const task = await w.bench.add('someday', { text: 'Air the store' })
    await w.garden.put(
      'house-repairs',
      'air.ics',
      eventText('air', 'Air the store', weekDay(3), '15:00', '15:45'),
    )
    await until('both are known here', async () => {
      const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=14`)).body
      return items.filter((i: { title: string }) => i.title === 'Air the store').length === 2
    })
    const { possible } = await desk.preview('Ideas', 'House repairs', {})
    const [found] = possible.filter((p: { title: string }) => p.title === 'Air the store')
    expect([found.a.when, found.b.when.local]).to.deep.equal([null, `${weekDay(3)}T15:00:00`])
    const { id } = await desk.save('Ideas', 'House repairs', { paired: [found.pair] })
    await until('the task has its hour', async () => (await w.bench.get(task.id))?.hour === '15:00')
    await desk.settled()
    expect(await titles('house-repairs').then(all => all.filter(t => t === 'Air the store'))).to.have.length(
      1,
    )

    const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=14`)).body
    const { key } = items.find((i: { title: string }) => i.title === 'Air the store')
    const { rule } = (await w.client.call('GET', `/cloth/${key}`)).body
    expect(rule.id).to.equal(id)
    const part = (parted: boolean) => w.client.call('PUT', `/ties/${rule.tie}`, { parted })
    expect((await part(true)).status).to.equal(200)
    await retitle('house-repairs', 'Air the store', 'Air the seed store')
    await until('it is known here', async () =>
      (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=14`)).body.items.some(
        (i: { title: string }) => i.title === 'Air the seed store',
      ),
    )
    await desk.settled()
    expect((await w.bench.get(task.id))?.text).to.equal('Air the store')
    expect((await part(false)).status).to.equal(200)
    await until('it is carried now', async () => (await w.bench.get(task.id))?.text === 'Air the seed store')
    expect((await part(false)).status, 'it is tied already').to.equal(409)
  })

  it('ties any two that a person picks, whatever they are called, and takes that back', async () => {
    await desk.save('Ideas', 'House repairs', { made: { a: 'nothing', b: 'nothing' } })
    const task = await w.bench.add('someday', { text: 'Mend the shed roof' })
    await w.garden.put(
      'house-repairs',
      'roofers.ics',
      eventText('roofers', 'Roofers come', weekDay(4), '08:00', '12:00'),
    )
    const known = async (title: string) =>
      (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.find(
        (i: { title: string }) => i.title === title,
      )
    const item = await until('the task is here', () => known('Mend the shed roof'))
    await until('and the event', () => known('Roofers come'))
    const ask = async (q: string) =>
      (await w.client.call('GET', `/ties/candidates?item=${item.key}&q=${q}`)).body.candidates[0]
    const found = await ask('roofers')
    expect(found.items.map((i: { title: string }) => i.title)).to.deep.equal(['Roofers come'])
    const pair = { rule: found.rule, item: item.key, other: found.items[0].id }
    const say = (body: object) => w.client.call('PUT', '/ties/by-hand', body)
    expect((await say({ ...pair, other: item.key, same: true })).status, 'both of one side').to.equal(409)
    expect((await say({ ...pair, same: true })).status).to.equal(200)
    await until('the task has its hour', async () => (await w.bench.get(task.id))?.hour === '08:00')
    await desk.settled()
    const second = await w.bench.add('someday', { text: 'Sweep the shed' })
    const late = await until('another task', () => known('Sweep the shed'))
    expect((await say({ ...pair, item: late.key, same: true })).status, 'it is tied already').to.equal(409)
    await w.bench.remove(second.id)
    // Called alike by now: what differs is settled as the rule says.
    const drawn = async () =>
      (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.filter(
        (i: { title: string }) => /^(Mend the shed roof|Roofers come)$/.test(i.title),
      ).length
    expect(await drawn()).to.equal(1)
    expect((await ask('')).items.map((i: { id: string }) => i.id)).to.not.include(pair.other)
    expect((await say({ ...pair, same: false })).status).to.equal(200)
    await until('each stands by itself', async () => (await drawn()) === 2)
    expect((await ask('')).items.map((i: { id: string }) => i.id)).to.include(pair.other)
    expect((await say({ ...pair, same: true })).status).to.equal(200)
    await until('they are one again', async () => (await drawn()) === 1)
  })

  it('takes a pair up again whose event was deleted and put back, and puts back what followed', async () => {
    await desk.save('Ideas', 'House repairs', {})
    const tasks = await Promise.all(
      [1, 2].map(n => w.bench.add('someday', { text: `Bed ${n}`, ...at(2, `1${n}:00`) })),
    )
    await until(
      'both have events',
      async () => (await titles('house-repairs')).filter(t => t.startsWith('Bed')).length === 2,
    )
    await desk.settled()
    const events = (await w.garden.events('house-repairs')).filter(e => /SUMMARY:Bed/.test(e.text))
    for (const e of events) await w.garden.remove('house-repairs', e.name)
    await until('their tasks have no hour any more', async () =>
      (await Promise.all(tasks.map(t => w.bench.get(t.id)))).every(t => t?.hour === null),
    )
    await desk.settled()
    // One under its own address, one under another.
    await w.garden.put('house-repairs', events[0]?.name ?? '', events[0]?.text ?? '')
    await w.garden.put('house-repairs', 'put-back.ics', events[1]?.text ?? '')
    await until('they are planned as they were', async () => {
      const now = await Promise.all(tasks.map(t => w.bench.get(t.id)))
      return now.every((t, i) => t?.hour === tasks[i]?.hour && t?.day === tasks[i]?.day)
    })
    await desk.settled()
    await w.bench.edit(tasks[0]?.id ?? '', { text: 'Bed 1, north' })
    await w.bench.edit(tasks[1]?.id ?? '', { text: 'Bed 2, north' })
    await eventTitled('house-repairs', 'Bed 1, north')
    await eventTitled('house-repairs', 'Bed 2, north')
    expect((await titles('house-repairs')).filter(t => t.startsWith('Bed'))).to.have.length(2)
  })

  it('asks where it is told to, holds that field alone, and carries what was answered', async () => {
    const rule = await desk.save('Small repairs', 'House repairs', { conflict: 'ask' })
    await desk.settled()
    const [task] = await w.bench.titled('repairs', 'Repair vent motor, House 3')
    const id = task?.id ?? ''
    const differs = () =>
      desk.unseen(async () => {
        await w.bench.edit(id, { text: 'Vent motor, said the list' })
        const [event] = (await w.garden.events('house-repairs')).filter(e => e.name === 'vent-motor.ics')
        if (event)
          await w.garden.edit('house-repairs', event, t =>
            t.replace(/SUMMARY:.*/, 'SUMMARY:Vent motor, said the calendar'),
          )
      })
    await differs()
    const queue = async () => (await w.client.call('GET', '/waiting/conflicts')).body.conflicts as any[]
    const [conflict] = await until('it is in the queue', async () => (await queue()).length === 1 && queue())
    expect(conflict).to.include({
      field: 'title',
      a: 'Vent motor, said the list',
      b: 'Vent motor, said the calendar',
    })
    expect((await desk.rule(rule.id)).conflicts).to.equal(1)
    await w.bench.edit(id, { ticked: true })
    await eventTitled('house-repairs', '✓ Vent motor, said the calendar')

    const of = [{ tie: conflict.tie, field: 'title' }]
    expect((await w.client.call('POST', '/waiting/conflicts', { of, take: 'b' })).status).to.equal(200)
    await until(
      'the task is told',
      async () => (await w.bench.get(id))?.text === 'Vent motor, said the calendar',
    )
    await until('the queue is empty', async () => (await queue()).length === 0)
    const lost = (await desk.entries('?outcome=overridden')).find(l => l.cause === 'answered')
    expect(lost.fields[0], 'what lost stays readable').to.include({ before: 'Vent motor, said the list' })

    await desk.unseen(async () => {
      await w.bench.edit(id, { text: 'One' })
      await retitle('house-repairs', '✓ Vent motor, said the calendar', '✓ Two')
    })
    await until('it waits again', async () => (await queue()).length === 1)
    await w.client.call('POST', '/waiting/conflicts', { of, take: { value: 'One and two' } })
    await eventTitled('house-repairs', '✓ One and two')
    await until('the task too', async () => (await w.bench.get(id))?.text === 'One and two')
    expect((await w.client.call('POST', '/waiting/conflicts', { of, take: 'a' })).status, 'settled').to.equal(
      409,
    )
  })

  it('stops before many removals, puts back what is wanted back, and removes the rest when told to', async () => {
    await desk.save('Ideas', 'House repairs', {})
    const tasks: { id: string }[] = []
    for (const n of [1, 2, 3, 4, 5, 6, 7, 8])
      tasks.push(await w.bench.add('someday', { text: `Bed ${n}`, ...at(2, `1${n}:00`) }))
    await until(
      'all have events',
      async () => (await titles('house-repairs')).filter(t => t.startsWith('Bed')).length === 8,
    )
    await desk.settled()
    await desk.unseen(async () => {
      for (const t of tasks) await w.bench.remove(t.id)
    })
    const brake = async () => (await w.client.call('GET', '/waiting/brake')).body.items as any[]
    const left = async () => (await titles('house-repairs')).filter(t => t.startsWith('Bed')).length
    // Up to three may go in a day; what is seen a moment later than the first is held with the rest.
    const held = await until('the brake holds', async () => {
      const items = await brake()
      return items.length >= 5 && items.length === (await left()) && items
    })
    const [first, second, third] = held
    const answered = (which: any[], answer: 'go' | 'restore') =>
      w.client.call('POST', '/waiting/brake', { ties: which.map(i => i.tie), answer })
    await answered([first], 'restore')
    await until(
      'the task is there again',
      async () => (await w.bench.titled('someday', first.title)).length === 1,
    )
    await answered([second, third], 'go')
    await until('two are gone', async () => (await left()) === held.length - 2)
    await desk.settled()
    expect((await brake()).map(i => i.title).sort(), 'a yes is for what was listed').to.deep.equal(
      held
        .slice(3)
        .map(i => i.title)
        .sort(),
    )
    expect(await w.garden.titled('house-repairs', first.title), 'not doubled').to.have.length(1)
  })

  it('puts back a change, holds it apart until somebody edits, and puts back what was made or removed', async () => {
    await desk.save('Small repairs', 'House repairs', {})
    const task = await w.bench.add('repairs', { text: 'Gate hinge', ...at(3, '09:00') })
    const made = await eventTitled('house-repairs', 'Gate hinge')
    await w.bench.edit(task.id, { text: 'Gate hinges' })
    await eventTitled('house-repairs', 'Gate hinges')
    await desk.settled()
    const entry = (await desk.entries('?words=gate')).find(l => l.op === 'patch')
    const look = (await w.client.call('POST', '/journal/put-back/look', { entries: [entry.id] })).body
      .lines[0]
    expect(look.fields).to.deep.equal([{ field: 'title', before: 'Gate hinges', after: 'Gate hinge' }])
    await w.client.call('POST', '/journal/put-back', { entries: [entry.id] })
    await eventTitled('house-repairs', 'Gate hinge')
    await desk.settled()
    expect((await w.bench.get(task.id))?.text, 'the other side keeps its own').to.equal('Gate hinges')
    expect(await titles('house-repairs')).to.include('Gate hinge')
    await w.bench.edit(task.id, { text: 'Gate, both hinges' })
    await eventTitled('house-repairs', 'Gate, both hinges')
    await desk.settled()
    const first = (await desk.entries('?words=gate')).find(l => l.op === 'create')
    const again = await w.client.call('POST', '/journal/put-back/look', { entries: [first.id] })
    expect(again.body.lines[0], 'changed since it was made').to.include({ does: 'cannot' })

    const kept = await w.bench.add('repairs', { text: 'Paint the frame', ...at(3, '13:00') })
    await eventTitled('house-repairs', 'Paint the frame')
    await desk.settled()
    const paint = (await desk.entries('?words=paint')).find(l => l.op === 'create')
    await desk.unseen(async () => {
      await retitle('house-repairs', 'Paint the frame', 'Paint it green')
      await w.client.call('POST', '/journal/put-back', { entries: [paint.id] })
    })
    await until('it is refused, and says so', async () =>
      (await desk.entries('?outcome=refused')).some(l => l.cause === 'undo' && l.title === 'Paint the frame'),
    )
    await until(
      'what somebody wrote there stands',
      async () => (await w.bench.get(kept.id))?.text === 'Paint it green',
    )
    expect(await w.garden.titled('house-repairs', 'Paint it green')).to.have.length(1)

    const other = await w.bench.add('repairs', { text: 'Oil the lock', ...at(3, '11:00') })
    await eventTitled('house-repairs', 'Oil the lock')
    await desk.settled()
    const oil = (await desk.entries('?words=oil')).find(l => l.op === 'create')
    await w.client.call('POST', '/journal/put-back', { entries: [oil.id] })
    await until(
      'it is gone',
      async () => (await w.garden.titled('house-repairs', 'Oil the lock')).length === 0,
    )
    await w.bench.edit(other.id, { details: 'With graphite.' })
    await desk.settled()
    expect(await w.garden.titled('house-repairs', 'Oil the lock'), 'and is not made again').to.have.length(0)

    await w.bench.remove(task.id)
    await until(
      'the event went with it',
      async () => (await w.garden.titled('house-repairs', 'Gate, both hinges')).length === 0,
    )
    await desk.settled()
    const gone = (await desk.entries('?words=gate')).find(l => l.op === 'delete')
    await w.client.call('POST', '/journal/put-back', { entries: [gone.id] })
    const back = await eventTitled('house-repairs', 'Gate, both hinges')
    expect(property(back.text, 'UID'), 'the same event').to.equal(property(made.text, 'UID'))
    await desk.settled()
    expect(await w.bench.titled('repairs', 'Gate, both hinges'), 'and nobody’s new one').to.have.length(0)
  })

  it('keeps two lists as one, by the deadline too, and never deletes where it may not', async () => {
    const fields = { ...defaultSettings.fields, due: 'both', priority: 'both' } as const
    const both = { fields, made: { a: 'all', b: 'all' }, deleted: { a: 'deleted', b: 'deleted' } } as const
    expect((await desk.preview('Ideas', 'Small repairs', both)).counts).to.include({ make: 8 })
    await desk.save('Ideas', 'Small repairs', { ...both, neverLoses: { a: true, b: false } })
    const copy = await until(
      'the idea is in the other list',
      async () => (await w.bench.titled('repairs', 'Moth trap evening'))[0],
    )
    expect(copy.finish_by).to.equal(weekDay(20))
    const sign = await until(
      'and the other way',
      async () => (await w.bench.titled('someday', 'Repaint sign'))[0],
    )
    await desk.settled()
    await w.bench.edit(sign.id, { text: 'Repaint the sign', finish_by: weekDay(6) })
    await until(
      'renamed',
      async () => (await w.bench.titled('repairs', 'Repaint the sign'))[0]?.finish_by === weekDay(6),
    )
    const [idea] = await w.bench.titled('someday', 'Moth trap evening')
    await w.bench.edit(copy.id, { ticked: true })
    await until('done there', async () => (await w.bench.get(idea?.id ?? ''))?.ticked)
    const [there] = await w.bench.titled('repairs', 'Repaint the sign')
    await w.bench.remove(there?.id ?? '')
    await desk.settled()
    await until(
      'the pass has seen it',
      async () => (await desk.rule((await w.client.call('GET', '/rules')).body.rules[1].id)).ties > 0,
    )
    expect(await w.bench.titled('someday', 'Repaint the sign'), 'this side never loses').to.have.length(1)
    expect(
      await w.bench.titled('repairs', 'Check frost alarms'),
      'what repeats stays its service’s',
    ).to.have.length(1)
  })

  it('pairs a repeating VTODO round by round: what is done is marked, and the next round has its own event', async () => {
    const stamp = (day: number) => weekDay(day).replace(/-/g, '')
    const text = [
      'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//test//EN\r\nBEGIN:VTODO\r\nUID:frogs\r\nDTSTAMP:20260101T000000Z',
      `DTSTART;TZID=Europe/Dublin:${stamp(7)}T090000\r\nDUE;TZID=Europe/Dublin:${stamp(7)}T170000`,
      'RRULE:FREQ=DAILY;COUNT=3\r\nSUMMARY:Count the frogs\r\nEND:VTODO\r\nEND:VCALENDAR\r\n',
    ].join('\r\n')
    const into = { task: await desk.collection('Own tasks'), event: null }
    const brought = { text, mapping: null, into, takeNew: true, takeChanged: false }
    expect((await w.client.call('POST', '/files/bring-in', brought)).status).to.equal(200)
    const task = await until('it is here', async () =>
      (await w.client.call('GET', `/cloth?from=${weekDay(7)}&days=7`)).body.items.find(
        (i: any) => i.title === 'Count the frogs' && !i.pending,
      ),
    )
    await desk.save('Own tasks', 'House repairs', {})
    const of = async (title: string) =>
      (await w.garden.titled('house-repairs', title)).map(e => property(e.text, 'DTSTART')).sort()
    const at = (day: number): string => `${stamp(day)}T090000`
    for (const done of [0, 1, 2]) {
      await until('the round has its event', async () => String(await of('Count the frogs')) === at(7 + done))
      expect(await of('✓ Count the frogs')).to.deep.equal([7, 8, 9].slice(0, done).map(at))
      await desk.settled()
      expect((await w.client.call('POST', `/cloth/${task.key}/edit`, { do: 'complete' })).status).to.equal(
        200,
      )
    }
    await until('all three are done', async () => (await of('✓ Count the frogs')).length === 3)
    expect(await of('Count the frogs')).to.deep.equal([])
  })

  it('shows a calendar as busy in another, one way, and puts back what is edited there', async () => {
    const fields = {
      ...defaultSettings.fields,
      title: 'a-to-b',
      time: 'a-to-b',
      notes: 'off',
      completion: 'a-to-b',
    } as const
    const busy = {
      fields,
      title: 'Busy',
      made: { a: 'all', b: 'nothing' },
      deleted: { a: 'deleted', b: 'again' },
    } as const
    await desk.save('House repairs', 'Festival work', { ...busy, show: { as: 'busy', class: 'private' } })
    const [shown] = await until('two are shown', async () => {
      const all = await w.garden.titled('festival-work', 'Busy')
      return all.length === 2 && all.sort((x, y) => (x.text < y.text ? -1 : 1))
    })
    expect(property(shown?.text ?? '', 'CLASS')).to.equal('PRIVATE')
    expect(shown?.text).to.not.match(/motor|boiler/i)
    await desk.settled()
    if (shown) await w.garden.edit('festival-work', shown, t => t.replace('SUMMARY:Busy', 'SUMMARY:Mine now'))
    await until('it says so again', async () => (await w.garden.titled('festival-work', 'Busy')).length === 2)
    expect((await desk.entries('?outcome=overridden'))[0]).to.include({ cause: 'one-way' })
    await w.garden.remove('house-repairs', 'boiler-service.ics')
    await until(
      'gone with its own',
      async () => (await w.garden.titled('festival-work', 'Busy')).length === 1,
    )
    await w.garden.put(
      'festival-work',
      'x.ics',
      eventText('x', 'Somebody’s own', weekDay(3), '17:00', '18:00'),
    )
    await until('it is here', async () =>
      (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.some(
        (i: any) => i.title === 'Somebody’s own',
      ),
    )
    await desk.settled()
    expect(await w.garden.titled('house-repairs', 'Busy')).to.have.length(0)
  })

  it('finds its way round a ring of rules without making anything twice, and refuses one that changes what it carries', async () => {
    const all = { made: { a: 'all', b: 'all' }, deleted: { a: 'deleted', b: 'deleted' } } as const
    await desk.save('Ideas', 'Small repairs', all)
    await desk.settled()
    await desk.save('Small repairs', 'House repairs', {})
    await desk.settled()
    const third = await desk.save('Ideas', 'House repairs', { title: 'Idea: {title}' })
    expect(third.status).to.equal(422)
    expect(third.reason).to.match(/ring.*title/)
    expect((await desk.save('Ideas', 'House repairs', {})).status).to.equal(201)
    await desk.settled()
    const idea = await w.bench.add('someday', { text: 'Star chart', ...at(4, '10:00') })
    await eventTitled('house-repairs', 'Star chart')
    await until(
      'and in the other list',
      async () => (await w.bench.titled('repairs', 'Star chart')).length === 1,
    )
    await desk.settled()
    await w.bench.edit(idea.id, { text: 'Star charts' })
    await eventTitled('house-repairs', 'Star charts')
    await desk.settled()
    expect(await titles('house-repairs')).to.deep.equal([
      'Boiler service, House 1',
      'Repair vent motor, House 3',
      'Star charts',
    ])
    expect(await w.bench.titled('repairs', 'Star charts')).to.have.length(1)
    expect(await w.bench.titled('someday', 'Star charts')).to.have.length(1)
    const { rings, edges } = (await w.client.call('GET', '/waiting/chains')).body
    expect(rings).to.have.length(1)
    expect(edges).to.have.length(4)
  })

  it('keeps its ties when it is edited, keeps every version, and reads a rule from its paper', async () => {
    const { id } = await desk.save('Small repairs', 'House repairs', {})
    await desk.settled()
    const [task] = await w.bench.titled('repairs', 'Repair vent motor, House 3')
    await w.bench.edit(task?.id ?? '', { ticked: true })
    await eventTitled('house-repairs', '✓ Repair vent motor, House 3')
    await desk.settled()
    const before = await desk.rule(id)
    await desk.save('Small repairs', 'House repairs', { mark: 'done:', title: 'Repair: {title}' }, id)
    await eventTitled('house-repairs', 'done: Repair: Repair vent motor, House 3')
    await desk.settled()
    expect((await desk.rule(id)).ties).to.equal(before.ties)
    expect((await w.bench.get(task?.id ?? ''))?.text).to.equal('Repair vent motor, House 3')
    await retitle('house-repairs', 'done: Repair: Repair vent motor, House 3', 'done: Repair: Vent motor')
    await until(
      'the title travels without the words round it',
      async () => (await w.bench.get(task?.id ?? ''))?.text === 'Vent motor',
    )
    const { versions } = (await w.client.call('GET', `/rules/${id}/versions`)).body
    expect(versions.map((v: any) => [v.version, v.settings.mark, v.who])).to.deep.equal([
      [2, 'done:', 'Ines Varga'],
      [1, '✓', 'Ines Varga'],
    ])
    const paper = (await w.client.call('GET', `/rules/${id}/paper`)).body
    const read = await w.client.call('POST', '/rules/paper', { text: JSON.stringify(paper) })
    expect(read.body).to.deep.include({
      a: await desk.collection('Small repairs'),
      b: await desk.collection('House repairs'),
    })
    expect(read.body.settings.title).to.equal('Repair: {title}')
    for (const text of ['{', '[]', JSON.stringify({ ...paper, settings: { mark: 7 } })])
      expect((await w.client.call('POST', '/rules/paper', { text })).status, text).to.equal(422)
  })

  it('lists sub-tasks in the notes of their parent’s event, and ticks them from there', async () => {
    await desk.save('Festival print', 'House repairs', {
      date: 'due',
      noHour: 'all-day',
      subtasks: 'listed',
      openSubtasks: 'completed',
    })
    const event = await eventTitled('house-repairs', 'Posters')
    const notes = () => w.garden.get('house-repairs', event.name).then(e => property(e.text, 'DESCRIPTION'))
    const listed = async (line: string) => (await notes())?.includes(line)
    await until(
      'they are listed',
      async () => (await listed('☐ Choose the paper')) && listed('☐ Read the last proof'),
    )
    await desk.settled()
    const printed = async (title: string) => (await w.bench.titled('print', title))[0]
    const paper = await printed('Choose the paper')
    const proof = await printed('Read the last proof')
    const posters = await printed('Posters')
    const ticked = async (id = '') => (await w.bench.get(id))?.ticked
    const now = await w.garden.get('house-repairs', event.name)
    await w.garden.edit('house-repairs', now, t => t.replace('☐ Choose', '☑ Choose'))
    await until('it is ticked in the list', () => ticked(paper?.id))
    expect(await ticked(proof?.id)).to.equal(false)
    await w.bench.edit(posters?.id ?? '', { ticked: true })
    await until('what was open is done with its parent', () => ticked(proof?.id))
    await until('and shown so', () => listed('☑ Read the last proof'))
  })
})
