import type { Item } from '../../items/items.ts'
import { sameValue } from '../lenses/lens.ts'

/** Without what means nothing at another service: its words for a status, its accounts, its ids. */
export function awayFromHome<I extends Item>(item: I): I {
  return item.kind === 'task' ? { ...item, serviceStatus: '', assignees: [], parent: null } : item
}

/**
 * An item that moves back to where it came from: what had no room meanwhile is as it was, what was edited since
 * stays edited. `before`: as it was there; `arrived`: as the place it was moved to had taken it; `now`: as that has
 * it.
 */
export function restoredAtOrigin<I extends Item>(before: I, arrived: Item, now: Item): I {
  const then = awayFromHome(arrived) as unknown as Record<string, unknown>
  const since = Object.entries(awayFromHome(now)).filter(([field, value]) => !sameValue(value, then[field]))
  return { ...before, ...Object.fromEntries(since) }
}
