import type { ClothItem } from '@loom/core/view'

/**
 * The optimistic overlay: edits that the server does not know of yet. An answer to an earlier request is older
 * than the screen, so the overlay replaces the edited items in it. Nothing jumps back, and the next key continues
 * from the last edit.
 */
export class OptimisticOverlay {
  private asked = 0
  /** By the item's key; `until`: the number of the last question whose answer is older than the edit. */
  private readonly shown = new Map<string, { item: ClothItem; until: number }>()

  /** A question goes out; its answer goes through `over` with this number. */
  ask(): number {
    return ++this.asked
  }

  show(item: ClothItem): void {
    this.shown.set(item.key, { item, until: Infinity })
  }

  /** The server knows of it now. */
  settle(key: string): void {
    const edited = this.shown.get(key)
    if (edited) edited.until = this.asked
  }

  /** It was refused. */
  forget(key: string): void {
    this.shown.delete(key)
  }

  over<T extends { items: readonly ClothItem[] }>(answer: T, asked: number): T {
    for (const [key, { until }] of this.shown) if (until < asked - MOST_AT_ONCE) this.shown.delete(key)
    const edited = (key: string): ClothItem | null => {
      const found = this.shown.get(key)
      return found && asked <= found.until ? found.item : null
    }
    // Where nothing is ahead, it is the very same answer: nothing is drawn again for it.
    if (!answer.items.some(i => edited(i.key))) return answer
    return { ...answer, items: answer.items.map(i => edited(i.key) ?? i) }
  }
}

/** Questions that are out at the same time are fewer than this. */
const MOST_AT_ONCE = 20
