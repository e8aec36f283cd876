import { type Attachment, simpleParser } from 'mailparser'
import { SMTPServer } from 'smtp-server'
import { understoodOr } from '@loom/core'
import { readItip } from '@loom/core/invitations'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { meetingAt, takeAnswer } from '../outward/invitations/answers.ts'
import { receiveInvitation } from '../outward/invitations/received.ts'
import { doorBehind, mayPass, memberBehind, passDoor } from './doors.ts'
import { isProven } from './proven-sender.ts'

/**
 * The application's own SMTP listener (RFC 5321), on loopback: mail to a member's secret address becomes a
 * task in their intake. A mail server in front of it brings what comes from outside.
 */
const MAX_MESSAGE = 1_000_000
const MAX_RECIPIENTS = 5
/** A mail server in front of us has one address, so that its own limits are the ones for each sender. */
const MOST_CLIENTS = 40
const MOST_OF_SOURCE = 20
/** How long a client may say nothing, and how long it may take for everything. */
const PATIENCE = { idleMs: 20_000, wholeMs: 90_000 }

const ONLY_ANSWERS = 'Only answers to the invitation are read here. Write to whoever invited you.'

/** In the character set that it says; what that one cannot say is told by a sign (U+FFFD). */
function calendarIn({ contentType, headers, content }: Attachment): string[] {
  if (!/^(text\/calendar|application\/ics)$/i.test(contentType)) return []
  const said = headers.get('content-type') as { params?: { charset?: string } } | undefined
  const charset = said?.params?.charset
  try {
    return [new TextDecoder(charset ?? 'utf-8').decode(content)]
  } catch {
    return [new TextDecoder().decode(content)]
  }
}

const tokenIn = (address: string): string => (address.split('@')[0] ?? '').toLowerCase()

class Refused extends Error {
  constructor(
    readonly responseCode: number,
    message: string,
  ) {
    super(message)
  }
}

/** Subjects of forwarded messages say so first; the task is about what comes after. */
const subjectOf = (subject: string | undefined): string =>
  (subject ?? '').replace(/^(\s*(fwd?|fw|wg|re|aw)\s*:)+\s*/i, '').trim() || 'Message without a subject'

async function collect(stream: NodeJS.ReadableStream): Promise<Buffer> {
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of stream) {
    const part = chunk as Buffer
    size += part.length
    // The rest is read and dropped, so that the sender hears the answer.
    if (size <= MAX_MESSAGE) chunks.push(part)
  }
  if (size > MAX_MESSAGE) throw new Refused(552, 'The message is larger than 1 MB.')
  return Buffer.concat(chunks)
}

/** The library keeps its connections to itself; they are found by the session's id. */
function endSession(server: SMTPServer, id: string): void {
  const { connections } = server as unknown as { connections: Set<{ id: string; close: () => void }> }
  for (const connection of connections) if (connection.id === id) connection.close()
}

export interface MailDoor {
  port: number
  close: () => Promise<void>
}

