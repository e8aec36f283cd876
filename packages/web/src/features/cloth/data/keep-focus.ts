import { useEventListener, useMutationObserver } from '@vueuse/core'
import type { Ref } from 'vue'

/**
 * The focus stays with its item while the Cloth is drawn anew. A block that goes to another row is another node there,
 * and a key pressed just then would be lost: whoever comes by keyboard goes on from the same item.
 */
export function useKeptFocus(root: Ref<HTMLElement | null>): void {
  /** The focused item; null once the focus was moved elsewhere. */
  let key: string | null = null

  const onFocus = (event: FocusEvent): void => {
    const at = (event.target as HTMLElement).closest<HTMLElement>('[data-key]')
    key = at && at === event.target ? (at.dataset.key ?? null) : null
  }
  const onPointer = (): void => {
    key = null
  }
  useEventListener(document, 'focusin', onFocus)
  useEventListener(document, 'pointerdown', onPointer, true)
  useMutationObserver(
    root,
    () => {
      if (key === null || document.activeElement !== document.body) return
      root.value
        ?.querySelector<HTMLElement>(`[data-key="${CSS.escape(key)}"]`)
        ?.focus({ preventScroll: true })
    },
    { childList: true, subtree: true },
  )
}
