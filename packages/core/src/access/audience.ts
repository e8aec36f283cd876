import type { RuleSettings } from '../sync/model/settings.ts'
import { higher, type Level, lower, reaches } from './level.ts'

/**
 * Rules are a channel: what somebody may not see on one side, they may see on the other once a rule has carried it
 * there, and from there by further rules. Reckoned from what is granted; who sees a list at its service is known to
 * nobody here.
 */

export type Way = 'a-to-b' | 'b-to-a'

/** One way of a rule. */
export interface Channel {
  rule: string
  way: Way
  /** Lists and calendars it carries from, and to; the first of these is the one the rule is made with. */
  source: readonly string[]
  target: readonly string[]
  carried: Level
  /** What it makes there is marked private, and so only busy to others. */
  isClassed: boolean
}

/** Somebody who looks; or whoever will one day be in a group, or has an address. */
export interface Looker {
  id: string
  /** What they see of a list: of what is open in it, and of what its service calls private. */
  at: (list: string) => { open: Level; classed: Level }
}

/** Somebody to whom a rule shows more of what is in a list than they see of it there. */
export interface Widening {
  rule: string
  way: Way
  list: string
  /** Where the rule carries it. */
  target: string
  person: string
  from: Level
  to: Level
}

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

/** Where something arrives, and what is left of it there. */
interface Arrival {
  list: string
  carried: Level
  isClassed: boolean
}

/**
 * Everywhere that what goes into a channel arrives, by that rule and others after it. What a rule has brought to a list
 * it takes from there to where it came from, and to no other list of that side: none is passed twice in a row, and the
 * first only once.
 */
export function arrivalsOf(first: Channel, channels: readonly Channel[]): Arrival[] {
  const best = new Map<string, Arrival>()
  const ways = [{ channel: first, carried: first.carried, isClassed: first.isClassed }]
  for (let next = ways.pop(); next; next = ways.pop()) {
    const { channel, carried, isClassed } = next
    for (const list of channel.target) {
      const key = JSON.stringify([list, isClassed, channel.rule])
      if (reaches(best.get(key)?.carried ?? 'nothing', carried)) continue
      best.set(key, { list, carried, isClassed })
      for (const on of channels)
        if (on.source.includes(list) && on.rule !== channel.rule && on.rule !== first.rule)
          ways.push({
            channel: on,
            carried: lower(carried, on.carried),
            isClassed: isClassed || on.isClassed,
          })
    }
  }
  return [...best.values()]
}

/** All to whom rules show more than they see without them. */
export function widenedBy(channels: readonly Channel[], lookers: readonly Looker[]): Widening[] {
  return channels.flatMap(channel => {
    const arrivals = arrivalsOf(channel, channels)
    const [target = ''] = channel.target
    return lookers.flatMap(({ id: person, at }) => {
      // To change it there is to see it.
      const there = arrivals.map(a => lower(a.isClassed ? at(a.list).classed : at(a.list).open, a.carried))
      const to = there.reduce(higher, 'nothing')
      return channel.source.flatMap((list): Widening[] => {
        const from = at(list).open
        return reaches(from, to)
          ? []
          : [{ rule: channel.rule, way: channel.way, list, target, person, from, to }]
      })
    })
  })
}

/** What the owner of a list agreed that is shown of it by what carries it there; null where they never said. */
export type AgreedTo = (list: string, target: string) => Level | null

/**
 * What has to be asked for: more than was seen before, and than was agreed to.
 * @param anew of this rule everything, where its owner has ever said how much
 */
export function unagreed(
  before: readonly Widening[],
  after: readonly Widening[],
  agreed: AgreedTo,
  anew: string | null = null,
): Widening[] {
  const keyOf = (w: Widening): string => JSON.stringify([w.list, w.target, w.person])
  const were = new Map<string, Level>()
  for (const w of before) were.set(keyOf(w), higher(were.get(keyOf(w)) ?? 'nothing', w.to))
  return after.filter(w => {
    const limit = agreed(w.list, w.target)
    const isAnew = w.rule === anew && limit !== null
    const was = isAnew ? 'nothing' : (were.get(keyOf(w)) ?? 'nothing')
    return !reaches(higher(was, limit ?? 'nothing'), w.to)
  })
}
