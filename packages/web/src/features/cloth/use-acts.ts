import { minuteWords, clockWords } from '../../app/telling.ts'
import {
  type Clash,
  type ClothItem,
  dayAt,
  dayWords,
  type Edit,
  type Free,
  hiddenBecause,
  type HourRow,
  lengthOf,
  type Making,
  MINUTE,
  mondayOf,
  type Said,
  showing,
  zoned,
  zonedAt,
  wallTime,
} from '@loom/core/view'
import { nextTick, onBeforeUnmount, onMounted, ref, type Ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { captureGiven } from '../../app/capture-context.ts'
import { say } from '../../app/messages.ts'
import { useMine } from '../../app/mine.ts'
import { canBe, forEach } from './chosen.ts'
import type { Drawn, Drop, Held } from './drag.ts'
import { type Act, keyAction, keyOf, type ScreenAct } from './keys.ts'
import type { Which } from './use-cloth.ts'
import type { Scene } from './use-scene.ts'
import type { View } from './use-view.ts'
import { editWords } from './words.ts'

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
  const route = useRoute()
  const router = useRouter()
  const mine = useMine()
  const { cloth, zone } = scene
  const menu = ref<{ item: ClothItem; at: DOMRect; clash: Clash | null; room: Free[] } | null>(null)
  const asked = ref<Asked | null>(null)
  const load = ref<{ row: HourRow; at: DOMRect } | null>(null)
  const opened = ref<ClothItem | null>(null)
  /** Keys of items that are chosen together. */
  const chosen = ref<string[]>([])

  function choose(item: ClothItem): void {
    chosen.value = chosen.value.includes(item.key)
      ? chosen.value.filter(k => k !== item.key)
      : [...chosen.value, item.key]
  }
  /** The item, or all that are chosen if it is one of them. */
  function together(item: ClothItem): ClothItem[] {
    if (chosen.value.length < 2 || !chosen.value.includes(item.key)) return [item]
    const others = chosen.value.flatMap(k => cloth.itemOf(k) ?? []).filter(i => i.key !== item.key)
    return [item, ...others]
  }
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

  /** Whoever came by keyboard goes on from the same item, wherever it has gone. */
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
    // What was put by is looked through one after the other.
    const looking = asked.value?.kind === 'away'
    if (!looking) asked.value = null
    const arriving = cloth.edit(item, edit, which)
    if (!opened.value && !looking) await nextTick(() => focusOn(item.key))
    await arriving
    tellIfHidden(item.key)
  }

  /** What was just changed or made and cannot be seen says why, with one step to show it. */
  function tellIfHidden(key: string): void {
    const item = cloth.itemOf(key)
    if (!item || item.putBy !== null || item.leftOut) return
    const because = hiddenBecause(scene.body.value, item, { now: scene.now.value, zone: zone.value })
    if (because === null || because === 'done') return
    const why = because === 'source' ? 'its source is not shown' : 'this view’s filter leaves it out'
    say({
      text: `${item.title} is not in sight: ${why}.`,
      act: { name: 'Show it', run: () => view.set(showing(scene.body.value, item, because)) },
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
      const into = scene.sources.value.find(s => lists.includes(s.id) && s.holds === 'task' && s.writable)
      captureGiven.value = { into: into?.id ?? null, said: givenByView() }
    },
    { immediate: true, deep: true },
  )
  onBeforeUnmount(() => (captureGiven.value = { into: null, said: {} }))

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

  function fromMenu(edit: Edit): void {
    const item = menu.value?.item
    if (!item) return
    menu.value = null
    if (edit.do === 'delete') confirmDelete(item)
    else void change(item, edit)
  }
  function askFor(act: Act, item: ClothItem): void {
    menu.value = null
    if (act === 'open') opened.value = item
    else if (act === 'duplicate') void cloth.duplicate(item)
    else if (
      act === 'place' ||
      act === 'block' ||
      act === 'rename' ||
      act === 'put-by' ||
      act === 'give' ||
      act === 'move'
    )
      asked.value = { kind: act, item }
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

  function block(task: ClothItem, start: { date: string; from: number; minutes: number }): void {
    const making: Making = {
      what: 'block',
      task: task.key,
      title: null,
      start: zoned(`${start.date}T${wallTime(start.from)}:00`, zone.value),
      minutes: Math.max(5, Math.min(1440, start.minutes)),
      into: mine.settings.value.blocksInto,
    }
    void cloth.make(making, `${task.title}: further time ${dayWords(start.date)} ${minuteWords(start.from)}.`)
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
    if (!made || making.what === 'task') return
    const into = 'into' in making ? making.into : null
    const hidden = into !== null && scene.body.value.hidden.includes(into)
    if (hidden || scene.body.value.filter.length > 0) {
      const seen = scene.shown.value.some(i => i.title === ('title' in making ? making.title : ''))
      if (!seen)
        say({
          text: 'What you made is not in sight in this view.',
          act: { name: 'Show everything', run: () => view.set({ filter: [], hidden: [] }) },
        })
    }
  }

  function drop(item: ClothItem, what: Drop): void {
    if (what.kind === 'batch') {
      const batch = cloth.itemOf(what.key)
      const more = together(item).filter(
        i => (i.kind === 'task' || i.kind === 'tied') && !batch?.batch.some(t => t.key === i.key),
      )
      if (!batch || more.length === 0) return
      const who = more.length === 1 ? item.title : `${more.length} tasks`
      chosen.value = []
      void cloth.setBatch(
        batch,
        [...batch.batch.map(t => t.key), ...more.map(i => i.key)],
        `${who}: into ${batch.title}.`,
      )
      return
    }
    if (what.kind === 'copy') {
      const { target } = what
      if (target.kind === 'hour' && (item.kind === 'task' || item.kind === 'tied')) block(item, target)
      else if (target.kind === 'hour' && item.of) block({ ...item, key: item.of }, target)
      else void cloth.duplicate(item)
      return
    }
    const { row } = what
    const people = scene.data.value?.people ?? []
    const toOther = scene.body.value.rows === 'people' && row !== null && people.some(p => p.id === row)
    if (toOther && row && !item.people.includes(row) && (item.kind === 'task' || item.kind === 'tied'))
      void change(item, { do: 'give', to: row })
    void change(item, what.edit)
  }
  /** What letting go would write, beyond what the row itself shows. */
  function dropWords(held: Held): string {
    const { target, item } = held
    if (target?.kind === 'week') return `any day, week of ${dayWords(target.week)}`
    if (target?.kind === 'later') return `put by until ${dayWords(target.until)}`
    if (target?.kind === 'batch') return `into ${cloth.itemOf(target.key)?.title ?? 'the batch'}`
    if (held.copying && target?.kind === 'hour')
      return mine.settings.value.blocksInto
        ? `in ${scene.nameOf(mine.settings.value.blocksInto)}`
        : 'in Amber Loom only'
    if ((target?.kind === 'hour' || target?.kind === 'day') && scene.body.value.rows === 'people') {
      const who = target.row
      if (!item.people.includes(who) && scene.data.value?.people.some(p => p.id === who))
        return `for ${scene.nameOf(who)}`
    }
    return ''
  }

  function draw(drawn: Drawn): void {
    asked.value = { kind: 'make', drawn, allDay: false }
  }
  /** By keyboard: the next free hour of today, or of the first day that is shown. */
  function makeByHand(): void {
    const date = scene.dates.value.includes(scene.today.value)
      ? scene.today.value
      : (scene.dates.value[0] ?? scene.today.value)
    const hours = scene.hoursOf(scene.data.value?.me ?? '')
    const minute = date === scene.today.value ? (scene.nowMinute(date) ?? hours.from) : hours.from
    const from = Math.min(1380, Math.ceil(minute / 15) * 15)
    const box = root.value?.getBoundingClientRect() ?? new DOMRect()
    const middle = new DOMRect(box.left + box.width / 2 - 210, 120, 0, 0)
    asked.value = {
      kind: 'make',
      drawn: { date, row: 'all', from, to: from + 60, box: middle },
      allDay: false,
    }
  }

  const later = (item: ClothItem, minutes: number): void =>
    void change(item, { do: 'lengthen', minutes: Math.max(5, minutes) })
  const extend = (item: ClothItem): void => later(item, lengthOf(item, 30) + 15)
  function finishEarly(item: ClothItem): void {
    if (item.place.kind !== 'timed') return
    later(item, Math.ceil((scene.now.value - item.place.startMs) / MINUTE / 5) * 5)
    if (item.kind === 'block') void cloth.edit(item, { do: 'spend', spent: true })
  }
  /** What is left of it goes to the next free span that holds it; what has passed stays as time worked. */
  function restLater(item: ClothItem): void {
    if (item.place.kind !== 'timed') return
    const left = Math.ceil((item.place.endMs - scene.now.value) / MINUTE / 5) * 5
    const [free] = scene
      .room(item)
      .filter(f => f.startMs >= (item.place.kind === 'timed' ? item.place.endMs : 0))
    if (!free) {
      say({ text: `${item.title}: no free span of that length in the days that are shown.`, tone: 'wrong' })
      return
    }
    finishEarly(item)
    const task = item.of ?? item.key
    const making: Making = {
      what: 'block',
      task,
      title: null,
      start: zonedAt(free.startMs, zone.value),
      minutes: Math.max(5, left),
      into: mine.settings.value.blocksInto,
    }
    const day = dayWords(dayAt(free.startMs, zone.value))
    void cloth.make(making, `${item.title}: the rest ${day} ${clockWords(free.startMs, zone.value)}.`)
  }
  function takeFree(item: ClothItem, free: Free): void {
    void change(item, { do: 'place', start: zonedAt(free.startMs, zone.value) })
  }
  function lighten(item: ClothItem): void {
    load.value = null
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
    })
    if (!action) return
    event.preventDefault()
    event.stopPropagation()
    if (action.kind === 'choose') choose(item)
    else if (action.kind === 'edit' && action.edit.do === 'delete') confirmDelete(item)
    else if (action.kind === 'edit') void change(item, action.edit)
    else if (action.kind === 'menu') openMenu(item, element.getBoundingClientRect())
    else askFor(action.act, item)
  }

  const SCREEN: Partial<Record<ScreenAct, () => void>> = {
    make: makeByHand,
    'put-by-place': () => (asked.value = { kind: 'away' }),
    keys: () => (asked.value = { kind: 'keys' }),
  }
  function onKey(event: KeyboardEvent): void {
    if (event.key === 'Escape' && !asked.value && !menu.value) chosen.value = []
    const typing = (event.target as HTMLElement).closest('input, textarea, select, [role="dialog"]')
    if (typing || event.ctrlKey || event.metaKey || event.altKey) return
    for (const [act, run] of Object.entries(SCREEN) as [ScreenAct, () => void][])
      if (keyOf(act, mine.settings.value.keys) === event.key) {
        event.preventDefault()
        run()
      }
  }
  onMounted(() => window.addEventListener('keydown', onKey))
  onBeforeUnmount(() => window.removeEventListener('keydown', onKey))

  /** An item that the address names, from a search say, is opened once it is here. */
  watch(
    () => [route.query.item, scene.data.value] as const,
    ([key]) => {
      if (typeof key !== 'string' || opened.value?.key === key) return
      const item = cloth.itemOf(key)
      if (item) opened.value = item
    },
    { immediate: true },
  )
  function openKey(key: string): void {
    const item = cloth.itemOf(key)
    if (item) opened.value = item
    else void router.replace({ query: { ...route.query, item: key } })
  }
  function closeDrawer(): void {
    const key = opened.value?.key
    opened.value = null
    if (route.query.item) {
      const { item: _, ...rest } = route.query
      void router.replace({ query: rest })
    }
    if (key) void nextTick(() => focusOn(key))
  }

  return {
    menu,
    asked,
    load,
    opened,
    chosen,
    choose,
    chosenItems: () => chosen.value.flatMap(k => cloth.itemOf(k) ?? []),
    ask: (kind: 'keys' | 'away') => void (asked.value = { kind }),
    closeAsked: () => void (asked.value = null),
    change,
    fromMenu,
    askFor,
    openMenu,
    closeMenu,
    toggle,
    tick,
    make,
    drop,
    dropWords,
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
