import {
  type Clash,
  type ClothItem,
  dayAt,
  type Edit,
  type Free,
  type HourRow,
  type Making,
  mondayOf,
  wallMinutes,
  zonedAt,
} from '@loom/core/view'
import { useEventListener } from '@vueuse/core'
import { nextTick, ref, type Ref } from 'vue'
import { useMine } from '../../stores/mine.ts'
import { isForPage } from '../../stores/own-keys.ts'
import { canBe, forEach } from './data/chosen.ts'
import type { Drawn } from './drag/draw-span.ts'
import type { AskedAct, Outcome } from './data/commands.ts'
import { keyAction, keyOf, type ScreenAct } from './data/keys.ts'
import { useChosen } from './data/use-chosen.ts'
import type { Which } from './data/use-cloth.ts'
import { useDrop } from './drag/use-drop.ts'
import { useNow } from './data/use-now.ts'
import { useOpened } from './data/use-opened.ts'
import type { Scene } from './data/use-scene.ts'
import { useSight } from './data/use-sight.ts'
import type { View } from './data/use-view.ts'
import { editWords } from './data/words.ts'

/** What people do on the Cloth: by mouse, by key and from the menu it comes to the same acts. */

export type Asked =
  | { kind: 'place' | 'block' | 'rename' | 'put-by' | 'give' | 'move'; item: ClothItem }
  | { kind: 'which'; item: ClothItem; edit: Edit }
  | { kind: 'sure'; item: ClothItem; edit: Edit; words: string }
  | { kind: 'make'; drawn: Drawn; allDay: boolean }
  | { kind: 'keys' | 'away' }

/** These are asked about before they are done to something that repeats. */
const OF_DATES = new Set<Edit['do']>(['place', 'lengthen', 'rename', 'say', 'delete'])

export type Acts = ReturnType<typeof useActs>