export async function listenForMail(
  ctx: Context,
  engine: Engine,
  port: number,
  of: { idleMs?: number; wholeMs?: number; authserv?: string | null } = {},
): Promise<MailDoor> {
  const { idleMs, wholeMs, authserv } = { ...PATIENCE, authserv: null, ...of }
  const deliver = async (recipients: string[], raw: Buffer): Promise<void> => {
    const mail = await simpleParser(raw, {
      skipImageLinks: true,
      skipHtmlToText: false,
      // HTML made of plain text is not used, and finding links in a long line is slow.
      skipTextToHtml: true,
      skipTextLinks: true,
      maxHtmlLengthToParse: 200_000,
    })
    const sender = mail.from?.value[0]?.address ?? 'somebody unnamed'
    const calendars = mail.attachments.flatMap(calendarIn)
    const proven = isProven(mail.headerLines, sender, authserv)
    const text = `From ${mail.from?.text ?? sender}\n\n${(mail.text ?? '').trim()}`
    for (const to of recipients) {
      const meeting = await meetingAt(ctx, tokenIn(to))
      if (meeting) {
        const answered = { from: sender, isProven: proven, calendars }
        if (!(await takeAnswer(ctx, meeting, answered, id => engine.kick(id))))
          throw new Refused(550, ONLY_ANSWERS)
        continue
      }
      if (await cameAsInvitation(tokenIn(to), calendars, { sender, isProven: proven })) continue
      const result = await passDoor(ctx, engine, 'mail', tokenIn(to), {
        key: mail.messageId ?? null,
        title: subjectOf(mail.subject),
        text,
        url: null,
        message: { sender: sender.slice(0, 320), raw: raw.toString('utf8') },
      })
      if (result === 'no-door') throw new Refused(550, 'Nobody is reached at this address.')
    }
  }
  /** What invites is no task: it is kept with what its person answers. */
  async function cameAsInvitation(
    token: string,
    calendars: readonly string[],
    by: { sender: string; isProven: boolean },
  ): Promise<boolean> {
    for (const text of calendars) {
      const itip = understoodOr(() => readItip(text), null)
      if (!itip) continue
      const member = await memberBehind(ctx, token)
      if (member && (await receiveInvitation(ctx, engine, member, { itip, text }, by))) return true
    }
    return false
  }
  const answered = (work: Promise<void>, done: (error?: Error | null) => void): void => {
    work.then(
      () => done(),
      (error: unknown) => {
        if (error instanceof Refused) return done(error)
        ctx.log.error({ err: error }, 'a message could not be taken')
        return done(new Refused(451, 'Try again later.'))
      },
    )
  }
  const sources = new Map<string, number>()
  const timers = new Map<string, NodeJS.Timeout>()
  const server: SMTPServer = new SMTPServer({
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    size: MAX_MESSAGE,
    maxClients: MOST_CLIENTS,
    socketTimeout: idleMs,
    closeTimeout: 2_000,
    onConnect: ({ id, remoteAddress }, done) => {
      const of = (sources.get(remoteAddress) ?? 0) + 1
      if (of > MOST_OF_SOURCE) return done(new Refused(421, 'Too many connections.'))
      sources.set(remoteAddress, of)
      // A client that sends a byte now and then is ended after this time.
      timers.set(
        id,
        setTimeout(() => endSession(server, id), wholeMs),
      )
      return done()
    },
    onClose: ({ id, remoteAddress }) => {
      clearTimeout(timers.get(id))
      timers.delete(id)
      const left = (sources.get(remoteAddress) ?? 1) - 1
      if (left > 0) sources.set(remoteAddress, left)
      else sources.delete(remoteAddress)
    },
    banner: 'Amber Loom intake',
    onRcptTo: ({ address }, session, done) => {
      const check = async (): Promise<void> => {
        if (session.envelope.rcptTo.length >= MAX_RECIPIENTS) throw new Refused(452, 'Too many recipients.')
        const meeting = await meetingAt(ctx, tokenIn(address))
        const door = meeting ?? (await doorBehind(ctx, 'mail', tokenIn(address)))
        if (!door) throw new Refused(550, 'Nobody is reached at this address.')
        // Before anything of the message is read.
        if (!mayPass(door.id)) throw new Refused(451, 'Too many messages; try again in a minute.')
      }
      answered(check(), done)
    },
    onData: (stream, session, done) => {
      const recipients = session.envelope.rcptTo.map(r => r.address)
      answered(
        collect(stream).then(raw => deliver(recipients, raw)),
        done,
      )
    },
  })
  server.on('error', error => ctx.log.warn({ err: error }, 'mail intake'))
  await new Promise<void>((resolve, reject) => {
    server.server.once('error', reject)
    server.listen(port, '127.0.0.1', () => resolve())
  })
  const address = server.server.address()
  return {
    port: typeof address === 'object' && address ? address.port : port,
    close: () => new Promise(resolve => server.close(() => resolve())),
  }
}
