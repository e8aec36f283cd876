import { createHash, randomBytes, randomUUID } from 'node:crypto'
import { LRUCache } from 'lru-cache'
import { epochOf, type Event, type Guest, MINUTE, parseEvent, understoodOr } from '@loom/core'
import { type Facts, factsOf, objectToSend, type Told, toTell, type ToTell } from '@loom/core/invitations'
import { type Limit, limitOf } from '../../access/limits.ts'
import type { Context } from '../../context/context.ts'
import type { Sql } from '../../data/database.ts'
import { json, parsed } from '../../data/json.ts'
import {
  addMeeting,
  addMeetingLetter,
  claimMeetingLetter,
  dropMeeting,
  dueMeetingLetters,
  eventsWithGuests,
  lockMeeting,
  type MeetingEvent,
  meetingById,
  meetingEvent,
  meetingIdOf,
  meetingLetterGone,
  type MeetingRow,
  meetingsAfter,
  setPending,
  setTold,
  workspacesWithOwn,
} from '../../data/repositories/meetings.ts'
import { teamOfWorkspace } from '../../data/repositories/members.ts'
import { dropOldReceived } from '../../data/repositories/received-invitations.ts'
import { backoff } from '../../sync/log/health.ts'
import type { Member } from '../../data/repositories/sessions.ts'
import { sendMail } from '../../mail/mailer.ts'
import { editItem } from '../../view/edit.ts'
import { type Host, letterAbout } from './letters.ts'

/**
 * Tells the guests of events in our own lists what becomes of them, by mail (iMIP, RFC 6047). What is to be told is the
 * difference between how they were told it last and how it stands: no write has to think of it. It goes once it has
 * stood for a while, so that a move to and fro, or one that is undone, tells nobody anything.
 */

const LOOK_MS = 5_000
const STANDS_MS = 20_000
const CLAIM_MS = 60_000
const MOST_REST_MS = 3_600_000
/** A mail server that takes a letter at no time in three days takes it never. */
const MOST_TRIES = 80
/** What is over and gone is forgotten so long after. */
const KEPT_MS = 90 * 86_400_000
const RECEIVED_KEPT_MS = 180 * 86_400_000
const AT_ONCE = 8
/** Of one workspace, so that nobody sends mail to the world by it; what is more goes the day after. */
const MOST_PER_DAY = 1_000

export class Inviting {
  /** From then on only who asks for it looks. */
  stop: () => void = () => undefined
  private tidiedAt = 0
  private readonly perDay: Limit
  private readonly known = new Map<string, { seq: number; nextMs: number }>()
  /** Of meetings of which everything is told: a digest of how they stand. */
  private readonly settled = new LRUCache<string, string>({ max: 20_000 })

  /**
   * @param written what was written is to be sent now
   * @param standsMs how long something has to stand before anybody is told
   */
  constructor(
    private readonly ctx: Context,
    private readonly written: (connection: string) => void,
    private readonly standsMs = STANDS_MS,
    mostPerDay = MOST_PER_DAY,
  ) {
    this.perDay = limitOf(ctx.db, { name: 'meeting-letters', times: mostPerDay, seconds: 86_400 })
  }

  start(): void {
    this.stop = this.ctx.background.every('tell guests of meetings', LOOK_MS, () => this.look())
  }

  async look(): Promise<void> {
    const { ctx } = this
    for (const { workspace, seq } of await workspacesWithOwn(ctx.db)) {
      const last = this.known.get(workspace)
      if (last?.seq === seq && ctx.now() < last.nextMs) continue
      // One workspace that cannot be read keeps no other, and no letter.
      const nextMs = await this.lookIn(workspace).catch((error: unknown) => {
        ctx.log.error({ err: error, workspaceId: workspace }, 'meetings of a workspace could not be read')
        return ctx.now() + CLAIM_MS
      })
      this.known.set(workspace, { seq, nextMs })
    }
    await this.send()
    if (Date.now() < this.tidiedAt + MOST_REST_MS) return
    this.tidiedAt = Date.now()
    await dropOldReceived(ctx.db, { before: ctx.now() - RECEIVED_KEPT_MS })
  }

