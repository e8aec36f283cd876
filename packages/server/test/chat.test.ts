import { expect } from 'chai'
import { addDays, dayAt, type ClothItem, zoned, zonedAt } from '@loom/core'
import { type Planning, plainPlanning } from '@loom/core/planning'
import { now } from './support/clock.ts'
import { begin, keep, readOnce, titlesIn } from './support/connecting.ts'
import { RuleDesk } from './support/rules.ts'
import { Client, startWorld, until, type World } from './support/world.ts'

/** A day goes into a chat at a chosen level, marked messages are tasks, and what somebody is at is told and taken back. */
describe('a chat', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk
  let id = ''
  const ZONE = 'Europe/Dublin'
  const DAY = addDays(dayAt(now(), ZONE), 1)

  before(async () => {
    w = await startWorld()
    w.app.statuses.stop()
    desk = new RuleDesk(w)
    await desk.ready()
    const found = await begin(w, 'chat')
    const { people, me: mine } = (await w.client.call('GET', `/cloth?from=${DAY}&days=1`)).body
    const me = people.find((p: { id: string }) => p.id === mine)
    id = await keep(w, found, { name: 'Gate Chat', ownerId: me.id })
    await readOnce(w, id)
  })
  after(() => w.close())

  const there = async <T>(path: string, method = 'GET', body?: object): Promise<T> =>
    (
      await fetch(`${w.standins}/chat/api${path}`, {
        method,
        headers: { Authorization: 'Bearer chat-key-ines' },
        ...(body && { body: JSON.stringify(body) }),
      })
    ).json() as Promise<T>
  const messages = async (): Promise<{ text: string; marked: boolean }[]> =>
    (await there<{ messages: { text: string; marked: boolean }[] }>('/channels/gate-house/messages')).messages
  const status = async (): Promise<{ text: string; until: string } | null> =>
    (await there<{ status: { text: string; until: string } | null }>('/status')).status
  const told = async (query: string): Promise<string> =>
    (await w.client.call('GET', `/chat/told?from=${DAY}&${query}`)).body.text
  const make = async (title: string, start: object, more: object = {}): Promise<ClothItem> => {
    const body = { what: 'event', title, start, minutes: 60, into: null, ...more }
    expect((await w.client.call('POST', '/cloth/make', body)).status).to.equal(201)
    return until(`"${title}"`, async () => {
      const { items } = (await w.client.call('GET', `/cloth?from=${addDays(DAY, -1)}&days=3`)).body
      return items.find((i: ClothItem) => i.title === title && !i.pending)
    })
  }
  const planned = async (patch: Partial<Planning>): Promise<void> => {
    const { version } = (await w.client.call('GET', '/planning')).body
    const planning = { ...plainPlanning, ...patch }
    expect((await w.client.call('PUT', '/planning', { version, planning })).status).to.equal(200)
    await w.app.statuses.look()
  }

  it('makes tasks of what is marked there, and takes the mark off what is done', async () => {
    expect(await titlesIn(w, id)).to.deep.equal(['Bring the spare latch for the lower gate.'])
    const { items } = (await w.client.call('GET', `/cloth?from=${DAY}&days=1`)).body
    const latch = items.find((i: ClothItem) => i.title.startsWith('Bring the spare latch'))
    await w.client.call('POST', `/cloth/${latch.key}/edit`, { do: 'complete' })
    await until('its mark is off', async () => (await messages()).every(m => !m.marked))
  })

  it('shows what would be written at each level, and writes exactly what was sent, once', async () => {
    const talk = await make('Zorblax talk', zoned(`${DAY}T09:00:00`, ZONE))
    await make('Quennip matter', zoned(`${DAY}T11:00:00`, ZONE), {
      said: { class: 'private' },
      into: await desk.collection('Festival work'),
    })
    for (const level of ['title', 'everything']) {
      const text = await told(`level=${level}`)
      expect(text).to.include('09:00–10:00 Zorblax talk').and.not.to.include('Quennip')
      expect(text).to.include('11:00–12:00 taken')
    }
    const busy = await told('level=busy')
    expect(busy).to.match(/09:00–10:00 taken/)
    expect(busy).not.to.match(/Zorblax|Quennip/)
    expect(talk.title).to.equal('Zorblax talk')

    const text = `${await told('level=title')}\n\nBack at two.`
    const before = (await messages()).length
    const sent = await w.client.call('POST', '/chat/messages', { chat: id, channel: 'gate-house', text })
    expect(sent.status).to.equal(201)
    const now = await messages()
    expect(now).to.have.length(before + 1)
    expect(now.at(-1)?.text).to.equal(text)
  })

  it('tells nothing of lists that are not theirs to show, and sends by nobody else’s account', async () => {
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    expect((await tobias.call('GET', '/chat')).body.chats).to.deep.equal([])
    const { text } = (await tobias.call('GET', `/chat/told?from=${DAY}&level=everything`)).body
    expect(text).not.to.match(/Zorblax|taken/)
    const body = { chat: id, channel: 'gate-house', text: 'Theirs' }
    expect((await tobias.call('POST', '/chat/messages', body)).status).to.equal(404)
    expect((await messages()).some(m => m.text === 'Theirs')).to.equal(false)
  })

  it('says why something was not sent, and keeps nothing else from working', async () => {
    const send = (channel: string, text: string) =>
      w.client.call('POST', '/chat/messages', { chat: id, channel, text })
    expect((await send('nowhere', 'x')).status).to.equal(404)
    expect((await send('gate-house', 'x'.repeat(4001))).body.reason).to.match(/4000 characters/)
    expect((await w.client.call('GET', '/chat/told?from=1999-01-01&level=busy')).status).to.equal(422)
    await w.fault('chat', { status: 503, method: 'POST', times: 1 })
    const failed = await send('gate-house', 'Once more')
    expect(failed.status).to.equal(502)
    await w.fault('chat', { drop: 'after', method: 'POST', times: 1 })
    const unknown = await send('gate-house', 'Perhaps there')
    expect(unknown.status).to.equal(502)
    expect(unknown.body.reason).to.match(/look there before you send it again/)
    await w.fault('chat', {})
    expect((await messages()).filter(m => m.text === 'Perhaps there')).to.have.length(1)
  })

  it('says what its person is at while they want it, and takes it back when it is over', async () => {
    // Whatever the demo holds at this hour is none of theirs.
    const { items } = (await w.client.call('GET', `/cloth?from=${addDays(DAY, -1)}&days=2`)).body
    for (const { key, kind } of items as ClothItem[])
      if (kind === 'event') await w.client.call('POST', `/cloth/${key}/edit`, { do: 'leave-out', out: true })
    await planned({ tellsStatus: true })
    expect(await status()).to.equal(null)
    const focusUntilMs = now() + 50 * 60_000
    await planned({ tellsStatus: true, focusUntilMs })
    expect(await status()).to.deep.equal({
      text: 'In focus, please write later',
      until: new Date(focusUntilMs).toISOString(),
    })
    const meeting = await make('Vexil meeting', zonedAt(now() - 60_000, ZONE))
    await w.app.statuses.look()
    expect((await status())?.text).to.equal('In a meeting')
    await w.client.call('POST', `/cloth/${meeting.key}/edit`, { do: 'delete' })
    await desk.settled()
    await w.app.statuses.look()
    expect((await status())?.text, 'focus goes on').to.equal('In focus, please write later')
    await planned({ tellsStatus: false, focusUntilMs })
    expect(await status()).to.equal(null)
    expect(await w.app.ctx.db.rows('SELECT * FROM chat_status')).to.deep.equal([])
  })
})
