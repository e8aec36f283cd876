import { mondayOf } from '../time/when.ts'
import type { ClothItem } from './cloth-item.ts'
import { leftOverFrom } from './shelf.ts'

/**
 * Whether the day or week that a task was planned for has ended without it since it was counted last. Each such day
 * counts once, however long nobody looked.
 * @param since the day up to which it was counted; @param today both in the zone of whoever does it
 */
export function hasSlipped(
  item: ClothItem,
  { since, today, zone }: { since: string; today: string; zone: string },
): { week: string | null } | null {
  if (item.kind !== 'task' && item.kind !== 'tied') return null
  if (item.done || item.cancelled || item.putBy !== null) return null
  const day = item.atDeadline ? null : leftOverFrom(item, today, zone)
  if (day !== null) return day >= since ? { week: null } : null
  const { week, place } = item
  const isOver = week !== null && place.kind === 'none' && week < mondayOf(today)
  // It goes on to the present week.
  return isOver && week >= mondayOf(since) ? { week: mondayOf(today) } : null
}
