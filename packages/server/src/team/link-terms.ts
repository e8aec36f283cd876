import { Level, plainView, TASKS_AS, viewOf } from '@loom/core'
import { z } from 'zod'
import { sightIn } from '../access/sight.ts'
import type { Member } from '../data/repositories/sessions.ts'
import type { Sql } from '../data/database.ts'
import { json, parsed } from '../data/json.ts'
import type { LinkRow, ShownList } from '../data/repositories/links.ts'
import { memberNames } from '../data/repositories/members.ts'
import { viewsFor } from './views-for.ts'

/** What is asked to be shown by a secret address, and what of that its maker may. */

export const LinkAsked = z.object({
  opens: z.enum(['page', 'feed', 'availability', 'caldav']).default('page'),
  tasksAs: z.enum(TASKS_AS).default('events'),
  lists: z.array(z.string().max(36)).min(1).max(100),
  level: Level.extract(['busy', 'title', 'everything']),
  weeks: z.number().int().min(1).max(26),
  /** Only what this saved view shows of them. */
  view: z.string().max(36).nullable().default(null),
  /** Only what is given to this member. */
  person: z.string().max(36).nullable().default(null),
  /** In so many days it ends by itself. */
  expires: z.number().int().min(1).max(3650).nullable(),
})
export type LinkAsked = z.infer<typeof LinkAsked>

/** The lists and the view that it shows; or why it may not. */
export async function shownBy(
  sql: Sql,
  member: Member,
  { lists, level: asked, opens, view: viewId, person }: Omit<LinkAsked, 'expires'>,
): Promise<{ lists: ShownList[]; view: LinkRow['view'] } | { reason: string }> {
  const sight = await sightIn(sql, member)
  if (!lists.every(sight.tends))
    return { reason: 'One of these lists is not yours to share, or not there any more.' }
  // When time is taken is all that it would tell of more.
  const level = opens === 'availability' ? ('busy' as const) : asked
  const shown = [...new Set(lists)].map(id => ({ id, level }))
  if (viewId === null && person === null) return { lists: shown, view: null }
  // One's own availability is reckoned by one's own sight, and only times leave.
  const isOwnTime = opens === 'availability' && viewId === null && person === member.id
  if (level === 'busy' && !isOwnTime)
    return { reason: 'Busy time is that of whole lists. Choose titles or everything, or no view and nobody.' }
  const names = await memberNames(sql, { workspaceId: member.workspaceId })
  const whose = person === null ? null : names.find(m => m.id === person)
  if (whose === undefined) return { reason: 'This person is not there any more.' }
  const [view] = viewId === null ? [] : await viewsFor(sql, member, viewId)
  if (viewId !== null && !view) return { reason: 'This view is not there any more.' }
  const body = view ? viewOf(parsed(view.row.body)) : plainView
  const theirs = whose ? [{ field: 'member' as const, is: [whose.id] }] : []
  const name = [view?.row.name, whose && `what is ${whose.name}’s`].filter(Boolean).join(', ')
  return { lists: shown, view: json({ name, body: { ...body, filter: [...body.filter, ...theirs] } }) }
}
