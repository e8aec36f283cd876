import type { ClothItem, Viewer } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { drawn, loadPairs, type Pair } from './pairs.ts'

/** Looking for items anywhere, whether the Cloth shows them or not. */

const MOST = 40

/** For LIKE: what somebody types is text, whatever is in it. */
const like = (word: string): string => `%${word.toLowerCase().replace(/[\\%_]/g, c => `\\${c}`)}%`

/** Items that hold every word, open ones before done ones, what is nearest in time first. */
export async function searchItems(
  sql: Sql,
  who: { workspaceId: string; id: string },
  text: string,
  viewer: Viewer,
): Promise<ClothItem[]> {
  const words = text.trim().split(/\s+/).filter(Boolean).slice(0, 8)
  if (words.length === 0) return []
  const params = Object.fromEntries(words.map((w, i) => [`w${i}`, like(w)]))
  const rows = await sql.rows<{ id: string }>(
    `SELECT m.id FROM mirrors m JOIN collections k ON k.id = m.collection_id AND k.takes_part = 1
     WHERE m.workspace_id = :workspaceId AND m.presence = 'present' AND ${words.map((_, i) => `m.words LIKE :w${i}`).join(' AND ')}
     ORDER BY (m.kind = 'task' AND m.open_task = 0), ABS(IFNULL(m.start_ms, :now) - :now), m.id LIMIT ${MOST}`,
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
    Math.min(...[task, event, ...twins].map(s => wanted.get(s?.id ?? '') ?? MOST))
  return pairs
    .flatMap(p => {
      const item = drawn(p, viewer)
      return item ? [{ item, at: rank(p) }] : []
    })
    .filter(x => x.at < MOST)
    .sort((x, y) => x.at - y.at)
    .map(x => x.item)
}
