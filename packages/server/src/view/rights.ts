import { reaches } from '@loom/core'
import { type Asker, sightIn } from '../access/sight.ts'
import type { Sql } from '../data/database.ts'
import { loadSources } from './sources.ts'

/** Items that somebody knows of or may work on, also because they are given to them. */

/** Of items to be worked with: they may be changed, or are given to whoever asks. */
export async function mayWorkOn(
  sql: Sql,
  who: Asker & { workspaceId: string },
  ids: readonly string[],
): Promise<boolean> {
  const [sources, sight] = await Promise.all([loadSources(sql, who.workspaceId, ids), sightIn(sql, who)])
  return ids.every(id => {
    const source = sources.get(id)
    const seen = source && sight.seen(source)
    return !!seen && (seen.level === undefined || seen.level === 'change' || seen.completes === true)
  })
}

/** Of items, those that somebody knows of, as whoever they are given to does. */
export async function seenTitles(
  sql: Sql,
  who: Asker & { workspaceId: string },
  ids: readonly string[],
): Promise<string[]> {
  const [sources, sight] = await Promise.all([loadSources(sql, who.workspaceId, ids), sightIn(sql, who)])
  return ids.filter(id => {
    const source = sources.get(id)
    return source !== undefined && reaches(sight.levelOf(source), 'title')
  })
}
