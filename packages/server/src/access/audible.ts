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

/**
 * Whether it may be about who sees what: of that, the lists that exist, and whose they are, every change is told as
 * concerning more than items.
 */
const mayShareAnew = (told: Told): boolean => {
  const { exact, lists, connection } = told.change
  return !isOfLists(told) || (exact !== true && connection !== undefined && lists === undefined)
}

/** What decides who hears of some changes, asked once for all who listen: they are told of the same ones together. */
interface Grounds {
  sharing: Sharing
  /** Whose the changed items and the connections are: of no interest to who sees everything. */
  whose: () => Promise<{
    rows: Awaited<ReturnType<typeof whoseChanged>>
    behind: Awaited<ReturnType<typeof connectionsToldOf>>
  }>
}
const grounds = new LRUCache<string, Promise<Grounds>>({ max: 200, ttl: 2_000 })
/** By workspace, with the change up to which it is known to hold. */
const shared = new LRUCache<string, { until: number; sharing: Sharing }>({ max: 200, ttl: 2_000 })

async function sharingAfter(
  sql: Sql,
  workspaceId: string,
  changes: readonly Told[],
  from: number,
): Promise<Sharing> {
  const known = shared.get(workspaceId)
  const holds = known?.until === from && !changes.some(mayShareAnew)
  const sharing = holds ? known.sharing : await sharingOf(sql, workspaceId)
  shared.set(workspaceId, { until: changes.at(-1)?.seq ?? from, sharing }, { noUpdateTTL: holds })
  return sharing
}

async function asked(
  sql: Sql,
  workspaceId: string,
  changes: readonly Told[],
  from: number,
): Promise<Grounds> {
  const sharing = await sharingAfter(sql, workspaceId, changes, from)
  const ids = [...new Set(changes.flatMap(({ change }) => change.connection ?? []))]
  let whose: ReturnType<Grounds['whose']> | null = null
  return {
    sharing,
    whose: () =>
      (whose ??= Promise.all([
        whoseChanged(sql, { workspaceId, from }),
        ids.length === 0 ? [] : connectionsToldOf(sql, { ids }),
      ]).then(([rows, behind]) => ({ rows, behind }))),
  }
}

function groundsOf(sql: Sql, workspaceId: string, changes: readonly Told[], from: number): Promise<Grounds> {
  const key = [workspaceId, from, changes.map(c => c.seq).join()].join(' ')
  const known = grounds.get(key)
  if (known) return known
  const fresh = asked(sql, workspaceId, changes, from)
  grounds.set(key, fresh)
  fresh.catch(() => grounds.delete(key))
  return fresh
}

/** @param from the last change that they were told of, or would have been */
export async function audibleTo<C extends Told>(
  sql: Sql,
  who: Asker & { workspaceId: string },
  all: readonly C[],
  from: number,
): Promise<readonly C[]> {
  const changes = all.filter(({ change: { only } }) => only === undefined || only === who.id)
  if (!changes.some(isOfLists)) return changes
  const { sharing, whose } = await groundsOf(sql, who.workspaceId, changes, from)
  const sight = sharing.sightOf(who)
  if (sight.isWhole) return changes
  const { rows, behind } = await whose()
  if (rows.length > MOST_CHANGED) return changes
  // Of a list of which a view opens something, one hears that something has changed in it, and not what.
  const mayKnow = (list: string): boolean => sight.glimpses(list, 'busy')
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
        i =>
          i.given_to === who.id ||
          reaches(sight.levelAt(i.collection_id, PRIVACIES[i.privacy]), 'busy') ||
          reaches(sight.openedOf(i.collection_id), 'busy'),
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
