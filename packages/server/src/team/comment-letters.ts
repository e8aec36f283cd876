import type { Context } from '../context/context.ts'
import { claimUntold, type CommentRow, untell, untoldMembers } from '../data/repositories/comments.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import { sendMail, type OutgoingMail } from '../mail/mailer.ts'
import { stillHeard } from './comments.ts'

/** Tells those who were named in comments, several in one letter, if they have not read them meanwhile. */

const LOOK_MS = 60_000
/** Others may follow, and they may be reading already. */
const PATIENCE_MS = 3 * 60_000
const AGAIN_MS = 10 * 60_000

export class CommentLetters {
  constructor(
    private readonly ctx: Context,
    private readonly mail: OutgoingMail | null,
  ) {}

  start(): void {
    if (this.mail) this.ctx.background.every('letters about comments', LOOK_MS, () => this.sendDue())
  }

  /** Returns how many were sent. */
  async sendDue(): Promise<number> {
    const { ctx, mail } = this
    if (!mail) return 0
    let sent = 0
    const due = await untoldMembers(ctx.db, { before: ctx.now() - PATIENCE_MS })
    for (const { member_id: memberId, workspace_id: workspaceId } of due) {
      const rows = await ctx.db.commit(sql => claimUntold(sql, { memberId, now: ctx.now() }))
      try {
        if (await this.sendTo(mail, memberId, workspaceId, rows)) sent++
      } catch (error) {
        const ids = rows.map(r => r.id)
        await untell(ctx.db, { memberId, ids, next: ctx.now() + AGAIN_MS })
        ctx.log.warn({ err: error, memberId }, 'a letter about comments could not be sent')
      }
    }
    return sent
  }

  /** Whether there was anything to tell. */
  private async sendTo(
    mail: OutgoingMail,
    memberId: string,
    workspaceId: string,
    rows: readonly CommentRow[],
  ): Promise<boolean> {
    const { ctx } = this
    const member = (await teamOfWorkspace(ctx.db, { workspaceId })).find(m => m.id === memberId)
    if (!member) return false
    const lines = await stillHeard(ctx.db, { id: memberId, role: member.role, workspaceId }, rows)
    if (lines.length === 0) return false
    const to = { name: member.name, address: member.email }
    await sendMail(mail, { to, ...commentLetter(lines, `${ctx.publicUrl}/cloth`) })
    return true
  }
}

/** What stands in it. */
export function commentLetter(
  lines: readonly { row: Pick<CommentRow, 'who' | 'body'>; title: string }[],
  url: string,
): { subject: string; text: string } {
  const [first] = lines
  const people = [...new Set(lines.map(l => l.row.who))]
  const subject =
    first && lines.length === 1
      ? `${first.row.who} names you about “${first.title}”`
      : `${people.join(', ')} ${people.length === 1 ? 'names' : 'name'} you in ${lines.length} comments`
  const text = lines.map(({ row, title }) => `${title}\n${row.who}: ${row.body}`).join('\n\n')
  return { subject: subject.replace(/[\r\n]+/g, ' ').slice(0, 200), text: `${text}\n\n${url}\n` }
}
