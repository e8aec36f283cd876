import { mayChangeTeam } from '@loom/core'
import type { Context } from '../context/context.ts'
import { isStillReferredTo } from '../data/database-errors.ts'
import {
  countOfIntakes,
  countsOfWorkspace,
  deletedWorkspaces,
  forgetMember,
  forgetUser,
  markWorkspaceDeleted,
  PART,
  removePart,
  removeWorkspaceRow,
  tablesWithWorkspace,
} from '../data/repositories/deletion.ts'
import { pauseConnectionsOf } from '../data/repositories/connections.ts'
import { dropDoorsOf } from '../data/repositories/doors.ts'
import { endMembership, lockTeam, membershipsOfUser, teamOfWorkspace } from '../data/repositories/members.ts'
import { intakeOf } from '../own/connector.ts'
import { forgetPlanning } from '../data/repositories/planning.ts'
import { forgetLedger } from '../data/repositories/time-entries.ts'
import { hashPassword } from '../access/passwords.ts'
import { newToken } from '../access/secrets.ts'
import type { Sessions } from '../access/sessions.ts'

/** Deleting a workspace, or one's account: what goes, and what stays, said before. */

const MOST_ROUNDS = 40
const ROUND_REST_MS = 250

/** Ends it for everybody at once. Its rows go in the background, in parts. */
export async function deleteWorkspace(ctx: Context, sessions: Sessions, workspaceId: string): Promise<void> {
  const team = await teamOfWorkspace(ctx.db, { workspaceId })
  await ctx.db.commit(async sql => {
    await markWorkspaceDeleted(sql, { workspaceId, now: ctx.now() })
    sql.tell(workspaceId, { topics: ['team'] })
  })
  for (const { id } of team) await sessions.endOfMember(id)
  ctx.background.run('removing a deleted workspace', () => removeDeletedWorkspaces(ctx))
}

/** Also what an earlier process did not come to an end with. */
export async function removeDeletedWorkspaces(ctx: Context): Promise<void> {
  for (const { id } of await deletedWorkspaces(ctx.db))
    try {
      await removeInRounds(ctx, id)
    } catch (error) {
      // One that cannot be removed keeps no other; it is tried again with the next tidying.
      ctx.log.error({ err: error, workspaceId: id }, 'a deleted workspace could not be removed')
    }
}

async function removeInRounds(ctx: Context, id: string): Promise<void> {
  for (let round = 0; round < MOST_ROUNDS && !ctx.background.isStopped; round++) {
    if (await removeRows(ctx, id)) return
    // Something that was under way has written into it once more.
    await ctx.background.pause(ROUND_REST_MS)
  }
  if (!ctx.background.isStopped) ctx.log.warn({ workspaceId: id }, 'a deleted workspace is not removed yet')
}

/** Whether nothing is left. What others still refer to goes in a later round. */
async function removeRows({ db, background }: Context, workspaceId: string): Promise<boolean> {
  let isAllGone = true
  for (const { name } of await tablesWithWorkspace(db))
    try {
      while (!background.isStopped && (await removePart(db, name, { workspaceId })) === PART) continue
    } catch (error) {
      if (!isStillReferredTo(error)) throw error
      isAllGone = false
    }
  if (!isAllGone || background.isStopped) return false
  try {
    await removeWorkspaceRow(db, { workspaceId })
    return true
  } catch (error) {
    if (!isStillReferredTo(error)) throw error
    return false
  }
}

export interface AccountDeletion {
  /** In which the user is the only member: they go as a whole. */
  alone: { id: string; name: string; items: number }[]
  /** Which go on without them. */
  left: string[]
  /** In which nobody else could look after it. */
  stuck: string[]
  intake: number
}

export async function accountDeletion({ db }: Context, userId: string): Promise<AccountDeletion> {
  const out: AccountDeletion = { alone: [], left: [], stuck: [], intake: 0 }
  const memberships = await membershipsOfUser(db, { userId })
  for (const { id, workspaceId, workspace } of memberships) {
    const team = await teamOfWorkspace(db, { workspaceId })
    if (team.length === 1) {
      const { items } = await countsOfWorkspace(db, { workspaceId })
      out.alone.push({ id: workspaceId, name: workspace, items: Number(items) })
    } else if (mayChangeTeam(team, id, { do: 'end', of: id }).kind === 'may') out.left.push(workspace)
    else out.stuck.push(workspace)
  }
  const intakes = memberships.map(m => intakeOf(m.id))
  out.intake = Number((await countOfIntakes(db, { intakes }))?.n ?? 0)
  return out
}

/** Deletes the account, and the workspaces in which its user was alone. Says where nobody else could look after one. */
export async function deleteAccount(
  ctx: Context,
  sessions: Sessions,
  userId: string,
): Promise<{ stuck: string[] }> {
  const { db } = ctx
  const { alone, stuck } = await accountDeletion(ctx, userId)
  if (stuck.length > 0) return { stuck }
  const email = `deleted-${userId}@deleted.invalid`
  const passwordHash = await hashPassword(newToken())
  const refused = await db.commit(async sql => {
    const memberships = await membershipsOfUser(sql, { userId })
    const others = memberships.filter(m => !alone.some(a => a.id === m.workspaceId))
    for (const { id, workspaceId, workspace } of others) {
      const team = await lockTeam(sql, { workspaceId })
      if (mayChangeTeam(team, id, { do: 'end', of: id }).kind !== 'may') return workspace
    }
    for (const { id, workspaceId } of others) {
      await endMembership(sql, { id, now: ctx.now() })
      await pauseConnectionsOf(sql, { memberId: id, workspaceId })
      await dropDoorsOf(sql, { memberId: id })
      await forgetPlanning(sql, { memberId: id })
      await forgetLedger(sql, { memberId: id })
      await forgetMember(sql, { memberId: id, workspaceId, intake: intakeOf(id), email })
      sql.tell(workspaceId, { topics: ['team', 'cloth', 'connections'] })
    }
    return null
  })
  if (refused !== null) return { stuck: [refused] }
  for (const { id } of alone) await deleteWorkspace(ctx, sessions, id)
  await sessions.endOf(userId, {})
  await db.commit(sql => forgetUser(sql, { userId, email, passwordHash }))
  return { stuck: [] }
}
