import { reaches } from '@loom/core'
import type { Change } from '../data/change.ts'
import type { Sql } from '../data/database.ts'
import { MOST_CHANGED, whoseChanged } from '../data/repositories/changes.ts'
import { PRIVACIES } from './rights.ts'
import { type Asker, sightIn } from './sight.ts'

/** Which changes somebody hears of: that something happened to what they may not know of is nothing to tell. */

interface Told {
  seq: number
  change: Change
}

/** What is told of every change, whosever it is; of these, who hears it depends on what was changed. */
const OF_ITEMS = new Set<string>(['cloth', 'journal', 'rules', 'connections'])

/** @param from the last change that they were told of, or would have been */
export async function audibleTo<C extends Told>(
  sql: Sql,
  who: Asker & { workspaceId: string },
  changes: readonly C[],
  from: number,
): Promise<readonly C[]> {
  const isOfItems = ({ change: { exact, topics, refused } }: Told): boolean =>
    exact === true && !refused && topics.every(t => OF_ITEMS.has(t))
  if (!changes.some(isOfItems)) return changes
  const sight = await sightIn(sql, who)
  if (sight.isWhole) return changes
  const rows = await whoseChanged(sql, { workspaceId: who.workspaceId, from, me: who.id })
  if (rows.length > MOST_CHANGED) return changes
  return changes.filter(told => {
    if (!isOfItems(told)) return true
    const { lists = [] } = told.change
    const items = rows.filter(r => r.seq === told.seq)
    // Whether its items have changed again since, or it says nothing of what it concerns, is not known.
    if (lists.length === 0 && items.length === 0) return true
    return (
      lists.some(id => sight.sees(id, 'busy')) ||
      items.some(i => i.given === 1 || reaches(sight.levelAt(i.collection_id, PRIVACIES[i.privacy]), 'busy'))
    )
  })
}
