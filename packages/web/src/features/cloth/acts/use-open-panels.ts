import type { Clash, ClothItem, Edit, Free, HourRow } from '@loom/core/view'
import { nextTick, ref, type Ref } from 'vue'
import type { Scene } from '../data/use-scene.ts'
import type { Drawn } from '../drag/draw-span.ts'

/** What a dialog asks before something is done. */
export type Asked =
  | { kind: 'place' | 'block' | 'rename' | 'put-by' | 'give' | 'move' | 'see'; item: ClothItem }
  | { kind: 'which'; item: ClothItem; edit: Edit }
  | { kind: 'sure'; item: ClothItem; edit: Edit; words: string }
  | { kind: 'make'; drawn: Drawn; allDay: boolean }
  | { kind: 'keys' | 'away' }

export type OpenPanels = ReturnType<typeof useOpenPanels>

/** What is open over the Cloth: a menu, a dialog, the load of a day. Closing one returns the keyboard focus. */
export function useOpenPanels(scene: Scene, root: Ref<HTMLElement | null>) {
  const menu = ref<{ item: ClothItem; at: DOMRect; clash: Clash | null; room: Free[] } | null>(null)
  const asked = ref<Asked | null>(null)
  const load = ref<{ row: HourRow; at: DOMRect } | null>(null)

  /** Returns the keyboard focus to the same item, wherever it is now. */
  function focusOn(key: string): void {
    root.value?.querySelector<HTMLElement>(`[data-key="${CSS.escape(key)}"]`)?.focus()
  }
  function openMenu(item: ClothItem, at: DOMRect): void {
    const clash = scene.clashes.value.find(c => c.moves.key === item.key) ?? null
    menu.value = { item, at, clash, room: clash ? scene.room(item) : [] }
  }
  function closeMenu(): void {
    const key = menu.value?.item.key
    menu.value = null
    if (key) void nextTick(() => focusOn(key))
  }
  return {
    menu,
    asked,
    load,
    focusOn,
    openMenu,
    closeMenu,
    ask: (kind: 'keys' | 'away') => void (asked.value = { kind }),
    closeAsked: () => void (asked.value = null),
    openLoad: (row: HourRow, at: DOMRect) => void (load.value = { row, at }),
  }
}
