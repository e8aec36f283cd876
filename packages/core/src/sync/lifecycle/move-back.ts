import type { Item } from '../../items/items.ts'
import { sameValue } from '../lenses/lens.ts'

/** Without what means nothing at another service: its words for a status, its accounts, its ids. */
export function awayFromHome<I extends Item>(item: I): I {
  return item.kind === 'task' ? { ...item, serviceStatus: '', assignees: [], parent: null } : item
}

/** In another list of the same account, which may have other words for a status. */
export function toAnotherList<I extends Item>(item: I): I {
  return item.kind === 'task' ? { ...item, serviceStatus: '', parent: null } : item
}

/**
 * An item that is moved back. What had no room at the other place is as before; what was edited there stays
 * edited. `before`: the item before the move; `arrived`: as the other place first had it; `now`: as the other
 * place has it now.
 */
export function restoredAtOrigin<I extends Item>(before: I, arrived: Item, now: Item): I {
  const then = awayFromHome(arrived) as unknown as Record<string, unknown>
  const since = Object.entries(awayFromHome(now)).filter(([field, value]) => !sameValue(value, then[field]))
  return { ...before, ...Object.fromEntries(since) }
}
