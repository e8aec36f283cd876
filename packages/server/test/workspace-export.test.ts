import { expect } from 'chai'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** A workspace as a file, for its coordinators, as far as they see it. */
describe('the export of a workspace', function () {
  this.timeout(40_000)
  let w: World
  let tobias: Client
  before(async () => {
    w = await startWorld()
    tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
  })
  after(() => w.close())

  it('holds people, sharing, rules, views, comments, journal and items, and no secret', async () => {
    await w.bench.add('festival', { text: 'Wax the rails', day: weekDay(1), hour: '10:00' })
    const item = await until('it is here', async () =>
      (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.find(
        (i: any) => i.title === 'Wax the rails' && !i.pending,
      ),
    )
    await w.client.call('POST', `/comments/on/${item.key}`, { text: 'The thin wax, @Tobias Lund' })
    const made = { what: 'task', title: 'Of Tobias alone', start: null, into: null, for: null }
    expect((await tobias.call('POST', '/cloth/make', made)).status).to.equal(201)
    await until('it is his', async () =>
      (await tobias.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.some(
        (i: any) => i.title === 'Of Tobias alone' && !i.pending,
      ),
    )
    await until('it is synced', async () =>
      (await w.client.call('GET', '/journal')).body.lines.some((l: any) => l.title === 'Wax the rails'),
    )
    expect((await tobias.call('GET', '/team/export')).status, 'no coordinator').to.equal(403)
    const { body } = await w.client.call('GET', '/team/export')
    expect(body.workspace.name).to.equal('Quillmere Garden')
    expect(body.members.map((m: any) => [m.name, m.role])).to.deep.include(['Ines Varga', 'coordinator'])
    const festival = body.lists.find((l: any) => l.name === 'Festival')
    expect(festival).to.deep.include({ service: 'Bench List', holds: 'tasks', owner: 'Ines Varga' })
    expect(festival.shared).to.deep.equal([{ with: 'everybody', level: 'change' }])
    expect(body.rules.map((r: any) => [r.a, r.b])).to.deep.include([
      'Bench List · Festival',
      'Garden Calendars · Festival work',
    ])
    expect(body.comments.map((c: any) => [c.title, c.text])).to.deep.equal([
      ['Wax the rails', 'The thin wax, @Tobias Lund'],
    ])
    expect(body.journal.map((j: any) => j.title)).to.include('Wax the rails')
    const waxed = body.items.find(
      (i: any) => i.list === 'Bench List · Festival' && i.item.title === 'Wax the rails',
    )
    expect(waxed.item['@type']).to.equal('Task')
    const text = JSON.stringify(body)
    expect(text).to.not.match(/Of Tobias alone|bench-key|argon2|night-flowering/)
  })
})
