import { expect } from 'chai'
import type { ClothItem } from '@loom/core'
import { eventText, property } from './support/garden.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** What people do on the Cloth beyond moving things, and what of it reaches the services. */
describe('acts on the Cloth', function () {
  this.timeout(40_000)
  let w: World
  const FESTIVAL = 'festival-work'
  const ZONE = 'Europe/Dublin'

  before(async () => {
    w = await startWorld()
    await until('the first pass is through', async () => (await w.garden.events(FESTIVAL)).length >= 5)
  })
  after(() => w.close())

  const at = (day: number, hour: string) => ({
    kind: 'zoned',
    local: `${weekDay(day)}T${hour}:00`,
    zone: ZONE,
  })
  const items = async (): Promise<ClothItem[]> =>
    (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=14`)).body.items
  const seen = (what: string, is: (i: ClothItem) => boolean) =>
    until(what, async () => (await items()).find(is))
  const titled = (title: string, kind?: ClothItem['kind']) =>
    seen(`"${title}"`, i => i.title === title && !i.pending && (!kind || i.kind === kind))
  const act = async (key: string, edit: object) => {
    const { status, body } = await w.client.call('POST', `/cloth/${key}/edit`, edit)
    return { status, ...body } as { status: number; inverse: object; reason: string }
  }
  const make = async (making: object) => w.client.call('POST', '/cloth/make', making)
  const collection = async (name: string): Promise<string> => {
    const { body } = await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=1`)
    return body.sources.find((s: { name: string }) => s.name === name).id
  }
  const settle = (what: string, of: () => Promise<boolean>) => until(what, of)

  describe('blocks', () => {
    it('reserve further time in our own layer, have the task’s title, and go when the task is done', async () => {
      const task = await w.bench.add('festival', { text: 'Sew banners', finish_by: weekDay(9) })
      const { key } = await titled('Sew banners', 'task')
      for (const day of [8, 9])
        expect(
          (await make({ what: 'block', task: key, start: at(day, '09:00'), minutes: 60, into: null })).status,
        ).to.equal(201)
      const [one, two] = await until('two blocks', async () => {
        const found = (await items()).filter(i => i.of === key && !i.pending)
        return found.length === 2 && found
      })
      expect([one?.kind, one?.title]).to.deep.equal(['block', 'Sew banners'])
      expect((await titled('Sew banners', 'task')).blocks).to.deep.equal({ ahead: 120, spent: 0 })
      await act(one?.key ?? '', { do: 'spend', spent: true })
      expect((await titled('Sew banners', 'task')).blocks).to.deep.equal({ ahead: 60, spent: 60 })
      await w.bench.edit(task.id, { text: 'Sew six banners' })
      await settle('the blocks are called the same', async () =>
        (await items()).filter(i => i.of === key).every(i => i.title === 'Sew six banners'),
      )
      await act(two?.key ?? '', { do: 'rename', title: 'Hem them' })
      await w.bench.edit(task.id, { text: 'Sew banners' })
      await settle('one has its own title, the other follows', async () => {
        const now = (await items()).filter(i => i.of === key && !i.pending).map(i => i.title)
        return now.includes('Hem them') && now.includes('Sew banners')
      })
      await w.bench.edit(task.id, { ticked: true })
      await settle('what is ahead is gone, the task itself is not touched', async () =>
        (await items()).every(i => i.of !== key),
      )
    })

    it('deleting one unplans that part and nothing else, and it can be had back', async () => {
      await w.bench.add('festival', { text: 'Oil gate', finish_by: weekDay(9) })
      const { key } = await titled('Oil gate', 'task')
      await make({ what: 'block', task: key, start: at(8, '11:00'), minutes: 30, into: null })
      const block = await seen('its block', i => i.of === key && !i.pending)
      const { inverse } = await act(block.key, { do: 'delete' })
      await settle('it is gone', async () => (await items()).every(i => i.of !== key && i.key !== block.key))
      expect((await titled('Oil gate', 'task')).blocks).to.deep.equal({ ahead: 0, spent: 0 })
      await settle('it is back', async () => (await act(block.key, inverse)).status === 200)
      await seen('as time for its task', i => i.key === block.key && i.of === key && !i.pending)
      expect((await titled('Oil gate', 'task')).blocks).to.deep.equal({ ahead: 30, spent: 0 })
    })

    it('in a calendar that a rule reads, a block is nobody’s new event; the next takes a deleted event’s place', async () => {
      await w.bench.add('festival', { text: 'Paint arch', day: weekDay(8), hour: '09:00' })
      await settle('its event', async () => (await w.garden.titled(FESTIVAL, 'Paint arch')).length === 1)
      const { key } = await titled('Paint arch', 'tied')
      await make({
        what: 'block',
        task: key,
        start: at(10, '14:00'),
        minutes: 60,
        into: await collection('Festival work'),
        said: { transparency: 'transparent', class: 'private' },
      })
      const block = await settled2('Paint arch', 2)
      expect(property(block.text, 'CATEGORIES')).to.contain('Movable')
      expect(property(block.text, 'TRANSP')).to.equal('TRANSPARENT')
      expect(property(block.text, 'CLASS')).to.equal('PRIVATE')
      const first = (await w.garden.titled(FESTIVAL, 'Paint arch')).find(e => e.name !== block.name)
      await w.garden.remove(FESTIVAL, first?.name ?? '')
      await settle('the task is planned where the block is', async () => {
        const [task] = await w.bench.titled('festival', 'Paint arch')
        return task?.day === weekDay(10) && task.hour === '14:00'
      })
      expect(await w.bench.titled('festival', 'Paint arch')).to.have.length(1)
    })

    it('and whatever else was made is taken back by whoever made it, once its service has it', async () => {
      await w.bench.add('festival', { text: 'Rake gravel', finish_by: weekDay(9) })
      const { key } = await titled('Rake gravel', 'task')
      const into = await collection('Teaching')
      const repeats = { every: 'weekly', interval: 1, until: null }
      for (const making of [
        { what: 'block', task: key, start: at(9, '15:00'), minutes: 30, into: null },
        { what: 'event', title: 'Seed talk', start: at(9, '16:00'), minutes: 30, into, repeats },
        { what: 'task', title: 'Order rakes', start: null, into: null },
      ]) {
        const made = (await make(making)).body.intent
        const back = () => w.client.call('POST', `/cloth/made/${made}/take-back`)
        await until('it has been made', async () => (await back()).status === 200)
        await until('it is gone again', async () => (await back()).status === 404)
      }
      expect((await titled('Rake gravel', 'task')).blocks).to.deep.equal({ ahead: 0, spent: 0 })
      await settle(
        'no calendar has it',
        async () => (await w.garden.titled('teaching', 'Seed talk')).length === 0,
      )
      expect((await items()).some(i => i.title === 'Order rakes')).to.equal(false)
      expect((await w.client.call('POST', '/cloth/made/nothing/take-back')).status).to.equal(404)
    })

    async function settled2(title: string, count: number) {
      const found = await until(`${count} events`, async () => {
        const events = await w.garden.titled(FESTIVAL, title)
        return events.length === count && events
      })
      const day = weekDay(10).replace(/-/g, '')
      const event = found.find(e => property(e.text, 'DTSTART')?.startsWith(day))
      if (!event) throw new Error('no block')
      return event
    }
  })

  it('a batch holds several tasks in order, each checked off by itself', async () => {
    const baker = await w.bench.add('festival', { text: 'Call baker' })
    for (const text of ['Call printer', 'Call piper']) await w.bench.add('festival', { text })
    const keys = await Promise.all(
      ['Call baker', 'Call printer', 'Call piper'].map(async t => (await titled(t)).key),
    )
    const made = await make({
      what: 'batch',
      title: 'Calls',
      tasks: [],
      start: at(9, '15:00'),
      minutes: 45,
      into: null,
    })
    expect(made.status).to.equal(201)
    const batch = await seen('the batch', i => i.kind === 'batch' && !i.pending)
    expect(batch.batch, 'before the first task is in it').to.deep.equal([])
    await w.client.call('PUT', `/cloth/${batch.key}/batch`, { tasks: keys.slice(0, 2) })
    const order = [keys[2], keys[0], keys[1]]
    const { body } = await w.client.call('PUT', `/cloth/${batch.key}/batch`, { tasks: order })
    expect(body.before).to.deep.equal(keys.slice(0, 2))
    expect((await titled('Calls')).batch.map(t => t.key)).to.deep.equal(order)
    await act(keys[0] ?? '', { do: 'complete' })
    await settle('it is ticked there and in the batch', async () => {
      const task = await w.bench.get(baker.id)
      const now = (await items()).find(i => i.key === batch.key)
      return task?.ticked === true && now?.batch.find(t => t.key === keys[0])?.done === true
    })
    expect((await titled('Calls')).batch.filter(t => t.done)).to.have.length(1)
  })

  it('a batch that repeats holds tasks for each date by itself, wherever its dates go', async () => {
    for (const text of ['Ring one', 'Ring two', 'Ring three']) await w.bench.add('festival', { text })
    const [one = '', two = '', three = ''] = await Promise.all(
      ['Ring one', 'Ring two', 'Ring three'].map(async t => (await titled(t)).key),
    )
    const repeats = { every: 'daily', interval: 1, until: weekDay(13) }
    const times = { start: at(9, '15:00'), minutes: 45, into: null, repeats }
    const title = 'Ringing round'
    expect((await make({ what: 'batch', title, tasks: [one], ...times })).status).to.equal(201)
    const dates = async (): Promise<ClothItem[]> =>
      (await items())
        .filter(i => i.title === title && !i.pending && i.place.kind === 'timed')
        .sort((x, y) => (x.key.split('@')[1] ?? '').localeCompare(y.key.split('@')[1] ?? ''))
    const held = async () => (await dates()).map(d => d.batch.map(t => t.title))
    await until('five dates', async () => (await dates()).length === 5)
    const [, second, third] = await dates()
    const put = (key: string | undefined, tasks: string[]) =>
      w.client.call('PUT', `/cloth/${key}/batch`, { tasks })
    expect((await put(second?.key, [two, one])).status).to.equal(200)
    await put(third?.key, [three])
    const as = [['Ring one'], ['Ring two', 'Ring one'], ['Ring three'], [], []]
    expect(await held()).to.deep.equal(as)
    const { body } = await w.client.call('GET', `/cloth/${one}`)
    expect(body.batches.map((b: { key: string }) => b.key)).to.include(second?.key)

    const series = (key: string | undefined, which: string, edit: object) =>
      w.client.call('POST', `/cloth/${key}/series`, { which, edit })
    const wall = (ms: number) => new Date(ms).toLocaleTimeString('en-GB', { timeZone: ZONE })
    const starts = (hour: string) => async () =>
      (await dates()).filter(d => d.place.kind === 'timed' && wall(d.place.startMs).startsWith(hour)).length
    await series(second?.key, 'all', { do: 'place', start: at(10, '16:30'), minutes: 45 })
    await until('all are later', async () => (await starts('16:30')()) === 5)
    expect(await held(), 'moved with them').to.deep.equal(as)
    const [, later] = await dates()
    const split = await series(later?.key, 'onward', { do: 'place', start: at(10, '18:00'), minutes: 45 })
    await until('four go their own way', async () => (await starts('18:00')()) === 4)
    await until('with their tasks', async () => JSON.stringify(await held()) === JSON.stringify(as))
    await series(later?.key, 'all', split.body.inverse)
    await until('one series again', async () => (await starts('16:30')()) === 5)
    await until('as they were', async () => JSON.stringify(await held()) === JSON.stringify(as))
  })

  it('keeps what no service can hold: any day of a week, put by, left out of my plan', async () => {
    const task = await w.bench.add('festival', { text: 'Count chairs', day: weekDay(2) })
    const { key } = await titled('Count chairs')
    const anyDay = await act(key, { do: 'any-day', week: weekDay(7) })
    await settle('its day is gone at its service', async () => (await w.bench.get(task.id))?.day === null)
    expect(await titled('Count chairs')).to.include({ week: weekDay(7), putBy: null })
    await act(key, { do: 'put-by', until: '' })
    expect(await titled('Count chairs')).to.include({ week: null, putBy: '' })
    await act(key, { do: 'leave-out', out: true })
    expect((await titled('Count chairs')).leftOut).to.equal(true)
    await w.client.signIn('tobias@quillmere.example')
    expect((await titled('Count chairs')).leftOut, 'in somebody else’s plan').to.equal(false)
    await w.client.signIn()
    await act(key, anyDay.inverse)
    await settle('it is back on its day', async () => (await w.bench.get(task.id))?.day === weekDay(2))
    expect((await titled('Count chairs')).putBy).to.equal(null)
  })

  it('takes quick acts one after the other while a rule’s own write to the item is under way', async () => {
    const task = await w.bench.add('festival', { text: 'Wind cables', day: weekDay(8), hour: '10:00' })
    await settle('its event', async () => (await w.garden.titled(FESTIVAL, 'Wind cables')).length === 1)
    const { key } = await titled('Wind cables', 'tied')
    await w.fault('bench', { latencyMs: 900 })
    // Each is written to the event; the rule then writes the task, slowly, and finds somebody in between.
    for (const hour of ['11:00', '12:00']) {
      expect((await act(key, { do: 'place', start: at(9, hour) })).status).to.equal(200)
      await settle('the event has moved', async () => {
        const [event] = await w.garden.titled(FESTIVAL, 'Wind cables')
        return Boolean(event?.text.includes(`T${hour.replace(':', '')}00`))
      })
    }
    expect((await act(key, { do: 'unplace' })).status).to.equal(200)
    await w.fault('bench', {})
    await settle('the task has no day and no event', async () => {
      const now = await w.bench.get(task.id)
      return now?.day === null && (await w.garden.titled(FESTIVAL, 'Wind cables')).length === 0
    })
    await w.fault('bench', { latencyMs: 600 })
    await act(key, { do: 'rename', title: 'Wind all cables' })
    await new Promise(resolve => setTimeout(resolve, 300))
    expect((await act(key, { do: 'delete' })).status).to.equal(200)
    await settle('it is gone', async () => (await w.bench.get(task.id)) === null)
    await w.fault('bench', {})
  })

  it('completes one round of a repeating task, and only that one though the answer was lost', async () => {
    const day = weekDay(8)
    const task = await w.bench.add('festival', { text: 'Water ferns', day, hour: '07:30', again: 'day' })
    const first = await until('its event', async () => (await w.garden.titled(FESTIVAL, 'Water ferns'))[0])
    const { key } = await titled('Water ferns', 'tied')
    await w.fault('bench', { drop: 'after', method: 'PATCH', times: 1 })
    const done = await act(key, { do: 'complete' })
    expect([done.status, done.inverse], 'it cannot be taken back').to.deep.equal([200, null])
    const told = await until(
      'the event of that round is marked',
      async () => (await w.garden.titled(FESTIVAL, '✓ Water ferns'))[0],
    )
    expect(told.name).to.equal(first.name)
    const next = await until(
      'the next round has its own',
      async () => (await w.garden.titled(FESTIVAL, 'Water ferns'))[0],
    )
    expect(next.text).to.contain(`T0730`).and.contain(weekDay(9).replaceAll('-', ''))
    expect(await w.bench.get(task.id)).to.include({ ticked: false, times_done: 1, day: weekDay(9) })
    // By the mark in the calendar, with the answer lost again.
    await w.fault('bench', { drop: 'after', method: 'PATCH', times: 1 })
    await w.garden.put(FESTIVAL, next.name, next.text.replace('SUMMARY:Water', 'SUMMARY:✓ Water'))
    await settle(
      'the task is in its third round',
      async () => (await w.bench.get(task.id))?.day === weekDay(10),
    )
    await settle(
      'which has its event',
      async () => (await w.garden.titled(FESTIVAL, 'Water ferns')).length === 1,
    )
    expect((await w.bench.get(task.id))?.times_done).to.equal(2)
    expect(await w.garden.titled(FESTIVAL, '✓ Water ferns')).to.have.length(2)
    await w.fault('bench', {})
  })

  it('calling off is not completing', async () => {
    const start = at(8, '16:00')
    expect((await make({ what: 'task', title: 'Tent talk', start, into: null })).status).to.equal(201)
    const { key } = await titled('Tent talk', 'task')
    const settled = (of: (i: ClothItem) => boolean) =>
      until('it has arrived', async () => (await items()).some(i => i.key === key && !i.pending && of(i)))
    await settled(i => !i.done)
    const { inverse } = await act(key, { do: 'cancel' })
    await settled(i => i.cancelled && i.done)
    await act(key, inverse)
    await settled(i => !i.done)
    // Bench List knows ticked and open: there it would be called done, or nothing.
    const card = await w.bench.add('festival', { text: 'Ring the choir' })
    const refused = await act((await titled('Ring the choir')).key, { do: 'cancel' })
    expect([refused.status, refused.reason]).to.deep.equal([
      409,
      'Its service cannot cancel tasks. Exclude it from your plan, put it by, or delete it.',
    ])
    expect((await w.bench.get(card.id))?.ticked).to.equal(false)
  })

  it('says in the calendar itself that an event may be moved, and believes the calendar', async () => {
    await w.garden.put(
      'garden-team',
      'fix-1.ics',
      eventText('fix-1', 'Soil talk', weekDay(8), '13:00', '13:30', ['CATEGORIES:Talks']),
    )
    const { key } = await titled('Soil talk')
    await act(key, { do: 'fix', movable: false })
    await act(key, { do: 'kind', kind: 'focus' })
    const [, categories] = await until('its categories', async () => {
      const [e] = await w.garden.titled('garden-team', 'Soil talk')
      const found = /CATEGORIES:(.*)/.exec(e?.text ?? '')?.[1]
      return found?.includes('Focus') && ['', found]
    })
    expect(categories?.trim().split(',').sort()).to.deep.equal(['Fixed', 'Focus', 'Talks'])
    expect((await act(key, { do: 'place', start: at(9, '10:00') })).reason).to.match(/marked fixed/)
  })

  it('moves a task to another list with all that belongs to it, the original last', async () => {
    const task = await w.bench.add('festival', {
      text: 'Mend kiosk',
      details: 'Two hinges',
      day: weekDay(8),
      hour: '10:00',
      finish_by: weekDay(10),
    })
    await settle('its event', async () => (await w.garden.titled(FESTIVAL, 'Mend kiosk')).length === 1)
    const [event] = await w.garden.titled(FESTIVAL, 'Mend kiosk')
    const { key } = await titled('Mend kiosk', 'tied')
    await make({ what: 'block', task: key, start: at(9, '10:00'), minutes: 30, into: null })
    await seen('its block', i => i.of === key && !i.pending)
    const to = await collection('Own tasks')
    const outlook = await w.client.call('GET', `/cloth/${key}/move?to=${to}`)
    expect(outlook.body).to.deep.include({ losses: [], blocks: 1, parts: 0 })
    expect((await w.client.call('POST', `/cloth/${key}/move`, { to })).status).to.equal(200)
    await settle('the original is gone', async () => (await w.bench.get(task.id)) === null)
    const there = await titled('Mend kiosk', 'tied')
    expect(there.sources[0]).to.equal(to)
    expect(there.key).not.to.equal(key)
    expect(there).to.deep.include({ due: weekDay(10), blocks: { ahead: 30, spent: 0 } })
    const details = (await w.client.call('GET', `/cloth/${there.key}`)).body
    expect(details.description).to.equal('Two hinges')
    // It is the same event still, and the two are kept in step as before.
    expect(await w.garden.titled(FESTIVAL, 'Mend kiosk')).to.have.length(1)
    await act(there.key, { do: 'rename', title: 'Mend the kiosk' })
    await settle('its event is renamed', async () => {
      const now = await w.garden.get(FESTIVAL, event?.name ?? '')
      return property(now.text, 'SUMMARY') === 'Mend the kiosk'
    })
    expect(await w.bench.titled('festival', 'Mend kiosk'), 'nothing was made again').to.have.length(0)
  })

  it('names what the new home cannot hold, and does not move what cannot go', async () => {
    await w.bench.add('festival', { text: 'Long '.repeat(20).trim() })
    const { key } = await titled('Long '.repeat(20).trim())
    const tasks = await collection('Own tasks')
    expect(
      (await w.client.call('POST', `/cloth/${key}/move`, { to: await collection('Festival work') })).body
        .reason,
    ).to.match(/holds events/)
    await make({
      what: 'task',
      title: 'T'.repeat(400),
      start: null,
      into: null,
      said: { description: 'x', priority: 1 },
    })
    const own = await titled('T'.repeat(400))
    const { body } = await w.client.call('GET', `/cloth/${own.key}/move?to=${await collection('Festival')}`)
    expect(body.losses.join(' ')).to.match(/characters/)
    expect(tasks).not.to.equal('')
  })

  it('changes one date of a series, this and later ones, or all, and takes each back', async () => {
    const series = eventText('round-1', 'House round', weekDay(0), '08:00', '08:30', [
      'RRULE:FREQ=DAILY;COUNT=10',
    ])
    await w.garden.put('garden-team', 'round-1.ics', series)
    const dates = async () =>
      (await items()).filter(i => i.title.startsWith('House round')).sort((x, y) => (x.key < y.key ? -1 : 1))
    const rounds = await until('ten dates', async () => {
      const d = await dates()
      return d.length === 10 && d
    })
    const on = (n: number) => rounds[n]?.key ?? ''
    const change = async (key: string, which: string, edit: object) => {
      const { status, body } = await w.client.call('POST', `/cloth/${key}/series`, { which, edit })
      expect(status, body?.reason).to.equal(200)
      return body.inverse as object
    }
    const text = async () => (await w.garden.get('garden-team', 'round-1.ics')).text
    await change(on(2), 'one', { do: 'rename', title: 'House round with guests' })
    await settle(
      'one is renamed',
      async () => (await dates()).filter(d => d.title.endsWith('guests')).length === 1,
    )
    // Two dates changed one right after the other: neither is lost for the other.
    await Promise.all([
      change(on(3), 'one', { do: 'rename', title: 'House round, short' }),
      change(on(4), 'one', { do: 'rename', title: 'House round, long' }),
    ])
    await settle('both are renamed', async () => {
      const now = (await dates()).map(d => d.title)
      return now.includes('House round, short') && now.includes('House round, long')
    })
    const cut = await change(on(6), 'onward', { do: 'place', start: at(6, '09:00') })
    await settle('four are at nine, in a series of their own', async () => {
      const hour = new Intl.DateTimeFormat('en-GB', { timeZone: ZONE, hour: '2-digit' })
      const late = (await dates()).filter(
        d => d.place.kind === 'timed' && hour.format(d.place.startMs) === '09',
      )
      return late.length === 4 && (await w.garden.titled('garden-team', 'House round')).length === 2
    })
    expect(await text()).to.match(/UNTIL=/)
    await change(on(0), 'one', cut)
    await settle(
      'it is one series again',
      async () =>
        (await w.garden.titled('garden-team', 'House round')).length === 1 && /COUNT=10/.test(await text()),
    )
    await until('its dates are back', async () => (await dates()).length === 10)
    await change(on(9), 'one', { do: 'delete' })
    await settle(
      'one date is left out',
      async () => (await dates()).length === 9 && /EXDATE/.test(await text()),
    )
    const gone = await change(on(1), 'all', { do: 'delete' })
    await settle(
      'the series is gone',
      async () => (await w.garden.titled('garden-team', 'House round')).length === 0,
    )
    await settle('and is had back', async () => (await act(on(1).split('@')[0] ?? '', gone)).status === 200)
    await settle('as it was', async () => (await dates()).length === 9)
  })

  it('makes an event with guests and repetition where it is asked to, and copies an item', async () => {
    const { people } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=1`)).body
    const tobias = people.find((p: { name: string }) => p.name === 'Tobias Lund').id
    const made = await make({
      what: 'event',
      title: 'Night rehearsal',
      start: at(8, '18:00'),
      minutes: 60,
      kind: 'meeting',
      guests: [tobias],
      repeats: { every: 'weekly', interval: 1, until: weekDay(21) },
      into: await collection('Festival work'),
      said: { location: 'Lawn', class: 'private' },
    })
    expect(made.status).to.equal(201)
    const [event] = await until('it is in the calendar', async () => {
      const found = await w.garden.titled(FESTIVAL, 'Night rehearsal')
      return found.length === 1 && found
    })
    expect(event?.text)
      .to.match(/RRULE:FREQ=WEEKLY;UNTIL=/)
      .and.match(/CLASS:PRIVATE/)
      .and.match(/LOCATION:Lawn/)
    expect(event?.text.replace(/\r\n /g, '')).to.contain('mailto:tobias@quillmere.example')
    await w.bench.add('festival', { text: 'Copy me', details: 'once', finish_by: weekDay(8) })
    const { key } = await titled('Copy me')
    await w.client.call('POST', `/cloth/${key}/duplicate`, { start: null })
    await settle('there are two', async () => (await w.bench.titled('festival', 'Copy me')).length === 2)
    const copies = await w.bench.titled('festival', 'Copy me')
    expect(copies.map(c => [c.details, c.finish_by])).to.deep.equal([
      ['once', weekDay(8)],
      ['once', weekDay(8)],
    ])
  })

  it('invites somebody to an event made here, of the team or by address, and takes that back', async () => {
    const event = {
      what: 'event',
      title: 'Glass supper',
      start: at(9, '18:00'),
      minutes: 60,
      guests: ['mei@else.example'],
    }
    expect((await make({ ...event, into: await collection('Festival work') })).status).to.equal(201)
    const text = async (): Promise<string> =>
      ((await w.garden.titled(FESTIVAL, 'Glass supper'))[0]?.text ?? '').replace(/\r\n /g, '')
    await until('it is in the calendar', async () => (await text()).includes('mailto:mei@else.example'))
    const { key } = await titled('Glass supper')
    const guests = async () => (await w.client.call('GET', `/cloth/${key}`)).body.guests
    expect(await guests()).to.deep.equal({
      organizer: 'ines@quillmere.example',
      guests: [{ name: '', email: 'mei@else.example', answer: 'none' }],
      fixed: null,
      // Its service tells them, and what they answer comes with it.
      meeting: null,
      answers: [],
    })
    const invite = (add: object[], drop: object[] = [], of = key) =>
      w.client.call('POST', `/cloth/${of}/edit`, { do: 'invite', add, drop })
    const tobias = { name: 'Tobias Lund', email: 'tobias@quillmere.example' }
    const said = await invite([tobias], [{ name: '', email: 'MEI@else.example' }])
    expect(said.status, JSON.stringify(said.body)).to.equal(200)
    await until('he is there and she is not', async () => {
      const now = await text()
      return now.includes('mailto:tobias@') && !now.includes('mei@else')
    })
    expect((await invite([tobias])).body.reason).to.match(/those already/)
    expect((await invite([])).status).to.equal(409)
    expect((await invite([{ name: 'X', email: 'nobody' }])).status).to.equal(400)
    expect((await w.client.call('POST', `/cloth/${key}/edit`, said.body.inverse)).status).to.equal(200)
    await until('it is as it was', async () => {
      const now = await text()
      return now.includes('mailto:mei@') && !now.includes('tobias@')
    })
    const { lines } = (await w.client.call('GET', '/journal')).body
    expect(JSON.stringify(lines)).to.contain('Tobias Lund')

    // What somebody else invites to is theirs to say; and what is kept here has guests as well.
    await w.garden.put(
      FESTIVAL,
      'theirs.ics',
      eventText('theirs', 'Supper of others', weekDay(9), '20:00', '21:00', [
        'ORGANIZER:mailto:host@else.example',
        'ATTENDEE:mailto:ines@quillmere.example',
      ]),
    )
    const theirs = await until('it is here', () => titled('Supper of others'))
    const refused = await invite([tobias], [], theirs.key)
    expect([refused.status, /host@else.example invites/.test(refused.body.reason)]).to.deep.equal([409, true])
    const own = await make({
      ...event,
      title: 'Kept supper',
      guests: [],
      into: await collection('Own events'),
    })
    expect(own.status, JSON.stringify(own.body)).to.equal(201)
    const kept = await until('it is kept', () => titled('Kept supper'))
    const invited = await invite([tobias], [], kept.key)
    expect(invited.status, JSON.stringify(invited.body)).to.equal(200)
    await until('he is invited there', async () => {
      const { body } = await w.client.call('GET', `/cloth/${kept.key}`)
      return body.guests?.guests.some((g: { email: string }) => g.email === tobias.email)
    })
  })
})
