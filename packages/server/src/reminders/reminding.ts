import { randomUUID } from 'node:crypto'
import { type Reminder, reminderName } from '@loom/core/reminders'
import { unseal } from '../access/secrets.ts'
import type { Context } from '../context/context.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import {
  countFailure,
  devicesOf,
  dropDeadDevices,
  dropDevice,
  reachedDevice,
} from '../data/repositories/push.ts'
import {
  claimDelivery,
  comeAgain,
  delivered,
  doneWith,
  dropOldReminders,
  type GivenReminder,
  givenAmong,
  giveReminder,
  type Owed,
  owedDeliveries,
  oweDeliveries,
  putOffReminder,
  remindedMembers,
  remindersAgain,
} from '../data/repositories/reminders.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { sendMail } from '../mail/mailer.ts'
import { push, Subscription } from './push.ts'
import { type Standing, standingFor } from './standing.ts'
import { reminderWords } from './words.ts'

/**
 * Reminds people of what stands: what is due is told from the present state, given once by whichever server comes
 * first, and delivered by mail and to devices under a claim. What was moved or done meanwhile is not delivered any
 * more. A server that is killed between sending and noting it sends again after a minute, under the same name, so that
 * whoever receives it shows it once.
 */

const LOOK_MS = 5_000
const CLAIM_MS = 60_000
/** Somebody whose day takes long to read is looked at again only after so many times that. */
const REST = 20
const AT_ONCE = 8
const KEPT_MS = 30 * 86_400_000
const MOST_FAILURES = 50
/** What comes again is of use for so long from then on. */
const AGAIN_MS = 15 * 60_000

interface Known {
  seq: number
  version: number
  chosen: number
  /** When something is due that was not yet. */
  nextMs: number
  /** Changes alone do not bring it to be read anew before that, by the server's own clock. */
  restsUntil: number
}

export class Reminding {
  private readonly known = new Map<string, Known>()
  private tidiedAt = 0
  /** From then on only who asks for it looks. */
  stop: () => void = () => undefined

  constructor(private readonly ctx: Context) {}

  start(): void {
    this.stop = this.ctx.background.every('remind people', LOOK_MS, () => this.look())
  }

  async look(): Promise<void> {
    await this.giveDue()
    await this.giveAgain()
    await this.deliver()
    if (Date.now() < this.tidiedAt + CLAIM_MS * 60) return
    this.tidiedAt = Date.now()
    await dropOldReminders(this.ctx.db, { before: this.ctx.now() - KEPT_MS })
    await dropDeadDevices(this.ctx.db, { mostFailures: MOST_FAILURES })
  }

  private async giveDue(): Promise<void> {
    const { ctx } = this
    const all = await remindedMembers(ctx.db)
    const here = new Set(all.map(m => m.member))
    for (const id of this.known.keys()) if (!here.has(id)) this.known.delete(id)
    for (const { member: id, workspace, seq, version, chosen } of all) {
      const last = this.known.get(id)
      const isSame = last?.seq === seq && last.version === version && Number(last.chosen) === Number(chosen)
      const rests = last !== undefined && (isSame || Date.now() < last.restsUntil)
      if (rests && ctx.now() < last.nextMs) continue
      const began = performance.now()
      // What cannot be read of one keeps nothing from another.
      const nextMs = await this.giveTo(id, workspace).catch((error: unknown) => {
        ctx.log.error({ err: error, memberId: id }, 'somebody could not be reminded')
        return ctx.now() + CLAIM_MS
      })
      const restsUntil = Date.now() + REST * (performance.now() - began)
      this.known.set(id, { seq, version, chosen, nextMs, restsUntil })
    }
  }

  private async memberOf(id: string, workspaceId: string): Promise<Member | null> {
    const found = (await teamOfWorkspace(this.ctx.db, { workspaceId })).find(m => m.id === id)
    return found ? { ...found, workspaceId, userId: '' } : null
  }

  private async standing(member: Member): Promise<Standing> {
    return this.ctx.db.snapshot(sql => standingFor(sql, member, this.ctx.now()))
  }

  /** Returns when to look again, epoch ms. */
  private async giveTo(id: string, workspaceId: string): Promise<number> {
    const { ctx } = this
    const member = await this.memberOf(id, workspaceId)
    if (!member) return ctx.now() + CLAIM_MS
    const standing = await this.standing(member)
    const now = ctx.now()
    const due = standing.reminders.filter(r => r.atMs <= now && now < r.untilMs)
    const names = due.map(reminderName)
    const given = new Set((await givenAmong(ctx.db, { memberId: id, names })).map(g => g.name))
    const fresh = due.filter(r => !given.has(reminderName(r)))
    if (fresh.length > 0) {
      const ways = await this.waysOf(member, standing)
      await ctx.db.commit(async sql => {
        let told = 0
        for (const r of fresh) {
          const row = { id: randomUUID(), workspace_id: workspaceId, member_id: id, given_at: now }
          if (!(await giveReminder(sql, { ...row, name: reminderName(r), about_ms: r.aboutMs }))) continue
          told++
          await oweDeliveries(sql, { reminderId: row.id, workspaceId, ways })
        }
        if (told > 0) sql.tell(workspaceId, { topics: ['reminders'], exact: true, only: id })
      })
    }
    return Math.min(standing.holdsUntilMs, ...standing.reminders.map(r => r.atMs).filter(at => at > now))
  }

