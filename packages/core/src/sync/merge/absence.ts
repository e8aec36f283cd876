import type { Mirror } from '../model/types.ts'
import type { Sighting } from './observe.ts'

/**
 * A listing that omits an item is no news, and what it shows may be old. An omitted item is asked for by id and
 * looked for in the other collections. An item shown as older than known is asked for by id. An item that appears
 * for the first time under a known uid waits until it is known whether that one moved.
 */

/** Where something that a listing left out is now. */
export type Fate = { kind: 'lives'; at: Sighting } | { kind: 'gone' } | { kind: 'unclear' }

/** What bears the same uid at another place of the service, and as what we hold it there. */
export interface Namesake {
  at: Sighting
  held: Mirror['presence'] | null
}

/**
 * A namesake already known beside the item is a copy, and not where the item moved. Of several new ones one is
 * taken; they say the same.
 * @param read the answer to asking by id; null if it is not there
 */
export function fateOf(read: Sighting | 'unreadable' | null, namesakes: readonly Namesake[]): Fate {
  if (read === 'unreadable') return { kind: 'unclear' }
  if (read) return { kind: 'lives', at: read }
  const moved = namesakes.find(n => n.held === null || n.held === 'arriving' || n.held === 'gone')
  return moved ? { kind: 'lives', at: moved.at } : { kind: 'gone' }
}

/** Whether a new item may be one that we know and that moved here: it is not planned with before that is clear. */
export const mayHaveMovedHere = (
  seen: Sighting,
  sameUid: readonly Pick<Mirror, 'remoteId' | 'presence'>[],
): boolean => sameUid.some(m => m.remoteId !== seen.remoteId && m.presence !== 'gone')

/**
 * The deleted item that a new one may be: put back with the same UID under another address. Null unless exactly
 * one item of that UID is gone and none is present.
 */
export function returningAs<M>(gone: readonly M[], living: readonly unknown[]): M | null {
  const [only, ...more] = gone
  return only && more.length === 0 && living.length === 0 ? only : null
}

/**
 * Whether a listing may be older than our knowledge of the item: by the service's dates, or because the item is
 * gone.
 */
export function mayBeStale(present: Mirror | null, seen: Sighting): boolean {
  if (present?.presence === 'gone') return true
  if (!present || present.revision === seen.revision) return false
  const [known, modified] = [present.item.lastModified, seen.item.lastModified]
  return known !== null && modified !== null && Date.parse(modified) <= Date.parse(known)
}
