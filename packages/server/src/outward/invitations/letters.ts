import {
  clockWords,
  dayAt,
  epochOf,
  type Event,
  type Guest,
  type GuestAnswer,
  isKnownZone,
  longDayWords,
  MINUTE,
  parseEvent,
  understoodOr,
} from '@loom/core'
import type { ToTell } from '@loom/core/invitations'
import type { Member } from '../../data/repositories/sessions.ts'
import type { Letter } from '../../mail/mailer.ts'

/** The letters to guests of a meeting, in words; their calendar program reads what goes with them. */

export type Host = Pick<Member, 'id' | 'name' | 'email' | 'role' | 'zone'>

const SUBJECTS: Record<ToTell['why'], string> = {
  invited: 'Invitation',
  moved: 'Moved',
  changed: 'Changed',
  'called off': 'Called off',
  'no longer invited': 'No longer invited',
}
const WORDS: Record<ToTell['why'], (host: string) => string> = {
  invited: host => `${host} invites you:`,
  moved: host => `${host} has moved it. It is now:`,
  changed: host => `${host} has changed it. It is now:`,
  'called off': host => `${host} has called it off:`,
  'no longer invited': host => `${host} goes on without you, and frees your time:`,
}

/** When an event is, in words of a zone. */
export function whenWords({ time: { anchor, minutes }, recurring }: Event, zone: string): string {
  const more = recurring ? ', and again' : ''
  if (anchor.kind === 'date') return `${longDayWords(anchor.date)}${more}`
  const known = isKnownZone(zone) ? zone : 'UTC'
  const from = epochOf(anchor, known)
  const to = from + minutes * MINUTE
  const day = dayAt(from, known)
  const last = dayAt(to, known)
  const until = last === day ? clockWords(to, known) : `${longDayWords(last)}, ${clockWords(to, known)}`
  return `${longDayWords(day)}, ${clockWords(from, known)}–${until} (${known.replaceAll('_', ' ')})${more}`
}

/** @param zone in which the guest is told the time */
export function letterAbout(of: {
  why: ToTell['why']
  guest: Guest
  host: Host
  zone: string
  method: ToTell['method']
  content: string
  id: string
  url: string
}): Letter {
  const { why, guest, host, zone, method, content } = of
  const event = understoodOr(() => parseEvent(content), null)
  const title = event?.summary.trim() || 'A meeting'
  const at = event ? whenWords(event, zone) : ''
  const place = event?.location.trim() ?? ''
  const notes = method === 'REQUEST' ? (event?.description.trim().slice(0, 4_000) ?? '') : ''
  const asks = method === 'REQUEST' && why !== 'changed'
  return {
    id: `${of.id}@${new URL(of.url).hostname}`,
    by: host.name,
    replyTo: { name: host.name, address: host.email },
    to: { name: guest.name, address: guest.email },
    subject: `${SUBJECTS[why]}: ${title}${at ? `, ${at}` : ''}`,
    text: [
      WORDS[why](host.name),
      [title, at, place].filter(Boolean).join('\n'),
      notes,
      asks ? 'Answer with your calendar program, or write back.' : '',
    ]
      .filter(Boolean)
      .join('\n\n')
      .concat('\n'),
    calendar: { method, content },
  }
}

const ANSWERS: Record<GuestAnswer, { subject: string; words: string }> = {
  accepted: { subject: 'Accepted', words: 'comes.' },
  tentative: { subject: 'Perhaps', words: 'may come.' },
  declined: { subject: 'Declined', words: 'does not come.' },
  none: { subject: 'Not answered yet', words: 'has not decided yet.' },
}

/** What a member answers to somebody else's invitation. */
export function replyLetter(of: {
  by: Pick<Member, 'name' | 'email' | 'zone'>
  to: Guest
  answer: GuestAnswer
  comment: string
  content: string
  id: string
  url: string
}): Letter {
  const { by, to, answer, comment, content } = of
  const event = understoodOr(() => parseEvent(content), null)
  const title = event?.summary.trim() || 'Your invitation'
  const { subject, words } = ANSWERS[answer]
  const at = event ? `\n${whenWords(event, by.zone)}` : ''
  return {
    id: `${of.id}@${new URL(of.url).hostname}`,
    by: by.name,
    replyTo: { name: by.name, address: by.email },
    to: { name: to.name, address: to.email },
    subject: `${subject}: ${title}`,
    text: `${by.name} ${words}\n\n${title}${at}\n${comment === '' ? '' : `\n${comment}\n`}`,
    calendar: { method: 'REPLY', content },
  }
}
