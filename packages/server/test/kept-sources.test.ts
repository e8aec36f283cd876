import { expect } from 'chai'
import type { ClothItem } from '@loom/core'
import { trial } from '../src/view/shared-cloth.ts'
import { loadSources } from '../src/view/sources.ts'
import { RuleDesk } from './support/rules.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** What is kept in memory of items is what the database holds of them, whatever changes it. */
describe('items kept in memory', function () {
  this.timeout(60_000)
  let w: World

  before(async () => {
    w = await startWorld()
    const desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
  })
  after(() => w.close())

  const week = async (): Promise<ClothItem[]> =>
    (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items
  const titled = async (title: string): Promise<ClothItem> => {
    const found = (await week()).find(i => i.title === title)
    if (!found) throw new Error(`nothing is called ${title}`)
    return found
  }
  const db = () => w.app.ctx.db
  /** As whoever changes something numbers it. */
  const number = () => db().run('UPDATE change_counters SET change_seq = change_seq + 1')

  it('are the same objects until their row, or what we keep on them, is written to', async () => {
    const { key } = await titled('Boiler service, House 1')
    const row = await db().one<{ workspace: string }>(
      'SELECT workspace_id AS workspace FROM mirrors WHERE id = :key',
      { key },
    )
    const load = async () => (await loadSources(db(), row?.workspace ?? '', [key])).get(key)
    const first = await load()
    expect(first?.item.summary).to.equal('Boiler service, House 1')
    expect(await load()).to.equal(first)
    await db().insert(
      `INSERT INTO own_layer (mirror_id, workspace_id, movable) SELECT id, workspace_id, 0 FROM mirrors WHERE id = :key`,
      { key },
    )
    const kept = await load()
    expect(kept?.own?.movable).to.equal(false)
    await db().run('UPDATE own_layer SET movable = 1 WHERE mirror_id = :key', { key })
    expect((await load())?.own?.movable).to.equal(true)
    await db().run('DELETE FROM own_layer WHERE mirror_id = :key', { key })
    expect((await load())?.own?.movable).to.equal(null)
    expect(await load(), 'nothing has changed since').to.equal(await load())
    expect((await loadSources(db(), 'another workspace', [key])).size).to.equal(0)
  })

  it('follow what may be written to, and whose they are', async () => {
    expect((await titled('Boiler service, House 1')).movable).to.equal(true)
    const set = async (writable: number): Promise<void> => {
      await db().run(`UPDATE collections SET writable = :writable WHERE name = 'House repairs'`, { writable })
      await number()
    }
    await set(0)
    expect((await titled('Boiler service, House 1')).fixedBecause).to.match(/only be read/)
    await set(1)
    expect((await titled('Boiler service, House 1')).movable).to.equal(true)
    await db().run(`UPDATE collections SET takes_part = 0 WHERE name = 'House repairs'`)
    await number()
    expect((await week()).some(i => i.title === 'Boiler service, House 1')).to.equal(false)
    await db().run(`UPDATE collections SET takes_part = 1 WHERE name = 'House repairs'`)
    await number()
    expect((await week()).some(i => i.title === 'Boiler service, House 1')).to.equal(true)
  })

  it('follow a series whose dates change at its service, in every span', async () => {
    const event = (lines: string[]): string =>
      [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        'PRODID:-//test//EN',
        'BEGIN:VEVENT',
        'UID:daily',
        'DTSTAMP:20260101T000000Z',
        `DTSTART;TZID=Europe/Dublin:${weekDay(0).replace(/-/g, '')}T080000`,
        'DURATION:PT15M',
        'RRULE:FREQ=DAILY;COUNT=10',
        ...lines,
        'END:VEVENT',
        'END:VCALENDAR',
        '',
      ].join('\r\n')
    const dates = async (from: number, title: string): Promise<number> => {
      const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(from)}&days=7`)).body
      return items.filter((i: ClothItem) => i.title === title).length
    }
    await w.garden.put('teaching', 'daily.ics', event(['SUMMARY:Open the vents']))
    await until('it is seen', async () => (await dates(0, 'Open the vents')) === 7)
    expect(await dates(7, 'Open the vents')).to.equal(3)
    const left = `EXDATE;TZID=Europe/Dublin:${weekDay(1).replace(/-/g, '')}T080000`
    await w.garden.put('teaching', 'daily.ics', event(['SUMMARY:Shut the vents', left]))
    await until('its title is seen', async () => (await dates(7, 'Shut the vents')) === 3)
    expect(await dates(0, 'Shut the vents')).to.equal(6)
    expect(await dates(0, 'Open the vents')).to.equal(0)
  })

  it('are gone on from where it is known what has changed, and give what reading everything gives', async () => {
    // Each answer is compared with a whole reading (support/world.ts): what differs fails the whole file.
    const before = trial.wentOn
    const edit = async (title: string, what: object): Promise<void> => {
      const { key } = await titled(title)
      expect((await w.client.call('POST', `/cloth/${key}/edit`, what)).status).to.equal(200)
      await week()
    }
    const shows = (title: string) =>
      until(`${title} is shown`, async () => (await week()).some(i => i.title === title && !i.pending))
    const task = await w.bench.add('festival', { text: 'Count the masks', day: weekDay(3), hour: '10:00' })
    await shows('Count the masks')
    await until('its event', async () => (await w.garden.titled('festival-work', 'Count the masks'))[0])
    await week()
    await w.bench.edit(task.id, { text: 'Count all masks' })
    await shows('Count all masks')
    await edit('Count all masks', { do: 'rename', title: 'Count the masks again' })
    await shows('Count the masks again')
    await edit('Count the masks again', { do: 'leave-out', out: true })
    await edit('Count the masks again', { do: 'leave-out', out: false })
    const { key } = await titled('Count the masks again')
    const start = { kind: 'zoned', local: `${weekDay(4)}T15:00:00`, zone: 'Europe/Dublin' }
    for (const making of [
      { what: 'block', task: key, title: 'Second count', start, minutes: 30, into: null },
      { what: 'batch', title: 'Odds and ends', tasks: [key], start, minutes: 45, into: null },
    ]) {
      expect((await w.client.call('POST', '/cloth/make', making)).status).to.equal(201)
      await shows(making.title ?? '')
    }
    const batch = await titled('Odds and ends')
    const other = await titled('Call bus company')
    for (const tasks of [[other.key, key], [key], []]) {
      await w.client.call('PUT', `/cloth/${batch.key}/batch`, { tasks })
      expect((await titled('Odds and ends')).batch.map(t => t.key)).to.deep.equal(tasks)
    }
    await edit('Second count', { do: 'delete' })
    await until('it is gone', async () => !(await week()).some(i => i.title === 'Second count'))
    await edit('Count the masks again', { do: 'complete' })
    await until(
      'it is marked',
      async () => (await w.garden.titled('festival-work', '✓ Count the masks again'))[0],
    )
    await w.bench.remove(task.id)
    await until('both are gone', async () => !(await week()).some(i => i.title.includes('Count the masks')))
    expect(trial.wentOn - before).to.be.above(12)
    expect(trial.mismatches).to.deep.equal([])
  })
})
