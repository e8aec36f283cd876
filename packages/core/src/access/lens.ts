import type { Filter } from '../filter/filter.ts'
import { type Level, lower } from './level.ts'
import { type Grant, mostSpecific, type Onlooker, type Privacy } from './sight.ts'
import type { Membership } from './team.ts'

/**
 * A saved view as a lens: what it shows, as it stood when it was granted, comes into sight for those it is granted
 * to, of those lists that its giver owns or may pass on. It opens things to be looked at, never to be changed.
 */

/** What a view chooses by, as granted. */
export interface Chosen {
  filter: Filter
  /** Lists that it does not show. */
  hidden: readonly string[]
}

/** A word of a view's sharing; one that opens nothing counts as well, where it is the most specific one. */
export interface ViewGrant extends Grant {
  /** Null where its giver has left. */
  giver: Membership | null
  chosen: Chosen
}

/** The one that counts for somebody; null where it opens nothing to them. */
export function openedTo(
  who: Onlooker,
  grants: readonly ViewGrant[],
): (ViewGrant & { giver: Membership }) | null {
  const found = mostSpecific(who, grants)
  const { giver = null, level = 'nothing' } = found ?? {}
  return !found || !giver || giver.role === 'reader' || level === 'nothing' ? null : { ...found, giver }
}

/** What a lens makes of an item that it shows: private things are at most busy, and nothing is more than its giver sees. */
export const throughLens = (granted: Level, giver: Level, privacy: Privacy): Level =>
  lower(lower(granted, privacy === 'open' ? 'everything' : 'busy'), giver)
