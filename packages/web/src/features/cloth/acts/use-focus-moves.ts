import type { Ref } from 'vue'
import { type Direction, nearest } from '../data/nearest.ts'

const ARROWS: Partial<Record<string, Direction>> = {
  ArrowLeft: 'left',
  ArrowRight: 'right',
  ArrowUp: 'up',
  ArrowDown: 'down',
}

/** Moves the keyboard focus from item to item as they lie: with Ctrl and an arrow, to the first and last, to the shelf and back. */
export function useFocusMoves(root: Ref<HTMLElement | null>) {
  /** Where the focus was before it went to the shelf. */
  let before: string | null = null

  const itemsIn = (area: Element | null | undefined): HTMLElement[] =>
    [...(area?.querySelectorAll<HTMLElement>('[data-key][tabindex]') ?? [])].filter(
      e => e.tabIndex >= 0 && e.getClientRects().length > 0,
    )
  const shelfOf = (): Element | null => root.value?.querySelector('[data-area="shelf"]') ?? null
  const clothOf = (): Element | null => root.value?.querySelector('[data-area="cloth"]') ?? null
  const areaOf = (element: Element | null): Element | null => element?.closest('[data-area]') ?? clothOf()

  function focus(element: HTMLElement | undefined): void {
    element?.focus()
    element?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }
  const focused = (): HTMLElement | null =>
    (document.activeElement as HTMLElement | null)?.closest<HTMLElement>('[data-key]') ?? null

  function go(direction: Direction): void {
    const from = focused()
    const items = itemsIn(areaOf(from))
    if (!from) {
      focus(items[0])
      return
    }
    const others = items.filter(e => e !== from)
    const next = nearest(
      from.getBoundingClientRect(),
      others.map(e => e.getBoundingClientRect()),
      direction,
    )
    if (next !== null) focus(others[next])
  }

  /** Returns whether the key was one of these. */
  function onArrow(event: KeyboardEvent): boolean {
    if (!(event.ctrlKey || event.metaKey) || event.altKey || event.shiftKey) return false
    const direction = ARROWS[event.key]
    if (direction) go(direction)
    else if (event.key === 'Home') focus(itemsIn(areaOf(focused()))[0])
    else if (event.key === 'End') focus(itemsIn(areaOf(focused())).at(-1))
    else return false
    return true
  }

  function toShelfAndBack(): void {
    const from = focused()
    const isOnShelf = from !== null && from.closest('[data-area="shelf"]') !== null
    if (!isOnShelf) {
      before = from?.dataset.key ?? null
      focus(itemsIn(shelfOf())[0])
      return
    }
    const known = before === null ? null : itemsIn(clothOf()).find(e => e.dataset.key === before)
    focus(known ?? itemsIn(clothOf())[0])
  }
  return { onArrow, toShelfAndBack }
}
