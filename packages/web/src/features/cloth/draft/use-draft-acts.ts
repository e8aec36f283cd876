import { type ClothItem, dayAt } from '@loom/core/view'
import { PLAN_SPANS } from './spans.ts'
import { useEventListener } from '@vueuse/core'
import { nextTick, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { isForPage } from '../../../stores/own-keys.ts'
import { useMine } from '../../../stores/mine.ts'
import { useSession } from '../../../stores/session.ts'
import type { Acts } from '../acts/use-acts.ts'
import { keyAction, keyOf } from '../data/keys.ts'
import type { Scene } from '../data/use-scene.ts'
import type { Drop, Held } from '../drag/drag.ts'
import { pieceKey } from './drafted-items.ts'
import type { AskedWindow, DraftState } from './use-draft.ts'

/** The acts of the Cloth on pieces of a draft: they are moved, pinned and left out, and nothing is written. */
export function useDraftActs(draft: DraftState, scene: Scene, acts: Acts) {
  const mine = useMine()
  const session = useSession()

  function leaveOut(item: ClothItem): void {
    const piece = draft.pieceOf(item.key)
    if (!piece) return
    const date = dayAt(piece.fromMs, scene.zone.value)
    draft.leave({
      id: piece.id,
      regular: piece.regular === null ? null : { id: piece.regular, date },
      title: item.title,
    })
  }
  function togglePin(item: ClothItem): void {
    const piece = draft.pieceOf(item.key)
    if (!piece) return
    if (piece.isPinned) draft.unpin(piece)
    else draft.pin(piece, { fromMs: piece.fromMs, toMs: piece.toMs })
  }
  function select(item: ClothItem): void {
    const piece = draft.pieceOf(item.key)
    if (piece) draft.selected.value = pieceKey(piece)
  }

  function askWindow(asked: AskedWindow): void {
    if (!mayDraft()) return
    draft.isOpen.value = true
    draft.window.value = asked
  }

  function drop(item: ClothItem, what: Drop): void {
    const piece = draft.pieceOf(item.key)
    if (!piece) acts.drop(item, what)
    else if (what.kind === 'edit' && draft.edit(piece, what.edit, scene.zone.value) === null) leaveOut(item)
  }
  function dropWords(held: Held): { writes: string; keys: string } {
    if (!draft.pieceOf(held.item.key)) return acts.dropWords(held)
    const { target } = held
    if (target?.kind === 'hour') return { writes: 'pinned there; nothing is written yet', keys: '' }
    return { writes: target?.kind === 'shelf' ? 'left out of the draft' : '', keys: '' }
  }

  function onItemKey(event: KeyboardEvent): void {
    const element = (event.target as HTMLElement).closest<HTMLElement>('[data-key]')
    const item = element && event.target === element ? scene.drawnOf(element.dataset.key ?? '') : undefined
    const piece = item && draft.pieceOf(item.key)
    if (!item || !piece) return acts.onItemKey(event)
    const { keys } = mine.settings.value
    const did = (act: () => void): void => {
      event.preventDefault()
      event.stopPropagation()
      act()
    }
    if (event.key === keyOf('place', keys)) return did(() => togglePin(item))
    if (event.key === keyOf('leave-out', keys) || event.key === 'Delete' || event.key === 'Backspace')
      return did(() => leaveOut(item))
    const action = keyAction(item, event, {
      zone: scene.zone.value,
      defaultMinutes: scene.data.value?.defaultMinutes ?? 30,
      now: scene.now.value,
      keys,
      task: null,
      onlyLooks: false,
      clocked: null,
      unsupported: [],
    })
    if (action?.kind === 'menu') return did(() => select(item))
    const edit = action?.kind === 'edit' ? action.edit : null
    // Wherever it goes, the keyboard goes with it.
    if (edit) did(() => void follow(draft.edit(piece, edit, scene.zone.value)))
    return undefined
  }

  async function follow(moved: string | null): Promise<void> {
    await nextTick()
    if (moved !== null) acts.focusOn(moved)
  }
  const mayDraft = (): boolean => !session.onlyLooks && !session.seesAs
  function open(): void {
    if (mayDraft()) draft.isOpen.value = true
  }
  /** From elsewhere one comes here to draft, perhaps only today. */
  const route = useRoute()
  const router = useRouter()
  watch(
    () => route.query.draft,
    asked => {
      if (typeof asked !== 'string') return
      open()
      const only = PLAN_SPANS.find(span => span === asked)
      if (only) draft.only.value = only
      const { draft: _, window: id, day, ...query } = route.query
      if (typeof id === 'string' && typeof day === 'string') askWindow({ id, date: day })
      void router.replace({ query })
    },
    { immediate: true },
  )
  useEventListener('keydown', (event: KeyboardEvent) => {
    if (!isForPage(event) || event.key !== keyOf('draft', mine.settings.value.keys)) return
    event.preventDefault()
    open()
  })

  return {
    itemOf: (key: string) => scene.cloth.itemOf(key) ?? scene.drawnOf(key),
    open,
    openWindow: (id: string, date: string) => askWindow({ id, date }),
    newWindow: (given: Omit<Extract<AskedWindow, { id: null }>, 'id'>) => {
      acts.closeAsked()
      askWindow({ id: null, ...given })
    },
    drop,
    dropWords,
    onItemKey,
    openMenu(item: ClothItem, at: DOMRect): void {
      if (draft.pieceOf(item.key)) select(item)
      else acts.openMenu(item, at)
    },
    toggle(item: ClothItem): void {
      if (!draft.pieceOf(item.key)) acts.toggle(item)
    },
    lighten(item: ClothItem): void {
      if (draft.pieceOf(item.key)) leaveOut(item)
      else acts.lighten(item)
    },
  }
}
