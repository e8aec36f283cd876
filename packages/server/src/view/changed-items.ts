import type { Sql } from '../data/database.ts'
import type { Change } from '../data/change.ts'
import { changesFrom, itemsChanged, MOST_CHANGED } from '../data/repositories/changes.ts'
import { parsed } from '../data/json.ts'

/** Of which items the Cloth may show something else than at an earlier change. */

const isExact = ({ exact, topics }: Change): boolean =>
  exact === true || !topics.some(t => t === 'cloth' || t === 'connections' || t === 'team')

/**
 * Items changed after `from`, and items now tied to them; null if anything may have changed.
 * @param sql of a snapshot: both are asked for at once @returns `to`: the last change there is
 */
export async function changedSince(
  sql: Sql,
  workspaceId: string,
  from: number,
): Promise<{ to: number; ids: string[] } | null> {
  const [changes, items] = await Promise.all([
    changesFrom(sql, { workspaceId, from }),
    itemsChanged(sql, { workspaceId, from }),
  ])
  if (changes.length > MOST_CHANGED || items.length > MOST_CHANGED) return null
  const to = changes[0]?.latest ?? from
  const known = changes.flatMap(c => (c.body === null ? [] : parsed(c.body)))
  if (to - from !== known.length || !known.every(isExact)) return null
  return { to, ids: items.map(i => i.id) }
}
