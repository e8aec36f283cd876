import { randomUUID } from 'node:crypto'
import { Event, Guest, type GuestAnswer, invitedTo, parseEvent, understoodOr } from '@loom/core'
import { factsOf, type Itip, keptObject, replyObject } from '@loom/core/invitations'
import { ownConnectionOf } from '../../connecting/own-lists.ts'
import type { Context } from '../../context/context.ts'
import type { Tx } from '../../data/database.ts'
import { json } from '../../data/json.ts'
import {
  addMeetingLetter,
  meetingById,
  meetingIdOf,
  toldElsewhere,
} from '../../data/repositories/meetings.ts'
import { teamOfWorkspace } from '../../data/repositories/members.ts'
import {
  countReceived,
  dropSettledReceived,
  lockReceived,
  putReceived,
  type ReceivedInvitation,
  receivedIdOf,
} from '../../data/repositories/received-invitations.ts'
import type { Member } from '../../data/repositories/sessions.ts'
import { keepObject, ownObject, removeOwnObject } from '../../own/connector.ts'
import type { Engine } from '../../sync/engine/engine.ts'
import { replyLetter } from './letters.ts'

/**
 * Invitations of others that come to a member's intake address (RFC 6047): kept as they were said last, answered by
 * mail, and kept in our own events while somebody comes. What is not proven to come from whoever invites changes
 * nothing that was answered: it waits until its person answers again.
 */

const MOST = 300

type Guestly = Pick<Member, 'id' | 'workspaceId' | 'email'>

/** False where it is none that can be kept: it is a message then, like any other. */
export async function receiveInvitation(
  ctx: Context,
  engine: Engine,
  member: Guestly,
  { itip, text }: { itip: Itip; text: string },
  { sender, isProven }: { sender: string; isProven: boolean },
): Promise<boolean> {
  const { method, uid, event } = itip
  if ((method !== 'REQUEST' && method !== 'CANCEL') || (method === 'REQUEST' && !event)) return false
  // What is more than a list holds is no more than a message.
  if (event && !Event.safeParse(event).success) return false
  const recurrence = (itip.recurrenceId ?? '').replace(/[^\w:+-]/g, '')
  const id = receivedIdOf(member.id, uid, recurrence)
  const isTheirs = isProven && itip.organizer !== null && sender.toLowerCase() === itip.organizer
  const touched = await ctx.db.commit(async (sql): Promise<'new' | 'kept' | 'nothing' | 'full'> => {
    const was = await lockReceived(sql, { id, memberId: member.id })
    if (!was && method === 'CANCEL') return 'nothing'
    const isFull = !was && Number((await countReceived(sql, { memberId: member.id }))?.n ?? 0) >= MOST
    if (isFull && (await dropSettledReceived(sql, { memberId: member.id })) === 0) return 'full'
    const now = ctx.now()
    const said = {
      sequence: Math.min(itip.sequence, 2 ** 31 - 1),
      stamp_ms: Math.min(itip.stampMs ?? now, now),
    }
    if (was && !supersedes({ ...said, isTheirs }, was)) return 'nothing'
    const isSameTime = was !== null && timesIn(was.object) === timesIn(text)
    const row: ReceivedInvitation = {
      id,
      workspace_id: member.workspaceId,
      member_id: member.id,
      uid,
      recurrence,
      method,
      ...said,
      sender: sender.slice(0, 320),
      proven: Number(isTheirs),
      // What is called off is shown as it was known, if it says no more than that.
      object: event || !was ? text : was.object,
      answer: isSameTime || method === 'CANCEL' ? (was?.answer ?? 'none') : 'none',
      kept: was?.kept ?? 0,
      is_as_kept: 0,
      received_at: now,
    }
    const follows = row.kept === 1 && isTheirs
    if (follows) Object.assign(row, await inList(ctx, sql, member, row))
    await putReceived(sql, row)
    sql.tell(member.workspaceId, { topics: ['invitations'], exact: true, only: member.id })
    return follows ? 'kept' : 'new'
  })
  if (touched === 'kept') await engine.look(await ownConnectionOf(ctx, member.workspaceId))
  return touched !== 'full'
}

/** What is proven takes the place of what is not; of two that are alike, the newer (RFC 5546 §2.1.5). */
function supersedes(
  is: { sequence: number; stamp_ms: number; isTheirs: boolean },
  was: Pick<ReceivedInvitation, 'sequence' | 'stamp_ms' | 'proven'>,
): boolean {
  if (is.isTheirs && was.proven === 0) return true
  return is.sequence > was.sequence || (is.sequence === was.sequence && is.stamp_ms > Number(was.stamp_ms))
}

