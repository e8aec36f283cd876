import { reaches } from '@loom/core'
import { LRUCache } from 'lru-cache'
import type { Change } from '../data/change.ts'
import type { Sql } from '../data/database.ts'
import { connectionsToldOf, MOST_CHANGED, whoseChanged } from '../data/repositories/changes.ts'
import { PRIVACIES } from './rights.ts'
import { type Asker, type Sharing, sharingOf } from './sight.ts'

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

/** What decides who hears of some changes, asked once for all who listen: they are told of the same ones together. */
interface Grounds {
  sharing: Sharing
  rows: Awaited<ReturnType<typeof whoseChanged>>
  behind: Awaited<ReturnType<typeof connectionsToldOf>>
}
const grounds = new LRUCache<string, Promise<Grounds>>({ max: 200, ttl: 2_000 })

function groundsOf(sql: Sql, workspaceId: string, changes: readonly Told[], from: number): Promise<Grounds> {
  const key = [workspaceId, from, changes.map(c => c.seq).join()].join(' ')
  const known = grounds.get(key)
  if (known) return known
  const ids = [...new Set(changes.flatMap(({ change }) => change.connection ?? []))]
  const asked = Promise.all([
    sharingOf(sql, workspaceId),
    whoseChanged(sql, { workspaceId, from }),
    ids.length === 0 ? [] : connectionsToldOf(sql, { ids }),
  ]).then(([sharing, rows, behind]) => ({ sharing, rows, behind }))
  grounds.set(key, asked)
  asked.catch(() => grounds.delete(key))
  return asked
}

/** @param from the last change that they were told of, or would have been */
export async function audibleTo<C extends Told>(
  sql: Sql,
  who: Asker & { workspaceId: string },
  changes: readonly C[],
  from: number,
): Promise<readonly C[]> {
  if (!changes.some(isOfLists)) return changes
  const { sharing, rows, behind } = await groundsOf(sql, who.workspaceId, changes, from)
  const sight = sharing.sightOf(who)
  if (sight.isWhole || rows.length > MOST_CHANGED) return changes
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
        i => i.given_to === who.id || reaches(sight.levelAt(i.collection_id, PRIVACIES[i.privacy]), 'busy'),
      ) ||
      accounts.some(
        ({ owner_id: owner, list }) =>
          owner === who.id ||
          (owner === null && who.role === 'coordinator') ||
          (lists.length === 0 && list !== null && mayKnow(list)),
      )
    )
  })
}
