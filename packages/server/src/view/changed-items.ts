import type { Sql } from '../data/database.ts'
import type { Change } from '../data/change.ts'

/** Of which items the Cloth may show something else than at an earlier change. */

/** Beyond this many, all of it is read anew. */
const MOST_CHANGED = 500

/** Every change that is numbered as exact names its items (`Change`). */
const CHANGED = 'm.workspace_id = :workspaceId AND m.change_seq > :from'
const ITEMS = `SELECT m.id FROM mirrors m WHERE ${CHANGED}
  UNION SELECT t.b_mirror FROM mirrors m JOIN ties t ON t.a_mirror = m.id AND t.released IS NULL
    WHERE ${CHANGED} AND t.b_mirror IS NOT NULL
  UNION SELECT t.a_mirror FROM mirrors m JOIN ties t ON t.b_mirror = m.id AND t.released IS NULL
    WHERE ${CHANGED} AND t.a_mirror IS NOT NULL
  LIMIT ${MOST_CHANGED + 1}`

const isExact = ({ exact, topics }: Change): boolean =>
  exact === true || !topics.some(t => t === 'cloth' || t === 'connections')

/**
 * What was changed after `from`, with what is tied to it now; null where that can be anything.
 * @param sql of a snapshot: both are asked for at once
 * @returns `to`: the last change there is
 */
export async function changedSince(
  sql: Sql,
  workspaceId: string,
  from: number,
): Promise<{ to: number; ids: string[] } | null> {
  const [changes, items] = await Promise.all([
    sql.rows<{ latest: number; body: string | null }>(
      `SELECT w.change_seq AS latest, c.body FROM workspaces w
       LEFT JOIN changes c ON c.workspace_id = w.id AND c.seq > :from
       WHERE w.id = :workspaceId LIMIT ${MOST_CHANGED + 1}`,
      { workspaceId, from },
    ),
    sql.rows<{ id: string }>(ITEMS, { workspaceId, from }),
  ])
  if (changes.length > MOST_CHANGED || items.length > MOST_CHANGED) return null
  const to = changes[0]?.latest ?? from
  const known = changes.flatMap(c => (c.body === null ? [] : (JSON.parse(c.body) as Change)))
  if (to - from !== known.length || !known.every(isExact)) return null
  return { to, ids: items.map(i => i.id) }
}