  /** Returns when to look again though nothing changes, epoch ms. */
  private async lookIn(workspaceId: string): Promise<number> {
    const { db, log, now } = this.ctx
    const team = await teamOfWorkspace(db, { workspaceId })
    const hosts = new Map(team.map(m => [m.email.toLowerCase(), m]))
    const seen = new Set<string>()
    let nextMs = now() + MOST_REST_MS
    const one = async (row: MeetingRow, event: MeetingEvent | null): Promise<void> => {
      const look = row.elsewhere === 1 ? Promise.resolve(null) : this.settle(row, event, hosts)
      const at = await look.catch((error: unknown) => {
        // One that cannot be told keeps no other.
        log.error({ err: error, meetingId: row.id }, 'the guests of a meeting could not be told')
        return now() + CLAIM_MS
      })
      if (at !== null) nextMs = Math.min(nextMs, at)
      if (at === null && event) this.settled.set(row.id, digestOf(event.original))
      else this.settled.delete(row.id)
    }
    for (let after = '', full = true; full;) {
      const part = await eventsWithGuests(db, { workspaceId, after })
      full = part.length === 200
      after = part.at(-1)?.id ?? ''
      for (const event of part) {
        const id = meetingIdOf(workspaceId, event.uid)
        const by = (parsed(event.item) as Event).invited?.by ?? ''
        // Of one UID in two lists, one is told; what somebody else invites to is theirs to tell.
        const isFirst = !seen.has(id)
        seen.add(id)
        if (!isFirst || !hosts.has(by) || this.settled.get(id) === digestOf(event.original)) continue
        const token = randomBytes(20).toString('hex')
        const row =
          (await meetingById(db, { id })) ??
          (await addMeeting(db, { id, workspaceId, uid: event.uid, token }), await meetingById(db, { id }))
        if (row) await one(row, event)
      }
    }
    for (let after = '', full = true; full;) {
      const part = await meetingsAfter(db, { workspaceId, after })
      full = part.length === 500
      after = part.at(-1)?.id ?? ''
      for (const row of part) {
        // Without a guest it may go on.
        const { workspace_id: of, uid } = row
        if (!seen.has(row.id)) await one(row, await meetingEvent(db, { workspaceId: of, uid }))
      }
    }
    return nextMs
  }

  /** Returns when to look at it again though nothing changes; null where not at all. */
  private async settle(
    row: MeetingRow,
    event: MeetingEvent | null,
    hosts: ReadonlyMap<string, Host>,
  ): Promise<number | null> {
    const { db, now } = this.ctx
    const { id } = row
    const was = row.told === null ? null : parsed(row.told)
    const object = event?.original ?? null
    const is = object === null ? null : understoodOr(() => factsOf(object), null)
    if (event !== null && is === null) return null
    if (is === null && (was === null || (was.isCalledOff && Number(row.pending_at) < now() - KEPT_MS))) {
      await dropMeeting(db, { id })
      return null
    }
    const { sequence, letters } = toTell(was, is)
    const stands = asTold(was, is, sequence)
    const item = event === null ? null : (parsed(event.item) as Event)
    const host = item && hosts.get(item.invited?.by ?? '')
    const last = item ?? understoodOr(() => parseEvent(row.object ?? ''), null)
    const isQuiet = letters.length === 0 || row.from_before === 1 || (last !== null && isOver(last, now()))
    const digest = digestOf(json(stands))
    if (!isQuiet && row.pending !== digest) {
      await setPending(db, { id, pending: digest, at: now() + this.standsMs })
      if (this.standsMs > 0) return now() + this.standsMs
    } else if (!isQuiet && now() < Number(row.pending_at)) return Number(row.pending_at)
    if (isQuiet && row.pending === null && was !== null && json(was) === json(stands)) return null
    // First, so that a server that is killed here asks anew as well.
    if (!isQuiet && event && host && letters.some(l => l.why === 'moved')) await this.askAnew(event, host)
    await db.commit(async sql => {
      const fresh = await lockMeeting(sql, { id })
      // Another server was faster.
      if (fresh?.told !== row.told) return
      if (!isQuiet) await this.owe(sql, row, { letters, sequence, object: object ?? row.object, host })
      await setTold(sql, { id, told: json(stands), object, organizerId: host?.id ?? null, now: now() })
    })
    return null
  }

