import { type ClothItem, hiddenBecause, type Making, type Said, showing } from '@loom/core/view'
import { nextTick, onBeforeUnmount, watch } from 'vue'
import { captureGiven } from '../../../stores/capture-context.ts'
import { say } from '../../../stores/messages.ts'
import type { Scene } from './use-scene.ts'
import type { View } from './use-view.ts'

/** Keeps an item that was made or changed in sight, or says why it is hidden. */
export function useSight(scene: Scene, view: View, focusOn: (key: string) => void) {
  const { cloth, zone } = scene

  /** Says why an item just made or changed is hidden, with one step to show it. */
  function tellIfHidden(key: string): void {
    const item = cloth.itemOf(key)
    if (!item || item.putBy !== null || item.leftOut) return
    const because = hiddenBecause(scene.body.value, item, { now: scene.now.value, zone: zone.value })
    if (because === null) tellIfFarDown(item)
    if (because === null || because === 'done') return
    const why = because === 'source' ? 'its source is not shown' : 'this view’s filter leaves it out'
    say({
      text: `${item.title} is not in sight: ${why}.`,
      act: { name: 'Show it', run: () => view.set(showing(scene.body.value, item, because)) },
    })
  }

  function tellIfFarDown({ key, title }: ClothItem): void {
    const column = scene.shelf.value.find(g => g.items.some(i => i.item.key === key))
    if (!column) return
    const { hiddenGroups } = scene.body.value
    if (hiddenGroups.includes(column.key))
      say({
        text: `${title} is not in sight: it is under ${column.title}, which is hidden.`,
        act: {
          name: 'Show it',
          run: () => view.set({ hiddenGroups: hiddenGroups.filter(k => k !== column.key) }),
        },
      })
    else if (!scene.lines.of(column).some(i => i.item.key === key))
      say({
        text: `${title} is further down on the shelf, under ${column.title}.`,
        act: {
          name: 'Show it',
          run: () => {
            scene.lines.reveal(key)
            void nextTick(() => focusOn(key))
          },
        },
      })
  }

  /** The values that keep something new in sight in a filtered view. */
  function givenByView(): Said {
    const said: Said = {}
    for (const c of scene.body.value.filter) {
      if (c.field === 'category' && c.is[0]) said.categories = [c.is[0]]
      if (c.field === 'priority') said.priority = Math.min(c.atLeast, 5)
    }
    return said
  }
  watch(
    () => scene.body.value.filter,
    filter => {
      const lists = filter.flatMap(c => (c.field === 'list' ? c.is : []))
      const into = scene.sources.value.find(s => lists.includes(s.id) && s.itemKind === 'task' && s.writable)
      captureGiven.value = { into: into?.id ?? null, said: givenByView() }
    },
    { immediate: true, deep: true },
  )
  onBeforeUnmount(() => (captureGiven.value = { into: null, said: {} }))

  function tellIfMadeHidden(making: Making): void {
    const into = 'into' in making ? making.into : null
    const hidden = into !== null && scene.body.value.hidden.includes(into)
    if (!hidden && scene.body.value.filter.length === 0) return
    if (scene.shown.value.some(i => i.title === ('title' in making ? making.title : ''))) return
    say({
      text: 'What you made is not in sight in this view.',
      act: { name: 'Show everything', run: () => view.set({ filter: [], hidden: [] }) },
    })
  }

  return { tellIfHidden, tellIfMadeHidden, givenByView }
}
