import type { Item } from '../../items/items.ts'
import { type Lens, lensesOf, sameValue } from '../lenses/index.ts'
import type { Pair } from './merge.ts'
import type { Field } from '../model/settings.ts'
import type { Base, BothSides, Rule, Side, Tie } from '../model/types.ts'

/**
 * A tie under an edited rule: the last agreed values, and what is held apart, expressed as the rule reads them now.
 * A side that was not edited since is at its base in the new words too. A side that was edited keeps its edit.
 */
export function rebased(was: Rule, rule: Rule, { tie, a, b }: Pair): Tie {
  const base: Base = tie.base.subtasks ? { subtasks: tie.base.subtasks } : {}
  const apart: Tie['memory']['apart'] = { ...tie.memory.apart }
  const before = new Map(lensesOf(was).map(l => [l.field, l]))
  for (const lens of lensesOf(rule)) {
    const { field } = lens
    const old = before.get(field)
    const agreed = tie.base[field]
    // Carried anew: without a base, the first winner counts.
    if (!old || !agreed) continue
    const anew = (both: BothSides): BothSides => {
      const valueAt = (side: Side, { item }: Pair['a']): unknown => {
        const same = old.same(side, old.read(side, item, both[side]), both[side])
        return same ? lens.read(side, item, both[side]) : both[side]
      }
      return { a: valueAt('a', a), b: valueAt('b', b) }
    }
    base[field] = anew(agreed)
    const held = apart[field]
    if (held) apart[field] = anew(held)
  }
  return { ...tie, base, ...(tie.memory.apart && { memory: { ...tie.memory, apart } }) }
}

/**
 * The fields that an edited rule treats differently: another direction, or other words for the values of the two
 * sides. Other fields are not written because of the edit, even where a service changed what was written earlier.
 */
export function asksOtherwise(was: Rule, rule: Rule, { tie, a, b }: Pair): Set<Field> {
  const before = new Map(lensesOf(was).map(l => [l.field, l]))
  const words = (lens: Lens): unknown[] => {
    const base = tie.base[lens.field]
    const [ofA, ofB] = [lens.read('a', a.item, base?.a), lens.read('b', b.item, base?.b)]
    return [lens.put('a', ofA, ofB, base), lens.put('b', ofB, ofA, base)]
  }
  const fields = lensesOf(rule).filter(lens => {
    const old = before.get(lens.field)
    const turned = was.settings.fields[lens.field] !== rule.settings.fields[lens.field]
    return !old || turned || !sameValue(words(old), words(lens))
  })
  return new Set(fields.map(l => l.field))
}

/**
 * The tie of an item that moved to another list. The agreed values stay agreed, expressed in the words of the new
 * list, so that other words for the same value are no edit.
 */
export function followed(rule: Rule, tie: Tie, side: Side, before: Item, after: Item): Tie {
  const base: Base = { ...tie.base }
  for (const lens of lensesOf(rule)) {
    const both = base[lens.field]
    if (!both || !lens.same(side, lens.read(side, before, both[side]), both[side])) continue
    base[lens.field] = { ...both, [side]: lens.read(side, after, undefined) }
  }
  return { ...tie, base }
}
