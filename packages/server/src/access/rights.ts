import { type Level, reaches } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { privacyOfMirrors } from '../data/repositories/privacy.ts'
import { type Asker, sightIn } from './sight.ts'

/** What somebody may do with single items, of which only where they are and how private they are is asked. */

/** Of items by id, also of those that are gone; `nothing` for what is not for them to know of. */
export async function levelsOf(
  sql: Sql,
  who: Asker & { workspaceId: string },
  ids: readonly string[],
): Promise<(id: string) => Level> {
  const [rows, sight] = await Promise.all([
    privacyOfMirrors(sql, { workspaceId: who.workspaceId, ids }),
    sightIn(sql, who),
  ])
  const levels = new Map(rows.map(r => [r.id, sight.levelAt(r.collection_id, PRIVACIES[r.privacy])]))
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
): Promise<T[]> {
  const ids = (of: T): string[] => idsOf(of).filter(id => id !== null)
  const level = await levelsOf(sql, who, [...new Set(all.flatMap(ids))])
  return all.filter(of => ids(of).every(id => reaches(level(id), 'everything')))
}
