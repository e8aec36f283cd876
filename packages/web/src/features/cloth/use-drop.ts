import { type ClothItem, dayWords, type Edit, type Making, wallTime, zoned } from '@loom/core/view'
import type { Ref } from 'vue'
import { useMine } from '../../app/mine.ts'
import { minuteWords } from '../../app/telling.ts'
import type { Drop, Held } from './drag.ts'
import type { Scene } from './use-scene.ts'

/** What letting go of a held item does, and what it says beforehand. */
export function useDrop({
  scene,
  chosen,
  together,
  change,
}: {
  scene: Scene
  chosen: Ref<string[]>
  together: (item: ClothItem) => ClothItem[]
  change: (item: ClothItem, edit: Edit) => Promise<void>
}) {
  const { cloth, zone } = scene
  const mine = useMine()

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

  return { drop, dropWords }
}
