import { expect } from 'chai'
import { createTransport } from 'nodemailer'
import { listenForMail, type MailDoor } from '../src/intake/mail.ts'
import { Inviting } from '../src/outward/invitations/inviting.ts'
import { readInvitations } from './support/invitations.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** Meetings kept here: guests are told by mail what stands, once; what they answer counts where it is theirs. */
describe('invitations by mail', function () {
  this.timeout(60_000)
  const AUTHSERV = 'mx.quillmere.example'
  const MINUTE = 60_000
  let w: World
  let tobias: Client
  let door: MailDoor
  const kick = (id: string): void => w.app.engine.kick(id)

  before(async () => {
    w = await startWorld()
    w.app.inviting.stop()
    await until('a rule is there', async () => (await w.client.call('GET', '/journal')).body.lines.length > 0)
    tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    door = await listenForMail(w.app.ctx, w.app.engine, 0, { authserv: AUTHSERV })
  })
  after(async () => {
    await door.close()
    await w.close()
  })

  const inviting = (more: object = {}): Inviting => new Inviting({ ...w.app.ctx, ...more }, kick, 0)
  const look = (): Promise<void> => inviting().look()
  interface Got {
    to: string
    subject: string
    text: string
    from: string
    calendar: string
  }
  const letters = async (about: string): Promise<Got[]> => {
    const all = (await (await fetch(`${w.standins}/mailbox/messages`)).json()) as { letters: Got[] }
    return all.letters.flatMap(l => (l.subject.includes(about) ? [{ ...l, to: String(l.to) }] : []))
  }
  /** Looks, and returns what came since. */
  async function told(about: string): Promise<Got[]> {
    const before = await letters(about)
    await look()
    const after = await letters(about)
    return after.filter(l => !before.some(b => JSON.stringify(b) === JSON.stringify(l)))
  }
  const itemOf = async (title: string, who = w.client): Promise<any> =>
    (await who.call('GET', `/cloth?from=${weekDay(7)}&days=14`)).body.items.find(
      (i: any) => i.title === title && !i.pending,
    )
  const ada = { name: 'Ada Else', email: 'ada@else.example' }
  async function meet(title: string, guests = [ada], minute = 0): Promise<any> {
    const start = {
      kind: 'zoned',
      local: `${weekDay(9)}T${14 + Math.floor(minute / 60)}:${String(minute % 60).padStart(2, '0')}:00`,
      zone: 'Europe/Dublin',
    }
    const making = { what: 'event', title, start, minutes: 45, into: null, said: {} }
    expect((await w.client.call('POST', '/cloth/make', making)).status).to.equal(201)
    const item = await until('it is there', () => itemOf(title))
    await edit(item.key, { do: 'invite', add: guests, drop: [] })
    await until('they are invited', async () => (await guestsIn(item.key)).length === guests.length)
    return item
  }
  const edit = async (key: string, what: object): Promise<any> => {
    const done = await w.client.call('POST', `/cloth/${key}/edit`, what)
    expect(done.status, JSON.stringify(done.body)).to.equal(200)
    return done.body
  }
  const details = async (key: string): Promise<any> =>
    (await w.client.call('GET', `/cloth/${key}`)).body.guests
  const guestsIn = async (key: string): Promise<any[]> => {
    const [row] = await w.app.ctx.db.rows<{ item: string }>('SELECT item FROM mirrors WHERE id = :key', {
      key,
    })
    return JSON.parse(row?.item ?? '{}').invited?.guests ?? []
  }
  const replyTo = ({ calendar }: Got): { address: string; uid: string } => {
    const flat = calendar.replace(/\r\n /g, '')
    return {
      address: /ORGANIZER[^:]*:mailto:(\S+)/.exec(flat)?.[1] ?? '',
      uid: /UID:(\S+)/.exec(flat)?.[1] ?? '',
    }
  }
  interface Reply {
    answer?: string
    method?: string
    sequence?: number
    email?: string
    uid?: string
    stamp?: string
    from?: string
    proven?: string
    extra?: string[]
    mail?: object
  }
  let stamps = 0
  async function reply(to: Got, of: Reply = {}): Promise<string> {
    const { address, uid } = replyTo(to)
    const { email = ada.email, from = email } = of
    const stamp = of.stamp ?? `20261101T${String(100000 + stamps++)}Z`
    const calendar = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//other//EN',
      `METHOD:${of.method ?? 'REPLY'}`,
      'BEGIN:VEVENT',
      `UID:${of.uid ?? uid}`,
      `DTSTAMP:${stamp}`,
      `SEQUENCE:${of.sequence ?? 0}`,
      `ATTENDEE;PARTSTAT=${of.answer ?? 'ACCEPTED'}:mailto:${email}`,
      ...(of.extra ?? []),
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ].join('\r\n')
    const transport = createTransport({ host: '127.0.0.1', port: door.port, secure: false, ignoreTLS: true })
    const mail = {
      from,
      to: address,
      subject: 'Re',
      text: 'Yes',
      ...(of.proven && { headers: { 'Authentication-Results': of.proven } }),
      icalEvent: { method: of.method ?? 'REPLY', content: calendar },
      ...of.mail,
    }
    return transport.sendMail(mail).then(
      () => 'taken',
      (error: { response?: string }) => error.response ?? String(error),
    )
  }
  const PROVEN = `${AUTHSERV} (spf=fail); dkim=pass header.d=else.example; dmarc=pass header.from=else.example`

  it('takes the time of colleagues who are invited, and tells each guest by mail', async () => {
    const me = (await w.client.call('GET', '/me')).body.id
    const other = (await tobias.call('GET', '/me')).body.id
    const item = await meet('Zorblax circle', [
      ada,
      { name: 'Tobias Lund', email: 'Tobias@quillmere.example' },
    ])
    await look()
    const got = await letters('Zorblax circle')
    expect(got.map(l => l.to).sort()).to.deep.equal(['ada@else.example', 'tobias@quillmere.example'])
    expect(got[0]?.from).to.contain('Ines')
    const [invited] = readInvitations(got)
    expect(invited).to.deep.include({ method: 'REQUEST', sequence: 0, startMs: item.place.startMs })
    expect([...(await itemOf('Zorblax circle')).people].sort()).to.deep.equal([me, other].sort())
    expect((await itemOf('Zorblax circle', tobias)).people).to.include(other)
    await edit(item.key, {
      do: 'note-answers',
      answers: [{ email: 'tobias@quillmere.example', answer: 'declined' }],
    })
    await until(
      'his time is his again',
      async () => !(await itemOf('Zorblax circle'))?.people.includes(other),
    )
    expect(await told('Zorblax circle'), 'an answer is no news to them').to.deep.equal([])
  })

  it('lets an answer wait that is not proven to be theirs, and a forged one change nothing', async () => {
    const item = await meet('Vexil wait', [ada], 60)
    const [letter] = await told('Vexil wait')
    const to = letter as Got
    const anew = (): Promise<any> => details(item.key)
    for (const forged of [
      { uid: 'another', answer: 'DECLINED' },
      { email: 'mallory@else.example', proven: PROVEN },
      { extra: ['ATTENDEE;PARTSTAT=ACCEPTED:mailto:bram@else.example'] },
      { method: 'REQUEST' },
      { method: 'CANCEL' },
    ])
      await reply(to, forged)
    expect((await anew()).answers).to.deep.equal([])
    for (const proven of [
      undefined,
      `mx.mallory.example; dkim=pass header.d=else.example`,
      `${AUTHSERV}; dkim=pass header.d=mallory.example`,
      `${AUTHSERV} (dkim=pass header.d=else.example); dkim=fail header.d=else.example`,
      `${AUTHSERV}; dkim=pass header.d=else.example.mallory.example`,
    ]) {
      expect(
        await reply(to, { answer: 'DECLINED', extra: ['COMMENT:Alas'], ...(proven && { proven }) }),
      ).to.equal('taken')
      expect((await anew()).answers, proven).to.deep.equal([
        {
          email: ada.email,
          recurrence: '',
          answer: 'declined',
          comment: 'Alas',
          proposed: null,
          waits: true,
        },
      ])
    }
    // Theirs, but sent by somebody else.
    await reply(to, { answer: 'TENTATIVE', proven: PROVEN, from: 'mallory@else.example' })
    expect((await anew()).guests[0].answer, 'nothing of it counts').to.equal('none')
    expect(
      (await tobias.call('POST', `/cloth/nothing/answers`, { email: ada.email, counts: true })).status,
    ).to.equal(404)
    const say = (counts: boolean) =>
      w.client.call('POST', `/cloth/${item.key}/answers`, { email: ada.email, counts })
    expect((await say(true)).status).to.equal(200)
    expect((await say(true)).status, 'settled once').to.equal(409)
    await until('it counts', async () => (await anew()).guests[0].answer === 'tentative')
    await reply(to, { answer: 'ACCEPTED' })
    expect((await say(false)).status).to.equal(200)
    expect((await anew()).answers).to.deep.equal([])
    expect((await anew()).guests[0].answer).to.equal('tentative')
  })

  it('counts an answer that is proven: the newest, of the time that is now, in any mail', async () => {
    const item = await meet('Quennip proof', [ada], 120)
    const [to] = (await told('Quennip proof')) as [Got]
    const becomes = (answer: string): Promise<unknown> =>
      until(answer, async () => (await guestsIn(item.key))[0]?.answer === answer)
    await reply(to, { proven: PROVEN, answer: 'accepted', stamp: '20261102T100000Z' })
    await becomes('accepted')
    await reply(to, { proven: PROVEN, answer: 'DECLINED', stamp: '20261102T090000Z' })
    await reply(to, { proven: PROVEN, answer: 'DECLINED', stamp: '20261102T100000Z' })
    expect((await guestsIn(item.key))[0].answer, 'older, and the same again').to.equal('accepted')
    // In an old character set, as a file, and without anything else in it.
    const flat = (extra: string): string =>
      `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nMETHOD:REPLY\r\nBEGIN:VEVENT\r\nUID:${replyTo(to).uid}\r\nDTSTAMP:20261102T110000Z\r\nATTENDEE;PARTSTAT=TENTATIVE:mailto:${ada.email}\r\nCOMMENT:${extra}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`
    const attachments = [
      { filename: 'picture.png', content: Buffer.from('x') },
      {
        filename: 'answer.ics',
        contentType: 'application/ics; charset=iso-8859-1',
        content: Buffer.from(flat('Bis später'), 'latin1'),
      },
    ]
    expect(await reply(to, { proven: PROVEN, mail: { icalEvent: undefined, attachments } })).to.equal('taken')
    await becomes('tentative')
    expect((await details(item.key)).answers[0].comment).to.equal('Bis später')
    expect(await reply(to, { mail: { icalEvent: undefined } }), 'words alone').to.contain(
      'Write to whoever invited you',
    )
  })

  it('tells of a new time once it has stood, asks anew, and takes no answer for the old one', async () => {
    const item = await meet('Plimber moves', [ada], 180)
    const [to] = (await told('Plimber moves')) as [Got]
    await reply(to, { proven: PROVEN })
    await until('she comes', async () => (await guestsIn(item.key))[0]?.answer === 'accepted')
    const place = (hour: string) =>
      edit(item.key, {
        do: 'place',
        start: { kind: 'zoned', local: `${weekDay(9)}T${hour}:00`, zone: 'UTC' },
      })
    const at = (hour: string) =>
      until(
        hour,
        async () =>
          (await itemOf('Plimber moves'))?.place.startMs === Date.parse(`${weekDay(9)}T${hour}:00Z`),
      )
    // To and fro, while nobody is told yet.
    const patient = new Inviting(w.app.ctx, kick)
    await place('08:15')
    await at('08:15')
    await patient.look()
    await place('17:00')
    await at('17:00')
    await patient.look()
    expect(await told('Plimber moves')).to.deep.equal([])
    expect((await guestsIn(item.key))[0].answer).to.equal('accepted')
    await edit(item.key, { do: 'say', said: { description: 'Bring lamps' } })
    await until('noted', async () => (await itemOf('Plimber moves'))?.notes === 'Bring lamps')
    expect(await told('Plimber moves'), 'notes alone are no news').to.deep.equal([])
    await place('08:15')
    await at('08:15')
    const [moved] = (await told('Plimber moves')) as [Got]
    expect(moved.subject).to.match(/^Moved: Plimber moves, .*\d\d:15/)
    expect(moved.calendar).to.contain('PARTSTAT=NEEDS-ACTION')
    expect(readInvitations([moved])[0]).to.deep.include({
      sequence: 1,
      startMs: Date.parse(`${weekDay(9)}T08:15:00Z`),
    })
    await until('asked anew', async () => (await guestsIn(item.key))[0]?.answer === 'none')
    await reply(to, { proven: PROVEN, sequence: 0, stamp: '20261103T100000Z' })
    expect((await guestsIn(item.key))[0].answer).to.equal('none')
    await reply(to, { proven: PROVEN, sequence: 1, stamp: '20261103T110000Z' })
    await until('she comes', async () => (await guestsIn(item.key))[0]?.answer === 'accepted')
  })

  it('tells of one date of a series that goes elsewhere, and of a date that is left out', async () => {
    const start = { kind: 'zoned', local: `${weekDay(8)}T18:00:00`, zone: 'Europe/Dublin' }
    const repeats = { every: 'weekly', interval: 1, until: weekDay(29) }
    const making = { what: 'event', title: 'Vexil weekly', start, minutes: 45, into: null, said: {}, repeats }
    const made = await w.client.call('POST', '/cloth/make', { ...making, guests: [ada.email] })
    expect(made.status, JSON.stringify(made.body)).to.equal(201)
    const first = await until('it is there', () => itemOf('Vexil weekly'))
    const [invited, ...none] = await until('she is invited', async () => {
      const got = await told('Vexil weekly')
      return got.length > 0 && got
    })
    expect([invited?.calendar.includes('RRULE'), none.length]).to.deep.equal([true, 0])
    const other = { do: 'place', start: { ...start, local: `${weekDay(8)}T19:30:00` } }
    const change = (edit: object) =>
      w.client.call('POST', `/cloth/${first.key}/series`, { which: 'one', edit })
    const moved = await change(other)
    expect(moved.status, JSON.stringify(moved.body)).to.equal(200)
    const [one] = await until('she is told', async () => {
      const got = await told('Vexil weekly')
      return got.length > 0 && got
    })
    expect(one?.subject).to.match(/^Moved/)
    expect(one?.calendar).to.match(/RECURRENCE-ID[^]*DTSTART[^]*T193000/)
    expect((await change({ do: 'delete' })).status).to.equal(200)
    const [left] = await until('she is told', async () => {
      const got = await told('Vexil weekly')
      return got.length > 0 && got
    })
    expect(left?.calendar).to.contain('EXDATE')
    expect(readInvitations([left as Got])[0]).to.deep.include({ method: 'REQUEST', sequence: 2 })
  })

  it('calls off what is deleted, and invites again to what comes back', async () => {
    const bram = { name: '', email: 'bram@else.example' }
    const item = await meet('Zorblax off', [ada, bram], 240)
    expect(await told('Zorblax off')).to.have.length(2)
    await edit(item.key, { do: 'invite', add: [], drop: [bram] })
    await until('one fewer', async () => (await guestsIn(item.key)).length === 1)
    const [gone, ...more] = await told('Zorblax off')
    expect([gone?.to, gone?.subject.split(':')[0], more.length]).to.deep.equal([
      bram.email,
      'No longer invited',
      0,
    ])
    await edit(item.key, { do: 'delete' })
    const off = await until('it is called off', async () => (await told('Zorblax off'))[0])
    expect([off.to, off.subject.split(':')[0]]).to.deep.equal([ada.email, 'Called off'])
    expect(readInvitations([off])[0]).to.deep.include({
      method: 'CANCEL',
      sequence: 1,
      startMs: item.place.startMs,
    })
    await edit(item.key, { do: 'restore' })
    const again = await until('it is back', async () => (await told('Zorblax off'))[0])
    expect(readInvitations([again])[0]).to.deep.include({ method: 'REQUEST', sequence: 2 })
  })

  it('keeps a proposed time beside the event until somebody takes it or leaves it', async () => {
    const item = await meet('Vexil counter', [ada], 300)
    const [to] = (await told('Vexil counter')) as [Got]
    const fromMs = item.place.startMs + 90 * MINUTE
    const stamp = new Date(fromMs).toISOString().replace(/[-:]|\.\d+/g, '')
    await reply(to, {
      method: 'COUNTER',
      proven: PROVEN,
      answer: 'TENTATIVE',
      extra: [`DTSTART:${stamp}`, 'DURATION:PT30M'],
    })
    const [said] = (await details(item.key)).answers
    expect(said).to.deep.include({ waits: true, proposed: { fromMs, toMs: fromMs + 30 * MINUTE } })
    expect((await itemOf('Vexil counter')).place.startMs).to.equal(item.place.startMs)
  })

  it('sends each letter once by two servers, and later where the mail server is away', async () => {
    await meet('Quennip twice', [ada], 330)
    const away = { outgoingMail: { url: 'smtp://127.0.0.1:1', from: 'nowhere@quillmere.example' } }
    await inviting(away).look()
    expect(await letters('Quennip twice')).to.deep.equal([])
    await w.app.ctx.db.run('UPDATE meeting_letters SET next_at = 0')
    await Promise.all([look(), look(), look()])
    await look()
    expect(await letters('Quennip twice')).to.have.length(1)
    const [owed] = await w.app.ctx.db.rows<{ n: number }>('SELECT COUNT(*) AS n FROM meeting_letters')
    expect(Number(owed?.n)).to.equal(0)
  })

  it('sends the world no more than so many a day; what is more goes later', async () => {
    const many = ['ada', 'bram', 'cleo'].map(n => ({ name: '', email: `${n}@else.example` }))
    await meet('Vexil many', many, 340)
    await w.app.ctx.db.run('DELETE FROM limits')
    await new Inviting(w.app.ctx, kick, 0, 2).look()
    expect(await letters('Vexil many')).to.have.length(2)
    await look()
    expect(await letters('Vexil many'), 'it waits for tomorrow').to.have.length(2)
    await w.app.ctx.db.run('UPDATE meeting_letters SET next_at = 0')
    await w.app.ctx.db.run('DELETE FROM limits')
    await look()
    expect(await letters('Vexil many')).to.have.length(3)
  })

  it('tells nobody anything where whoever invited has left the team', async () => {
    const start = { kind: 'zoned', local: `${weekDay(10)}T18:00:00`, zone: 'UTC' }
    const making = { what: 'event', title: 'Quennip leaves', start, minutes: 45, into: null, said: {} }
    const made = await tobias.call('POST', '/cloth/make', { ...making, guests: [ada.email] })
    expect(made.status, JSON.stringify(made.body)).to.equal(201)
    await until('she is invited', async () => (await told('Quennip leaves'))[0])
    const { id } = (await tobias.call('GET', '/me')).body
    const left = (at: number | null) =>
      w.app.ctx.db.run('UPDATE members SET left_at = :at WHERE id = :id', { at, id })
    await left(w.app.ctx.now())
    expect(await told('Quennip leaves'), 'it takes place as it did').to.deep.equal([])
    await left(null)
  })

  it('tells nobody of what is over, or of what somebody else invites to', async () => {
    await meet('Plimber past', [ada], 345)
    const later = w.app.ctx.now() + 40 * 86_400_000
    await inviting({ now: () => later }).look()
    expect(await letters('Plimber past')).to.deep.equal([])
    // Told while it was ahead, and cleared away when it is over.
    const { key } = await meet('Plimber cleared', [ada], 360)
    expect(await told('Plimber cleared')).to.have.length(1)
    await edit(key, { do: 'delete' })
    await until('gone', async () => {
      const [row] = await w.app.ctx.db.rows<{ n: number }>(
        `SELECT COUNT(*) AS n FROM mirrors WHERE id = :key AND presence = 'present'`,
        { key },
      )
      return Number(row?.n) === 0
    })
    await inviting({ now: () => later }).look()
    expect(await letters('Plimber cleared')).to.have.length(1)
    const text = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'BEGIN:VEVENT',
      'UID:theirs-1',
      `DTSTART:${weekDay(9).replaceAll('-', '')}T060000Z`,
      'DURATION:PT30M',
      'SUMMARY:Plimber theirs',
      'ORGANIZER:mailto:orla@trustees.example',
      `ATTENDEE:mailto:${ada.email}`,
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ].join('\r\n')
    const { connections } = (await w.client.call('GET', '/connections')).body
    const here = connections.find((c: { kind: string }) => c.kind === 'own')
    const event = here.collections.find((k: { remoteId: string }) => k.remoteId === 'events').id
    const bring = (file: string) =>
      w.client.call('POST', '/files/bring-in', {
        text: file,
        mapping: null,
        into: { task: null, event },
        takeNew: true,
        takeChanged: true,
        except: [],
      })
    const taken = await bring(text)
    expect(taken.status, JSON.stringify(taken.body)).to.be.below(300)
    await until('it is there', () => itemOf('Plimber theirs'))
    expect(await told('Plimber theirs')).to.deep.equal([])
    // Whose calendar it was in before tells them, also where that is one's own.
    const own = await bring(text.replaceAll('theirs', 'mine').replace('orla@trustees', 'ines@quillmere'))
    expect(own.body.made).to.equal(1)
    await until('it is there', () => itemOf('Plimber mine'))
    expect(await told('Plimber mine')).to.deep.equal([])
  })
})
