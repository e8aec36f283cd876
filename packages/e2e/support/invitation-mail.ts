import { createTransport } from 'nodemailer'
import type { App } from './app.ts'

/** A mail with a calendar object in it, as other calendar programs send them (RFC 6047). */
export async function arrives(
  app: App,
  { method, title, lines, to }: { method: string; title: string; lines: string[]; to: string },
): Promise<void> {
  const content = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//other//EN',
    `METHOD:${method}`,
    'BEGIN:VEVENT',
    `SUMMARY:${title}`,
    'DTSTAMP:20261101T100000Z',
    ...lines,
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n')
  const icalEvent = { method, content }
  const from = 'orla@trustees.example'
  const transport = createTransport({ host: '127.0.0.1', port: app.smtpPort, secure: false, ignoreTLS: true })
  await transport.sendMail({ from, to, subject: title, text: 'Please', icalEvent })
}
