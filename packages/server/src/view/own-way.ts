import type { Item, ItemSource } from '@loom/core'
import { sightIn } from '../access/sight.ts'
import type { Sql } from '../data/database.ts'
import { parsed } from '../data/json.ts'
import { serviceOf } from '../data/repositories/collections.ts'
import { byOtherAccounts } from '../data/repositories/mirrors.ts'
import type { Member } from '../data/repositories/sessions.ts'

/**
 * By which account somebody's edit of an item goes. A list may come in by the accounts of several people: each edits it
 * by their own, so that its service knows who it was.
 */

/** What two accounts of one service say alike of one thing. Ids alone may be each account's own. */
function saidOf(item: Item): string {
  const { uid, summary, status } = item
  return JSON.stringify([uid, summary, status, item.kind === 'task' ? item.due : item.time])
}

/** The same item by the member's own account, where that brings in its list and may write there; else itself. */
export async function ownWay(
  sql: Sql,
  member: Member,
  { id, item, collectionId, kept, dateOf }: ItemSource<Item>,
): Promise<string> {
  if (!kept || dateOf) return id
  const { workspaceId } = member
  const { list, connectionId } = kept
  const others = await byOtherAccounts(sql, {
    workspaceId,
    connectionId,
    list,
    uid: item.uid,
    kind: item.kind,
  })
  if (others.length === 0) return id
  const sight = await sightIn(sql, member)
  if (sight.owns(collectionId)) return id
  const own = others.find(
    o =>
      sight.owns(o.collection_id) && serviceOf(o) === kept.service && saidOf(parsed(o.item)) === saidOf(item),
  )
  return own?.id ?? id
}
