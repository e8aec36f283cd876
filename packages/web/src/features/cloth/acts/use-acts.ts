import type { ClothItem } from '@loom/core/view'
import { computed, type Ref } from 'vue'
import type { AskedAct, Outcome } from '../data/commands.ts'
import { say } from '../../../stores/messages.ts'
import { useClock } from '../../../stores/time.ts'
import { useSession } from '../../../stores/session.ts'
import { useChosen } from '../data/use-chosen.ts'
import { useNow } from '../data/use-now.ts'
import { useOpened } from '../data/use-opened.ts'
import type { Scene } from '../data/use-scene.ts'
import { useSight } from '../data/use-sight.ts'
import type { View } from '../data/use-view.ts'
import { useDrop } from '../drag/use-drop.ts'
import { useChanges } from './use-changes.ts'
import { useFocusMoves } from './use-focus-moves.ts'
import { useKeyPresses } from './use-key-presses.ts'
import { useMaking } from './use-making.ts'
import { useOpenPanels } from './use-open-panels.ts'

export type Acts = ReturnType<typeof useActs>

/** Everything that people do on the Cloth: by mouse, by key and from the menu it comes to the same acts. */
export function useActs({ scene, view, root }: { scene: Scene; view: View; root: Ref<HTMLElement | null> }) {
  const { cloth } = scene
  const session = useSession()
  const clock = useClock(() => scene.data.value !== undefined)
  const panels = useOpenPanels(scene, root)
  const { menu, asked, focusOn } = panels
  const { opened, openKey, closeDrawer } = useOpened(scene, focusOn)
  const selection = useChosen(cloth)
  const { chosen, choose, together, chosenItems } = selection
  const { tellIfHidden, tellIfMadeHidden, givenByView } = useSight(scene, view, focusOn)
  const changes = useChanges({ scene, panels, selection, opened, tellIfHidden })
  const { change } = changes
  const making = useMaking({ scene, root, asked, change, tellIfMadeHidden })

  function askFor(act: AskedAct, item: ClothItem): void {
    menu.value = null
    if (act === 'open' && session.seesAs)
      say({
        text: `What more ${session.seesAs.name} sees of it is not shown here. Go back to your own to open it.`,
      })
    else if (act === 'open') opened.value = item
    else if (act === 'duplicate') void cloth.duplicate(item)
    else asked.value = { kind: act, item }
  }
  /** What a command comes to, whether it was given by key, from the menu or from the bar. */
  function perform(item: ClothItem, outcome: Outcome): void {
    menu.value = null
    if (outcome.kind === 'ask') askFor(outcome.act, item)
    else if (outcome.kind === 'see') asked.value = { kind: 'see', item }
    else if (outcome.kind === 'clock') void (outcome.runs ? clock.start(item) : clock.stop())
    else if (outcome.kind === 'finish') void changes.finishTask(item)
    else if (outcome.edit.do === 'delete') changes.confirmDelete(item)
    else void change(item, outcome.edit)
  }

  const { onArrow, toShelfAndBack } = useFocusMoves(root)
  const keys = useKeyPresses({
    scene,
    clocked: () => clock.clock.value?.key ?? null,
    screen: {
      make: making.makeByHand,
      'put-by-place': () => panels.ask('away'),
      keys: () => panels.ask('keys'),
      shelf: toShelfAndBack,
    },
    onArrow,
    escape: () => {
      if (!asked.value && !menu.value) chosen.value = []
    },
    choose,
    openMenu: panels.openMenu,
    perform,
  })

  return {
    ...panels,
    ...changes,
    ...making,
    ...keys,
    ...useDrop({ scene, chosen, together, change, set: view.set }),
    ...useNow(scene, change),
    opened,
    openKey,
    closeDrawer,
    chosen,
    choose,
    chosenItems,
    together,
    perform,
    clocked: computed(() => clock.clock.value?.key ?? null),
    askFor,
    givenByView,
  }
}
