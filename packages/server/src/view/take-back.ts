import type { Context } from '../context/context.ts'
import { editItem, type EditAnswer, queueRemoval, type TakenBack } from './edit.ts'
import { takeBackMove } from './move.ts'
import { lastWithUid } from '../data/repositories/intents.ts'
import type { Member } from '../data/repositories/sessions.ts'

/** Undoes a creation by deleting the item, and a move by moving it back. */
export async function takeBack(ctx: Context, member: Member, uid: string): Promise<TakenBack> {
  const made = await lastWithUid(ctx.db, { workspaceId: member.workspaceId, memberId: member.id, uid })
  if (made?.cause === 'person-move') return takeBackMove(ctx, member, uid)
  if (made?.state === 'open' || made?.state === 'waiting') return null
  if (!made?.mirror_id || made.recurring === null)
    return { ok: false, status: 404, reason: 'It is not there.' }
  const { mirror_id: id, title } = made
  return made.recurring === 1
    ? wholeSeries(ctx, member, id, title)
    : editItem(ctx, member, id, { do: 'delete' })
}

/** Of what repeats, an edit asks which dates are meant: all that was made. */
async function wholeSeries(ctx: Context, member: Member, id: string, title: string): Promise<EditAnswer> {
  const connectionId = await ctx.db.commit(async sql => {
    const queued = await queueRemoval(sql, member, id, title, 'person-delete')
    sql.tell(member.workspaceId, { topics: ['cloth'] })
    return queued
  })
  return { ok: true, inverse: null, connectionId }
}
