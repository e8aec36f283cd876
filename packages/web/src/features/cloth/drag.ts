import { type ClothItem, type Edit, lengthOf, minuteWords, zoned } from '@loom/core/view'
import interact from 'interactjs'
import { onBeforeUnmount, reactive, type Ref, watch } from 'vue'
import { holding } from '../../api/live.ts'

/** Picking up an item, showing where it would land, and what letting go there asks for. */

export type Target =
  | { kind: 'hour'; date: string; from: number; minutes: number }
  | { kind: 'day'; date: string }
  | { kind: 'shelf' }

export interface Held {
  item: ClothItem
  /** Being lengthened by its right edge instead of moved. */
  lengthening: boolean
  x: number
  y: number
  target: Target | null
}

const SNAP = 15
const FINE_SNAP = 5

interface Options {
  root: Ref<HTMLElement | null>
  itemOf: (key: string) => ClothItem | undefined
  axis: () => { from: number; to: number }
  defaultMinutes: () => number
  zone: () => string
  drop: (item: ClothItem, edit: Edit) => void
}

export function editFor(held: Held, zone: string): Edit | null {
  const { target, item } = held
  if (!target) return null
  if (held.lengthening) return target.kind === 'hour' ? { do: 'lengthen', minutes: target.minutes } : null
  if (target.kind === 'shelf') return item.place.kind === 'none' ? null : { do: 'unplace' }
  if (target.kind === 'day') {
    if (item.place.kind === 'day' && item.place.date === target.date) return null
    return { do: 'place', start: { kind: 'date', date: target.date } }
  }
  return { do: 'place', start: zoned(`${target.date}T${minuteWords(target.from)}:00`, zone) }
}

export function useDrag(options: Options): { held: { current: Held | null }; justDropped: () => boolean } {
  const held = reactive<{ current: Held | null }>({ current: null })
  let grabbedAt = 0
  let droppedAt = 0

  const minuteAt = (track: Element, x: number, snap: number): number => {
    const { left, width } = track.getBoundingClientRect()
    const { from, to } = options.axis()
    const minute = from + ((x - left) / width) * (to - from)
    return Math.round(minute / snap) * snap
  }

  function targetAt(x: number, y: number, item: ClothItem, fine: boolean): Target | null {
    const under = document.elementsFromPoint(x, y)
    const zone = under.map(e => e.closest<HTMLElement>('[data-drop]')).find(e => e !== null)
    const date = zone?.dataset.date ?? ''
    if (!zone) return null
    if (zone.dataset.drop === 'shelf') return item.kind === 'event' ? null : { kind: 'shelf' }
    if (zone.dataset.drop === 'day') return { kind: 'day', date }
    const minutes = lengthOf(item, options.defaultMinutes())
    const from = minuteAt(zone, x - grabbedAt, fine ? FINE_SNAP : SNAP)
    return { kind: 'hour', date, from: Math.max(0, Math.min(from, 1440 - SNAP)), minutes }
  }

  function attach(root: HTMLElement): () => void {
    const pick = (target: EventTarget): ClothItem | undefined =>
      options.itemOf((target as HTMLElement).dataset.key ?? '')
    const pickable = interact('[data-drag]', { context: root })
    pickable.draggable({
      ignoreFrom: 'input, .grip',
      autoScroll: true,
      listeners: {
        start(event: Interact.DragEvent) {
          const item = pick(event.target)
          if (!item) return
          const box = event.target.getBoundingClientRect()
          // A block keeps the point it was grabbed by; a task from the shelf is placed by its beginning.
          grabbedAt = event.target.dataset.drag === 'block' ? event.clientX0 - box.left : 0
          holding.value = true
          held.current = { item, lengthening: false, x: event.clientX, y: event.clientY, target: null }
        },
        move(event: Interact.DragEvent) {
          const { current } = held
          if (!current) return
          current.x = event.clientX
          current.y = event.clientY
          current.target = targetAt(event.clientX, event.clientY, current.item, event.altKey)
        },
        end: finish,
      },
    })
    pickable.resizable({
      edges: { right: '.grip' },
      listeners: {
        start(event: Interact.ResizeEvent) {
          const item = pick(event.target)
          if (!item) return
          holding.value = true
          held.current = { item, lengthening: true, x: event.clientX, y: event.clientY, target: null }
        },
        move(event: Interact.ResizeEvent) {
          const { current } = held
          const track = (event.target as HTMLElement).closest('[data-drop="hour"]')
          if (!current || !track) return
          const end = minuteAt(track, event.clientX, event.altKey ? FINE_SNAP : SNAP)
          const begin = Number((event.target as HTMLElement).dataset.from)
          const date = (track as HTMLElement).dataset.date ?? ''
          const step = event.altKey ? FINE_SNAP : SNAP
          current.target = { kind: 'hour', date, from: begin, minutes: Math.max(step, end - begin) }
        },
        end: finish,
      },
    })
    return () => pickable.unset()
  }

  function finish(): void {
    const { current } = held
    held.current = null
    holding.value = false
    droppedAt = performance.now()
    const edit = current && editFor(current, options.zone())
    if (current && edit) options.drop(current.item, edit)
  }

  function letGo(event: KeyboardEvent): void {
    if (event.key !== 'Escape' || !held.current) return
    held.current = null
    holding.value = false
    droppedAt = performance.now()
  }

  let detach: (() => void) | null = null
  watch(
    options.root,
    root => {
      detach?.()
      detach = root ? attach(root) : null
    },
    { immediate: true, flush: 'post' },
  )
  window.addEventListener('keydown', letGo)
  onBeforeUnmount(() => {
    detach?.()
    window.removeEventListener('keydown', letGo)
    holding.value = false
  })
  // The click that ends a drag is not a click on the item.
  return { held, justDropped: () => performance.now() - droppedAt < 250 }
}
