import { mirrorsWithWords } from '../data/repositories/chosen-items.ts'
import { admitsShown, type ClothItem, type Filter, type Viewer } from '@loom/core'
import { type Asker, sightIn } from '../access/sight.ts'
import type { Sql } from '../data/database.ts'
import { drawn, loadPairs, type Pair } from './pairs.ts'

/** Looking for items anywhere, whether the Cloth shows them or not. */

const MOST = 40
/** As many are looked through where a filter is given. */
const MOST_FILTERED = 400
/** What only tasks have: who asks for it looks for tasks. */
const OF_TASKS = ['status', 'priority', 'due']

/** Items that contain every word and pass the filter: open before completed, nearest in time first. */
export async function searchItems(
  sql: Sql,
  who: Asker & { workspaceId: string },
  text: string,
  viewer: Viewer,
  filter: Filter = [],
): Promise<ClothItem[]> {
  const words = text.trim().split(/\s+/).filter(Boolean).slice(0, 8)
  if (words.length === 0 && filter.length === 0) return []
  const sight = await sightIn(sql, who)
  const titled = sight.glimpsed('title')
  const seen = sight.isWhole ? null : { me: who.id, ...sight.wholeLists(), titled }
  // Of lists of which views open something, not all that is found is seen.
  const isExact = filter.length === 0 && titled.every(id => sight.sees(id, 'title'))
  const most = isExact ? MOST : MOST_FILTERED
  const asked = words.map(w => w.toLowerCase())
  const rows = await mirrorsWithWords(sql, {
    workspaceId: who.workspaceId,
    words: asked,
    now: viewer.now,
    most,
    seen,
  })
  const { pairs } = await loadPairs(
    sql,
    who,
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
