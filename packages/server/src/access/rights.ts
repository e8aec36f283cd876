import { type Item, type Level, reaches } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { privacyOfMirrors } from '../data/repositories/privacy.ts'
import { type Asker, sightIn } from './sight.ts'

/** What somebody may do with single items, of which only where they are and how private they are is asked. */

/** A date of a series that has no row yet: it is at least as private as its series. */
export interface DateAhead {
  seriesId: string
  mirror: { id: string; item: Item }
}

/** Of items by id, also of those that are gone; `nothing` for what is not for them to know of. */
export async function levelsOf(
  sql: Sql,
  who: Asker & { workspaceId: string },
  ids: readonly string[],
  ahead: readonly DateAhead[] = [],
): Promise<(id: string) => Level> {
  const all = [...new Set([...ids, ...ahead.map(d => d.seriesId)])]
  const [rows, sight] = await Promise.all([
    privacyOfMirrors(sql, { workspaceId: who.workspaceId, ids: all }),
    sightIn(sql, who),
  ])
  const levels = new Map(rows.map(r => [r.id, sight.levelAt(r.collection_id, PRIVACIES[r.privacy])]))
  const series = new Map(rows.map(r => [r.id, r]))
  for (const { seriesId, mirror } of ahead) {
    const row = series.get(seriesId)
    const isClassed = mirror.item.kind === 'event' && mirror.item.class !== 'public'
    if (row)
      levels.set(mirror.id, sight.levelAt(row.collection_id, PRIVACIES[row.privacy || (isClassed ? 1 : 0)]))
  }
  return id => levels.get(id) ?? 'nothing'
}
/** By `PRIVACY` in SQL. */
export const PRIVACIES = ['open', 'classed', 'marked'] as const

/** Of those, what somebody may see whole: all that is named of it may be seen. */
export async function seenWhole<T>(
  sql: Sql,
  who: Asker & { workspaceId: string },
  all: readonly T[],
  idsOf: (of: T) => readonly (string | null)[],
  ahead: readonly DateAhead[] = [],
): Promise<T[]> {
  const ids = (of: T): string[] => idsOf(of).filter(id => id !== null)
  const level = await levelsOf(sql, who, [...new Set(all.flatMap(ids))], ahead)
  return all.filter(of => ids(of).every(id => reaches(level(id), 'everything')))
}
