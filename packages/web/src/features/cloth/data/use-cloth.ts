import type { Ref } from 'vue'
import type { Looked } from './days-cache.ts'
import { useDays } from './use-days.ts'
import { useEdits } from './use-edits.ts'

export type { Which } from './use-edits.ts'
export type ClothData = Looked
export type Cloth = ReturnType<typeof useCloth>

/** The items of some days, and the one way to change them. */
export function useCloth(range: Ref<{ from: string; days: number }>) {
  const days = useDays(range)
  const { data, trouble, todays, now, itemOf } = days
  return { data, trouble, todays, now, itemOf, ...useEdits(days) }
}
