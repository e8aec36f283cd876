import { expect } from 'chai'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** The journal, looked through: by words, rule, person, service, field, outcome, and one item's whole history. */
describe('the journal', function () {
  this.timeout(40_000)
  let w: World
  let choices: Record<'rules' | 'people' | 'services', { id: string; name: string }[]>

  before(async () => {
    w = await startWorld()
    await until('the first pass is through', async () => (await w.garden.events('festival-work')).length >= 5)
    const rename = async (from: string, title: string): Promise<void> => {
      const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body
      const item = items.find((i: { title: string }) => i.title === from)
      await w.client.call('POST', `/cloth/${item.key}/edit`, { do: 'rename', title })
      await until('it is renamed there', async () => (await w.bench.titled('festival', title))[0])
    }
    await rename('Write lantern brief', 'Lantern_brief 100%')
    await w.fault('garden', { status: 403, method: 'PUT', times: 1 })
    const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body
    const event = items.find((i: { title: string }) => i.title === 'Week look-back')
    await w.client.call('POST', `/cloth/${event.key}/edit`, { do: 'rename', title: 'Refused look-back' })
    await until('it is refused', async () => (await look({ outcome: 'refused' })).length > 0)
    await until('the event followed', async () =>
      (await look({ words: 'lantern_brief' })).some((l: any) => l.rule !== null),
    )
    await until('nothing waits any more', async () => {
      const { rules } = (await w.client.call('GET', '/rules')).body
      const waiting = await w.app.ctx.db.rows(`SELECT id FROM intents WHERE state IN ('open', 'waiting')`)
      return rules.every((r: { waiting: number }) => r.waiting === 0) && waiting.length === 0
    })
    // Everything is written down by now: a paused connection writes nothing more.
    for (const { id } of (await w.client.call('GET', '/connections')).body.connections)
      await w.client.call('PUT', `/connections/${id}/paused`, { paused: true })
    choices = (await w.client.call('GET', '/journal/choices')).body
  })
  after(() => w.close())

  const look = async (query: Record<string, string> = {}): Promise<any[]> =>
    (await w.client.call('GET', `/journal?${new URLSearchParams(query).toString()}`)).body.lines
  const idOf = (list: { id: string; name: string }[], name: string): string =>
    list.find(x => x.name.startsWith(name))?.id ?? ''

  it('is searched in titles, whatever is typed', async () => {
    expect((await look({ words: 'LANTERN_BRIEF' })).length).to.be.greaterThan(0)
    for (const words of ['%', 'n_b', '100%'])
      for (const line of await look({ words })) expect(line.title.toLowerCase()).to.contain(words)
    expect(await look({ words: 'lanternXbrief' })).to.deep.equal([])
    expect(await look({ words: `' OR 1=1 --` })).to.deep.equal([])
  })

  it('is narrowed by each part, and by several together', async () => {
    const all = await look()
    const rule = idOf(choices.rules, 'Festival')
    const who = idOf(choices.people, 'Ines')
    const service = idOf(choices.services, 'Bench')
    const cases: [Record<string, string>, (line: any) => boolean][] = [
      [{ rule }, l => l.rule !== null],
      [{ who }, l => l.who === 'Ines Varga'],
      [{ service }, l => l.place.startsWith('Bench List')],
      [{ field: 'title' }, l => l.fields.some((f: any) => f.field === 'title')],
      [{ outcome: 'refused' }, l => l.outcome === 'refused'],
      [{ who, service, field: 'title' }, l => l.who === 'Ines Varga' && l.place.startsWith('Bench List')],
    ]
    for (const [query, holds] of cases) {
      const found = await look(query)
      expect(found.length, JSON.stringify(query)).to.be.within(1, all.length)
      expect(found.every(holds), JSON.stringify(query)).to.equal(true)
      const ids = all.filter(holds).map(l => l.id)
      if (!('field' in query)) expect(found.map(l => l.id)).to.deep.equal(ids)
    }
    expect((await w.client.call('GET', '/journal?outcome=lost')).status).to.equal(400)
  })

  it('tells one item’s history on both sides', async () => {
    const [edit] = await look({ words: 'lantern', who: idOf(choices.people, 'Ines') })
    const history = await look({ item: edit.item })
    const places = new Set(history.map(l => l.place.split(' · ')[0]))
    expect([...places].sort()).to.deep.equal(['Bench List', 'Garden Calendars'])
    expect(history.every(l => /lantern/i.test(l.title))).to.equal(true)
    expect(history.map(l => l.id)).to.include(edit.id)
  })

  it('is read page by page, without a line twice', async () => {
    const all = await look()
    const [, second] = all
    const older = await look({ before: String(second.id) })
    expect(older.map(l => l.id)).to.deep.equal(all.slice(2).map(l => l.id))
  })
})
