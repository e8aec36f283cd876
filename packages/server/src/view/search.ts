import { admitsShown, type ClothItem, type Filter, type Viewer } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { drawn, loadPairs, type Pair } from './pairs.ts'

/** Looking for items anywhere, whether the Cloth shows them or not. */

const MOST = 40
/** As many are looked through where a filter is given. */
const MOST_FILTERED = 400
/** What only tasks have: who asks for it looks for tasks. */
const OF_TASKS = ['status', 'priority', 'due']

/** For LIKE: what somebody types is text, whatever is in it. */
const like = (word: string): string => `%${word.toLowerCase().replace(/[\\%_]/g, c => `\\${c}`)}%`

/** Items that hold every word and pass the filter, open ones before done ones, what is nearest in time first. */
export async function searchItems(
  sql: Sql,
  who: { workspaceId: string; id: string },
  text: string,
  viewer: Viewer,
  filter: Filter = [],
): Promise<ClothItem[]> {
  const words = text.trim().split(/\s+/).filter(Boolean).slice(0, 8)
  if (words.length === 0 && filter.length === 0) return []
  const most = filter.length === 0 ? MOST : MOST_FILTERED
  const params = Object.fromEntries(words.map((w, i) => [`w${i}`, like(w)]))
  const rows = await sql.rows<{ id: string }>(
    `SELECT m.id FROM mirrors m JOIN collections k ON k.id = m.collection_id AND k.takes_part = 1
     WHERE m.workspace_id = :workspaceId AND m.presence = 'present'
       ${words.map((_, i) => `AND m.words LIKE :w${i}`).join(' ')}
     ORDER BY (m.kind = 'task' AND m.open_task = 0), ABS(IFNULL(m.start_ms, :now) - :now), m.id LIMIT ${most}`,
    { workspaceId: who.workspaceId, now: viewer.now, ...params },
  )
  const { pairs } = await loadPairs(
    sql,
    who.workspaceId,
    who.id,
    rows.map(r => r.id),
  )
  const wanted = new Map(rows.map((r, i) => [r.id, i]))
  const rank = ({ task, event, twins }: Pair): number =>
    Math.min(...[task, event, ...twins].map(s => wanted.get(s?.id ?? '') ?? most))
  const tasksOnly = filter.some(c => OF_TASKS.includes(c.field))
  const wantedOne = (item: ClothItem): boolean =>
    (!tasksOnly || item.kind === 'task') && admitsShown(filter, item, viewer)
  return pairs
    .flatMap(p => {
      const item = drawn(p, viewer)
      return item && wantedOne(item) ? [{ item, at: rank(p) }] : []
    })
    .filter(x => x.at < most)
    .sort((x, y) => x.at - y.at)
    .slice(0, MOST)
    .map(x => x.item)
}
