import { lensesOf } from '../lenses/index.ts'
import type { Field } from '../model/settings.ts'
import type { Rule, Side } from '../model/types.ts'
import type { Pair } from './merge.ts'
import { changeSpan } from './newest.ts'
import { baseWithOwed } from './owed.ts'

/**
 * The fields that somebody edited on a side since the two last agreed, of those that the rule carries over from there; also
 * those that wait for an answer.
 */
export function editedFields(rule: Rule, { tie, a, b }: Pair, side: Side): Field[] {
  const against = side === 'a' ? 'b-to-a' : 'a-to-b'
  return lensesOf(rule)
    .filter(lens => {
      const { field } = lens
      const way = rule.settings.fields[field]
      const agreed = tie.base[field]
      if (!agreed || way === 'once' || way === against) return false
      const now = { a: lens.read('a', a.item, agreed.a), b: lens.read('b', b.item, agreed.b) }
      const apart = tie.memory.apart?.[field]
      if (apart && lens.same(side, apart[side], now[side])) return false
      const base = baseWithOwed(lens, agreed, tie.memory.owed?.[field], now) ?? agreed
      if (lens.same(side, now[side], base[side])) return false
      return !changeSpan(lens, side, side === 'a' ? a : b, base[side]).restored
    })
    .map(lens => lens.field)
}
