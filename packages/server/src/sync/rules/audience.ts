import { carriedBy, higher, type Level, type RuleSettings, widenedBy } from '@loom/core'
import { type Asker, sharingOf } from '../../access/sight.ts'
import type { Sql } from '../../data/database.ts'
import { namesOfLists } from '../../data/repositories/collection-views.ts'
import { teamOfWorkspace } from '../../data/repositories/members.ts'
import { listsOfSides, type RuleDraft } from './rules.ts'

/** Who will see what by a rule that they do not see without it; and whether whoever makes it may open that. */

export interface Opened {
  name: string
  from: Level
  to: Level
  /** The side that is carried over. */
  side: 'a' | 'b'
}

export interface Audience {
  opened: Opened[]
  /** Lists whose owner has to agree, as it is theirs what is opened. */
  notTheirs: string[]
}

type Draft = Pick<RuleDraft, 'a' | 'b'> & { settings: RuleSettings }

export async function audienceOf(
  sql: Sql,
  who: Asker & { workspaceId: string },
  draft: Draft,
): Promise<Audience> {
  const { workspaceId } = who
  const [sharing, team, lists] = await Promise.all([
    sharingOf(sql, workspaceId),
    teamOfWorkspace(sql, { workspaceId }),
    listsOfSides(sql, { ...draft, workspaceId }),
  ])
  const people = team.map(m => sharing.onlooker(m))
  const shared = (side: 'a' | 'b') => lists[side].flatMap(id => sharing.of(id) ?? [])
  const sight = sharing.sightOf(who)
  const opened: Opened[] = []
  const notTheirs = new Set<string>()
  for (const [side, other, way] of [
    ['a', 'b', 'a-to-b'],
    ['b', 'a', 'b-to-a'],
  ] as const) {
    const terms = {
      carried: carriedBy(draft.settings, way),
      isClassed: side === 'a' && draft.settings.show.class !== 'public',
      opened: ({ id, role }: Asker) =>
        lists[other].map(l => sharing.sightOf({ id, role }).openedOf(l)).reduce(higher, 'nothing'),
    }
    const found = widenedBy(people, shared(side), shared(other), terms)
    for (const { person, from, to } of found)
      opened.push({ name: team.find(m => m.id === person)?.name ?? '', from, to, side })
    if (found.some(w => w.person !== who.id))
      for (const id of lists[side]) if (!sight.tends(id)) notTheirs.add(id)
  }
  const names = await namesOfLists(sql, { ids: [...notTheirs] })
  return { opened, notTheirs: names.map(n => n.name) }
}

/** The reason why somebody may not make this rule, or null: it would open what others own. */
export async function opensOthers(
  sql: Sql,
  who: Asker & { workspaceId: string },
  draft: Draft,
): Promise<string | null> {
  const { notTheirs } = await audienceOf(sql, who, draft)
  if (notTheirs.length === 0) return null
  return `By this rule more people would see what is in ${notTheirs.join(', ')}. Whoever it belongs to has to make it, or to share it with them first.`
}