export function useActs({ scene, view, root }: { scene: Scene; view: View; root: Ref<HTMLElement | null> }) {
  const mine = useMine()
  const { cloth, zone } = scene
  const menu = ref<{ item: ClothItem; at: DOMRect; clash: Clash | null; room: Free[] } | null>(null)
  const asked = ref<Asked | null>(null)
  const load = ref<{ row: HourRow; at: DOMRect } | null>(null)
  const { opened, openKey, closeDrawer } = useOpened(scene, focusOn)
  const { chosen, choose, together, chosenItems } = useChosen(cloth)
  async function changeAll(item: ClothItem, edit: Edit): Promise<void> {
    const d = scene.data.value
    if (!d) return
    const able = together(item).filter(i => canBe(i, edit))
    const left = chosen.value.length - able.length
    asked.value = null
    menu.value = null
    chosen.value = []
    const words = editWords({ ...item, title: `${able.length} items` }, edit, d)
    await cloth.editMany(
      forEach(able, edit, { zone: zone.value, defaultMinutes: d.defaultMinutes }),
      left > 0 ? `${words} ${left} stay as they are.` : words,
    )
  }

  /** Returns the keyboard focus to the same item, wherever it is now. */
  function focusOn(key: string): void {
    root.value?.querySelector<HTMLElement>(`[data-key="${CSS.escape(key)}"]`)?.focus()
  }

  async function change(item: ClothItem, edit: Edit, which?: Which): Promise<void> {
    menu.value = null
    if (!which && together(item).length > 1) {
      await changeAll(item, edit)
      return
    }
    if (item.recurring && item.key.includes('@') && OF_DATES.has(edit.do) && !which) {
      asked.value = { kind: 'which', item, edit }
      return
    }
    // Items put by are reviewed one after the other.
    const looking = asked.value?.kind === 'away'
    if (!looking) asked.value = null
    const arriving = cloth.edit(item, edit, which)
    if (!opened.value && !looking && !load.value) await nextTick(() => focusOn(item.key))
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

  const { tellIfHidden, tellIfMadeHidden, givenByView } = useSight(scene, view, focusOn)

  function confirmDelete(item: ClothItem): void {
    if (item.recurring && item.key.includes('@')) return void change(item, { do: 'delete' })
    const words =
      item.kind === 'tied'
        ? `The task is deleted in ${scene.nameOf(item.sources[0] ?? '')}. The rule that ties it decides about its event in ${scene.nameOf(item.sources[1] ?? '')}.`
        : item.kind === 'block'
          ? 'This time is given back. The task stays as it is.'
          : item.kind === 'batch'
            ? 'The block is given back. Its tasks stay where they are.'
            : `It is deleted in ${scene.nameOf(item.sources[0] ?? '')}, for everybody.`
    asked.value = { kind: 'sure', item, edit: { do: 'delete' }, words }
  }

  function askFor(act: AskedAct, item: ClothItem): void {
    menu.value = null
    if (act === 'open') opened.value = item
    else if (act === 'duplicate') void cloth.duplicate(item)
    else asked.value = { kind: act, item }
  }
  /** What a command comes to, whether it was given by key, from the menu or from the bar. */
  function perform(item: ClothItem, outcome: Outcome): void {
    menu.value = null
    if (outcome.kind === 'ask') askFor(outcome.act, item)
    else if (outcome.kind === 'finish') void finishTask(item)
    else if (outcome.edit.do === 'delete') confirmDelete(item)
    else void change(item, outcome.edit)
  }
  function openMenu(item: ClothItem, at: DOMRect): void {
    const clash = scene.clashes.value.find(c => c.moves.key === item.key) ?? null
    menu.value = { item, at, clash, room: clash ? scene.room(item) : [] }
  }
  function closeMenu(): void {
    const key = menu.value?.item.key
    menu.value = null
    if (key) void nextTick(() => focusOn(key))
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

  async function make(making: Making, said: string): Promise<void> {
    asked.value = null
    // A task that has no time yet gets it as its own; further times are blocks.
    const task = making.what === 'block' ? cloth.itemOf(making.task) : undefined
    if (making.what === 'block' && task && task.place.kind === 'none') {
      await change(task, { do: 'place', start: making.start, minutes: making.minutes })
      return
    }
    const made = await cloth.make(making, said)
    if (made && making.what !== 'task') tellIfMadeHidden(making)
  }

  const { drop, dropWords, calendars } = useDrop({ scene, chosen, together, change, set: view.set })

  function draw(drawn: Drawn): void {
    asked.value = { kind: 'make', drawn, allDay: false }
  }
  /** By keyboard: the next free hour of today, or of the first day that is shown. */
  function makeByHand(): void {
    const free = scene.freeFor(60).find(f => scene.dates.value.includes(dayAt(f.startMs, zone.value)))
    const first = scene.dates.value.includes(scene.today.value)
      ? scene.today.value
      : (scene.dates.value[0] ?? scene.today.value)
    const date = free ? dayAt(free.startMs, zone.value) : first
    const hours = scene.hoursOf(scene.data.value?.me ?? '')
    const next = date === scene.today.value ? (scene.nowMinute(date) ?? hours.from) : hours.from
    const minute = free ? wallMinutes(free.startMs, date, zone.value) : next
    const from = Math.min(1380, Math.ceil(minute / 15) * 15)
    const box = root.value?.getBoundingClientRect() ?? new DOMRect()
    const middle = new DOMRect(box.left + box.width / 2 - 210, 120, 0, 0)
    asked.value = {
      kind: 'make',
      drawn: { date, row: 'all', from, to: from + 60, box: middle },
      allDay: false,
    }
  }

  const { extend, finishEarly, restLater } = useNow(scene, change)
  function takeFree(item: ClothItem, free: Free): void {
    void change(item, { do: 'place', start: zonedAt(free.startMs, zone.value) })
  }
  function lighten(item: ClothItem): void {
    if (item.kind === 'task' || item.kind === 'tied')
      void change(item, { do: 'any-day', week: mondayOf(scene.today.value) })
    else void change(item, { do: 'delete' })
  }

  function onItemKey(event: KeyboardEvent): void {
    const element = (event.target as HTMLElement).closest<HTMLElement>('[data-key]')
    const item = element && event.target === element && cloth.itemOf(element.dataset.key ?? '')
    const d = scene.data.value
    if (!element || !item || !d) return
    const action = keyAction(item, event, {
      zone: zone.value,
      defaultMinutes: d.defaultMinutes,
      now: scene.now.value,
      keys: mine.settings.value.keys,
      task: cloth.itemOf(item.of ?? '') ?? null,
      unsupported: scene.sources.value.find(s => s.id === item.sources[0])?.unsupported ?? [],
    })
    if (!action) return
    event.preventDefault()
    event.stopPropagation()
    if (action.kind === 'choose') choose(item)
    else if (action.kind === 'menu') openMenu(item, element.getBoundingClientRect())
    else perform(item, action)
  }

  const SCREEN: Partial<Record<ScreenAct, () => void>> = {
    make: makeByHand,
    'put-by-place': () => (asked.value = { kind: 'away' }),
    keys: () => (asked.value = { kind: 'keys' }),
  }
  function onKey(event: KeyboardEvent): void {
    if (event.key === 'Escape' && !asked.value && !menu.value) chosen.value = []
    if (!isForPage(event)) return
    for (const [act, run] of Object.entries(SCREEN) as [ScreenAct, () => void][])
      if (keyOf(act, mine.settings.value.keys) === event.key) {
        event.preventDefault()
        run()
      }
  }
  useEventListener('keydown', onKey)

  return {
    menu,
    asked,
    load,
    opened,
    chosen,
    choose,
    chosenItems,
    ask: (kind: 'keys' | 'away') => void (asked.value = { kind }),
    closeAsked: () => void (asked.value = null),
    change,
    perform,
    askFor,
    openMenu,
    closeMenu,
    toggle,
    tick,
    make,
    drop,
    dropWords,
    calendars,
    draw,
    makeByHand,
    extend,
    finishEarly,
    restLater,
    takeFree,
    lighten,
    openLoad: (row: HourRow, at: DOMRect) => void (load.value = { row, at }),
    setBatch: (tasks: string[]) => {
      const batch = opened.value && cloth.itemOf(opened.value.key)
      if (batch) void cloth.setBatch(batch, tasks, `${batch.title}: changed.`)
    },
    givenByView,
    onItemKey,
    openKey,
    closeDrawer,
    focusOn,
  }
}
