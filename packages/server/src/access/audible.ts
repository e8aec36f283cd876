import { reaches } from '@loom/core'
import type { Change } from '../data/change.ts'
import type { Sql } from '../data/database.ts'
import { connectionsToldOf, MOST_CHANGED, whoseChanged } from '../data/repositories/changes.ts'
import { PRIVACIES } from './rights.ts'
import { type Asker, sightIn } from './sight.ts'

/** Which changes somebody hears of: that something happened to what they may not know of is nothing to tell. */

interface Told {
  seq: number
  change: Change
}

/** What is told of what lies in lists; of all else everybody hears. */
const OF_LISTS = new Set<string>(['cloth', 'journal', 'rules', 'connections'])

const isOfLists = ({ change: { exact, lists, connection, topics, refused } }: Told): boolean =>
  (exact === true || lists !== undefined || connection !== undefined) &&
  !refused &&
  topics.every(t => OF_LISTS.has(t))

/** @param from the last change that they were told of, or would have been */
export async function audibleTo<C extends Told>(
  sql: Sql,
  who: Asker & { workspaceId: string },
  changes: readonly C[],
  from: number,
): Promise<readonly C[]> {
  if (!changes.some(isOfLists)) return changes
  const sight = await sightIn(sql, who)
  if (sight.isWhole) return changes
  const rows = await whoseChanged(sql, { workspaceId: who.workspaceId, from, me: who.id })
  if (rows.length > MOST_CHANGED) return changes
  const ids = [...new Set(changes.flatMap(({ change }) => change.connection ?? []))]
  const behind = ids.length === 0 ? [] : await connectionsToldOf(sql, { ids })
  const mayKnow = (list: string): boolean => sight.sees(list, 'busy')
  return changes.filter(told => {
    if (!isOfLists(told)) return true
    const { lists = [], connection } = told.change
    const items = rows.filter(r => r.seq === told.seq)
    // Whether its items have changed again since, or it says nothing of what it concerns, is not known.
    if (connection === undefined && lists.length === 0 && items.length === 0) return true
    const accounts = behind.filter(b => b.id === connection)
    return (
      lists.some(mayKnow) ||
      items.some(
        i => i.given === 1 || reaches(sight.levelAt(i.collection_id, PRIVACIES[i.privacy]), 'busy'),
      ) ||
      accounts.some(
        ({ owner_id: owner, list }) =>
          owner === who.id ||
          (owner === null && who.role === 'coordinator') ||
          (list !== null && mayKnow(list)),
      )
    )
  })
}
