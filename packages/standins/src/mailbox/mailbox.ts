import { Hono } from 'hono'
import { html } from 'hono/html'
import { type ParsedMail, simpleParser } from 'mailparser'
import { SMTPServer } from 'smtp-server'
import { page } from '../page.ts'
import type { Store } from '../store.ts'

/** Where mail that the product sends arrives: a mailbox for everybody, with a page to read it. */
export interface Letter {
  to: string[]
  from: string
  subject: string
  /** Its Message-ID: the same one twice is one letter. */
  id: string
  text: string
  /** What a calendar program would read in it; '' where there is nothing. */
  calendar: string
  at: string
}
export interface MailboxState {
  letters: Letter[]
}
export const mailboxSeed = (): MailboxState => ({ letters: [] })

const KEEP = 200
const calendarIn = ({ attachments }: ParsedMail): string =>
  attachments.find(a => a.contentType === 'text/calendar')?.content.toString('utf8') ?? ''

/** Takes mail on loopback (RFC 5321); resolves with its port once it does. */
export function takeMail(
  store: Store<MailboxState>,
  port: number,
): Promise<{ port: number; close: () => Promise<void> }> {
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    size: 1_000_000,
    logger: false,
    onData(stream, session, done) {
      simpleParser(stream)
        .then(mail => {
          store.value.letters.unshift({
            to: session.envelope.rcptTo.map(r => r.address),
            from: mail.from?.text ?? '',
            subject: mail.subject ?? '',
            id: mail.messageId ?? '',
            text: mail.text ?? '',
            calendar: calendarIn(mail),
            at: new Date().toISOString(),
          })
          store.value.letters.length = Math.min(store.value.letters.length, KEEP)
          store.save()
          done()
        })
        .catch((error: Error) => done(error))
    },
  })
  return new Promise((resolve, reject) => {
    server.once('error', reject)
    const listening = server.listen(port, '127.0.0.1', () => {
      const address = listening.address()
      resolve({
        port: typeof address === 'object' && address ? address.port : port,
        close: () => new Promise(done => server.close(() => done())),
      })
    })
  })
}

export function mailboxPage(store: Store<MailboxState>) {
  return new Hono({ strict: false })
    .get('/messages', c => c.json({ letters: store.value.letters }))
    .get('/page', c => {
      const letters = store.value.letters.map(
        l =>
          html`<article>
            <h2>${l.subject}</h2>
            <p>To ${l.to.join(', ')}, ${l.at.slice(0, 16).replace('T', ' ')} UTC</p>
            <pre>${l.text}</pre>
          </article>`,
      )
      const body = letters.length > 0 ? html`${letters}` : html`<p>Nothing has arrived yet.</p>`
      return c.html(page('Mailbox', 'Mail that Amber Loom sends arrives here.', String(body)))
    })
}
