import { autoUpdate, flip, offset, shift, useFloating } from '@floating-ui/vue'
import { computed, type CSSProperties, type MaybeRefOrGetter, type Ref, toValue } from 'vue'

const EDGE = 8

/**
 * Where something that floats goes: below what it is about, above it where there is more room, and within the window
 * whatever that is. The left and upper edges come first: whoever cannot see them cannot tell what it is.
 */
export function useFloatingBy(
  about: MaybeRefOrGetter<Element | DOMRect | null | undefined>,
  panel: Readonly<Ref<HTMLElement | null>>,
): Readonly<Ref<CSSProperties>> {
  const reference = computed(() => {
    const at = toValue(about)
    return at && 'getBoundingClientRect' in at ? at : at ? { getBoundingClientRect: () => at } : null
  })
  const { floatingStyles } = useFloating(reference, panel, {
    strategy: 'fixed',
    placement: 'bottom-start',
    transform: false,
    middleware: [offset(4), flip({ padding: EDGE }), shift({ padding: EDGE, crossAxis: true })],
    whileElementsMounted: autoUpdate,
  })
  return floatingStyles
}
