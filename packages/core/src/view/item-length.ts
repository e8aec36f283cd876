import { MINUTE } from '../time/when.ts'
import type { ClothItem } from './cloth-item.ts'

/** The item's length in minutes where it has a place with hours; else what it is thought to take. */
export function lengthOf(item: ClothItem, defaultMinutes: number): number {
  if (item.place.kind === 'timed') return (item.place.endMs - item.place.startMs) / MINUTE
  return item.estimate ?? defaultMinutes
}