  private async waysOf({ id }: Member, { byMail }: Standing): Promise<string[]> {
    const { db, outgoingMail, now } = this.ctx
    const devices = await devicesOf(db, { memberId: id, now: now() })
    return [...(byMail && outgoingMail ? ['mail'] : []), ...devices.map(d => d.id)]
  }

  /** What was put off comes again, if it still stands. */
  private async giveAgain(): Promise<void> {
    const { ctx } = this
    const now = ctx.now()
    for (const row of await remindersAgain(ctx.db, { now }))
      // What cannot be read of one keeps nothing from another, and is tried again.
      await this.giveOneAgain(row, now).catch(async (error: unknown) => {
        const { id, member_id: memberId } = row
        ctx.log.error({ err: error, reminderId: id }, 'a reminder that was put off could not come')
        await putOffReminder(ctx.db, { id, memberId, againAt: now + CLAIM_MS })
      })
  }

  private async giveOneAgain(row: GivenReminder, now: number): Promise<void> {
    const { ctx } = this
    const { id, member_id: memberId, workspace_id: workspaceId } = row
    const member = await this.memberOf(memberId, workspaceId)
    const standing = member && (await this.standing(member))
    if (!member || !standing?.reminders.some(r => reminderName(r) === row.name)) {
      await doneWith(ctx.db, { ids: [id], memberId, now })
      return
    }
    const ways = await this.waysOf(member, standing)
    await ctx.db.commit(async sql => {
      if (!(await comeAgain(sql, { id, was: Number(row.again_at), now }))) return
      await oweDeliveries(sql, { reminderId: id, workspaceId, ways })
      sql.tell(workspaceId, { topics: ['reminders'], exact: true, only: memberId })
    })
  }

  /** One that does not answer holds up no other. */
  private async deliver(): Promise<void> {
    const { ctx } = this
    const owed = await owedDeliveries(ctx.db, { wall: Date.now() })
    const read = new Map<string, Promise<{ member: Member; standing: Standing } | null>>()
    const standingOf = (o: Owed): Promise<{ member: Member; standing: Standing } | null> => {
      const found =
        read.get(o.member_id) ??
        this.memberOf(o.member_id, o.workspace_id).then(
          async member => member && { member, standing: await this.standing(member) },
        )
      read.set(o.member_id, found)
      return found
    }
    for (let i = 0; i < owed.length; i += AT_ONCE)
      await Promise.all(
        owed.slice(i, i + AT_ONCE).map(async o => {
          const until = Date.now() + CLAIM_MS
          const claim = { reminderId: o.id, way: o.way, was: Number(o.next_at), until }
          if (!(await claimDelivery(ctx.db, claim))) return
          try {
            const found = await standingOf(o)
            const is = found?.standing.reminders.find(r => reminderName(r) === o.name)
            const isOver = !is || ctx.now() >= (o.round > 0 ? Number(o.given_at) + AGAIN_MS : is.untilMs)
            const isThrough =
              !found || isOver || o.done_at !== null || (await this.deliverOne(o, is, found.member))
            if (isThrough) await delivered(ctx.db, { reminderId: o.id, way: o.way })
          } catch (error) {
            ctx.log.warn({ err: error, reminderId: o.id }, 'a reminder could not be delivered')
          }
        }),
      )
  }

  /** Whether nothing is owed that way any more. */
  private async deliverOne(o: Owed, is: Reminder, member: Member): Promise<boolean> {
    const { ctx } = this
    const words = reminderWords(is, member.zone, ctx.now())
    // Each time that it was put off it is another one to whoever receives it.
    const tag = `${o.id.replaceAll('-', '').slice(0, 28)}-${o.round % 1000}`
    if (o.way === 'mail') {
      if (!ctx.outgoingMail) return true
      await sendMail(ctx.outgoingMail, {
        to: { name: member.name, address: member.email },
        subject:
          words.body === ''
            ? words.title
            : `${words.title}: ${words.body.replace(/^./, c => c.toLowerCase())}`,
        text: `${words.title}\n${words.body}\n\n${ctx.publicUrl}${words.to}\n\nWhat you are reminded of is set on the page Day.\n`,
        id: `${tag}@${new URL(ctx.publicUrl).hostname}`,
      })
      return true
    }
    const device = (await devicesOf(ctx.db, { memberId: member.id, now: ctx.now() })).find(
      d => d.id === o.way,
    )
    if (!device) return true
    const to = Subscription.parse(unseal(device.sealed, ctx.secret))
    const sent = await push(ctx, to, { ...words, tag, reminder: o.id }, is.untilMs)
    if (sent === 'gone') await dropDevice(ctx.db, { id: device.id, memberId: member.id })
    if (sent === 'failed') await countFailure(ctx.db, { id: device.id })
    if (sent === 'sent') await reachedDevice(ctx.db, { id: device.id })
    return sent !== 'failed'
  }
}
