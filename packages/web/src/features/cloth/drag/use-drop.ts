import {
  type Beside,
  type ClothItem,
  dayWords,
  type Edit,
  putBeside,
  type ViewBody,
  wallTime,
  zoned,
} from '@loom/core/view'
import type { Ref } from 'vue'
import { minuteWords } from '../../../ui/telling.ts'
import type { Drop, Held } from './drag.ts'
import { blockMaking, type Kept, keptWords } from '../data/further-time.ts'
import type { Scene } from '../data/use-scene.ts'

/** The task that further time would be for. */
const taskOf = (item: ClothItem): string | null =>
  item.kind === 'task' || item.kind === 'tied' ? item.key : item.of

/** What letting go of a held item does, and what it says beforehand. */
export function useDrop({
  scene,
  chosen,
  together,
  change,
  set,
}: {
  scene: Scene
  chosen: Ref<string[]>
  together: (item: ClothItem) => ClothItem[]
  change: (item: ClothItem, edit: Edit) => Promise<void>
  set: (patch: Partial<ViewBody>) => void
}) {
  const { cloth, zone } = scene

  /** Calendars that further time could be kept in. */
  const calendars = (): string[] =>
    scene.sources.value.filter(s => s.itemKind === 'event' && s.writable && !s.own).map(s => s.id)

  function block(
    task: string,
    title: string,
    at: { date: string; from: number; minutes: number },
    kept: Kept,
  ): void {
    const start = zoned(`${at.date}T${wallTime(at.from)}:00`, zone.value)
    void cloth.make(
      blockMaking(task, start, at.minutes, kept),
      `${title}: further time ${dayWords(at.date)} ${minuteWords(at.from)}, ${keptWords(kept, scene.nameOf)}.`,
    )
  }
  function drop(item: ClothItem, what: Drop): void {
    if (item.onlyLook) {
      const to = 'row' in what ? what.row : null
      if (to !== null && isOther(item, to)) void change(item, { do: 'give', to })
      return
    }
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
      const { target, kept } = what
      const task = taskOf(item)
      if (target.kind === 'hour' && task) block(task, item.title, target, kept)
      else void cloth.duplicate(item)
      return
    }
    if (what.kind === 'order') {
      const group = inOneGroup(item, what.beside)
      if (group) set({ order: putBeside(scene.body.value.order, group, item.key, what.beside) })
      return
    }
    const { row } = what
    if (row !== null && isOther(item, row)) void change(item, { do: 'give', to: row })
    void change(item, what.edit)
  }
  /** The keys of the group that both lie in, where the shelf is in an order of one's own. */
  function inOneGroup(item: ClothItem, beside: Beside): string[] | null {
    if (scene.body.value.sort !== 'own') return null
    const groups = scene.shelf.value.map(g => g.items.map(i => i.item.key))
    return groups.find(keys => keys.includes(item.key) && keys.includes(beside.key)) ?? null
  }

  /** What letting go would write, beyond what the row itself shows; and what keys would change about it. */
  function dropWords(held: Held): { writes: string; keys: string } {
    const { target, item, kept } = held
    const plain = (writes: string): { writes: string; keys: string } => ({ writes, keys: '' })
    if (!target) return plain('')
    if (item.onlyLook) {
      const to = 'row' in target ? target.row : null
      return plain(
        to !== null && isOther(item, to)
          ? `asks that ${scene.nameOf(to)} be given it`
          : 'you may only look at it: it stays',
      )
    }
    if (target.kind === 'batch') return plain(`into ${cloth.itemOf(target.key)?.title ?? 'the batch'}`)
    if (target.kind === 'week') return plain(`any day, week of ${dayWords(target.week)}`)
    if (target.kind === 'shelf' && item.place.kind === 'none') {
      const other = target.beside && inOneGroup(item, target.beside) && cloth.itemOf(target.beside.key)
      return plain(other ? `${target.beside?.after ? 'after' : 'before'} ${other.title}` : '')
    }
    if (target.kind === 'later') return plain(`put by until ${dayWords(target.until)}`)
    if (target.kind === 'hour' && (held.copying || held.further) && taskOf(item))
      return {
        writes: `further time, ${keptWords(kept, scene.nameOf)}`,
        keys:
          kept.into === null ? 'K: in a calendar' : 'K: elsewhere · F: busy or free · V: title or private',
      }
    if (held.copying) return plain('a copy')
    const who = 'row' in target ? target.row : null
    const gives = who !== null && isOther(item, who)
    return plain(`${gives ? `for ${scene.nameOf(who)}, ` : ''}${writtenTo(item)}`)
  }
  const isPerson = (id: string): boolean => scene.data.value?.people.some(p => p.id === id) ?? false
  /** Whether that is the row of a person who does not have the task. */
  const isOther = (item: ClothItem, row: string): boolean =>
    scene.body.value.rows === 'people' &&
    (item.kind === 'task' || item.kind === 'tied') &&
    isPerson(row) &&
    !item.people.includes(row)
  function writtenTo(item: ClothItem): string {
    const homes = scene.sources.value.filter(s => item.sources.includes(s.id) && !s.own)
    const told = homes.filter(s => s.writable && !s.unsupported.includes('start'))
    if (told.length > 0) return `written to ${told.map(s => s.name).join(' and ')}`
    const [silent] = homes
    return silent ? `in Amber Loom only: ${silent.name} has no planned time` : 'in Amber Loom only'
  }

  return { drop, dropWords, calendars }
}
