import type { Context } from '../context/context.ts'
import { sayOfRequest } from '../data/repositories/requests.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { reopen } from '../team/answers.ts'
import type { WantedTime } from '../team/requests.ts'
import { applyDraft, type AppliedDraft } from './apply.ts'

/**
 * Time that was asked for and agreed to is written as a draft of one's own would be. Where none of it can be, the
 * request is open again; what of it could not is said of it.
 */
export async function giveTime(
  ctx: Context,
  member: Member,
  { request, pieces, reason }: { request: string; pieces: readonly WantedTime[]; reason: string | null },
): Promise<AppliedDraft & { reason: string | null }> {
  const done = await applyDraft(
    ctx,
    member,
    pieces.map(({ task, as, fromMs, toMs }) => ({
      what: as,
      task,
      fromMs,
      toMs,
      pinned: false,
      person: member.id,
    })),
  ).catch(async (error: unknown) => {
    // Whoever agreed finds it there again, and can agree once more.
    await reopen(ctx, member, request)
    throw error
  })
  const refused = done.pieces.flatMap(p => (p.ok ? [] : [p.reason]))
  if (refused.length === pieces.length) await reopen(ctx, member, request)
  else if (refused.length > 0 || reason !== null) {
    const lacks = pieces.length - refused.length
    const why = `${lacks} of it ${lacks === 1 ? 'has its' : 'have their'} time. ${refused[0] ?? reason ?? ''}`
    await ctx.db.commit(async sql => {
      await sayOfRequest(sql, { id: request, state: 'accepted', reason: why })
      sql.tell(member.workspaceId, { topics: ['team'] })
    })
  }
  return { ...done, reason: refused[0] ?? reason }
}
