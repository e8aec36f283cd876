import { readInvitations } from './support/invitations.ts'
import { expect } from 'chai'
import { eventText } from './support/garden.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** Time that is offered to guests: held once, confirmed by mail, in both calendars whoever moves it. */
describe('an offer', function () {
  this.timeout(60_000)
  let w: World
  let calendar: string
  const guest = {
    name: 'Pia Rangan',
    message: 'Bring the plan',
    answers: [],
    by: 'place',
    zone: 'Asia/Kathmandu',
  }
  const at = (day: number, clock: string): number => Date.parse(`${weekDay(day)}T${clock}:00Z`)

  before(async () => {
    w = await startWorld()
    await until('a rule is there', async () => (await w.client.call('GET', '/journal')).body.lines.length > 0)
    const { lists } = (await w.client.call('GET', '/sharing')).body
    calendar = lists.find((l: any) => l.name === 'Garden team').id
  })
  after(() => w.close())

  const terms = (more: object = {}) => ({
    title: 'Zorblax lanterns',
    lengths: [45],
    how: 'any',
    before: 0,
    after: 0,
    noticeHours: 0,
    mostPerDay: null,
    location: 'Tarn Lane 4',
    callLink: '',
    questions: [],
    zone: 'UTC',
    when: { kind: 'spans', spans: [{ fromMs: at(8, '09:00'), toMs: at(8, '12:00') }] },
    ...more,
  })
  const me = async (who = w.client): Promise<string> => (await who.call('GET', '/me')).body.id
  const offer = async (
    more: object = {},
    { hosts, into = calendar }: { hosts?: string[]; into?: string | null } = {},
  ) => {
    const body = { terms: terms(more), hosts: hosts ?? [await me()], into }
    const made = await w.client.call('POST', '/offers', body)
    expect(made.status, JSON.stringify(made.body)).to.equal(201)
    return { id: made.body.id as string, token: tokenIn(made.body.link) }
  }
  const tokenIn = (link: string): string => link.split('#')[1] ?? ''
  const nobody = () => new Client(w.client.base)
  const asGuest = (method: string, path: string, token: string, body?: object) =>
    nobody().call(method, `/times${path}`, body, { 'Loom-Link': token })
  const freeAt = async (token: string, minutes = 45): Promise<number[]> =>
    (await asGuest('GET', '', token)).body.free.find((f: any) => f.minutes === minutes).starts
  let asked = 0
  const ask = (token: string, startMs: number, more: object = {}, askedAs = `asked-as-${asked++}`) =>
    asGuest('POST', '/ask', token, {
      startMs,
      minutes: 45,
      askedAs,
      guest: { ...guest, address: `guest${asked}@tarnlane.example`, ...more },
    })
  const lettersTo = async (address: string): Promise<any[]> => {
    const { letters } = (await (await fetch(`${w.standins}/mailbox/messages`)).json()) as { letters: any[] }
    return letters.filter(l => l.to.includes(address))
  }
  /** The newest one whose subject begins so. */
  const letter = (address: string, begins: string): Promise<any> =>
    until(`a letter to ${address}: ${begins}`, async () =>
      (await lettersTo(address)).find(l => l.subject.startsWith(begins)),
    )
  const book = async (token: string, startMs: number, address: string): Promise<string> => {
    const own = await bookUnsettled(token, startMs, address)
    await letter(address, 'Booked')
    return own
  }
  const forgetLimits = () => w.app.ctx.db.run('DELETE FROM limits')
  /** Confirmed, whatever becomes of it. */
  const bookUnsettled = async (token: string, startMs: number, address: string): Promise<string> => {
    expect((await ask(token, startMs, { address })).status).to.equal(201)
    const { text } = await letter(address, 'Confirm')
    const own = /#([0-9a-f]{64})/.exec(text)?.[1] ?? ''
    expect((await asGuest('POST', '/booking/confirm', own)).status).to.equal(200)
    return own
  }
  const onCloth = async (title: string): Promise<any[]> =>
    (await w.client.call('GET', `/cloth?from=${weekDay(7)}&days=14`)).body.items.filter(
      (i: any) => i.title === title && !i.pending,
    )

  it('is one booking from being asked for to both calendars, and follows whoever moves or ends it', async () => {
    const { token } = await offer()
    const told = (await asGuest('GET', '', token)).body
    expect([told.title, told.hosts, told.location]).to.deep.equal([
      'Zorblax lanterns',
      ['Ines Varga'],
      'Tarn Lane 4',
    ])
    const address = 'pia@tarnlane.example'
    const start = at(8, '09:30')
    expect(await freeAt(token)).to.include(start)
    const own = await book(token, start, address)
    expect(await freeAt(token), 'neither it nor what would meet it').to.not.include.members([start])
    const item = await until(
      'it is on the Cloth',
      async () => (await onCloth('Zorblax lanterns: Pia Rangan'))[0],
    )
    expect(item.place.startMs).to.equal(start)
    const invited = readInvitations(await lettersTo(address))
    expect(invited.map(i => [i.method, i.startMs, i.location])).to.deep.equal([
      ['REQUEST', start, 'Tarn Lane 4'],
    ])

    // The host moves it; the guest is told.
    const later = at(9, '14:00')
    const edit = {
      do: 'place',
      start: { kind: 'zoned', local: `${weekDay(9)}T14:00:00`, zone: 'UTC' },
      minutes: 45,
    }
    expect((await w.client.call('POST', `/cloth/${item.key}/edit`, edit)).status).to.equal(200)
    await letter(address, 'Moved')
    const moved = readInvitations(await lettersTo(address))
    expect(moved.map(i => i.startMs).sort()).to.deep.equal([start, later])
    expect(new Set(moved.map(i => i.uid)).size, 'one event for the guest’s program').to.equal(1)
    expect((await asGuest('GET', '/booking', own)).body).to.deep.include({ state: 'booked', startMs: later })
    expect(await freeAt(token), 'what it had held is free').to.include(start)

    // The guest moves it back; the calendar follows.
    expect((await asGuest('GET', '/booking/times', own)).body.starts).to.include(start)
    expect((await asGuest('POST', '/booking/move', own, { startMs: start })).status).to.equal(200)
    await until('the event has moved', async () =>
      (await onCloth('Zorblax lanterns: Pia Rangan')).some(i => i.place.startMs === start),
    )
    await letter('ines@quillmere.example', 'Pia Rangan moved')

    expect((await asGuest('POST', '/booking/call-off', own)).status).to.equal(200)
    await until('the event is gone', async () => (await onCloth('Zorblax lanterns: Pia Rangan')).length === 0)
    await letter(address, 'Called off')
    const last = readInvitations(await lettersTo(address)).sort((x, y) => y.sequence - x.sequence)[0]
    expect(last?.method).to.equal('CANCEL')
    expect(await freeAt(token)).to.include(start)
  })

  it('is called off for the guest when the host deletes the event, and when it is ended there', async () => {
    const { token } = await offer({ title: 'Quentle visit' })
    const own = await book(token, at(8, '10:00'), 'noor@tarnlane.example')
    const item = await until('it is there', async () => (await onCloth('Quentle visit: Pia Rangan'))[0])
    await w.client.call('POST', `/cloth/${item.key}/edit`, { do: 'delete' })
    await letter('noor@tarnlane.example', 'Called off')
    expect((await asGuest('GET', '/booking', own)).body).to.deep.include({ state: 'ended', why: 'host' })

    await book(token, at(8, '10:00'), 'kofi@tarnlane.example')
    const { offers } = (await w.client.call('GET', '/offers')).body
    const [booking] = offers.find((o: any) => o.terms.title === 'Quentle visit').bookings
    expect((await w.client.call('DELETE', `/offers/bookings/${booking.id}`)).status).to.equal(200)
    await letter('kofi@tarnlane.example', 'Called off')
    await until('the event is gone', async () => (await onCloth('Quentle visit: Pia Rangan')).length === 0)
  })

  it('gives one time to one of two guests who ask in the same moment, twenty times', async () => {
    const spans = [{ fromMs: at(10, '00:00'), toMs: at(11, '12:00') }]
    const { token } = await offer({ title: 'Vimble hour', when: { kind: 'spans', spans } }, { into: null })
    for (let n = 0; n < 20; n++) {
      const [startMs = 0] = await freeAt(token)
      await forgetLimits()
      const both = await Promise.all([ask(token, startMs), ask(token, startMs)])
      expect(both.map(b => b.status).sort(), `time ${n}`).to.deep.equal([201, 409])
      expect(both.find(b => b.status === 409)?.body.reason).to.match(/still here/)
    }
  })

  it('is booked once by a request that is sent again', async () => {
    const { token, id } = await offer({ title: 'Florp talk' }, { into: null })
    const again = await Promise.all([1, 2, 3].map(() => ask(token, at(8, '09:00'), {}, 'the-same-page')))
    expect(again.map(a => a.status)).to.deep.equal([201, 201, 201])
    const { offers } = (await w.client.call('GET', '/offers')).body
    expect(offers.find((o: any) => o.id === id).bookings).to.have.length(1)
  })

  it('keeps to its terms: what stays free around it, so many a day, notice, and what is needed', async () => {
    const spans = [{ fromMs: at(9, '08:00'), toMs: at(9, '12:00') }]
    const strict = {
      title: 'Wobbet class',
      before: 15,
      after: 30,
      mostPerDay: 1,
      lengths: [30, 45],
      questions: [{ text: 'How many pupils?', needed: true }],
      when: { kind: 'spans', spans },
    }
    const { token } = await offer(strict, { into: null })
    const [first = 0] = await freeAt(token, 45)
    const unsaid = await ask(token, first)
    expect([unsaid.status, unsaid.body.reason]).to.deep.equal([422, 'Please answer: How many pupils?'])
    expect((await ask(token, first, { answers: ['12'], address: 'no address' })).status).to.equal(400)
    const between = await ask(token, first + 60_000, { answers: ['12'] })
    expect(between.status, 'not at a quarter').to.equal(409)
    expect((await ask(token, first, { answers: ['12'] })).status).to.equal(201)
    expect(await freeAt(token, 45), 'one a day').to.deep.equal([])
    const { token: other } = await offer(
      { title: 'Other class', when: { kind: 'spans', spans } },
      { into: null },
    )
    const left = await freeAt(other)
    expect(left.some(s => s < first + 75 * 60_000 && first - 60 * 60_000 < s)).to.equal(false)
    const far = await offer(
      { title: 'Far', noticeHours: 336, when: { kind: 'spans', spans } },
      { into: null },
    )
    expect(await freeAt(far.token)).to.deep.equal([])
  })

  it('tells nothing but times of what is private, and offers none that it takes', async () => {
    const { token } = await offer({ title: 'Brindle look' }, { into: null })
    const start = at(8, '11:00')
    expect(await freeAt(token)).to.include(start)
    await w.garden.put(
      'garden-team',
      'brindle.ics',
      eventText('brindle', 'Secret quince', weekDay(8), '11:00', '11:40', ['CLASS:PRIVATE']),
    )
    await until('it is read', async () => (await onCloth('Secret quince')).length > 0)
    expect(await freeAt(token)).to.not.include(start)
    expect(JSON.stringify((await asGuest('GET', '', token)).body)).to.not.match(/quince/)
  })

  it('reads calendars again before a time is held', async () => {
    const { token } = await offer({ title: 'Fresh look' }, { into: null })
    const start = at(8, '09:45')
    expect(await freeAt(token)).to.include(start)
    await w.garden.put(
      'garden-team',
      'late.ics',
      eventText('late', 'Came in late', weekDay(8), '09:45', '10:15'),
    )
    expect((await ask(token, start)).status).to.equal(409)
  })

  it('asks colleagues first, and with all of them books only what all have', async () => {
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    const hosts = [await me(), await me(tobias)]
    const spans = [{ fromMs: at(10, '14:00'), toMs: at(10, '18:00') }]
    const { id, token } = await offer(
      { title: 'Mirth two', how: 'all', when: { kind: 'spans', spans } },
      { hosts },
    )
    expect(await freeAt(token), 'he has not agreed').to.deep.equal([])
    const { offers } = (await tobias.call('GET', '/offers')).body
    expect(offers.find((o: any) => o.id === id)).to.deep.include({ isMine: false, link: null })
    expect((await tobias.call('PUT', `/offers/${id}/end`, { over: true })).status, 'not his').to.equal(404)
    expect((await tobias.call('POST', `/offers/${id}/part`, { takes: true, into: null })).status).to.equal(
      200,
    )
    const free = await freeAt(token)
    expect(free.length).to.be.greaterThan(0)
    const start = free[0] ?? 0
    await forgetLimits()
    await book(token, start, 'both@tarnlane.example')
    const rows = await until('both have it', async () => {
      const found = await onCloth('Mirth two: Pia Rangan')
      return found.length === 2 && found
    })
    expect(new Set(rows.map((r: any) => r.place.startMs))).to.deep.equal(new Set([start]))
    // One who leaves takes the whole of it with them.
    expect((await tobias.call('POST', `/offers/${id}/part`, { takes: false, into: null })).status).to.equal(
      200,
    )
  })

  it('tells a colleague who has not agreed nothing of who has booked', async () => {
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    const spans = [{ fromMs: at(12, '06:00'), toMs: at(12, '20:00') }]
    const hosts = [await me(), await me(tobias)]
    const { id, token } = await offer(
      { title: 'Sprocket', when: { kind: 'spans', spans } },
      { hosts, into: null },
    )
    await forgetLimits()
    expect((await ask(token, (await freeAt(token))[0] ?? 0)).status).to.equal(201)
    const seenBy = async (who: Client): Promise<any[]> =>
      (await who.call('GET', '/offers')).body.offers.find((o: any) => o.id === id).bookings
    const [booking] = await seenBy(w.client)
    expect(await seenBy(tobias)).to.deep.equal([])
    expect((await tobias.call('DELETE', `/offers/bookings/${booking.id}`)).status).to.equal(404)
    await tobias.call('POST', `/offers/${id}/part`, { takes: true, into: null })
    expect(await seenBy(tobias)).to.have.length(1)
    expect((await tobias.call('DELETE', `/offers/bookings/${booking.id}`)).status).to.equal(200)
  })

  it('lets go of what nobody has confirmed, and what its calendar refuses, and says so', async () => {
    const { token } = await offer({ title: 'Snood hour' })
    const start = (await freeAt(token))[0] ?? 0
    await forgetLimits()
    expect((await ask(token, start, { address: 'slow@tarnlane.example' })).status).to.equal(201)
    const { text } = await letter('slow@tarnlane.example', 'Confirm')
    const own = tokenIn(/(\S+#[0-9a-f]{64})/.exec(text)?.[1] ?? '')
    await w.app.ctx.db.run("UPDATE bookings SET expires_at = 1 WHERE state = 'asked'")
    expect((await asGuest('POST', '/booking/confirm', own)).status).to.equal(409)
    await until('it is free', async () => (await freeAt(token)).includes(start))
    expect(await lettersTo('slow@tarnlane.example'), 'nobody waits for it').to.have.length(1)

    await w.fault('garden', { method: 'PUT', status: 403 })
    const refused = await bookUnsettled(token, start, 'unlucky@tarnlane.example')
    await letter('unlucky@tarnlane.example', 'Called off')
    expect((await asGuest('GET', '/booking', refused)).body).to.deep.include({
      state: 'ended',
      why: 'refused',
    })
    await w.fault('garden', {})
    expect(await freeAt(token)).to.include(start)
  })

  it('is nothing to whoever guesses, floods, or comes too late', async () => {
    const spans = [{ fromMs: at(12, '00:00'), toMs: at(12, '20:00') }]
    const { id, token } = await offer({ title: 'Gadfly', when: { kind: 'spans', spans } }, { into: null })
    expect((await asGuest('GET', '', 'f'.repeat(64))).status).to.equal(404)
    expect((await asGuest('GET', '/booking', token)).status, 'an offer is no booking').to.equal(404)
    expect((await asGuest('GET', '', token.slice(1))).status).to.equal(404)
    await forgetLimits()
    const victim = { address: 'victim@tarnlane.example' }
    const statuses: number[] = []
    for (const startMs of (await freeAt(token)).slice(0, 8))
      statuses.push((await ask(token, startMs, victim)).status)
    expect(statuses, 'letters to one address').to.include(429)
    expect((await lettersTo(victim.address)).length).to.be.at.most(5)
    await forgetLimits()
    await w.client.call('PUT', `/offers/${id}/end`, { over: true })
    expect((await ask(token, at(12, '18:00'))).status).to.equal(404)
    await w.client.call('PUT', `/offers/${id}/end`, { over: false })
    expect((await asGuest('GET', '', token)).status).to.equal(200)
  })

  it('counts movable work that presses little as free, and moves it where a guest books', async () => {
    const task = await w.client.call('POST', '/cloth/make', {
      what: 'task',
      title: 'Sort the plink jars',
      start: { kind: 'zoned', local: `${weekDay(9)}T13:00:00`, zone: 'UTC' },
      estimate: 60,
      into: null,
      said: {},
    })
    expect(task.status).to.equal(201)
    const jars = await until('it is planned', async () => (await onCloth('Sort the plink jars'))[0])
    const when = { kind: 'spans', spans: [{ fromMs: at(9, '13:00'), toMs: at(9, '14:00') }] }
    const keeps = await offer({ title: 'Keeps', when }, { into: null })
    expect(await freeAt(keeps.token), 'it stays where nothing is said').to.deep.equal([])
    const { token } = await offer({ title: 'Makes room', when, givesWay: 100 }, { into: null })
    expect(await freeAt(token)).to.include(at(9, '13:00'))
    await forgetLimits()
    await book(token, at(9, '13:00'), 'room@tarnlane.example')
    const moved = await until('it has made room', async () => {
      const [now] = await onCloth('Sort the plink jars')
      return now && now.place.startMs !== jars.place.startMs && now
    })
    const { startMs, endMs } = moved.place
    expect(endMs - startMs).to.equal(3_600_000)
    expect(startMs >= at(9, '13:45') || endMs <= at(9, '13:00')).to.equal(true)
    const { text } = await letter('ines@quillmere.example', 'Pia Rangan booked: Makes room')
    expect(text).to.match(/To make room:\nSort the plink jars: now/)
  })

  it('follows a host who makes it longer, in the other host’s calendar too, and tells the guest once', async () => {
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    const spans = [{ fromMs: at(11, '06:00'), toMs: at(11, '20:00') }]
    const when = { kind: 'spans', spans }
    const { id, token } = await offer(
      { title: 'Nettle pair', how: 'all', when },
      { hosts: [await me(), await me(tobias)] },
    )
    await tobias.call('POST', `/offers/${id}/part`, { takes: true, into: null })
    await forgetLimits()
    const start = (await freeAt(token))[0] ?? 0
    const own = await book(token, start, 'nettle@tarnlane.example')
    const both = () => onCloth('Nettle pair: Pia Rangan')
    const [mine] = await until('both have it', async () => {
      const found = await both()
      return found.length === 2 && found
    })
    await w.client.call('POST', `/cloth/${mine.key}/edit`, { do: 'lengthen', minutes: 75 })
    await until('the other one as well', async () =>
      (await both()).every((i: any) => i.place.endMs - i.place.startMs === 75 * 60_000),
    )
    expect((await asGuest('GET', '/booking', own)).body.endMs - start).to.equal(75 * 60_000)
    await letter('nettle@tarnlane.example', 'Moved')
    await w.app.follow.look()
    await w.app.bookingLetters.sendDue()
    expect(
      (await lettersTo('nettle@tarnlane.example')).filter(l => l.subject.startsWith('Moved')),
    ).to.have.length(1)
  })

  it('tells again what broke off, and nothing twice', async () => {
    const { token } = await offer({ title: 'Ruffle hour' }, { into: null })
    await forgetLimits()
    const start = (await freeAt(token))[0] ?? 0
    const { ctx } = w.app
    const mail = ctx.outgoingMail
    ctx.outgoingMail = { url: 'smtp://127.0.0.1:1', from: 'nowhere@quillmere.example' }
    expect((await ask(token, start, { address: 'later@tarnlane.example' })).status).to.equal(201)
    await until('it was tried', async () => {
      const [row] = await ctx.db.rows<{ n: number }>(
        'SELECT COUNT(*) AS n FROM bookings WHERE tell_at > 0 AND told < sequence',
      )
      return (row?.n ?? 0) > 0
    })
    ctx.outgoingMail = mail
    // As if a minute had passed: whoever had claimed it has not come to an end.
    await until('it is told', async () => {
      await w.app.ctx.db.run('UPDATE bookings SET tell_at = 0 WHERE told < sequence')
      await w.app.bookingLetters.sendDue()
      return (await lettersTo('later@tarnlane.example')).length > 0
    })
    await Promise.all([w.app.bookingLetters.sendDue(), w.app.bookingLetters.sendDue()])
    expect(await lettersTo('later@tarnlane.example')).to.have.length(1)
  })
})
