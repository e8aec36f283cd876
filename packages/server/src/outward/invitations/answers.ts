import { epochOf, understoodOr } from '@loom/core'
import { isNewer, type Itip, readItip } from '@loom/core/invitations'
import type { Context } from '../../context/context.ts'
import { parsed } from '../../data/json.ts'
import {
  answersOf,
  dropWaiting,
  lockMeeting,
  type MeetingAnswer,
  meetingByToken,
  meetingEvent,
  type MeetingRow,
  putAnswer,
} from '../../data/repositories/meetings.ts'
import { teamOfWorkspace } from '../../data/repositories/members.ts'
import type { Member } from '../../data/repositories/sessions.ts'
import { editItem } from '../../view/edit.ts'

/**
 * What guests answer by mail (RFC 5546 §3.2.3 and §3.2.7). It counts where the mail is proven to come from the guest;
 * else it waits until somebody who may change the event says that it counts.
 */

/** Of one meeting, so that dates without end that somebody answers fill nothing. */
const MOST_ANSWERS = 400

/** The local part of an address at which answers arrive. */
const ADDRESS = /^meet-([0-9a-f]{40})$/

/** Null where the address is none of a meeting. */
export async function meetingAt(ctx: Context, localPart: string): Promise<MeetingRow | null> {
  const token = ADDRESS.exec(localPart)?.[1]
  return token === undefined ? null : meetingByToken(ctx.db, { token })
}

export interface Mailed {
  from: string
  isProven: boolean
  /** Calendar objects that came with it. */
  calendars: readonly string[]
}

/** Whether it was an answer to this meeting. What says nothing new changes nothing. */
export async function takeAnswer(
  ctx: Context,
  meeting: MeetingRow,
  mail: Mailed,
  written: (connection: string) => void,
): Promise<boolean> {
  const itip = mail.calendars
    .map(text => understoodOr(() => readItip(text), null))
    .find(read => read?.uid === meeting.uid && (read.method === 'REPLY' || read.method === 'COUNTER'))
  if (!itip) return false
  // An answer is one guest's (RFC 5546 §3.2.3).
  const [guest, ...others] = itip.guests
  if (!guest || others.length > 0) return true
  const isTheirs = mail.isProven && mail.from.toLowerCase() === guest.email
  const counts = isTheirs && itip.method === 'REPLY'
  const answer = answerIn(itip, ctx.now(), counts)
  const isKept = await ctx.db.commit(async sql => {
    const row = await lockMeeting(sql, { id: meeting.id })
    const told = row?.told ? parsed(row.told) : null
    if (!told || told.isCalledOff || !told.guests.some(g => g.email === guest.email)) return false
    const all = await answersOf(sql, { id: meeting.id })
    if (all.length >= MOST_ANSWERS) return false
    const known = all.find(
      a => a.waits === 0 && a.email === guest.email && a.recurrence === answer.recurrence,
    )
    const counted = known && { sequence: known.sequence, stampMs: Number(known.stamp_ms) }
    if (!isNewer({ sequence: answer.sequence, stampMs: answer.stamp_ms }, told.sequence, counted ?? null))
      return false
    if (counts) await dropWaiting(sql, { ...answer, meetingId: meeting.id })
    await putAnswer(sql, { ...answer, meetingId: meeting.id, workspaceId: meeting.workspace_id })
    const event = await meetingEvent(sql, { workspaceId: meeting.workspace_id, uid: meeting.uid })
    sql.tell(meeting.workspace_id, { topics: ['cloth'] }, event ? [event.id] : [])
    return true
  })
  if (isKept && counts) {
    const host = (await teamOfWorkspace(ctx.db, { workspaceId: meeting.workspace_id })).find(
      m => m.id === meeting.organizer_id,
    )
    if (host)
      await count(ctx, { ...host, workspaceId: meeting.workspace_id, userId: '' }, meeting, answer, written)
  }
  return true
}

/** Written into the event; an answer for one date of a series is only told beside it. */
async function count(
  ctx: Context,
  by: Member,
  { uid }: MeetingRow,
  { email, answer, recurrence }: Pick<MeetingAnswer, 'email' | 'answer' | 'recurrence'>,
  written: (connection: string) => void,
): Promise<string | null> {
  if (recurrence !== '' || answer === 'none') return null
  const event = await meetingEvent(ctx.db, { workspaceId: by.workspaceId, uid })
  if (!event) return 'It is no longer there.'
  const edit = { do: 'note-answers' as const, answers: [{ email, answer }] }
  const done = await editItem(ctx, by, event.id, edit, null, { cause: 'answer-by-mail' })
  if (done.ok && done.connectionId) written(done.connectionId)
  return done.ok || done.status === 409 ? null : done.reason
}

function answerIn(itip: Itip, now: number, counts: boolean): MeetingAnswer {
  const [guest] = itip.guests
  const time = itip.method === 'COUNTER' ? itip.event?.time : undefined
  const proposed = time && time.anchor.kind !== 'date' ? epochOf(time.anchor, 'UTC') : null
  return {
    email: guest?.email ?? '',
    recurrence: (itip.recurrenceId ?? '').replace(/[^\w:+-]/g, ''),
    sequence: Math.min(itip.sequence, 2 ** 31 - 1),
    // One that says no moment, or one to come, was said when it came.
    stamp_ms: Math.min(itip.stampMs ?? now, now),
    answer: guest?.answer ?? 'none',
    comment: itip.comment,
    proposed_ms: proposed,
    proposed_end: proposed === null || !time ? null : proposed + time.minutes * 60_000,
    waits: counts ? 0 : 1,
  }
}

/** Somebody who may change the event says whether an answer that waits counts. Returns why not, or null. */
export async function sayIfCounts(
  ctx: Context,
  by: Member,
  meetingId: string,
  said: { email: string; recurrence: string; counts: boolean },
  written: (connection: string) => void,
): Promise<string | null> {
  const found = await ctx.db.commit(async sql => {
    const row = await lockMeeting(sql, { id: meetingId })
    const waiting = (await answersOf(sql, { id: meetingId })).find(
      a => a.email === said.email && a.recurrence === said.recurrence && a.waits === 1,
    )
    if (!row || !waiting) return null
    await dropWaiting(sql, { ...waiting, meetingId })
    if (said.counts) await putAnswer(sql, { ...waiting, waits: 0, meetingId, workspaceId: row.workspace_id })
    sql.tell(row.workspace_id, { topics: ['cloth'] })
    return { row, waiting }
  })
  if (!found) return 'It is settled already.'
  return said.counts ? count(ctx, by, found.row, found.waiting, written) : null
}