const timesIn = (object: string): string => understoodOr(() => factsOf(object).times, object)

/** Brings our own events to what the invitation says and its person has answered. */
async function inList(
  ctx: Context,
  sql: Tx,
  member: Guestly,
  { uid, recurrence, method, object, answer, kept }: ReceivedInvitation,
): Promise<Pick<ReceivedInvitation, 'kept' | 'is_as_kept'>> {
  const { workspaceId } = member
  // One date of a series is answered; the series in the list stays as it is.
  if (recurrence !== '') return { kept: 0, is_as_kept: 1 }
  const here = await ownObject(sql, workspaceId, uid)
  const team = (await teamOfWorkspace(sql, { workspaceId })).map(m => m.email.toLowerCase())
  const meeting = await meetingById(sql, { id: meetingIdOf(workspaceId, uid) })
  const isToldHere = meeting?.elsewhere === 0
  const isOurs =
    here !== null && isToldHere && team.includes(understoodOr(() => invitedTo(here).organizer, null) ?? '')
  const me = member.email.toLowerCase()
  if (method === 'CANCEL' && !isOurs) {
    await removeOwnObject(sql, workspaceId, uid, ctx.now())
    return { kept: 0, is_as_kept: 1 }
  }
  // What a colleague invites to stands here already.
  const next = isOurs ? here : object
  const isSameTime = here !== null && timesIn(here) === timesIn(next)
  const before = isSameTime ? understoodOr(() => invitedTo(here).guests, []) : []
  const answers = new Map<string, GuestAnswer>(
    before.flatMap(g => (team.includes(g.email) ? [[g.email, g.answer] as const] : [])),
  )
  answers.set(me, answer)
  const text = keptObject(next, answers)
  // At another time it stands where it is now until its person answers anew.
  const waits = kept === 1 && answer === 'none'
  const comes = understoodOr(() => invitedTo(text).guests, []).some(
    g => team.includes(g.email) && (g.answer === 'accepted' || g.answer === 'tentative'),
  )
  if (!isOurs && !comes && !waits) {
    if (here !== null) await removeOwnObject(sql, workspaceId, uid, ctx.now())
    return { kept: 0, is_as_kept: 1 }
  }
  await toldElsewhere(sql, { workspaceId, uid })
  await keepObject(sql, workspaceId, parseEvent(text), text, ctx.now())
  return { kept: 1, is_as_kept: 1 }
}

export type Answering = { ok: true; isTold: boolean } | { ok: false; status: 404 | 422; reason: string }

/** Answers in the name of its person, and keeps it or takes it out of the list. */
export async function answerInvitation(
  ctx: Context,
  engine: Engine,
  member: Member,
  id: string,
  { answer, comment }: { answer: GuestAnswer; comment: string },
): Promise<Answering> {
  const done = await ctx.db.commit(async (sql): Promise<Answering> => {
    const was = await lockReceived(sql, { id, memberId: member.id })
    if (!was) return { ok: false, status: 404, reason: 'There is no such invitation any more.' }
    const me = member.email.toLowerCase()
    const invited = understoodOr(() => invitedTo(was.object), null)
    if (was.method === 'REQUEST' && !invited?.guests.some(g => g.email === me))
      return { ok: false, status: 422, reason: 'It names none of your addresses. Write to whoever invites.' }
    const row = { ...was, answer: was.method === 'CANCEL' ? was.answer : answer }
    Object.assign(row, await inList(ctx, sql, member, row))
    await putReceived(sql, row)
    const to = Guest.safeParse({ name: '', email: invited?.organizer ?? '' })
    // Where a colleague invites from here, what stands here says it.
    const isOutside = to.success && !to.data.email.endsWith(`@${ctx.mailHost}`)
    const isTold = was.method === 'REQUEST' && isOutside && ctx.outgoingMail !== null
    if (isTold) {
      const letterId = randomUUID()
      const content = replyObject(was.object, { email: me, answer, comment, stampMs: ctx.now() })
      const letter = replyLetter({
        by: member,
        to: to.data,
        answer,
        comment,
        content,
        id: letterId,
        url: ctx.publicUrl,
      })
      const owed = { id: letterId, meetingId: null, workspaceId: member.workspaceId, now: ctx.now() }
      await addMeetingLetter(sql, { ...owed, letter: json(letter) })
    }
    sql.tell(member.workspaceId, { topics: ['invitations'], exact: true, only: member.id })
    return { ok: true, isTold: isTold || !isOutside }
  })
  if (done.ok) await engine.look(await ownConnectionOf(ctx, member.workspaceId))
  return done
}
