import { createTransport } from 'nodemailer'
import type { Logger } from 'pino'

/** Mail that we send. */

export interface Letter {
  to: { name: string; address: string }
  subject: string
  text: string
  /** Steady, where it may be sent twice: whoever receives it keeps one (RFC 5322 §3.6.4). */
  id?: string
  /** Whom it comes from, where that is not us: their name beside our address, and where answers in words go. */
  by?: string
  replyTo?: { name: string; address: string }
  /** What calendar programs read in it (RFC 6047). */
  calendar?: { method: 'REQUEST' | 'CANCEL' | 'REPLY'; content: string }
}

export interface OutgoingMail {
  url: string
  from: string
}

const WITHIN_MS = 15_000

/** Of `Garden <garden@…>`, or of the address alone. */
export const addressIn = (from: string): string => /<([^<>]+)>\s*$/.exec(from)?.[1] ?? from.trim()

/** Throws where the mail server does not take it. */
export async function sendMail(
  mail: OutgoingMail,
  { to, subject, text, calendar, id, by, replyTo }: Letter,
): Promise<void> {
  const times = { connectionTimeout: WITHIN_MS, greetingTimeout: WITHIN_MS, socketTimeout: WITHIN_MS }
  const transport = createTransport({ url: mail.url, ...times })
  try {
    await transport.sendMail({
      from: by === undefined ? mail.from : { name: by, address: addressIn(mail.from) },
      ...(replyTo && { replyTo }),
      to,
      subject,
      text,
      ...(id !== undefined && { messageId: `<${id}>` }),
      ...(calendar && { icalEvent: { method: calendar.method, content: calendar.content } }),
    })
  } finally {
    transport.close()
  }
}

/** Whether the mail server took it; without one, nothing is sent. */
export async function trySending(mail: OutgoingMail | null, log: Logger, letter: Letter): Promise<boolean> {
  if (!mail) return false
  try {
    await sendMail(mail, letter)
    return true
  } catch (error) {
    log.warn({ err: error }, 'the mail server did not take a letter')
    return false
  }
}
