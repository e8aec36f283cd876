import type { Mirror, Seen } from '../model/types.ts'

/**
 * An item that goes backwards: its service shows again what it showed before, as after a restored backup. Nobody
 * edited it then, and what is older gives way.
 */

/** So many earlier modification times are kept of an item. */
const MOST_STAMPS = 12
/** No clock of a person's program is off by so much, ms. */
const OLDER_BY_FAR_MS = 86_400_000

/**
 * Whether a modification time is an earlier one of the same item: one that it had before, or one that is older by
 * far. A little older alone may be another program's slow clock. Null says nothing.
 * @param isOther whether it is said by what took the item's place elsewhere: a copy of before is older at once
 */
export function goesBackwards(
  { item: { lastModified: known }, seen }: Mirror,
  stamp: string | null,
  isOther = false,
): boolean {
  if (known === null || stamp === null) return false
  const older = Date.parse(known) - Date.parse(stamp)
  if (!(older > 0)) return false
  return isOther || older > OLDER_BY_FAR_MS || (seen.lastModified?.before ?? []).some(b => b.value === stamp)
}

/** The modification times that the item had before it had this one, newest first. */
export function earlierStamps(present: Mirror, stamp: string | null): Seen['before'] {
  const { item, seen, firstSeenAt } = present
  const { before = [], ...last }: Seen = seen.lastModified ?? { without: 0, with: firstSeenAt }
  if (item.lastModified === null || item.lastModified === stamp) return before
  return [{ ...last, value: item.lastModified }, ...before].slice(0, MOST_STAMPS)
}
