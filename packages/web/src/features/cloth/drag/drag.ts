import { type Beside, type ClothItem, type Edit, lengthOf, zoned, wallTime } from '@loom/core/view'
import type interactjs from 'interactjs'
import { useEventListener } from '@vueuse/core'
import { onBeforeUnmount, reactive, type Ref, watch } from 'vue'
import { useLiveState } from '../../../stores/live-state.ts'
import { foundItems } from '../../../stores/found-items.ts'
import { attachDrawing, type Drawn, FINE_SNAP, SNAP } from './draw-span.ts'
import { type Kept, keptBy } from '../data/further-time.ts'

/** Picking up an item, showing where it would land, and what letting go there asks for. */

export type Target =
  /** `row`: whose row it is, where rows are people. */
  | { kind: 'hour'; date: string; row: string; from: number; minutes: number }
  | { kind: 'day'; date: string; row: string }
  /** `beside`: the card under the pointer. */
  | { kind: 'shelf'; beside: Beside | null }
  /** Any day of the week that begins on this Monday. */
  | { kind: 'week'; week: string }
  /** Out of sight until this day. */
  | { kind: 'later'; until: string }
  | { kind: 'batch'; key: string }

export interface Held {
  item: ClothItem
  /** Moved, or made longer or shorter by one of its edges. */
  by: 'whole' | 'start' | 'end'
  /** Something more is made there, and the item stays where it is. */
  copying: boolean
  /** It has its time, and was picked up where it lies besides: an hour is further time for it. */
  further: boolean
  /** Where further time would be kept. */
  kept: Kept
  /** Its length when it was picked up, minutes. */
  usual: number
  x: number
  y: number
  target: Target | null
}

export type Drop =
  | { kind: 'edit'; edit: Edit; row: string | null }
  | { kind: 'copy'; target: Extract<Target, { kind: 'hour' | 'day' }>; kept: Kept }
  | { kind: 'batch'; key: string }
  | { kind: 'order'; beside: Beside }

const LAST = 1440

interface Options {
  root: Ref<HTMLElement | null>
  itemOf: (key: string) => ClothItem | undefined
  axis: () => { from: number; to: number }
  defaultMinutes: () => number
  zone: () => string
  now: () => number
  /** The free stretch round a minute of a row, where one asks for all of it. */
  freeAround: (date: string, row: string, minute: number) => { from: number; to: number } | null
  /** As this person keeps further time, and where else they could. */
  kept: () => Kept
  calendars: () => readonly string[]
  drop: (item: ClothItem, drop: Drop) => void
  draw: (drawn: Drawn) => void
}

export function dropFor(held: Held, zone: string): Drop | null {
  const { target, item } = held
  if (!target) return null
  const edit = (e: Edit, row: string | null = null): Drop => ({ kind: 'edit', edit: e, row })
  if (held.by !== 'whole') {
    if (target.kind !== 'hour') return null
    if (held.by === 'end') return edit({ do: 'lengthen', minutes: target.minutes })
    const start = zoned(`${target.date}T${wallTime(target.from)}:00`, zone)
    return edit({ do: 'place', start, minutes: target.minutes })
  }
  if (target.kind === 'batch') return { kind: 'batch', key: target.key }
  if (target.kind === 'shelf') {
    if (item.place.kind !== 'none') return edit({ do: 'unplace' })
    return target.beside && { kind: 'order', beside: target.beside }
  }
  if (target.kind === 'week') return edit({ do: 'any-day', week: target.week })
  if (target.kind === 'later') return edit({ do: 'put-by', until: target.until })
  if (held.copying || (held.further && target.kind === 'hour'))
    return { kind: 'copy', target, kept: held.kept }
  if (target.kind === 'day') {
    if (item.place.kind === 'day' && item.place.date === target.date) return null
    return edit({ do: 'place', start: { kind: 'date', date: target.date } }, target.row)
  }
  const start = zoned(`${target.date}T${wallTime(target.from)}:00`, zone)
  const minutes = target.minutes === held.usual ? {} : { minutes: target.minutes }
  return edit({ do: 'place', start, ...minutes }, target.row)
}

/** Blocks and batches have no task to lie on the shelf; events have no day without an hour. */
const isTask = (item: ClothItem): boolean => item.kind === 'task' || item.kind === 'tied'

