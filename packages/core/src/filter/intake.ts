import { z } from 'zod'
import type { Item } from '../items/items.ts'
import { admits, Filter, type FilterTerms, keeps } from './filter.ts'

/** The sentence that says what comes in from a connection. */
export const Scope = z.object({
  /** `picked`: only items that were chosen one by one. */
  by: z.enum(['sentence', 'picked']),
  /** Collections that appear later take part too. */
  future: z.boolean(),
  filter: Filter,
  notes: z.boolean(),
})
export type Scope = z.infer<typeof Scope>

export const everything: Scope = { by: 'sentence', future: false, filter: [], notes: true }

/** The decision about an item of a service: stored, ignored, or removed again. */
export function entry(
  scope: Scope,
  item: Item,
  terms: FilterTerms & { picked: boolean; isIn: boolean },
): 'in' | 'out' | 'leaves' {
  const wanted =
    scope.by === 'picked'
      ? terms.picked
      : terms.picked || (terms.isIn ? keeps(scope.filter, item, terms) : admits(scope.filter, item, terms))
  return wanted ? 'in' : terms.isIn ? 'leaves' : 'out'
}

/** The item as it comes in: without its notes where they are to stay at the service. */
export const trimmed = <I extends Item>(scope: Scope, item: I): I =>
  scope.notes || item.description === '' ? item : { ...item, description: '' }
