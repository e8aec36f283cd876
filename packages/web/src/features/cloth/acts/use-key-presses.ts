import type { ClothItem } from '@loom/core/view'
import { useEventListener } from '@vueuse/core'
import { useSession } from '../../../stores/session.ts'
import { useMine } from '../../../stores/mine.ts'
import { isAtPage, isForPage } from '../../../stores/own-keys.ts'
import type { Outcome } from '../data/commands.ts'
import { keyAction, keyOf, type ScreenAct } from '../data/keys.ts'
import type { Scene } from '../data/use-scene.ts'

/** Keys on an item, and keys of the whole screen, as this person has them. */
export function useKeyPresses({
  scene,
  clocked,
  screen,
  escape,
  onArrow,
  choose,
  openMenu,
  perform,
}: {
  scene: Scene
  /** What the clock of whoever asks runs for. */
  clocked: () => string | null
  screen: Partial<Record<ScreenAct, () => void>>
  escape: () => void
  /** Moves the focus; whether the key was for that. */
  onArrow: (event: KeyboardEvent) => boolean
  choose: (item: ClothItem) => void
  openMenu: (item: ClothItem, at: DOMRect) => void
  perform: (item: ClothItem, outcome: Outcome) => void
}) {
  const mine = useMine()
  const session = useSession()
  const { cloth } = scene

  function onItemKey(event: KeyboardEvent): void {
    const element = (event.target as HTMLElement).closest<HTMLElement>('[data-key]')
    const item = element && event.target === element && cloth.itemOf(element.dataset.key ?? '')
    const d = scene.data.value
    if (!element || !item || !d) return
    const action = keyAction(item, event, {
      zone: scene.zone.value,
      defaultMinutes: d.defaultMinutes,
      now: scene.now.value,
      keys: mine.settings.value.keys,
      task: cloth.itemOf(item.of ?? '') ?? null,
      onlyLooks: session.onlyLooks,
      clocked: clocked(),
      unsupported: scene.sources.value.find(s => s.id === item.sources[0])?.unsupported ?? [],
    })
    if (!action) return
    event.preventDefault()
    event.stopPropagation()
    if (action.kind === 'choose') choose(item)
    else if (action.kind === 'menu') openMenu(item, element.getBoundingClientRect())
    else perform(item, action)
  }

  useEventListener('keydown', (event: KeyboardEvent) => {
    if (event.key === 'Escape') escape()
    if (isAtPage(event) && onArrow(event)) {
      event.preventDefault()
      return
    }
    if (!isForPage(event)) return
    for (const [act, run] of Object.entries(screen) as [ScreenAct, () => void][])
      if (keyOf(act, mine.settings.value.keys) === event.key) {
        event.preventDefault()
        run()
      }
  })
  return { onItemKey }
}
