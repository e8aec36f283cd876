import { type ClothItem, type Edit, type Free, mondayOf, zonedAt } from '@loom/core/view'
import { nextTick, type Ref } from 'vue'
import { askToGive } from '../../team/asking.ts'
import { canBe, forEach } from '../data/chosen.ts'
import type { useChosen } from '../data/use-chosen.ts'
import type { Which } from '../data/use-cloth.ts'
import type { Scene } from '../data/use-scene.ts'
import { deletingWords, editWords } from '../data/words.ts'
import type { OpenPanels } from './use-open-panels.ts'

/** These are asked about before they are done to something that repeats. */
const OF_DATES = new Set<Edit['do']>(['place', 'lengthen', 'rename', 'say', 'delete'])
const isOneDate = (item: ClothItem): boolean => item.recurring && item.key.includes('@')

export type Changes = ReturnType<typeof useChanges>

/** Changes items: one, or all that are chosen with it; what needs an answer first is asked. */
export function useChanges({
  scene,
  panels: { menu, asked, load, focusOn },
  selection: { chosen, together },
  opened,
  tellIfHidden,
}: {
  scene: Scene
  panels: OpenPanels
  selection: ReturnType<typeof useChosen>
  opened: Ref<ClothItem | null>
  tellIfHidden: (key: string) => void
}) {
  const { cloth, zone } = scene

  async function changeAll(item: ClothItem, edit: Edit): Promise<void> {
    const d = scene.data.value
    if (!d) return
    const able = together(item).filter(i => canBe(i, edit))
    const left = chosen.value.length - able.length
    asked.value = null
    chosen.value = []
    const words = editWords({ ...item, title: `${able.length} items` }, edit, d)
    await cloth.editMany(
      forEach(able, edit, { zone: zone.value, defaultMinutes: d.defaultMinutes }),
      left > 0 ? `${words} ${left} stay as they are.` : words,
    )
  }

  async function change(item: ClothItem, edit: Edit, which?: Which): Promise<void> {
    menu.value = null
    if (edit.do === 'give' && item.onlyLook) {
      asked.value = null
      const to = scene.data.value?.people.find(p => p.id === edit.to)
      if (to) await askToGive(item, to)
      return
    }
    if (!which && together(item).length > 1) {
      await changeAll(item, edit)
      return
    }
    if (isOneDate(item) && OF_DATES.has(edit.do) && !which) {
      asked.value = { kind: 'which', item, edit }
      return
    }
    // Items put by are reviewed one after the other.
    const isReviewing = asked.value?.kind === 'away'
    if (!isReviewing) asked.value = null
    const arriving = cloth.edit(item, edit, which)
    if (!opened.value && !isReviewing && !load.value) await nextTick(() => focusOn(item.key))
    await arriving
    tellIfHidden(item.key)
  }

  /** One after the other: of a task that is done, only time that is worked already stays. */
  async function finishTask(block: ClothItem): Promise<void> {
    const task = cloth.itemOf(block.of ?? '')
    await change(block, { do: 'spend', spent: true })
    // Where that was refused, the task is not ended either: its time would be given back.
    if (task && cloth.itemOf(block.key)?.done) await change(task, { do: 'complete' })
  }

  function confirmDelete(item: ClothItem): void {
    const edit: Edit = { do: 'delete' }
    if (isOneDate(item) && together(item).length === 1) void change(item, edit)
    else asked.value = { kind: 'sure', item, edit, words: deletingWords(together(item), scene.nameOf) }
  }

  function toggle(item: ClothItem): void {
    if (item.kind === 'block') void cloth.edit(item, { do: 'spend', spent: !item.done })
    else void cloth.edit(item, { do: item.done ? 'reopen' : 'complete' })
  }
  /** A task as a batch lists it is checked off by itself. */
  function tick(key: string, done: boolean): void {
    const known = cloth.itemOf(key)
    if (known) void cloth.edit(known, { do: done ? 'complete' : 'reopen' })
  }
  function takeFree(item: ClothItem, free: Free): void {
    void change(item, { do: 'place', start: zonedAt(free.startMs, zone.value) })
  }
  /** Takes an item off a day that is too full. */
  function lighten(item: ClothItem): void {
    const isTask = item.kind === 'task' || item.kind === 'tied'
    void change(item, isTask ? { do: 'any-day', week: mondayOf(scene.today.value) } : { do: 'delete' })
  }
  function setBatch(tasks: string[]): void {
    const batch = opened.value && cloth.itemOf(opened.value.key)
    if (batch) void cloth.setBatch(batch, tasks, `${batch.title}: changed.`)
  }

  return { change, finishTask, confirmDelete, toggle, tick, takeFree, lighten, setBatch }
}
