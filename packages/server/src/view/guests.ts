import { type Edit, type Guest, invitedTo, type Invited, understoodOr } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { placeAndOriginalOf } from '../data/repositories/originals.ts'
import { membersNamed } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'

/** Guests of an event: who they are, and who may change that. */

/** Where events are kept as calendar objects, in which guests have a place. */
const HOLDS_GUESTS = ['caldav', 'own']
const NOBODY: Invited = { organizer: null, guests: [] }

export interface GuestsOf extends Invited {
  /** Why they cannot be changed from here; null where they can. */
  fixed: string | null
}

/** @param mirrorId an event that may be seen whole */
export async function guestsOf(sql: Sql, member: Member, mirrorId: string): Promise<GuestsOf> {
  const row = await placeAndOriginalOf(sql, { id: mirrorId })
  if (!row || !HOLDS_GUESTS.includes(row.kind))
    return { ...NOBODY, fixed: 'Its service takes no guests from here.' }
  const { original, ownerId } = row
  // What is kept here stands as an object of its own once it has guests or repeats.
  const isObject = original !== null && !original.startsWith('{')
  const invited = isObject ? understoodOr(() => invitedTo(original), null) : NOBODY
  if (!invited) return { ...NOBODY, fixed: 'What its calendar says of its guests is not understood.' }
  const { organizer } = invited
  const ids = [member.id, ...(ownerId ? [ownerId] : [])]
  const hosts = await membersNamed(sql, { workspaceId: member.workspaceId, ids })
  const isOurs = organizer === null || hosts.some(h => h.email.toLowerCase() === organizer)
  return { ...invited, fixed: isOurs ? null : `${organizer} invites to it, and says who comes.` }
}

/** The edit with whoever invites; or the reason why it may not be. */
export async function invitingBy(
  sql: Sql,
  member: Member,
  { id, pending }: { id: string; pending: boolean },
  edit: Extract<Edit, { do: 'invite' }>,
): Promise<Edit | { reason: string }> {
  const { fixed, guests } = await guestsOf(sql, member, id)
  if (fixed !== null) return { reason: fixed }
  const [organizer] = await membersNamed(sql, { workspaceId: member.workspaceId, ids: [member.id] })
  const known = ({ email }: Guest): Guest | undefined => {
    const found = guests.find(g => g.email === email.toLowerCase())
    return found && { name: found.name, email: found.email }
  }
  // What is on its way to its service is not in its text yet.
  const add = pending ? edit.add : edit.add.filter(g => !known(g))
  const drop = edit.drop.flatMap(g => known(g) ?? (pending ? [g] : []))
  if (add.length === 0 && drop.length === 0) return { reason: 'Its guests are those already.' }
  return { ...edit, add, drop, ...(organizer && { organizer }) }
}
