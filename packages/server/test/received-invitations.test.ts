import { expect } from 'chai'
import { createTransport } from 'nodemailer'
import { listenForMail, type MailDoor } from '../src/intake/mail.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** Invitations of others: kept as said last, answered by mail; what is not proven changes nothing that was answered. */
describe('invitations that come by mail', function () {
  this.timeout(60_000)
  const AUTHSERV = 'mx.quillmere.example'
  const ORLA = 'orla@trustees.example'
  const PROVEN = `${AUTHSERV}; dmarc=pass header.from=trustees.example`
  let w: World
  let tobias: Client
  let door: MailDoor
  const address = new Map<Client, string>()

  before(async () => {
    w = await startWorld()
    await until('a rule is there', async () => (await w.client.call('GET', '/journal')).body.lines.length > 0)
    tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    door = await listenForMail(w.app.ctx, w.app.engine, 0, { authserv: AUTHSERV })
    for (const who of [w.client, tobias]) {
      await who.call('POST', '/doors', { kind: 'mail' })
      address.set(who, (await who.call('GET', '/doors')).body.doors[0].address)
    }
  })
  after(async () => {
    await door.close()
    await w.close()
  })

  const clock = (hour: string): string => `${weekDay(9).replaceAll('-', '')}T${hour}00Z`
  const msAt = (hour: string): number => Date.parse(`${weekDay(9)}T${hour.slice(0, 2)}:${hour.slice(2)}:00Z`)
  interface Said {
    method?: string
    sequence?: number
    stamp?: number
    hour?: string
    guests?: string[]
    extra?: string[]
    proven?: boolean
    from?: string
    to?: Client
  }
  const MINE = ['ines@quillmere.example', 'tobias@quillmere.example']
  const objectOf = (uid: string, of: Said): string =>
    [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//other//EN',
      `METHOD:${of.method ?? 'REQUEST'}`,
      'BEGIN:VEVENT',
      `UID:${uid}`,
      `SUMMARY:${uid}`,
      `SEQUENCE:${of.sequence ?? 0}`,
      `DTSTAMP:20261101T${100000 + (of.stamp ?? 0)}Z`,
      `DTSTART:${clock(of.hour ?? '0600')}`,
      'DURATION:PT45M',
      `ORGANIZER;CN=Orla Fenn:mailto:${ORLA}`,
      ...(of.guests ?? MINE).map(g => `ATTENDEE;RSVP=TRUE;PARTSTAT=NEEDS-ACTION:mailto:${g}`),
      ...(of.extra ?? []),
      'BEGIN:VALARM',
      'ACTION:DISPLAY',
      'TRIGGER:-PT5M',
      'END:VALARM',
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ].join('\r\n')
  async function arrives(uid: string, of: Said = {}): Promise<void> {
    const transport = createTransport({ host: '127.0.0.1', port: door.port, secure: false, ignoreTLS: true })
    await transport.sendMail({
      from: of.from ?? ORLA,
      to: address.get(of.to ?? w.client),
      subject: uid,
      text: 'Please come',
      ...(of.proven && { headers: { 'Authentication-Results': PROVEN } }),
      icalEvent: { method: of.method ?? 'REQUEST', content: objectOf(uid, of) },
    })
  }
  const invitation = async (title: string, who = w.client): Promise<any> =>
    (await who.call('GET', '/invitations')).body.invitations.find((i: any) => i.title === title)
  const answer = async (title: string, said: string, who = w.client, comment = ''): Promise<any> => {
    const { id } = await invitation(title, who)
    const done = await who.call('POST', `/invitations/${id}`, { answer: said, comment })
    expect(done.status, JSON.stringify(done.body)).to.equal(200)
    return done.body
  }
  const onCloth = async (title: string, who = w.client): Promise<any> =>
    (await who.call('GET', `/cloth?from=${weekDay(7)}&days=14`)).body.items.find(
      (i: any) => i.title === title,
    )
  const replies = async (title: string): Promise<any[]> => {
    await w.app.inviting.look()
    const all = (await (await fetch(`${w.standins}/mailbox/messages`)).json()) as { letters: any[] }
    return all.letters.filter(l => l.subject.endsWith(`: ${title}`))
  }

  it('are no tasks, are seen by their person alone, and once answered stand in the plan and are told', async () => {
    await arrives('Zorblax council')
    expect(await onCloth('Zorblax council')).to.equal(undefined)
    expect(await invitation('Zorblax council', tobias)).to.equal(undefined)
    const one = await invitation('Zorblax council')
    expect(one).to.deep.include({
      organizer: ORLA,
      isProven: false,
      namesMe: true,
      answer: 'none',
      isKept: false,
      isAnew: false,
    })
    expect(one.when).to.deep.equal({ day: weekDay(9), fromMs: msAt('0600'), toMs: msAt('0645') })
    expect((await tobias.call('POST', `/invitations/${one.id}`, { answer: 'accepted' })).status).to.equal(404)
    expect((await tobias.call('DELETE', `/invitations/${one.id}`)).status).to.equal(404)
    expect(await answer('Zorblax council', 'accepted', w.client, 'With pleasure')).to.deep.equal({
      isTold: true,
    })
    const item = await until('it is in the plan', () => onCloth('Zorblax council'))
    const me = (await w.client.call('GET', '/me')).body.id
    expect(item.people).to.include(me)
    for (const edit of [
      { do: 'place', start: { kind: 'zoned', local: `${weekDay(9)}T11:00:00`, zone: 'UTC' } },
      { do: 'rename', title: 'Another' },
      { do: 'say', said: { location: 'Elsewhere' } },
      { do: 'fix', movable: true },
      { do: 'invite', add: [{ name: '', email: 'bram@else.example' }], drop: [] },
    ]) {
      const refused = await w.client.call('POST', `/cloth/${item.key}/edit`, edit)
      expect([refused.status, refused.body.reason], edit.do).to.satisfy(
        ([status, why]: [number, string]) => status === 409 && why.startsWith(`${ORLA} invites to it`),
      )
    }
    const [reply, ...more] = await replies('Zorblax council')
    expect([String(reply.to), more.length]).to.deep.equal([ORLA, 0])
    const flat = reply.calendar.replace(/\r\n /g, '')
    expect(flat).to.match(/METHOD:REPLY/)
    expect(flat).to.contain('UID:Zorblax council')
    expect(flat).to.match(/ATTENDEE;PARTSTAT=ACCEPTED:mailto:ines@quillmere.example/)
    expect(flat).to.contain('COMMENT:With pleasure')
    expect(flat, 'nobody else, and no alarm').to.not.match(/tobias|VALARM/)
  })

  it('follow whoever invites where that is proven; else they wait for a new answer', async () => {
    await arrives('Vexil board', { proven: true })
    await answer('Vexil board', 'tentative')
    await until('it is in the plan', () => onCloth('Vexil board'))
    const at = async (): Promise<number> => (await onCloth('Vexil board')).place.startMs
    await arrives('Vexil board', { sequence: 5, hour: '1900' })
    const forged = await invitation('Vexil board')
    expect(forged).to.deep.include({ isAnew: true, isProven: false, answer: 'none' })
    expect(await at(), 'nothing moves by it').to.equal(msAt('0600'))
    // Proven, though of a lower number than the forged one.
    await arrives('Vexil board', { sequence: 1, hour: '0700', proven: true })
    await until('it has moved', async () => (await at()) === msAt('0700'))
    expect(await invitation('Vexil board')).to.deep.include({ isAnew: false, isProven: true, answer: 'none' })
    await arrives('Vexil board', { sequence: 0, hour: '0600', proven: true, stamp: 9 })
    await arrives('Vexil board', { sequence: 1, hour: '0500', proven: true })
    expect(await at(), 'older, and the same again').to.equal(msAt('0700'))
    await answer('Vexil board', 'accepted')
    await arrives('Vexil board', { method: 'CANCEL', sequence: 2 })
    expect(await invitation('Vexil board')).to.deep.include({ isCalledOff: true, isKept: true })
    expect(await onCloth('Vexil board')).to.not.equal(undefined)
    await arrives('Vexil board', { method: 'CANCEL', sequence: 2, proven: true })
    await until('it is called off', async () => !(await onCloth('Vexil board')))
    const { id } = await invitation('Vexil board')
    expect((await w.client.call('DELETE', `/invitations/${id}`)).status).to.equal(204)
    expect(await invitation('Vexil board')).to.equal(undefined)
  })

  it('of several of the team stand once, with who of them comes', async () => {
    await arrives('Quennip walk')
    await arrives('Quennip walk', { to: tobias })
    await answer('Quennip walk', 'accepted')
    await answer('Quennip walk', 'tentative', tobias)
    const ids = [(await w.client.call('GET', '/me')).body.id, (await tobias.call('GET', '/me')).body.id]
    const people = async (): Promise<string[]> => [...((await onCloth('Quennip walk'))?.people ?? [])].sort()
    await until('both come', async () => JSON.stringify(await people()) === JSON.stringify([...ids].sort()))
    await answer('Quennip walk', 'declined')
    await until('one comes', async () => JSON.stringify(await people()) === JSON.stringify([ids[1]]))
    await answer('Quennip walk', 'declined', tobias)
    await until('nobody comes', async () => !(await onCloth('Quennip walk')))
  })

  it('cannot be answered where they name somebody else, and are messages where they are no invitations', async () => {
    await arrives('Plimber others', { guests: ['bram@else.example'] })
    const { id, namesMe } = await invitation('Plimber others')
    expect(namesMe).to.equal(false)
    const done = await w.client.call('POST', `/invitations/${id}`, { answer: 'accepted' })
    expect([done.status, done.body.reason]).to.deep.equal([
      422,
      'It names none of your addresses. Write to whoever invites.',
    ])
    await arrives('Plimber published', { method: 'PUBLISH' })
    await arrives('Plimber soon', { extra: ['DTSTART:soon'] })
    for (const title of ['Plimber published'])
      await until(title, async () => (await onCloth(title))?.place.kind === 'none')
    await arrives('Plimber long', { extra: [`CATEGORIES:${'x'.repeat(600)}`] })
    expect(await invitation('Plimber long')).to.equal(undefined)
    await until('it is a message', async () => (await onCloth('Plimber long'))?.place.kind === 'none')
    const crowd = Array.from({ length: 1000 }, (_, n) => `n${n}@else.example`)
    await arrives('Plimber crowd', { guests: [...MINE, ...crowd] })
    await answer('Plimber crowd', 'accepted')
    await until('it is in the plan', () => onCloth('Plimber crowd'))
    expect(await invitation('Plimber crowd')).to.deep.include({ guestCount: 1002, namesMe: true })
  })
})
