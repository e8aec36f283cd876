import { type Edit, type Guest, MOST_NAME, invitedTo, type Invited, understoodOr } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { parsed } from '../data/json.ts'
import { placeAndOriginalOf } from '../data/repositories/originals.ts'
import { membersNamed } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { openIntents } from './open-edits.ts'

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
  const guests = await withThoseOnTheirWay(sql, member, mirrorId, invited.guests)
  return { organizer, guests, fixed: isOurs ? null : `${organizer} invites to it, and says who comes.` }
}

/** As they will be once what was said here has reached the service. */
async function withThoseOnTheirWay(
  sql: Sql,
  { workspaceId }: Member,
  mirrorId: string,
  guests: Invited['guests'],
): Promise<Invited['guests']> {
  const open = (await openIntents(sql, workspaceId)).flatMap(({ mirror_id: of, body }) => {
    const intent = of === mirrorId ? parsed(body) : null
    return intent?.by === 'person' && intent.patch.guests ? [intent.patch.guests] : []
  })
  return open.reduce((all, { add, drop }) => {
    const isOf = (some: readonly Guest[], { email }: Guest): boolean =>
      some.some(g => g.email.toLowerCase() === email.toLowerCase())
    const fresh = add.filter(g => !isOf(all, g))
    const invited = fresh.map(g => ({ ...g, email: g.email.toLowerCase(), answer: 'none' as const }))
    return [...all.filter(g => !isOf(drop, g)), ...invited]
  }, guests)
}

/** The edit with whoever invites; or the reason why it may not be. */
export async function invitingBy(
  sql: Sql,
  member: Member,
  mirrorId: string,
  edit: Extract<Edit, { do: 'invite' }>,
): Promise<Edit | { reason: string }> {
  const { fixed, guests } = await guestsOf(sql, member, mirrorId)
  if (fixed !== null) return { reason: fixed }
  const [organizer] = await membersNamed(sql, { workspaceId: member.workspaceId, ids: [member.id] })
  const known = ({ email }: Guest): Guest | undefined => {
    const found = guests.find(g => g.email === email.toLowerCase())
    // What a calendar calls somebody may be longer than what is taken here, where it is taken back.
    return found && { name: found.name.slice(0, MOST_NAME), email: found.email }
  }
  const add = edit.add.filter(g => !known(g))
  const drop = edit.drop.flatMap(g => known(g) ?? [])
  if (add.length === 0 && drop.length === 0) return { reason: 'Its guests are those already.' }
  return { ...edit, add, drop, ...(organizer && { organizer }) }
}
