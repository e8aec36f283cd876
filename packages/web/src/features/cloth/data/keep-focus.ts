import { useEventListener, useMutationObserver } from '@vueuse/core'
import type { Ref } from 'vue'

/**
 * Keeps the focus on its item while the Cloth is redrawn. A block that changes its row becomes another DOM node,
 * and a key pressed at that moment would be lost.
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
