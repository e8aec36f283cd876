import type { Item } from '../../items/items.ts'
import type { PlanInput } from './decide.ts'
import type { Match } from '../merge/match.ts'
import { type Mirror, otherSide, type PlannedWrite, type Side, SIDES, type Tie } from '../model/types.ts'

/**
 * A creation whose answer was lost, at a service that chooses its own ids. An item that carries our uid as its
 * mark was created by it. Nothing is created twice on a guess; if a search cannot decide, a person is asked.
 */

/** What a look through all lists of an account came to. */
export interface Search<T extends { item: Pick<Item, 'created'> }> {
  found: T[]
  /** Bears our mark and cannot be read as an item. */
  unreadable: number
  /** Lists that could not be looked at. */
  closed: readonly { name: string }[]
}

export type Verdict<T> =
  | { kind: 'made'; item: T }
  | { kind: 'not-made' }
  /** `againMs`: another search decides by then; null if only a person can. */
  | { kind: 'unsure'; reason: string; againMs: number | null }

/**
 * Whether a creation took effect whose answer was lost so long ago. If several items carry its mark, the first one
 * made is ours and the others are copies.
 * @param behindMs how long after a request its result may be missing from a list
 */
export function verdictOf<T extends { item: Pick<Item, 'created'> }>(
  search: Search<T>,
  triedAgoMs: number,
  behindMs: number,
): Verdict<T> {
  const unsure = (reason: string, againMs: number | null = null): Verdict<T> => ({
    kind: 'unsure',
    reason,
    againMs,
  })
  const { found, unreadable, closed } = search
  if (found.length > 0) {
    const item = firstMade(found)
    return item
      ? { kind: 'made', item }
      : unsure(`${found.length} items there bear our mark, and it cannot be told which of them we made.`)
  }
  if (unreadable > 0) return unsure('Something there bears our mark, but it cannot be read.')
  if (closed.length > 0)
    return unsure(
      `It may have been made, and moved since: ${closed.map(c => `“${c.name}”`).join(' and ')} cannot be looked at.`,
    )
  if (triedAgoMs < behindMs) return unsure('What was just made may not be listed yet.', behindMs - triedAgoMs)
  return { kind: 'not-made' }
}

/** Null where the service does not tell which that is. */
function firstMade<T extends { item: Pick<Item, 'created'> }>(items: readonly T[]): T | null {
  if (items.length === 1) return items[0] ?? null
  const times = items.map(i => Date.parse(i.item.created ?? ''))
  const first = Math.min(...times)
  return times.filter(t => t === first).length === 1 ? (items[times.indexOf(first)] ?? null) : null
}

/** The tie of a creation that is given up. It is not asked for again until the item has another date. */
export const givenUp = (tie: Tie, write: Extract<PlannedWrite, { op: 'create' }>): Tie => ({
  ...tie,
  base: write.expect,
  memory: { ...tie.memory, sought: write.item.uid },
  released: 'refused',
})

/**
 * The result of a creation that was given up and took effect after all: its mark says whose counterpart it is.
 * Nothing else is created for it, even if the item it was made for now has another counterpart, or none.
 */
export function madeAfterAll(
  untied: Record<Side, readonly Mirror[]>,
  { released, transitive }: Pick<PlanInput, 'released' | 'transitive'>,
): { pairs: Match[]; strays: Mirror[] } {
  const sought = new Map([...released.values()].flatMap(t => (t.memory.sought ? [[t.memory.sought, t]] : [])))
  const pairs: Match[] = []
  const strays: Mirror[] = []
  const taken = new Set<string>()
  for (const side of sought.size > 0 ? SIDES : [])
    for (const m of untied[side]) {
      const tie = sought.get(m.item.uid)
      if (!tie) continue
      const id = tie[otherSide(side)]
      const other = untied[otherSide(side)].find(o => o.id === id)
      const hasAnother = other && (transitive?.has(other.id) || released.get(other.id)?.id !== tie.id)
      if (!other || hasAnother || taken.has(other.id)) strays.push(m)
      else pairs.push(side === 'a' ? { a: m, b: other } : { a: other, b: m })
      taken.add(id ?? '')
    }
  return { pairs, strays }
}
