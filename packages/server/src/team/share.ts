import { type Grantee, Level, type Role } from '@loom/core'
import { z } from 'zod'
import { type Sharing, sharingOf } from '../access/sight.ts'
import type { Sql, Tx } from '../data/database.ts'
import { dropGrant, groupsOf, logSharing, putGrant, setAsBefore } from '../data/repositories/grants.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { lockWorkspace } from '../data/repositories/workspaces.ts'

/** Granting what one owns or looks after: by the matrix, or because somebody asked. */

const Id = z.string().min(1).max(36)
/** Whom something is granted to. */
export const To = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('everybody') }),
  z.object({ kind: z.literal('group'), id: Id }),
  z.object({ kind: z.literal('person'), id: Id }),
])
const Change = z.object({
  list: Id,
  to: To,
  /** Null: nothing of its own is said of these; what is granted less specifically counts. */
  level: Level.nullable(),
})
type Change = z.infer<typeof Change>
export const Changes = z.object({
  changes: z.array(Change).max(2000),
  /** Lists that are as before again, where a first choice is taken back. */
  asBefore: z.array(Id).max(500).default([]),
})
export interface PersonOf {
  id: string
  name: string
  role: Role
}

const idOf = (to: Grantee): string => (to.kind === 'everybody' ? '' : to.id)

export const peopleIn = (sql: Sql, workspaceId: string): Promise<PersonOf[]> =>
  teamOfWorkspace(sql, { workspaceId })

/** The reason why these may not be made by this member, or null. */
export async function notToShare(sql: Sql, member: Member, sharing: Sharing, changes: readonly Change[]) {
  const sight = sharing.sightOf(member)
  if (changes.some(c => !sight.tends(c.list)))
    return 'One of these lists is not yours to share, or not there any more.'
  return unknownAmong(sql, member.workspaceId, changes)
}

/** The reason why one of those is nobody here, or null. */
export async function unknownAmong(
  sql: Sql,
  workspaceId: string,
  granted: readonly { to: Grantee }[],
): Promise<string | null> {
  const people = new Set((await peopleIn(sql, workspaceId)).map(p => p.id))
  const groups = new Set((await groupsOf(sql, { workspaceId })).map(g => g.id))
  const isKnown = ({ to }: { to: Grantee }): boolean =>
    to.kind === 'everybody' || (to.kind === 'group' ? groups : people).has(to.id)
  return granted.every(isKnown) ? null : 'One of those you share with is not in this workspace any more.'
}

/** Writes what is granted, and who did it. Returns what takes it back. */
export async function share(
  sql: Tx,
  { member, at }: { member: Member; at: number },
  { changes, asBefore }: z.infer<typeof Changes>,
) {
  const { workspaceId } = member
  // Two who share at once take turns.
  await lockWorkspace(sql, { workspaceId })
  const sharing = await sharingOf(sql, workspaceId)
  const reason = await notToShare(sql, member, sharing, changes)
  if (reason) return { ok: false as const, reason }
  const lists = [...new Set(changes.map(c => c.list))]
  const were = lists.filter(id => sharing.of(id)?.asBefore)
  const before: Change[] = []
  for (const { list, to, level } of changes) {
    const known = sharing.of(list)?.grants.find(g => g.to.kind === to.kind && idOf(g.to) === idOf(to))
    if ((known?.level ?? null) === level) continue
    before.unshift({ list, to, level: known?.level ?? null })
    const key = { collection_id: list, to_kind: to.kind, to_id: idOf(to) }
    if (level === null) await dropGrant(sql, key)
    else await putGrant(sql, { ...key, level, workspaceId })
    const act = { do: 'grant' as const, to: `${to.kind} ${idOf(to)}`, level, before: known?.level ?? null }
    await logSharing(sql, { workspaceId, at, memberId: member.id, collectionId: list, act })
  }
  for (const id of lists) await setAsBefore(sql, { id, asBefore: asBefore.includes(id) ? 1 : 0 })
  sql.tell(workspaceId, { topics: ['team', 'cloth', 'connections', 'rules', 'journal'] })
  return { ok: true as const, before: { changes: before, asBefore: were } }
}
