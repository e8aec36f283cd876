import { addDays, dayAt, epochOf, type FieldChange, onDate, settingsOfPerson, zonedAt } from '@loom/core'
import { createTransport } from 'nodemailer'
import { howManyAsked } from '../sync/push/asking.ts'
import type { Context } from '../context/context.ts'
import { type SummaryLine, summaryMail } from './words.ts'

/** Sends the daily summary to those who want it, in the morning of their own zone, once. */

const LOOK_MS = 60_000
const FROM_HOUR = 7
const MOST_ENTRIES = 2000

interface SummaryDue {
  id: string
  workspace_id: string
  name: string
  email: string
  zone: string
  settings: string | null
  summary_sent: string | null
  garden: string
}

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
    const members = await ctx.db.rows<SummaryDue>(
      `SELECT m.id, m.workspace_id, m.name, m.email, m.zone, m.settings, m.summary_sent, w.name AS garden
       FROM members m JOIN workspaces w ON w.id = m.workspace_id WHERE m.daily_summary = 1`,
    )
    let sent = 0
    for (const member of members) {
      const today = dayAt(ctx.now(), member.zone)
      const at = zonedAt(ctx.now(), member.zone)
      if (member.summary_sent === today) continue
      if (at.kind === 'zoned' && Number(at.local.slice(11, 13)) < FROM_HOUR) continue
      // Of several servers one sends it: whoever marks the day.
      const mine = await ctx.db.run(
        `UPDATE members SET summary_sent = :today WHERE id = :id AND (summary_sent IS NULL OR summary_sent <> :today)`,
        { id: member.id, today },
      )
      if (mine === 0) continue
      try {
        if (await this.send(member, addDays(today, -1))) sent++
      } catch (error) {
        // It is tried again in a minute.
        await ctx.db.run('UPDATE members SET summary_sent = :before WHERE id = :id', {
          id: member.id,
          before: member.summary_sent,
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
    const rows = await ctx.db.rows<Omit<SummaryLine, 'fields'> & { fields: string }>(
      `SELECT j.at, j.title, j.place, j.op, j.outcome, j.cause, j.reason, j.fields,
         IF(r.id IS NULL, NULL, IFNULL(r.name, CONCAT(a.name, ' ⇄ ', b.name))) AS rule
       FROM journal j LEFT JOIN rules r ON r.id = j.rule_id LEFT JOIN collections a ON a.id = r.a_collection
         LEFT JOIN collections b ON b.id = r.b_collection
       WHERE j.workspace_id = :workspace AND j.at >= :from AND j.at < :to AND j.rule_id IS NOT NULL
       ORDER BY j.id LIMIT ${MOST_ENTRIES}`,
      { workspace: member.workspace_id, from, to },
    )
    const count = async (table: 'conflicts' | 'braked'): Promise<number> => {
      const row = await ctx.db.one<{ n: number }>(
        `SELECT COUNT(*) AS n FROM ${table} WHERE workspace_id = :workspace AND answer IS NULL`,
        { workspace: member.workspace_id },
      )
      return Number(row?.n ?? 0)
    }
    const letter = summaryMail({
      day,
      garden: member.garden,
      name: member.name,
      zone: member.zone,
      clock: settingsOfPerson(JSON.parse(member.settings ?? '{}')).clock,
      lines: rows.map(r => ({ ...r, fields: JSON.parse(r.fields) as FieldChange[] })),
      waiting: {
        conflicts: await count('conflicts'),
        asked: await howManyAsked(ctx.db, member.workspace_id),
        stopped: await count('braked'),
      },
      journal: `${ctx.publicUrl}/journal`,
    })
    if (!letter) return false
    const transport = createTransport(mail.url)
    try {
      await transport.sendMail({
        from: mail.from,
        to: { name: member.name, address: member.email },
        subject: letter.subject,
        text: letter.text,
      })
    } finally {
      transport.close()
    }
    return true
  }
}
