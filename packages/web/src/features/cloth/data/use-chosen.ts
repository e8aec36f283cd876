import type { ClothItem } from '@loom/core/view'
import { ref } from 'vue'
import type { Cloth } from './use-cloth.ts'

/** Items that are chosen together, to have the same done to all of them. */
export function useChosen(cloth: Cloth) {
  /** Their keys. */
  const chosen = ref<string[]>([])

  function choose(item: ClothItem): void {
    chosen.value = chosen.value.includes(item.key)
      ? chosen.value.filter(k => k !== item.key)
      : [...chosen.value, item.key]
  }
  /** The item, or all that are chosen if it is one of them. */
  function together(item: ClothItem): ClothItem[] {
    if (chosen.value.length < 2 || !chosen.value.includes(item.key)) return [item]
    const others = chosen.value.flatMap(k => cloth.itemOf(k) ?? []).filter(i => i.key !== item.key)
    return [item, ...others]
  }
  const chosenItems = (): ClothItem[] => chosen.value.flatMap(k => cloth.itemOf(k) ?? [])
  return { chosen, choose, together, chosenItems }
}
