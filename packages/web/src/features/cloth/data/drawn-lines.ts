import type { ShelfGroup } from '@loom/core/view'
import { reactive, ref } from 'vue'

/** How many lines of a group are drawn. There may be thousands of tasks; those further down are drawn on request. */

const AT_FIRST = 40
const MORE = 100
/** So few are drawn at once with the others, rather than left for a click. */
const SOME = 10

interface Group<T> {
  key: string
  items: readonly T[]
}
export interface DrawnLines<T> {
  of: (group: Group<T>) => T[]
  more: (group: Group<T>) => void
  /** Draws its group as far down as this item. */
  reveal: (key: string) => void
}
export type ShelfLines = DrawnLines<ShelfGroup['items'][number]>

export function useDrawnLines<T>(keyOf: (line: T) => string): DrawnLines<T> {
  const asked = reactive(new Map<string, number>())
  const revealed = ref<string | null>(null)
  const drawn = (group: Group<T>): number => {
    const at = revealed.value === null ? -1 : group.items.findIndex(i => keyOf(i) === revealed.value)
    const most = Math.max(asked.get(group.key) ?? AT_FIRST, at + 1)
    return group.items.length <= most + SOME ? group.items.length : most
  }
  return {
    of: group => group.items.slice(0, drawn(group)),
    more: group => void asked.set(group.key, drawn(group) + MORE),
    reveal: key => (revealed.value = key),
  }
}
