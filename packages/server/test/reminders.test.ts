import { expect } from 'chai'
import { noReminders, type Reminders } from '@loom/core/view'
import { audibleTo } from '../src/access/audible.ts'
import { Reminding } from '../src/reminders/reminding.ts'
import { ourKeys } from '../src/reminders/push.ts'
import { now } from './support/clock.ts'
import { Client, startWorld, until, type World } from './support/world.ts'

/** Reminders follow what stands: none for an old time, none twice, none lost where a server or a device fails. */
describe('reminders', function () {
  this.timeout(60_000)
  const MINUTE = 60_000
  const HOUR = 60 * MINUTE
  const OURS = /^(Zorblax|Quennip|Vexil|Plimber) /
  let w: World
  let anouk: Client
  /** A round hour far enough ahead for nothing else to begin then. */
  const START = Math.ceil(now() / HOUR) * HOUR + 30 * HOUR

  before(async () => {
    w = await startWorld()
    w.app.reminding.stop()
    await until('a rule is there', async () => (await w.client.call('GET', '/journal')).body.lines.length > 0)
    anouk = new Client(w.client.base)
    await anouk.signIn('anouk@quillmere.example')
  })
  after(() => w.close())

  /** A server at that moment. */
  const at = (ms: number, more: object = {}): Reminding =>
    new Reminding({ ...w.app.ctx, now: () => ms, ...more })
  const look = (ms: number): Promise<void> => at(ms).look()
  async function remind(reminders: Partial<Reminders>, who = w.client): Promise<void> {
    const { version, planning } = (await who.call('GET', '/planning')).body
    const body = {
      version,
      planning: { ...planning, reminders: { ...noReminders, quiet: null, ...reminders } },
    }
    expect((await who.call('PUT', '/planning', body)).status).to.equal(200)
  }
  const itemOf = async (title: string): Promise<any> =>
    (
      await w.client.call(
        'GET',
        `/cloth?from=${new Date(START - 24 * HOUR).toISOString().slice(0, 10)}&days=7`,
      )
    ).body.items.find((i: any) => i.title === title && !i.pending)
  const stamp = (ms: number): string => new Date(ms).toISOString().replace(/[-:]|\.\d+/g, '')
  const fileOf = (title: string): string => `${title.replaceAll(' ', '-')}.ics`
  /** An event at the other side, and the moment from which it is seen here. */
  async function event(title: string, startMs: number, extra: string[] = []): Promise<any> {
    const lines: string[] = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//test//EN',
      'BEGIN:VEVENT',
      `UID:${fileOf(title)}`,
    ]
    const more = [
      `DTSTAMP:${stamp(now())}`,
      `DTSTART:${stamp(startMs)}`,
      'DURATION:PT45M',
      `SUMMARY:${title}`,
    ]
    const text = [...lines, ...more, ...extra, 'END:VEVENT', 'END:VCALENDAR', ''].join('\r\n')
    await w.garden.put('garden-team', fileOf(title), text)
    return until(`${title} is seen`, async () => {
      const item = await itemOf(title)
      return item?.place?.startMs === startMs && item
    })
  }
  async function device(
    who = w.client,
    sender?: string,
  ): Promise<{
    id: string
    messages: () => Promise<any[]>
    tries: () => Promise<number>
    is: (manner: string) => Promise<unknown>
  }> {
    const made = await fetch(`${w.standins}/push/devices`, {
      method: 'POST',
      body: JSON.stringify({ sender }),
    })
    const { id, subscription } = (await made.json()) as any
    expect(
      (await who.call('POST', '/reminders/push', { subscription, device: 'Zorblax browser' })).status,
    ).to.equal(200)
    const state = async () => (await (await fetch(`${w.standins}/push/devices/${id}`)).json()) as any
    return {
      id,
      // What begins there by itself is none of ours.
      messages: async () => (await state()).messages.filter((m: any) => OURS.test(m.told.title)),
      tries: async () => (await state()).tries,
      is: manner =>
        fetch(`${w.standins}/push/devices/${id}`, { method: 'PUT', body: JSON.stringify({ manner }) }),
    }
  }
  const dropDevices = async (): Promise<void> => {
    for (const d of (await w.client.call('GET', '/reminders/push')).body.devices)
      await w.client.call('DELETE', `/reminders/push/${d.id}`)
  }
  const lettersAbout = async (title: string): Promise<any[]> => {
    const { letters } = (await (await fetch(`${w.standins}/mailbox/messages`)).json()) as any
    return letters.filter((l: any) => l.subject.startsWith(`${title}: `))
  }
  const givenAt = async (ms: number, who = w.client): Promise<any[]> => {
    // What the page is told goes by the server's own clock.
    const { now: was } = w.app.ctx
    w.app.ctx.now = () => ms
    try {
      const { given } = (await who.call('GET', '/reminders')).body
      return given.filter((g: any) => OURS.test(g.title))
    } finally {
      w.app.ctx.now = was
    }
  }
  /** As if the minute for which somebody is at it had passed. */
  const claimsPass = (): Promise<number> => w.app.ctx.db.run('UPDATE reminder_deliveries SET next_at = 0')

  it('come at their moment, once, in the page, by mail and to a device that only we can reach', async () => {
    await remind({ event: 10, mail: true })
    const mine = await device(w.client, (await ourKeys(w.app.ctx)).publicKey)
    // A push holds four thousand bytes, whatever is written in an event.
    await event('Zorblax rehearsal', START, [`LOCATION:${'棚'.repeat(1500)}`])
    await look(START - 11 * MINUTE)
    expect(await mine.messages()).to.deep.equal([])
    // Two servers in one moment.
    await Promise.all([look(START - 10 * MINUTE), look(START - 10 * MINUTE), look(START - 10 * MINUTE)])
    await look(START - 9 * MINUTE)
    const [push, ...more] = await mine.messages()
    expect(more).to.deep.equal([])
    expect(push.told.title).to.equal('Zorblax rehearsal')
    expect(push.told.body).to.match(/^Begins \d\d:00 · 棚+…$/)
    expect(push.urgency).to.equal('high')
    // Kept for a device that is off no longer than it is of use.
    expect(push.ttl).to.be.within(10 * 60, 26 * 60)
    const [letter, ...others] = await lettersAbout('Zorblax rehearsal')
    expect(others).to.deep.equal([])
    expect(letter.text).to.contain('/cloth?at=')
    const [given] = await givenAt(START - 9 * MINUTE)
    expect([given.title, given.kind, given.aboutMs]).to.deep.equal(['Zorblax rehearsal', 'event', START])
    expect(await givenAt(START - 9 * MINUTE, anouk), 'nobody else').to.deep.equal([])
    await w.client.call('POST', '/reminders/done', { ids: [given.id] })
    expect(await givenAt(START - 8 * MINUTE)).to.deep.equal([])
    expect((await anouk.call('POST', '/reminders/done', { ids: [given.id] })).status).to.equal(404)
    await dropDevices()
  })

  it('follow what moved, and say nothing of the old time, nor of what is gone', async () => {
    await remind({ event: 10 })
    const mine = await device()
    await event('Quennip visit', START + 2 * HOUR)
    await event('Vexil call', START + 2 * HOUR)
    await event('Quennip visit', START + 3 * HOUR)
    await w.garden.remove('garden-team', fileOf('Vexil call'))
    await until('it is gone', async () => (await itemOf('Vexil call')) === undefined)
    await look(START + 2 * HOUR - 5 * MINUTE)
    expect(await mine.messages()).to.deep.equal([])
    await look(START + 3 * HOUR - 5 * MINUTE)
    expect((await mine.messages()).map(m => m.told.title)).to.deep.equal(['Quennip visit'])
    // Moved again, it is another time of which one is to know; and what was told of the old one is no longer shown.
    await event('Quennip visit', START + 4 * HOUR)
    expect(await givenAt(START + 3 * HOUR - 4 * MINUTE)).to.deep.equal([])
    await look(START + 4 * HOUR - 5 * MINUTE)
    expect((await mine.messages()).length).to.equal(2)
    await dropDevices()
  })

  it('that a device did not take, or was sent by a server that died, come again under the same name', async () => {
    await remind({ event: 10, mail: true })
    const [busy, gone, well] = [await device(), await device(), await device()]
    await busy.is('busy')
    await gone.is('gone')
    const when = START + 6 * HOUR - 5 * MINUTE
    await event('Plimber lecture', START + 6 * HOUR)
    // It dies when the first has been sent: nothing of what it sent is noted.
    const dies = async (request: any) => {
      await w.app.ctx.http(request)
      throw new Error('killed')
    }
    await at(when, { http: dies }).look()
    await look(when)
    expect((await well.messages()).length, 'while somebody is at it, nobody else is').to.equal(1)
    await busy.is('well')
    await claimsPass()
    await look(when + MINUTE)
    expect((await busy.messages()).map(m => m.told.title)).to.deep.equal(['Plimber lecture'])
    const told = await well.messages()
    expect(new Set(told.map(m => m.told.tag)).size).to.equal(1)
    expect(new Set(told.map(m => m.topic)).size).to.equal(1)
    expect(new Set((await lettersAbout('Plimber lecture')).map(l => l.id)).size).to.equal(1)
    const { devices } = (await w.client.call('GET', '/reminders/push')).body
    expect(devices.length, 'what does not want it any more is dropped').to.equal(2)
    const tries = await gone.tries()
    await claimsPass()
    await look(when + 2 * MINUTE)
    expect(await gone.tries()).to.equal(tries)
    expect((await w.app.ctx.db.rows('SELECT * FROM reminder_deliveries')).length).to.equal(0)
    await dropDevices()
  })

  it('are held up by no device that never answers', async () => {
    await remind({ event: 10 })
    const [silent, well] = [await device(), await device()]
    await silent.is('silent')
    await event('Zorblax lock-up', START + 8 * HOUR)
    const looking = look(START + 8 * HOUR - 5 * MINUTE)
    await until('the other has it', async () => (await well.messages()).length === 1, 4_000)
    await looking
    const { devices } = (await w.client.call('GET', '/reminders/push')).body
    expect(devices.map((d: any) => d.failures > 0).sort()).to.deep.equal([false, true])
    await dropDevices()
    await claimsPass()
    await look(START + 8 * HOUR - 4 * MINUTE)
  })

  it('can be put off, and come again only where they still stand', async () => {
    await remind({ event: 10 })
    const mine = await device()
    for (const title of ['Quennip tour', 'Vexil tour']) await event(title, START + 10 * HOUR)
    const when = START + 10 * HOUR - 10 * MINUTE
    await look(when)
    const given = await givenAt(when)
    expect(given.map(g => g.title).sort()).to.deep.equal(['Quennip tour', 'Vexil tour'])
    const { now: was } = w.app.ctx
    w.app.ctx.now = () => when
    for (const { id } of given)
      expect(
        (await w.client.call('POST', `/reminders/${id}/later`, { againAt: when + 5 * MINUTE })).status,
      ).to.equal(200)
    expect(
      (await w.client.call('POST', `/reminders/${given[0].id}/later`, { againAt: when - 1 })).status,
    ).to.equal(422)
    expect(
      (await anouk.call('POST', `/reminders/${given[0].id}/later`, { againAt: when + MINUTE })).status,
    ).to.equal(404)
    w.app.ctx.now = was
    expect(await givenAt(when + MINUTE)).to.deep.equal([])
    await event('Vexil tour', START + 11 * HOUR)
    await Promise.all([look(when + 5 * MINUTE), look(when + 5 * MINUTE)])
    const told = (await mine.messages()).map(m => m.told)
    expect(told.map(t => t.title).sort()).to.deep.equal(['Quennip tour', 'Quennip tour', 'Vexil tour'])
    expect(new Set(told.map(t => t.tag)).size, 'it is shown anew').to.equal(3)
    await dropDevices()
  })

  it('that were put off come again, whatever is wrong with those of another', async () => {
    await remind({ event: 10 })
    const mine = await device()
    await event('Plimber round', START + 12 * HOUR)
    const when = START + 12 * HOUR - 10 * MINUTE
    await look(when)
    const { id, workspaceId } = await anouk.call('GET', '/me').then(async ({ body }) => ({
      id: body.id as string,
      workspaceId: (
        await w.app.ctx.db.one<any>('SELECT workspace_id AS at FROM members WHERE id = :id', { id: body.id })
      ).at as string,
    }))
    const { db } = w.app.ctx
    await db.run(
      `INSERT INTO planning (member_id, workspace_id, version, body) VALUES (:id, :workspaceId, 1, '{')`,
      {
        id,
        workspaceId,
      },
    )
    await db.run(
      `INSERT INTO reminders (id, workspace_id, member_id, name, about_ms, given_at, again_at)
       VALUES ('unreadable', :workspaceId, :id, 'event 1 x', 1, :when, :again)`,
      { id, workspaceId, when, again: when - 1 },
    )
    await db.run(
      "UPDATE reminders SET again_at = :again WHERE again_at IS NULL AND name LIKE CONCAT('event ', :at, '%')",
      {
        again: when + MINUTE,
        at: START + 12 * HOUR,
      },
    )
    await look(when + MINUTE)
    expect((await mine.messages()).length, 'given, and again').to.equal(2)
    const [left] = await db.rows<any>("SELECT again_at FROM reminders WHERE id = 'unreadable'")
    expect(Number(left.again_at), 'tried again later').to.be.greaterThan(when + MINUTE)
    await db.run("DELETE FROM reminders WHERE id = 'unreadable'")
    await db.run('DELETE FROM planning WHERE member_id = :id', { id })
    await dropDevices()
  })

  it('go by what was said of one item, and only of what is seen', async () => {
    await remind({ event: 10 })
    const mine = await device()
    const [loud, mute] = [
      await event('Zorblax loud', START + 14 * HOUR),
      await event('Vexil mute', START + 14 * HOUR),
    ]
    expect((await w.client.call('PUT', `/reminders/items/${loud.key}`, { minutes: 60 })).status).to.equal(200)
    expect((await w.client.call('PUT', `/reminders/items/${mute.key}`, { minutes: null })).status).to.equal(
      200,
    )
    expect((await w.client.call('PUT', '/reminders/items/nowhere', { minutes: 5 })).status).to.equal(404)
    await look(START + 13 * HOUR + MINUTE)
    expect((await mine.messages()).map(m => m.told.title)).to.deep.equal(['Zorblax loud'])
    await look(START + 14 * HOUR - MINUTE)
    expect((await mine.messages()).length).to.equal(1)
    await w.client.call('PUT', `/reminders/items/${mute.key}`, { minutes: 'usual' })
    await look(START + 14 * HOUR)
    expect((await mine.messages()).map(m => m.told.title)).to.deep.equal(['Zorblax loud', 'Vexil mute'])
    await dropDevices()
  })

  it('are the alarms that an event has in its calendar, for whoever wants them', async () => {
    const mine = await device()
    const alarm = ['BEGIN:VALARM', 'ACTION:DISPLAY', 'DESCRIPTION:x', 'TRIGGER:-PT25M', 'END:VALARM']
    await remind({ alarms: true })
    await event('Quennip alarm', START + 18 * HOUR, alarm)
    await event('Vexil plain', START + 18 * HOUR)
    await look(START + 18 * HOUR - 26 * MINUTE)
    expect(await mine.messages()).to.deep.equal([])
    await look(START + 18 * HOUR - 25 * MINUTE)
    expect((await mine.messages()).map(m => m.told.title)).to.deep.equal(['Quennip alarm'])
    await remind({ event: 30 })
    await look(START + 18 * HOUR - 20 * MINUTE)
    expect((await mine.messages()).map(m => m.told.title)).to.include('Vexil plain')
    await dropDevices()
  })

  it('reach no device whose session is over, and nobody hears of another’s', async () => {
    await remind({ event: 10 })
    const elsewhere = new Client(w.client.base)
    await elsewhere.signIn()
    const theirs = await device(elsewhere)
    await event('Plimber close', START + 16 * HOUR)
    await elsewhere.call('DELETE', '/session')
    await look(START + 16 * HOUR - 5 * MINUTE)
    expect(await theirs.tries()).to.equal(0)
    const [a, b] = [(await w.client.call('GET', '/me')).body, (await anouk.call('GET', '/me')).body]
    const { db, feed } = w.app.ctx
    const { workspace_id: workspaceId } =
      (await db.one<any>('SELECT workspace_id FROM members WHERE id = :id', { id: a.id })) ?? {}
    const all = (await feed.since(workspaceId, (await feed.latest(workspaceId)) - 1)).filter(
      n => n.change.topics[0] === 'reminders',
    )
    expect(all.length).to.equal(1)
    const hears = async (id: string): Promise<number> =>
      (await audibleTo(db, { id, role: 'coordinator', workspaceId }, all, 0)).length
    expect([await hears(a.id), await hears(b.id)]).to.deep.equal([1, 0])
  })
})