  /** At another time nobody has said yet that they come (RFC 5546 §3.2.2.1). */
  private async askAnew({ id, workspace, item }: MeetingEvent, host: Host): Promise<void> {
    const { invited } = parsed(item) as Event
    const answers = (invited?.guests ?? []).flatMap(({ email, answer }) =>
      answer === 'none' ? [] : [{ email, answer: 'none' as const }],
    )
    if (answers.length === 0) return
    const by: Member = { ...host, workspaceId: workspace, userId: '' }
    const done = await editItem(this.ctx, by, id, { do: 'note-answers', answers }, null, {
      cause: 'asked-anew',
    })
    if (done.ok && done.connectionId) this.written(done.connectionId)
  }

  private async owe(
    sql: Sql,
    { id, workspace_id: workspaceId, token, organizer_id: organizerId, object: before }: MeetingRow,
    tell: { letters: ToTell[]; sequence: number; object: string | null; host: Host | null | undefined },
  ): Promise<void> {
    const { ctx } = this
    if (!ctx.outgoingMail || tell.object === null) return
    const team = await teamOfWorkspace(sql, { workspaceId })
    const host = tell.host ?? team.find(m => m.id === organizerId)
    if (!host) return
    const stampMs = ctx.now()
    for (const { method, why, to } of tell.letters)
      for (const guest of to) {
        // What is called off is told as they know it.
        const text = method === 'CANCEL' ? (before ?? tell.object) : tell.object
        const organizer: Guest = { name: host.name, email: `meet-${token}@${ctx.mailHost}` }
        const asksAnew = why === 'moved'
        const sent = { method, asksAnew, sequence: tell.sequence, stampMs, organizer, to: guest }
        const content = objectToSend(text, sent)
        const zone = team.find(m => m.email.toLowerCase() === guest.email)?.zone ?? host.zone
        const letterId = randomUUID()
        const letter = letterAbout({
          why,
          guest,
          host,
          zone,
          method,
          content,
          id: letterId,
          url: ctx.publicUrl,
        })
        await addMeetingLetter(sql, {
          id: letterId,
          meetingId: id,
          workspaceId,
          now: stampMs,
          letter: json(letter),
        })
      }
  }

  /** A letter that is not taken holds up no other, and is tried again for days. */
  private async send(): Promise<void> {
    const { db, outgoingMail, log } = this.ctx
    if (!outgoingMail) return
    const due = await dueMeetingLetters(db, { wall: Date.now() })
    for (let i = 0; i < due.length; i += AT_ONCE)
      await Promise.all(
        due
          .slice(i, i + AT_ONCE)
          .map(async ({ id, workspace_id: workspaceId, letter, next_at: was, failures }) => {
            const rest = Math.max(CLAIM_MS, backoff(failures + 1, MOST_REST_MS))
            const until = Date.now() + rest
            if (!(await claimMeetingLetter(db, { id, was: Number(was), until }))) return
            const waits = await this.perDay.count(workspaceId)
            if (waits !== null) {
              await claimMeetingLetter(db, { id, was: until, until: Date.now() + waits * 1000 })
              return
            }
            try {
              await sendMail(outgoingMail, parsed(letter))
              await meetingLetterGone(db, { id })
            } catch (error) {
              log.warn({ err: error, letterId: id }, 'a letter to a guest could not be sent')
              if (failures + 1 >= MOST_TRIES) await meetingLetterGone(db, { id })
            }
          }),
      )
  }
}

const digestOf = (text: string | null): string =>
  createHash('sha256')
    .update(text ?? '')
    .digest('hex')

const asTold = (was: Told | null, is: Facts | null, sequence: number): Told =>
  is === null
    ? { times: was?.times ?? '', words: was?.words ?? '', isCalledOff: true, guests: [], sequence }
    : { ...is, sequence }

/** Whoever was there knows. */
function isOver({ time: { anchor, minutes }, recurring }: Event, now: number): boolean {
  // Whatever zone a floating time is of, a day later it is over.
  const slack = anchor.kind === 'zoned' ? 0 : 24 * 60
  return !recurring && epochOf(anchor, 'UTC') + (minutes + slack) * MINUTE < now
}
