import { expect } from 'chai'
import { property } from './support/garden.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** Colleagues find a time: by all that each of them has, of which only times leave; and take it in one step. */
describe('a common time', function () {
  this.timeout(60_000)
  let w: World
  let tobias: Client
  let people: string[]
  let calendar: string
  const at = (clock: string, day = 9): number => Date.parse(`${weekDay(day)}T${clock}:00Z`)
  const MINUTE = 60_000

  before(async () => {
    w = await startWorld()
    await until('a rule is there', async () => (await w.client.call('GET', '/journal')).body.lines.length > 0)
    tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    people = [(await w.client.call('GET', '/me')).body.id, (await tobias.call('GET', '/me')).body.id]
    const { lists } = (await w.client.call('GET', '/sharing')).body
    calendar = lists.find((l: any) => l.name === 'Garden team').id
  })
  after(() => w.close())

  const asked = (more: object = {}) => ({
    people,
    minutes: 45,
    below: 0,
    fromMs: at('08:00'),
    toMs: at('18:00'),
    ...more,
  })
  const look = async (who: Client, more: object = {}): Promise<any[]> => {
    const answer = await who.call('POST', '/common-time/look', asked(more))
    expect(answer.status, JSON.stringify(answer.body)).to.equal(200)
    return answer.body.times
  }
  const stamp = (ms: number): string => new Date(ms).toISOString().replace(/[-:]|\.\d+/g, '')
  async function event(title: string, fromMs: number, more: string[] = []): Promise<void> {
    const time = [`DTSTART:${stamp(fromMs)}`, 'DURATION:PT45M', `SUMMARY:${title}`, ...more]
    const head = ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//test//EN', 'BEGIN:VEVENT', `UID:${title}`]
    const text = [...head, `DTSTAMP:${stamp(fromMs)}`, ...time, 'END:VEVENT', 'END:VCALENDAR', ''].join(
      '\r\n',
    )
    await w.garden.put('garden-team', `${title}.ics`, text)
  }

  it('is one at which nobody has anything, also what whoever asks may not see', async () => {
    const [first] = await look(tobias)
    expect(first.reasons).to.deep.equal([])
    await event('Zorblax-secret', first.fromMs, ['CLASS:PRIVATE'])
    const others = await until('it is taken', async () => {
      const now = await look(tobias)
      return now[0].fromMs !== first.fromMs && now
    })
    for (const o of others)
      expect(o.fromMs >= first.toMs || o.toMs <= first.fromMs, JSON.stringify(o)).to.equal(true)
    expect(JSON.stringify(others)).to.not.contain('Zorblax')
  })

  it('is written with those who come, once', async () => {
    const [first] = await look(w.client)
    const take = () =>
      w.client.call('POST', '/common-time/take', {
        ...asked(),
        startMs: first.fromMs,
        title: 'Quennip planning',
        location: 'Long Room',
        into: calendar,
      })
    const answer = await take()
    expect(answer.status, JSON.stringify(answer.body)).to.equal(201)
    const [written] = await until('it is in the calendar', async () => {
      const found = await w.garden.titled('garden-team', 'Quennip planning')
      return found.length > 0 && found
    })
    expect(property(written?.text ?? '', 'LOCATION')).to.equal('Long Room')
    expect((written?.text ?? '').replace(/\r\n[ \t]/g, '')).to.match(
      /ATTENDEE[^\r\n]*tobias@quillmere\.example/i,
    )
    await until('it is seen', async () => (await look(w.client))[0].fromMs !== first.fromMs)
    expect((await take()).status).to.equal(409)
  })

  it('lets planned work give way that hardly presses, and says what and where to', async () => {
    const startMs = at('13:00', 10)
    const start = { kind: 'zoned', local: new Date(startMs).toISOString().slice(0, 19), zone: 'UTC' }
    const task = { what: 'task', title: 'Vexil labels', start, estimate: 45, into: null, said: {} }
    expect((await w.client.call('POST', '/cloth/make', task)).status).to.equal(201)
    const only = { fromMs: startMs, toMs: startMs + 45 * MINUTE }
    await until('it is in the way', async () => (await look(w.client, only)).length === 0)
    // Not before its service has it: until then nobody knows whether it can be moved.
    const time = await until('it can give way', async () => (await look(w.client, { ...only, below: 60 }))[0])
    const [reason] = time.reasons
    expect([reason.kind, reason.title, reason.person]).to.deep.equal(['gives way', 'Vexil labels', people[0]])
    expect(reason.to).to.be.a('number')
    const taken = await w.client.call('POST', '/common-time/take', {
      ...asked(),
      below: 60,
      startMs,
      title: 'Plimber talk',
      into: calendar,
    })
    expect(taken.body.gave.map((g: any) => [g.title, g.to, g.why])).to.deep.equal([
      ['Vexil labels', reason.to, null],
    ])
    await until('it has moved', async () => {
      const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(7)}&days=14`)).body
      return items.find((i: any) => i.title === 'Vexil labels')?.place.startMs === reason.to
    })
  })

  it('is refused for whom the team does not know, and for a range that is none', async () => {
    const answer = await w.client.call('POST', '/common-time/look', asked({ people: ['nobody'] }))
    expect(answer.status).to.equal(404)
    const odd = await w.client.call('POST', '/common-time/look', asked({ toMs: at('08:00') }))
    expect(odd.status).to.equal(400)
  })
})
