import { zValidator } from '@hono/zod-validator'
import { dayAt, epochOf, type Event, invitedTo, MINUTE, parseEvent, understoodOr } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import { limitOf } from '../access/limits.ts'
import type { Context } from '../context/context.ts'
import {
  dropReceived,
  invitationsTo,
  type ReceivedInvitation,
} from '../data/repositories/received-invitations.ts'
import { answerInvitation } from '../outward/invitations/received.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { notTooOften, type SignedIn } from './session.ts'

/** Invitations that came to a member by mail: as they stand, answered, put away. */

/** So many guests are named. */
const MOST_NAMED = 30
const KEPT_MS = 180 * 86_400_000
const Said = z.object({
  answer: z.enum(['accepted', 'tentative', 'declined']),
  comment: z.string().trim().max(1000).default(''),
})

export function invitationRoutes(ctx: Context, engine: Engine) {
  // Each sends a mail out of the house.
  const answers = limitOf(ctx.db, { name: 'invitation-answer', times: 30, seconds: 60 })
  return new Hono<SignedIn>()
    .get('/', async c => {
      const { id: memberId, email, zone } = c.get('member')
      const rows = await invitationsTo(ctx.db, { memberId, since: ctx.now() - KEPT_MS })
      return c.json({
        mails: ctx.outgoingMail !== null,
        invitations: rows.map(row => shown(row, email.toLowerCase(), zone)),
      })
    })
    .post(
      '/:id',
      notTooOften(answers, c => c.get('member').id),
      zValidator('json', Said),
      async c => {
        const said = c.req.valid('json')
        const done = await answerInvitation(ctx, engine, c.get('member'), c.req.param('id'), said)
        return done.ok ? c.json({ isTold: done.isTold }) : c.json({ reason: done.reason }, done.status)
      },
    )
    .delete('/:id', async c => {
      const { id: memberId, workspaceId } = c.get('member')
      const gone = await ctx.db.commit(async sql => {
        const n = await dropReceived(sql, { id: c.req.param('id'), memberId })
        if (n > 0) sql.tell(workspaceId, { topics: ['invitations'], exact: true, only: memberId })
        return n
      })
      return gone > 0 ? c.body(null, 204) : c.json({ reason: 'There is no such invitation any more.' }, 404)
    })
}

/** @param me the mail address of whoever it came to, in small letters */
function shown(row: ReceivedInvitation, me: string, zone: string) {
  const event = understoodOr(() => parseEvent(row.object), null)
  const { organizer, guests } = understoodOr(() => invitedTo(row.object), { organizer: null, guests: [] })
  return {
    id: row.id,
    isCalledOff: row.method === 'CANCEL',
    /** Only this date of a series is meant. */
    isOneDate: row.recurrence !== '',
    title: event?.summary.trim() || 'Without a title',
    location: event?.location ?? '',
    notes: event?.description.slice(0, 4000) ?? '',
    repeats: event?.recurring === true && row.recurrence === '',
    when: event && whenOf(event, zone),
    organizer,
    sender: row.sender,
    isProven: row.proven === 1,
    guests: guests.slice(0, MOST_NAMED).map(({ name, email }) => ({ name, email })),
    guestCount: guests.length,
    namesMe: guests.some(g => g.email === me),
    answer: row.answer,
    isKept: row.kept === 1,
    /** It was said anew since, and is not in the list so. */
    isAnew: row.kept === 1 && row.is_as_kept === 0,
    receivedAt: Number(row.received_at),
  }
}

function whenOf({ time: { anchor, minutes } }: Event, zone: string) {
  if (anchor.kind === 'date') return { day: anchor.date, days: Math.max(1, Math.round(minutes / 1440)) }
  const fromMs = epochOf(anchor, zone)
  return { day: dayAt(fromMs, zone), fromMs, toMs: fromMs + minutes * MINUTE }
}
