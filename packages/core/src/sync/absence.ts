import type { Mirror } from './types.ts'
import type { Sighting } from './observe.ts'

/**
 * What a listing does not say is no news, and what it says may be old. An item that it leaves out is asked for by id
 * and looked for in the other collections; one that it shows as older than we know it is asked for by id; and one that
 * it shows for the first time, under a uid that we know from elsewhere, waits until it is known whether that one moved.
 */

/** Where something that a listing left out is now. */
export type Fate = { kind: 'lives'; at: Sighting } | { kind: 'gone' } | { kind: 'unclear' }

/**
 * @param read what asking by id came to; null when it is not there
 * @param elsewhere what bears the same uid anywhere at the service
 */
export function fateOf(read: Sighting | 'unreadable' | null, elsewhere: readonly Sighting[]): Fate {
  if (read === 'unreadable') return { kind: 'unclear' }
  if (read) return { kind: 'lives', at: read }
  const [one, another] = elsewhere
  // Several with one uid: none of them is this one for certain.
  return one && !another ? { kind: 'lives', at: one } : { kind: 'gone' }
}

/** Whether a new item may be one that we know and that moved here: it is not planned with before that is clear. */
export const mayHaveMovedHere = (
  seen: Sighting,
  sameUid: readonly Pick<Mirror, 'remoteId' | 'presence'>[],
): boolean => sameUid.some(m => m.remoteId !== seen.remoteId && m.presence === 'present')

/** Whether a listing may be older than what we know of the item: by the service's own dates, or as it is gone. */
export function mayBeStale(present: Mirror | null, seen: Sighting): boolean {
  if (present?.presence === 'gone') return true
  if (!present || present.revision === seen.revision) return false
  const [known, told] = [present.item.lastModified, seen.item.lastModified]
  return known !== null && told !== null && Date.parse(told) <= Date.parse(known)
}
