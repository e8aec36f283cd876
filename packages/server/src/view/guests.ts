import {
  type Edit,
  type Guest,
  type GuestAnswer,
  MOST_NAME,
  invitedTo,
  type Invited,
  understoodOr,
} from '@loom/core'
import type { Sql } from '../data/database.ts'
import { parsed } from '../data/json.ts'
import { answersOf, meetingById, meetingIdOf } from '../data/repositories/meetings.ts'
import { placeAndOriginalOf } from '../data/repositories/originals.ts'
import { membersNamed } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { openIntents } from './open-edits.ts'

/** Guests of an event: who they are, and who may change that. */

/** Where events are kept as calendar objects, in which guests have a place. */
const HOLDS_GUESTS = ['caldav', 'own']
const NOBODY: Invited = { organizer: null, guests: [] }
const SILENT = { meeting: null, answers: [] }

export interface GuestsOf extends Invited {
  /** Why they cannot be changed from here; null where they can. */
  fixed: string | null
  /** The meeting of which they are told from here; null where they are told by its calendar's service. */
  meeting: string | null
  /** What they wrote besides: an answer that is not proven to be theirs, a word with it, another time, one date. */
  answers: SaidByGuest[]
}

/** `waits`: until somebody says whether it counts. */
export interface SaidByGuest {
  email: string
  /** Which date of a series, as RECURRENCE-ID has it; '' for all of it. */
  recurrence: string
  answer: GuestAnswer
  comment: string
  proposed: { fromMs: number; toMs: number } | null
  waits: boolean
}

/** @param mirrorId an event that may be seen whole */
export async function guestsOf(sql: Sql, member: Member, mirrorId: string): Promise<GuestsOf> {
  const row = await placeAndOriginalOf(sql, { id: mirrorId })
  if (!row || !HOLDS_GUESTS.includes(row.kind))
    return { ...NOBODY, ...SILENT, fixed: 'Its service takes no guests from here.' }
  const { kind, uid, original, ownerId } = row
  // What is kept here stands as an object of its own once it has guests or repeats.
  const isObject = original !== null && !original.startsWith('{')
  const invited = isObject ? understoodOr(() => invitedTo(original), null) : NOBODY
  if (!invited)
    return { ...NOBODY, ...SILENT, fixed: 'What its calendar says of its guests is not understood.' }
  const { organizer } = invited
  const ids = [member.id, ...(ownerId ? [ownerId] : [])]
  const hosts = await membersNamed(sql, { workspaceId: member.workspaceId, ids })
  const isOurs = organizer === null || hosts.some(h => h.email.toLowerCase() === organizer)
  const guests = await withThoseOnTheirWay(sql, member, mirrorId, invited.guests)
  const id = meetingIdOf(member.workspaceId, uid)
  const isToldHere = kind === 'own' && isOurs && (await meetingById(sql, { id }))?.elsewhere !== 1
  const meeting = isToldHere ? id : null
  return {
    organizer,
    guests,
    fixed: isOurs ? null : `${organizer} invites to it, and says who comes.`,
    meeting,
    answers: meeting === null ? [] : await saidBesides(sql, meeting),
  }
}

async function saidBesides(sql: Sql, id: string): Promise<SaidByGuest[]> {
  const answers = await answersOf(sql, { id })
  return answers.flatMap(a => {
    const { email, recurrence, answer, comment, proposed_ms: from, proposed_end: to } = a
    const proposed = from === null || to === null ? null : { fromMs: Number(from), toMs: Number(to) }
    const waits = a.waits === 1
    // What counts is among the guests themselves.
    if (!waits && recurrence === '' && comment === '') return []
    return [{ email, recurrence, answer, comment, proposed, waits }]
  })
}

/** As they will be once what was said here has reached the service. */
async function withThoseOnTheirWay(
  sql: Sql,
  { workspaceId }: Member,
  mirrorId: string,
  guests: Invited['guests'],
): Promise<Invited['guests']> {
  const open = (await openIntents(sql, workspaceId)).flatMap(({ mirror_id: of, body }) => {
    const intent = of === mirrorId ? parsed(body) : null
    return intent?.by === 'person' && intent.patch.guests ? [intent.patch.guests] : []
  })
  return open.reduce((all, { add, drop }) => {
    const isOf = (some: readonly Guest[], { email }: Guest): boolean =>
      some.some(g => g.email.toLowerCase() === email.toLowerCase())
    const fresh = add.filter(g => !isOf(all, g))
    const invited = fresh.map(g => ({ ...g, email: g.email.toLowerCase(), answer: 'none' as const }))
    return [...all.filter(g => !isOf(drop, g)), ...invited]
  }, guests)
}

/** The edit with whoever invites; or the reason why it may not be. */
export async function invitingBy(
  sql: Sql,
  member: Member,
  mirrorId: string,
  edit: Extract<Edit, { do: 'invite' }>,
): Promise<Edit | { reason: string }> {
  const { fixed, guests } = await guestsOf(sql, member, mirrorId)
  if (fixed !== null) return { reason: fixed }
  const [organizer] = await membersNamed(sql, { workspaceId: member.workspaceId, ids: [member.id] })
  const known = ({ email }: Guest): Guest | undefined => {
    const found = guests.find(g => g.email === email.toLowerCase())
    // What a calendar calls somebody may be longer than what is taken here, where it is taken back.
    return found && { name: found.name.slice(0, MOST_NAME), email: found.email }
  }
  const add = edit.add.filter(g => !known(g))
  const drop = edit.drop.flatMap(g => known(g) ?? [])
  if (add.length === 0 && drop.length === 0) return { reason: 'Its guests are those already.' }
  return { ...edit, add, drop, ...(organizer && { organizer }) }
}
