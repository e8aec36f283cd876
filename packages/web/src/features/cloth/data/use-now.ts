import { type ClothItem, dayAt, dayWords, type Edit, lengthOf, MINUTE, zonedAt } from '@loom/core/view'
import { say } from '../../../stores/messages.ts'
import { useMine } from '../../../stores/mine.ts'
import { clockWords } from '../../../ui/telling.ts'
import { blockMaking, usualKept } from './further-time.ts'
import type { Scene } from './use-scene.ts'

/** Extends the current item, finishes it early, or moves the rest to later. */
export function useNow(scene: Scene, change: (item: ClothItem, edit: Edit) => Promise<void>) {
  const { cloth, zone } = scene
  const mine = useMine()

  const later = (item: ClothItem, minutes: number): void =>
    void change(item, { do: 'lengthen', minutes: Math.max(5, minutes) })
  const extend = (item: ClothItem): void => later(item, lengthOf(item, 30) + 15)
  function finishEarly(item: ClothItem): void {
    if (item.place.kind !== 'timed') return
    later(item, Math.ceil((scene.now.value - item.place.startMs) / MINUTE / 5) * 5)
    if (item.kind === 'block') void cloth.edit(item, { do: 'spend', spent: true })
  }
  /** Moves the rest to the next free span that fits; the time passed stays as worked. */
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
    const making = blockMaking(task, zonedAt(free.startMs, zone.value), left, usualKept(mine.settings.value))
    const day = dayWords(dayAt(free.startMs, zone.value))
    void cloth.make(making, `${item.title}: the rest ${day} ${clockWords(free.startMs, zone.value)}.`)
  }
  return { extend, finishEarly, restLater }
}
