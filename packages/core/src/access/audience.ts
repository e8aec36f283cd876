import type { RuleSettings } from '../sync/model/settings.ts'
import { higher, type Level, lower, reaches } from './level.ts'
import { type Onlooker, type Shared, sightOf } from './sight.ts'

/**
 * Rules are a channel: what somebody may not see on one side, they may see on the other once a rule has carried it
 * there. Reckoned from what is granted on both; who sees the target at its service is known to nobody here.
 */

/** Somebody to whom a rule would show more of what is on one side than they see of it there. */
export interface Widening {
  person: string
  from: Level
  to: Level
}

type Way = 'a-to-b' | 'b-to-a'

/** How much of an item a rule carries that way: nothing, that there is one, what it is called, or more. */
export function carriedBy({ fields, title, made }: RuleSettings, way: Way): Level {
  const goes = (field: keyof RuleSettings['fields']): boolean =>
    fields[field] === 'both' || fields[field] === way
  const names = goes('title') && (way === 'b-to-a' || title.includes('{title}'))
  if (goes('notes') || goes('location') || goes('categories') || goes('link') || goes('people'))
    return 'everything'
  if (names) return 'title'
  const makes = way === 'a-to-b' ? made.a !== 'nothing' : made.b !== 'nothing'
  return makes || Object.values(fields).some(d => d === 'both' || d === way) ? 'busy' : 'nothing'
}

/**
 * Those to whom a rule shows more that way.
 * @param target as what its items are classed there counts: private ones are only busy to others
 * @param opened how far saved views open something of the target
 */
export function widenedBy(
  people: readonly Onlooker[],
  source: readonly Shared[],
  target: readonly Shared[],
  { carried, isClassed, opened }: { carried: Level; isClassed: boolean; opened: (who: Onlooker) => Level },
): Widening[] {
  if (source.length === 0 || target.length === 0) return []
  return people.flatMap(who => {
    const from = source.map(s => sightOf(who, s).open).reduce(lower)
    const there = target.map(t => (isClassed ? sightOf(who, t).classed : sightOf(who, t).open)).reduce(higher)
    // To change it there is to see it.
    const to = lower(higher(there, lower(opened(who), isClassed ? 'busy' : 'everything')), carried)
    return reaches(from, to) ? [] : [{ person: who.id, from, to }]
  })
}