export function useDrag(options: Options): { held: { current: Held | null }; justDropped: () => boolean } {
  const live = useLiveState()
  const held = reactive<{ current: Held | null }>({ current: null })
  let grabbedAt = 0
  let droppedAt = 0

  const minuteAt = (track: Element, x: number, snap: number): number => {
    const { left, width } = track.getBoundingClientRect()
    const { from, to } = options.axis()
    const minute = from + ((x - left) / width) * (to - from)
    return Math.max(0, Math.min(LAST, Math.round(minute / snap) * snap))
  }

  function targetAt(event: Interact.DragEvent, item: ClothItem): Target | null {
    const { clientX: x, clientY: y } = event
    const under = document.elementsFromPoint(x, y)
    const batch = under.map(e => e.closest<HTMLElement>('[data-batch]')).find(e => e !== null)
    if (batch && isTask(item) && batch.dataset.key !== item.key)
      return { kind: 'batch', key: batch.dataset.key ?? '' }
    const zone = under.map(e => e.closest<HTMLElement>('[data-drop]')).find(e => e !== null)
    const { date = '', row = '', drop } = zone?.dataset ?? {}
    if (!zone) return null
    switch (drop) {
      case 'shelf':
        return isTask(item) ? { kind: 'shelf', beside: besideAt(under, y, item.key) } : null
      case 'week':
        return isTask(item) ? { kind: 'week', week: date } : null
      case 'later':
        return isTask(item) ? { kind: 'later', until: date } : null
      case 'day':
        return item.kind === 'block' || item.kind === 'batch' ? null : { kind: 'day', date, row }
      default: {
        if (event.shiftKey) {
          const free = options.freeAround(date, row, minuteAt(zone, x, FINE_SNAP))
          if (free) return { kind: 'hour', date, row, from: free.from, minutes: free.to - free.from }
        }
        const minutes = lengthOf(item, options.defaultMinutes())
        const from = minuteAt(zone, x - grabbedAt, event.altKey ? FINE_SNAP : SNAP)
        return { kind: 'hour', date, row, from: Math.min(from, LAST - SNAP), minutes }
      }
    }
  }

  function besideAt(under: Element[], y: number, own: string): Beside | null {
    const card = under.map(e => e.closest<HTMLElement>('[data-key]')).find(e => e !== null)
    const key = card?.dataset.key
    if (!card || !key || key === own) return null
    const { top, height } = card.getBoundingClientRect()
    return { key, after: y > top + height / 2 }
  }

  function pick(target: EventTarget): ClothItem | undefined {
    const key = (target as HTMLElement).closest<HTMLElement>('[data-key]')?.dataset.key ?? ''
    return options.itemOf(key) ?? foundItems.value.find(i => i.key === key)
  }
  function hold(
    item: ClothItem,
    by: Held['by'],
    event: { clientX: number; clientY: number; target: EventTarget },
  ): void {
    live.holding = true
    const usual = lengthOf(item, options.defaultMinutes())
    const lies = (event.target as HTMLElement).closest('[data-drop="shelf"], [data-drag="found"]') !== null
    // A leftover of a past time gets a new one.
    const ahead = item.place.kind === 'timed' && item.place.endMs > options.now()
    const further = lies && ahead && isTask(item)
    const [x, y] = [event.clientX, event.clientY]
    held.current = { item, by, copying: false, further, kept: options.kept(), usual, x, y, target: null }
  }

  // Fetched while the items are: it is there as soon as there is something to pick up.
  const interacting = import('interactjs')

  function attach(root: HTMLElement): () => void {
    let attached = true
    let detach = attachDrawing(root, { minuteAt, axis: options.axis, draw: options.draw })
    void interacting.then(({ default: interact }) => {
      if (!attached) return
      const [before, picking] = [detach, attachPicking(root, interact)]
      detach = () => (before(), picking())
    })
    return () => {
      attached = false
      detach()
    }
  }

  function attachPicking(root: HTMLElement, interact: typeof interactjs): () => void {
    const draggable: Parameters<Interact.Interactable['draggable']>[0] = {
      ignoreFrom: 'input, .grip',
      autoScroll: true,
      listeners: {
        start(event: Interact.DragEvent) {
          const item = pick(event.target)
          if (!item) return
          const box = event.target.getBoundingClientRect()
          // A block keeps the point it was grabbed by; a task from the shelf is placed by its beginning.
          grabbedAt = event.target.dataset.drag === 'block' ? event.clientX0 - box.left : 0
          hold(item, 'whole', event)
        },
        move(event: Interact.DragEvent) {
          const { current } = held
          if (!current) return
          current.x = event.clientX
          current.y = event.clientY
          current.copying = event.ctrlKey || event.metaKey
          current.target = targetAt(event, current.item)
        },
        end: finish,
      },
    }
    const pickable = interact('[data-drag]', { context: root })
    pickable.draggable(draggable)
    // Search results in the band can be dragged.
    const findable = interact('[data-drag="found"]', { context: document })
    findable.draggable(draggable)
    pickable.resizable({
      edges: { right: '.grip.end', left: '.grip.start' },
      listeners: {
        start(event: Interact.ResizeEvent) {
          const item = pick(event.target)
          if (item) hold(item, event.edges?.left ? 'start' : 'end', event)
        },
        move(event: Interact.ResizeEvent) {
          const { current } = held
          const track = (event.target as HTMLElement).closest<HTMLElement>('[data-drop="hour"]')
          if (!current || !track) return
          const step = event.altKey ? FINE_SNAP : SNAP
          const at = minuteAt(track, event.clientX, step)
          const { from = '0', to = '0' } = (event.target as HTMLElement).dataset
          const { date = '', row = '' } = track.dataset
          const begin = current.by === 'start' ? Math.min(at, Number(to) - step) : Number(from)
          const end = current.by === 'start' ? Number(to) : Math.max(at, Number(from) + step)
          current.target = { kind: 'hour', date, row, from: begin, minutes: end - begin }
        },
        end: finish,
      },
    })
    return () => {
      pickable.unset()
      findable.unset()
    }
  }

  function finish(): void {
    const { current } = held
    held.current = null
    live.holding = false
    droppedAt = performance.now()
    const drop = current && dropFor(current, options.zone())
    if (current && drop) options.drop(current.item, drop)
  }

  function onKey(event: KeyboardEvent): void {
    if (!held.current) return
    const kept = keptBy(event.key, held.current.kept, options.calendars())
    // A key that says something of what is held asks for nothing else.
    if (kept !== held.current.kept) event.stopPropagation()
    held.current.kept = kept
    if (event.key !== 'Escape') return
    held.current = null
    live.holding = false
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
  useEventListener('keydown', onKey, true)
  onBeforeUnmount(() => {
    detach?.()
    live.holding = false
  })
  // The click that ends a drag is not a click on the item.
  return { held, justDropped: () => performance.now() - droppedAt < 250 }
}
