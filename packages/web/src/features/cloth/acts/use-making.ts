import { dayAt, type Making, wallMinutes } from '@loom/core/view'
import type { Ref } from 'vue'
import type { Scene } from '../data/use-scene.ts'
import type { Drawn } from '../drag/draw-span.ts'
import type { Changes } from './use-changes.ts'
import type { OpenPanels } from './use-open-panels.ts'

const PROPOSED_MINUTES = 60
/** The last hour of a day that something can be proposed at. */
const LATEST = 23 * 60

/** Where keeping time begins: the next free hour of the days that are shown, else the next working hour. */
function proposedStart(scene: Scene): { date: string; minute: number } {
  const { dates, today, zone } = scene
  const free = scene
    .freeFor(PROPOSED_MINUTES)
    .map(f => ({ date: dayAt(f.startMs, zone.value), startMs: f.startMs }))
    .find(f => dates.value.includes(f.date))
  if (free) return { date: free.date, minute: wallMinutes(free.startMs, free.date, zone.value) }
  const date = dates.value.includes(today.value) ? today.value : (dates.value[0] ?? today.value)
  const opens = scene.hoursOf(scene.data.value?.me ?? '').from
  return { date, minute: date === today.value ? (scene.nowMinute(date) ?? opens) : opens }
}

/** Makes tasks, events and blocks: drawn with the mouse, or by hand from the next free hour. */
export function useMaking({
  scene,
  root,
  asked,
  change,
  tellIfMadeHidden,
}: {
  scene: Scene
  root: Ref<HTMLElement | null>
  asked: OpenPanels['asked']
  change: Changes['change']
  tellIfMadeHidden: (making: Making) => void
}) {
  async function make(making: Making, said: string): Promise<void> {
    asked.value = null
    // A task that has no time yet gets it as its own; further times are blocks.
    const task = making.what === 'block' ? scene.cloth.itemOf(making.task) : undefined
    if (making.what === 'block' && task && task.place.kind === 'none') {
      await change(task, { do: 'place', start: making.start, minutes: making.minutes })
      return
    }
    const made = await scene.cloth.make(making, said)
    if (made && making.what !== 'task') tellIfMadeHidden(making)
  }
  function draw(drawn: Drawn): void {
    asked.value = { kind: 'make', drawn, allDay: false }
  }
  function makeByHand(): void {
    const { date, minute } = proposedStart(scene)
    const from = Math.min(LATEST, Math.ceil(minute / 15) * 15)
    const page = root.value?.getBoundingClientRect() ?? new DOMRect()
    const box = new DOMRect(page.left + page.width / 2 - 210, 120, 0, 0)
    draw({ date, row: 'all', from, to: from + PROPOSED_MINUTES, box })
  }
  return { make, draw, makeByHand }
}
