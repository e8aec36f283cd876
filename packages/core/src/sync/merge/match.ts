import type { Item } from '../../items/items.ts'
import { dayOf } from '../../time/when.ts'
import { lensesOf, splitMark } from '../lenses/index.ts'
import type { Mirror, Rule, Side } from '../model/types.ts'

export interface Match {
  a: Mirror
  b: Mirror
}

type Key = (side: Side, item: Item) => string | null

/** Same work, probably: one key only ever matches when it is unique on both sides. */
function uniquePairs(a: Mirror[], b: Mirror[], key: Key): Match[] {
  const group = (list: Mirror[], side: Side): Map<string, Mirror[]> => {
    const groups = new Map<string, Mirror[]>()
    for (const m of list) {
      const k = key(side, m.item)
      if (k === null) continue
      const there = groups.get(k)
      if (there) there.push(m)
      else groups.set(k, [m])
    }
    return groups
  }
  const others = group(b, 'b')
  return [...group(a, 'a')].flatMap(([k, [one, more]]) => {
    const [other, another] = others.get(k) ?? []
    return one && other && !more && !another ? [{ a: one, b: other }] : []
  })
}

const plain = (title: string): string => title.normalize('NFC').replace(/\s+/g, ' ').trim().toLowerCase()

/** What a person said is the same work, of these untied items. */
export function pairedByHand({ settings }: Rule, a: readonly Mirror[], b: readonly Mirror[]): Match[] {
  if (settings.paired.length === 0) return []
  const [ofA, ofB] = [a, b].map(all => new Map(all.map(m => [m.id, m])))
  return settings.paired.flatMap(pair => {
    const [x, y] = pair.split(' ').map((id, n) => (n === 0 ? ofA : ofB)?.get(id))
    return x && y ? [{ a: x, b: y }] : []
  })
}

/**
 * What may be the same work by its title alone, unique on both sides: an undated task and an event, or two on different
 * days. A title says too little to tie them by, so a person is asked.
 */
export function possibleMatches(rule: Rule, a: readonly Mirror[], b: readonly Mirror[]): Match[] {
  const declined = new Set(rule.settings.declined)
  const { mark } = rule.settings
  return uniquePairs([...a], [...b], (_, item) => {
    const title = plain(item.kind === 'event' ? splitMark(item.summary, mark).title : item.summary)
    return title === '' ? null : title
  }).filter(m => !declined.has(`${m.a.id} ${m.b.id}`))
}

/**
 * Proposes which untied items of the two sides are the same work already: the
 * same uid, else a link of one to the other, else the same title on the same day.
 */
export function proposeMatches(rule: Rule, a: Mirror[], b: Mirror[]): Match[] {
  const { settings, zone } = rule
  const declined = new Set(settings.declined)
  const title = lensesOf(rule).find(l => l.field === 'title')
  const found: Match[] = []
  const taken = new Set<string>()
  const by = (key: Key): void => {
    const free = (list: Mirror[]) => list.filter(m => !taken.has(m.id))
    for (const match of uniquePairs(free(a), free(b), key)) {
      if (declined.has(`${match.a.id} ${match.b.id}`)) continue
      found.push(match)
      taken.add(match.a.id).add(match.b.id)
    }
  }
  by((_, item) => item.uid || null)
  by((_, item) => item.url)
  by((side, item) => {
    const when = item.kind === 'event' ? item.time.anchor : item[settings.date]
    if (!when) return null
    const shown = item.kind === 'event' ? splitMark(item.summary, settings.mark).title : item.summary
    // A title with the rule's words round it is that of the item without them.
    const bare = title?.put('b', shown, null, undefined)
    const own = side === 'b' && bare?.kind === 'value' && typeof bare.value === 'string' ? bare.value : shown
    return `${dayOf(when, zone)} ${plain(own)}`
  })
  return found
}
