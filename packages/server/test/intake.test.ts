import { request } from 'node:http'
import { connect, type Socket } from 'node:net'
import { createTransport } from 'nodemailer'
import { expect } from 'chai'
import { listenForMail, type MailDoor } from '../src/intake/mail.ts'
import { fresh } from './support/connecting.ts'
import { startWorld, until, weekDay, type Client, type World } from './support/world.ts'

/** Into a member's intake from outside: by mail through the application's own SMTP listener, and by POST. */
describe('message intake', function () {
  this.timeout(60_000)
  let w: World

  before(async () => {
    w = await startWorld()
  })
  after(() => w.close())

  const openDoor = async (kind: 'mail' | 'capture', client: Client = w.client): Promise<string> => {
    expect((await client.call('POST', '/doors', { kind })).status).to.equal(201)
    return addressOf(kind, client)
  }
  const addressOf = async (kind: string, client: Client = w.client): Promise<string> =>
    (await client.call('GET', '/doors')).body.doors.find((d: { kind: string }) => d.kind === kind)?.address
  const transport = () =>
    createTransport({ host: '127.0.0.1', port: w.app.smtpPort, secure: false, ignoreTLS: true })
  const send = (to: string | string[], change: object = {}) =>
    transport().sendMail({
      from: '"Orla Fenn" <orla@trustees.example>',
      to,
      subject: 'Fwd: Lantern insurance',
      text: 'Could you send the sheet before Friday?\n\nOrla',
      messageId: '<lantern-1@trustees.example>',
      ...change,
    })
  const responseOf = async (work: Promise<unknown>): Promise<string> => {
    try {
      await work
      return 'taken'
    } catch (error) {
      return (error as { response?: string }).response ?? String(error)
    }
  }
  const shelf = async (title: string, client: Client = w.client) => {
    const { body } = await client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)
    return body.items.filter((i: { title: string }) => i.title === title)
  }
  /** Each on a connection of its own: the server closes one on which too much was sent. */
  const post = (url: string, body: unknown): Promise<{ status: number }> =>
    new Promise((resolve, reject) => {
      const sent = request(url, { method: 'POST', agent: false }, answer => {
        answer.resume()
        resolve({ status: answer.statusCode ?? 0 })
      })
      sent.setHeader('Content-Type', 'application/json')
      sent.on('error', reject)
      sent.end(typeof body === 'string' ? body : JSON.stringify(body))
    })

  describe('by mail', () => {
    it('makes a task of a forwarded message, with its sender and text, and keeps the message', async () => {
      const address = await openDoor('mail')
      expect(address).to.match(/^[a-z2-9]{24}@intake\./)
      await send(address)
      const [task] = await until('the task', async () => {
        const found = await shelf('Lantern insurance')
        return found.length > 0 && found
      })
      expect(task.place.kind).to.equal('none')
      const { messages } = (await w.client.call('GET', '/doors/messages')).body
      expect(messages).to.have.length(1)
      expect(messages[0]).to.include({ title: 'Lantern insurance', sender: 'orla@trustees.example' })
      const kept = (await w.client.call('GET', `/doors/messages/${messages[0].id}`)).body
      expect(kept.raw).to.contain('Could you send the sheet before Friday?')
      expect(kept.raw).to.contain('Subject: Fwd: Lantern insurance')
    })

    it('makes one task of a message that is delivered twice, and two of two', async () => {
      const address = await addressOf('mail')
      await send(address)
      await send(address, { subject: 'Lantern insurance', messageId: '<lantern-2@trustees.example>' })
      await until('both are there', async () => (await shelf('Lantern insurance')).length === 2)
    })

    it('reads a message that is only a web page, in another character set, and without a subject', async () => {
      const address = await addressOf('mail')
      await send(address, {
        subject: '',
        text: undefined,
        html: '<script>alert(1)</script><p>Der Bus h&auml;lt am unteren Tor.</p>',
        messageId: '<bus@x>',
      })
      await until('the task', async () => (await shelf('Message without a subject')).length === 1)
      const { body } = await w.client.call('GET', '/files/export?format=jscalendar')
      const entry = body.entries.find((e: { title: string }) => e.title === 'Message without a subject')
      expect(entry.description).to.contain('Der Bus hält am unteren Tor.').and.not.contain('alert')
    })

    it('shows a message to its own member only', async () => {
      const { messages } = (await w.client.call('GET', '/doors/messages')).body
      const other = fresh(w)
      await other.signIn('tobias@quillmere.example')
      expect((await other.call('GET', '/doors/messages')).body.messages).to.deep.equal([])
      expect((await other.call('GET', `/doors/messages/${messages[0].id}`)).status).to.equal(404)
    })

    it('refuses what is for nobody, too large, or to too many, and goes on', async () => {
      const address = await addressOf('mail')
      expect(await responseOf(send('nobody@intake.localhost'))).to.match(/^550 /)
      const large = await responseOf(send(address, { text: 'x'.repeat(1_200_000), messageId: '<large@x>' }))
      expect(large).to.match(/^552 /)
      const other = fresh(w)
      await other.signIn('tobias@quillmere.example')
      const tobias = await openDoor('mail', other)
      const many = Array.from({ length: 8 }, (_, i) => (i % 2 ? address : tobias))
      // The same mailbox several times over is written out by hand: a mail program would fold it.
      expect(await responseOf(rcptMany(many))).to.match(/^452 /)
      await send(tobias, { subject: 'For Tobias', messageId: '<tobias@x>' })
      await until('it came', async () => (await shelf('For Tobias', other)).length === 1)
    })

    describe('from clients that take their time', () => {
      let door: MailDoor
      before(async () => {
        door = await listenForMail(w.app.ctx, w.app.engine, 0, { idleMs: 400, wholeMs: 1500 })
      })
      after(() => door.close())
      /** A connection, and what the server said until it closed it or `enough` was said. */
      const dial = (say: (socket: Socket) => void, enough?: RegExp): Promise<string> =>
        new Promise(resolve => {
          let said = ''
          const socket = connect(door.port, '127.0.0.1', () => say(socket))
          socket.on('data', part => {
            said += String(part)
            if (enough?.test(said)) resolve(said)
          })
          socket.on('error', () => undefined)
          socket.on('close', () => resolve(said))
          open.push(socket)
        })
      const open: Socket[] = []
      afterEach(() => open.splice(0).forEach(s => s.destroy()))

      it('ends those that say nothing, and those that say a letter now and then', async () => {
        await dial(() => undefined)
        await dial(socket => {
          const drip = setInterval(() => socket.write('x'), 50)
          socket.on('close', () => clearInterval(drip))
        })
      })

      it('gives one source so many places, and each again once it is left', async () => {
        const greeting = /^220 /
        const held = await Promise.all(Array.from({ length: 20 }, () => dial(() => undefined, greeting)))
        expect(held.every(said => greeting.test(said))).to.equal(true)
        expect(await dial(() => undefined)).to.match(/^421 /)
        for (const socket of open.splice(0)) socket.destroy()
        await until('a place is free', async () => greeting.test(await dial(() => undefined, /^\d{3} /)))
      })
    })

    it('is shut by its owner, and an old address leads nowhere', async () => {
      const old = await addressOf('mail')
      const next = await openDoor('mail')
      expect(next).to.not.equal(old)
      expect(await responseOf(send(old, { messageId: '<old@x>' }))).to.match(/^550 /)
      expect(await responseOf(send(next, { messageId: '<next@x>' }))).to.equal('taken')
      await w.client.call('DELETE', '/doors/mail')
      expect(await responseOf(send(next, { messageId: '<shut@x>' }))).to.match(/^550 /)
    })
  })

  describe('by POST', () => {
    it('takes a title, a text and an address, from anywhere that knows the token', async () => {
      const url = await openDoor('capture')
      const answer = await post(url, {
        title: 'Ask about the lower gate',
        text: 'from the chat',
        url: 'https://chat.example/m/7',
      })
      expect(answer.status).to.equal(201)
      const [task] = await until('the task', async () => {
        const found = await shelf('Ask about the lower gate')
        return found.length > 0 && found
      })
      expect(task.completable).to.equal(true)
      await w.client.call('POST', `/cloth/${task.key}/edit`, { do: 'complete' })
      await until('it is done', async () => {
        const { body } = await w.client.call('GET', '/files/export?format=jscalendar')
        return body.entries.some(
          (e: { title: string; progress?: string }) =>
            e.title === 'Ask about the lower gate' && e.progress === 'completed',
        )
      })
    })

    it('reads a line as the field in the band does: when, how long, due when, how urgent', async () => {
      const url = await addressOf('capture')
      const said = { title: 'Call the glazier tomorrow 10-11, due Friday, urgent', text: 'From the chat.' }
      expect((await post(url, said)).status).to.equal(201)
      const task = await until('the task', async () => {
        const { body } = await w.client.call('GET', '/files/export?format=jscalendar')
        return body.entries.find((e: { title: string }) => e.title === 'Call the glazier')
      })
      expect(task).to.include({ estimatedDuration: 'PT60M', priority: 1 })
      expect(task.start).to.match(/T10:00:00$/)
      expect(task.due).to.be.a('string')
    })

    it('refuses what is not asked for, in a word, and takes nothing of it', async () => {
      const url = await addressOf('capture')
      const wrong: [string, unknown][] = [
        ['no title', { text: 'x' }],
        ['an empty title', { title: '  ' }],
        ['a script for an address', { title: 'x', url: 'javascript:alert(1)' }],
        ['a title without end', { title: 'x'.repeat(5000) }],
        ['no JSON', '{ "title": '],
      ]
      for (const [what, body] of wrong) expect((await post(url, body)).status, what).to.equal(400)
      expect((await post(url, { title: 'x', text: 'y'.repeat(200_000) })).status).to.equal(413)
      expect((await post(`${url}x`, { title: 'x' })).status).to.equal(404)
      expect((await post(url.replace(/capture\/.*/, 'capture/'), { title: 'x' })).status).to.equal(404)
      expect(await shelf('x')).to.deep.equal([])
    })

    it('counts, and asks for patience after too many in a minute', async () => {
      const url = await openDoor('capture')
      const statuses: number[] = []
      for (let i = 0; i < 34; i++) statuses.push((await post(url, { title: `Burst ${i}` })).status)
      expect(statuses.filter(s => s === 201)).to.have.length(30)
      expect(statuses.at(-1)).to.equal(429)
      const { doors } = (await w.client.call('GET', '/doors')).body
      expect(doors.find((d: { kind: string }) => d.kind === 'capture').uses).to.equal(30)
      // Another's door is not slowed by it.
      const other = fresh(w)
      await other.signIn('tobias@quillmere.example')
      expect((await post(await openDoor('capture', other), { title: 'Calm' })).status).to.equal(201)
    })

    it('is shut by its owner', async () => {
      const url = await addressOf('capture')
      await w.client.call('DELETE', '/doors/capture')
      expect((await post(url, { title: 'late' })).status).to.equal(404)
    })
  })

  it('keeps no token readable in the database', async () => {
    const url = await openDoor('capture')
    const token = url.split('/').at(-1) ?? '?'
    const rows = await w.app.ctx.db.rows<{ token: string; token_hash: string }>('SELECT * FROM doors', {})
    expect(JSON.stringify(rows)).to.not.contain(token)
  })

  /** RCPT TO for each, in order; rejects with the server's first refusal. */
  function rcptMany(recipients: string[]): Promise<void> {
    return transport()
      .sendMail({
        envelope: { from: 'orla@trustees.example', to: recipients.map((r, i) => r.replace('@', `@${i}.`)) },
        raw: 'Subject: Many\r\n\r\nMany.',
      })
      .then(info => {
        const [refused] = info.rejectedErrors ?? []
        if (refused) throw refused
      })
  }
})
