import type { ShelfGroup, ShelfItem } from '@loom/core/view'
import { reactive, ref } from 'vue'

/**
 * How many lines of a column of the shelf are drawn. Thousands of tasks are held, and looked through a column at a
 * time: what is far down is drawn when somebody asks for it.
 */

const AT_FIRST = 40
const MORE = 100
/** So few are drawn at once with the others, rather than left for a click. */
const SOME = 10

export interface ShelfLines {
  of: (group: ShelfGroup) => ShelfItem[]
  more: (group: ShelfGroup) => void
  /** Draws its column as far down as this item. */
  reveal: (key: string) => void
}

export function useShelfLines(): ShelfLines {
  const asked = reactive(new Map<string, number>())
  const revealed = ref<string | null>(null)
  const drawn = (group: ShelfGroup): number => {
    const at = revealed.value === null ? -1 : group.items.findIndex(i => i.item.key === revealed.value)
    const most = Math.max(asked.get(group.key) ?? AT_FIRST, at + 1)
    return group.items.length <= most + SOME ? group.items.length : most
  }
  return {
    of: group => group.items.slice(0, drawn(group)),
    more: group => void asked.set(group.key, drawn(group) + MORE),
    reveal: key => (revealed.value = key),
  }
}
