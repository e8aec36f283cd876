import { autoUpdate, flip, offset, shift, useFloating } from '@floating-ui/vue'
import { computed, type CSSProperties, type MaybeRefOrGetter, type Ref, toValue } from 'vue'

const EDGE = 8

/**
 * The place of a floating element: below its anchor, above it if there is more room there, and always inside the
 * window. The left and upper edges have priority, because without them one cannot tell what it is.
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
