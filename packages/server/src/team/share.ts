import { type Grantee, Level, mayPassOn, reaches, type Role } from '@loom/core'
import { z } from 'zod'
import { type Asker, type Sharing, sharingOf } from '../access/sight.ts'
import type { Sql, Tx } from '../data/database.ts'
import { dropGrant, groupsOf, logSharing, putGrant, setAsBefore } from '../data/repositories/grants.ts'
import { dropLinkList, linksOfWorkspace, listsOfLinks, putLinkList } from '../data/repositories/links.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import { lockWorkspace } from '../data/repositories/workspaces.ts'

/** Granting what one owns or looks after: by the matrix, or because somebody asked. */

type Member = Asker & { workspaceId: string }

const Id = z.string().min(1).max(36)
/** Whom something is granted to. */
export const To = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('everybody') }),
  z.object({ kind: z.literal('group'), id: Id }),
  z.object({ kind: z.literal('person'), id: Id }),
])
/** Or what somebody with a secret address sees. */
const OrLink = z.discriminatedUnion('kind', [...To.options, z.object({ kind: z.literal('link'), id: Id })])
const Change = z.object({
  list: Id,
  to: OrLink,
  /** Null: nothing of its own is said of these; what is granted less specifically counts. */
  level: Level.nullable(),
  /** Whether they may show it to others in turn. */
  passOn: z.boolean().default(false),
})
type Change = z.infer<typeof Change>
type OfLink = Change & { to: { kind: 'link' } }
type OfMembers = Change & { to: Grantee }
const isOfLink = (c: Change): c is OfLink => c.to.kind === 'link'
export const ofMembers = (changes: readonly Change[]): OfMembers[] =>
  changes.filter((c): c is OfMembers => !isOfLink(c))
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
  const { workspaceId } = member
  const passed = changes.filter(c => !sight.tends(c.list))
  if (passed.some(c => isOfLink(c) || !sight.passesOn(c.list)))
    return 'One of these lists is not yours to share, or not there any more.'
  if (passed.length > 0 && !(await mayPass(sql, member, sharing, ofMembers(passed)))) return PASSED
  const links = new Map((await linksOfWorkspace(sql, { workspaceId })).map(l => [l.id, l]))
  const shown = await listsOfLinks(sql, { workspaceId })
  for (const { list, to, level } of changes.filter(isOfLink)) {
    const link = links.get(to.id)
    const now = shown.find(s => s.link_id === to.id && s.collection_id === list)?.level ?? 'nothing'
    if (!link) return 'This address is not there any more.'
    if (level === 'change') return 'Whoever has a secret address looks at things, and changes nothing.'
    if (level === 'busy' && link.view !== null)
      return 'Busy time is that of whole lists, and this address shows what a view shows of them.'
    // It shows nothing that its maker does not see: whose list it is may show less by it, or nothing.
    if (link.made_by !== member.id && level !== null && !reaches(now, level))
      return 'Only whoever made this address shows more by it.'
  }
  return unknownAmong(sql, workspaceId, ofMembers(changes))
}

const PASSED =
  'Of a list that was passed on to you, you show others as much as you see, nobody less than before, and take back what you gave.'

/** Whether what somebody passes on leaves nobody with less than before, unless they themselves had given it. */
async function mayPass(
  sql: Sql,
  member: Member,
  sharing: Sharing,
  passed: readonly OfMembers[],
): Promise<boolean> {
  const sight = sharing.sightOf(member)
  const saidOf = ({ list, to }: OfMembers) => sharing.of(list)?.grants.find(g => isSame(g.to, to))
  if (!passed.every(c => mayPassOn(sight.level(c.list), member.id, saidOf(c), c))) return false
  const given = passed.filter(c => saidOf(c)?.by !== member.id)
  const after = sharing.with(given)
  return (await peopleIn(sql, member.workspaceId)).every(p =>
    given.every(({ list }) => reaches(after.sightOf(p).level(list), sharing.sightOf(p).level(list))),
  )
}
const isSame = (one: Grantee, other: Grantee): boolean => one.kind === other.kind && idOf(one) === idOf(other)

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
  // What a guest sees says nothing of what members do.
  const lists = [...new Set(ofMembers(changes).map(c => c.list))]
  const were = lists.filter(id => sharing.of(id)?.asBefore)
  const before: Change[] = []
  for (const { list, to, level } of changes.filter(isOfLink)) {
    const link = (await linksOfWorkspace(sql, { workspaceId })).find(l => l.id === to.id)
    const shown = (await listsOfLinks(sql, { workspaceId })).find(
      s => s.link_id === to.id && s.collection_id === list,
    )
    const now = shown?.level ?? null
    if (now === level || (now === null && level === 'nothing')) continue
    before.unshift({ list, to, level: now, passOn: false })
    if (level === null || level === 'nothing') await dropLinkList(sql, { linkId: to.id, list })
    else await putLinkList(sql, { linkId: to.id, list, workspaceId, level })
    const seen = { level: level ?? 'nothing', before: now ?? 'nothing' }
    const act = { do: 'grant' as const, to: `link ${link?.name ?? ''}`, ...seen }
    await logSharing(sql, { workspaceId, at, memberId: member.id, collectionId: list, act })
  }
  for (const { list, to, level, passOn } of ofMembers(changes)) {
    const known = sharing.of(list)?.grants.find(g => isSame(g.to, to))
    const were = { level: known?.level ?? null, passOn: known?.passOn ?? false }
    if (were.level === level && were.passOn === passOn) continue
    before.unshift({ list, to, ...were })
    const key = { collection_id: list, to_kind: to.kind, to_id: idOf(to) }
    if (level === null) await dropGrant(sql, key)
    else await putGrant(sql, { ...key, level, workspaceId, pass_on: passOn ? 1 : 0, granted_by: member.id })
    const act = { do: 'grant' as const, to: `${to.kind} ${idOf(to)}`, level, before: were.level, passOn }
    await logSharing(sql, { workspaceId, at, memberId: member.id, collectionId: list, act })
  }
  const sight = sharing.sightOf(member)
  // Whether private things stay as seen is for its owner to have chosen.
  for (const id of lists.filter(sight.tends))
    await setAsBefore(sql, { id, asBefore: asBefore.includes(id) ? 1 : 0 })
  sql.tell(workspaceId, { topics: ['team', 'cloth', 'connections', 'rules', 'journal'] })
  return { ok: true as const, before: { changes: before, asBefore: were } }
}
