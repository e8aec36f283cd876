import type { Seen } from '@loom/core'

/** Since when each property of an item is known to be as it is, as it is stored. */

/** Properties that became known at the same time are stored together. Older rows have the first form. */
export type StoredSeen = Record<string, Seen> | [props: string[], seen: Seen][]

export function packedSeen(seen: Record<string, Seen>): StoredSeen {
  const stored: [props: string[], seen: Seen][] = []
  for (const [prop, since] of Object.entries(seen)) {
    const alike = stored.find(
      ([, s]) =>
        !s.before &&
        !since.before &&
        (s === since ||
          (s.without === since.without && s.with === since.with && s.restored === since.restored)),
    )
    if (alike) alike[0].push(prop)
    else stored.push([[prop], since])
  }
  return stored
}

export const unpackedSeen = (stored: StoredSeen): Record<string, Seen> =>
  Array.isArray(stored)
    ? Object.fromEntries(stored.flatMap(([props, seen]) => props.map(prop => [prop, seen])))
    : stored
