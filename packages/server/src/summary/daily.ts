import { sightIn } from '../access/sight.ts'
import { rulesToChange } from '../sync/rules/rule-rights.ts'
import { countRequestsFor } from '../team/requests.ts'
import { brakedFor, conflictsFor } from '../sync/rules/waiting-for.ts'
import { addDays, dayAt, epochOf, onDate, settingsOfPerson, zonedAt } from '@loom/core'
import { countUnconfirmed } from '../sync/push/unconfirmed.ts'
import type { Context } from '../context/context.ts'
import { sendMail } from '../mail/mailer.ts'
import { summaryMail } from './words.ts'
import {
  membersWithSummary,
  claimSummary,
  putSummaryTrouble,
  putSummaryWell,
  type SummaryDue,
} from '../data/repositories/members.ts'
import { entriesOfDay } from '../data/repositories/journal.ts'
import { withNames } from '../sync/log/named-accounts.ts'
import { parsed } from '../data/json.ts'

/** Sends the daily summary to those who want it, in the morning of their own zone, once. */

const LOOK_MS = 60_000
const FROM_HOUR = 7
/** Between two tries, at most. */
const MOST_WAIT_MS = 60 * 60_000

export class DailySummary {
  private sending: Promise<number> = Promise.resolve(0)

  constructor(
    private readonly ctx: Context,
    private readonly mail: { url: string; from: string } | null,
  ) {}

  start(): void {
    if (!this.mail) return
    const send = (): Promise<unknown> => this.sendDue()
    this.ctx.background.every('daily summary', LOOK_MS, send)
    this.ctx.background.run('daily summary', send)
  }

  /** Returns how many were sent. */
  sendDue(): Promise<number> {
    this.sending = this.sending
      .then(() => this.round())
      .catch((error: unknown) => {
        this.ctx.log.error({ err: error }, 'could not send the daily summary')
        return 0
      })
    return this.sending
  }

  private async round(): Promise<number> {
    const { mail, ctx } = this
    if (!mail) return 0
    const members = await membersWithSummary(ctx.db, { wall: Date.now() })
    let sent = 0
    for (const member of members) {
      const today = dayAt(ctx.now(), member.zone)
      const at = zonedAt(ctx.now(), member.zone)
      if (member.summary_sent === today) continue
      if (at.kind === 'zoned' && Number(at.local.slice(11, 13)) < FROM_HOUR) continue
      // Of several servers one sends it: whoever marks the day.
      const mine = await claimSummary(ctx.db, { id: member.id, today })
      if (mine === 0) continue
      try {
        if (await this.send(member, addDays(today, -1))) sent++
        if (member.summary_failures > 0) await putSummaryWell(ctx.db, { id: member.id })
      } catch (error) {
        await putSummaryTrouble(ctx.db, {
          id: member.id,
          before: member.summary_sent,
          trouble: 'The mail server did not take it.',
          failures: member.summary_failures + 1,
          next: Date.now() + Math.min(MOST_WAIT_MS, LOOK_MS * 2 ** member.summary_failures),
        })
        ctx.log.warn({ err: error }, 'the mail server did not take the daily summary')
      }
    }
    return sent
  }

  private async send(member: SummaryDue, day: string): Promise<boolean> {
    const { ctx, mail } = this
    if (!mail) return false
    const from = epochOf(onDate(day), member.zone)
    const to = epochOf(onDate(addDays(day, 1)), member.zone)
    const { workspace_id: workspace } = member
    const who = { id: member.id, role: member.role, workspaceId: workspace }
    const seen = (await sightIn(ctx.db, who)).wholeLists()
    const rules = [...(await rulesToChange(ctx.db, who))]
    const rows = await entriesOfDay(ctx.db, { workspace, from, to, rules, seen })
    const letter = summaryMail({
      day,
      garden: member.garden,
      name: member.name,
      zone: member.zone,
      clock: settingsOfPerson(member.settings ? parsed(member.settings) : {}).clock,
      lines: await withNames(
        ctx.db,
        rows.map(r => ({ ...r, fields: parsed(r.fields) })),
      ),
      waiting: {
        requests: await countRequestsFor(ctx.db, { ...who, zone: member.zone }, ctx.now()),
        conflicts: (await conflictsFor(ctx.db, who)).length,
        unconfirmed: await countUnconfirmed(ctx.db, who),
        stopped: (await brakedFor(ctx.db, who)).length,
      },
      journal: `${ctx.publicUrl}/journal`,
    })
    if (!letter) return false
    await sendMail(mail, {
      to: { name: member.name, address: member.email },
      subject: letter.subject,
      text: letter.text,
    })
    return true
  }
}
