import type {
  DraftPiece,
  MayMove,
  PieceOf,
  PinnedPiece,
  Planned,
  PlanSpan,
  Remedy,
  TeamTold,
} from '@loom/core/planning'
import { type ClothItem, type Edit, epochOf } from '@loom/core/view'
import { computed, inject, type InjectionKey, provide, ref, shallowRef } from 'vue'
import { pieceKey, sameIn, withDraft } from './drafted-items.ts'

/** The draft that is on the Cloth, and what was said of it by hand. Nothing of it is written before it is applied. */

/** Of a regular: on that day. */
export interface LeftOut {
  id: string
  regular: { id: string; date: string } | null
  title: string
}

export type PinnedOf = PinnedPiece & { person: string }

export type AskedWindow =
  | { id: string; date: string }
  /** Minutes after midnight. */
  | { id: null; date: string; name: string; start: number; end: number }

export type DraftState = ReturnType<typeof useDraft>

const MINUTE = 60_000

export function useDraft() {
  const isOpen = ref(false)
  /** Asked for once; it is not kept for the next time. */
  const only = ref<PlanSpan | null>(null)
  /** A work window that is to be changed, on that day; a new one, where it has no id. */
  const window = ref<AskedWindow | null>(null)
  const told = shallowRef<TeamTold | null>(null)
  const names = shallowRef<ReadonlyMap<string, string>>(new Map())
  const tasks = shallowRef<ReadonlyMap<string, ClothItem>>(new Map())
  /** Of what may be moved, where it is. */
  const planned = shallowRef<readonly Planned[]>([])
  const pinned = ref<PinnedOf[]>([])
  const leftOut = ref<LeftOut[]>([])
  /** The key of the piece whose reasons are open; or the id of what is not placed. */
  const selected = ref<string | null>(null)

  const givingWay = computed(() => pinned.value.flatMap(p => (p.givesWay ? [p.id] : [])))
  const anew = computed(() => new Set([...planned.value.map(p => p.key), ...givingWay.value]))
  const pieces = computed(() => new Map((told.value?.pieces ?? []).map(p => [pieceKey(p), p])))
  const pieceOf = (key: string): PieceOf | undefined => pieces.value.get(key)

  /** What is open stays open while it is looked for a better place for it. */
  function tell(so: TeamTold): void {
    const was = selected.value === null ? undefined : pieceOf(selected.value)
    told.value = so
    if (!was) return
    const now = sameIn(was, so.pieces)
    selected.value = now && pieceKey(now)
  }
  /** Returns the key it has from then on. */
  function pin(piece: PieceOf, at: { fromMs: number; toMs: number }): string {
    const rest = pinned.value.filter(p => !(p.id === piece.id && p.fromMs === piece.fromMs))
    const id = piece.regular === null || piece.isPinned ? piece.id : `${piece.id} pinned ${at.fromMs}`
    const moved: PinnedOf = {
      id,
      regular: piece.regular,
      person: piece.person,
      ...at,
      ...(piece.givesWay && { givesWay: true }),
    }
    pinned.value = [...rest, moved]
    // Shown at once where it was put; the rest follows.
    if (told.value) {
      const others = told.value.pieces.filter(p => p !== piece)
      told.value = { ...told.value, pieces: [...others, { ...moved, isPinned: true }] }
    }
    if (selected.value === pieceKey(piece)) selected.value = pieceKey(moved)
    return pieceKey(moved)
  }
  /** Holds what of a task has no place yet where it was found to have one. */
  /** Something that stands gives way: it is drafted where it goes, and is back where it was as soon as that is not wanted. */
  function giveWay(person: string, { key, fromMs, toMs }: MayMove): void {
    const others = pinned.value.filter(p => p.id !== key)
    pinned.value = [...others, { id: key, regular: null, person, fromMs, toMs, givesWay: true }]
  }
  function pinAt(person: string, id: string, spans: readonly { fromMs: number; toMs: number }[]): void {
    const more = spans.map(({ fromMs, toMs }): PinnedOf => ({ person, id, regular: null, fromMs, toMs }))
    pinned.value = [...pinned.value.filter(p => p.id !== id), ...more]
  }
  /** Until something else is asked for, the draft that was tried is the one that is shown. */
  const asTried = ref(false)
  /** What of a task was found a place, with what gives way for it; nothing else of the draft moves. */
  function take(person: string, id: string, remedy: Remedy): void {
    if (remedy.kind === 'moving') giveWay(person, remedy.what)
    pinAt(person, id, remedy.pieces)
    // Whoever loses by it is looked for another place.
    if (!told.value || remedy.kind === 'instead of') return
    asTried.value = true
    const fresh = pinned.value.filter(
      p => p.id === id || (remedy.kind === 'moving' && p.id === remedy.what.key),
    )
    const rest = told.value.pieces.filter(p => !fresh.some(f => f.id === p.id))
    const pieces = [...rest, ...fresh.map(p => ({ ...p, isPinned: true }))].sort(
      (x, y) => x.fromMs - y.fromMs,
    )
    told.value = { ...told.value, pieces, notPlaced: told.value.notPlaced.filter(n => n.id !== id) }
  }
  function unpin(piece: PieceOf): void {
    pinned.value = pinned.value.filter(p => !(p.id === piece.id && p.fromMs === piece.fromMs))
  }
  function leave(out: LeftOut): void {
    const isBack = pinned.value.some(p => p.id === out.id && p.givesWay)
    pinned.value = pinned.value.filter(p => p.id !== out.id)
    if (!isBack) leftOut.value = [...leftOut.value, out]
    selected.value = null
  }
  function takeIn(out: LeftOut): void {
    leftOut.value = leftOut.value.filter(o => o !== out)
  }
  /** What an edit of an item would do to it, done to the piece: moved or made longer it is pinned. Null where it means nothing. */
  function edit(piece: PieceOf, what: Edit, zone: string): string | null {
    const length = piece.toMs - piece.fromMs
    if (what.do === 'place' && what.start.kind !== 'date') {
      const fromMs = epochOf(what.start, zone)
      return pin(piece, {
        fromMs,
        toMs: fromMs + (what.minutes === undefined ? length : what.minutes * MINUTE),
      })
    }
    if (what.do !== 'lengthen') return null
    return pin(piece, { fromMs: piece.fromMs, toMs: piece.fromMs + what.minutes * MINUTE })
  }
  /** These have become real. */
  function applied(done: readonly Pick<DraftPiece, 'id' | 'fromMs'>[]): void {
    const is = (p: Pick<DraftPiece, 'id' | 'fromMs'>): boolean =>
      done.some(o => o.id === p.id && o.fromMs === p.fromMs)
    pinned.value = pinned.value.filter(p => !is(p))
    if (told.value) told.value = { ...told.value, pieces: told.value.pieces.filter(p => !is(p)) }
  }
  const select = (key: string | null): void => void (selected.value = key)
  function close(): void {
    isOpen.value = false
    only.value = null
    window.value = null
    told.value = null
    planned.value = []
    pinned.value = []
    leftOut.value = []
    selected.value = null
  }

  const draft = {
    isOpen,
    only,
    window,
    windowDone: () => void (window.value = null),
    told,
    names,
    tasks,
    planned,
    pinned,
    leftOut,
    selected,
    pieceOf,
    tell,
    pin,
    take,
    asTried,
    givingWay,
    unpin,
    leave,
    takeIn,
    edit,
    applied,
    select,
    close,
    onto: (items: ClothItem[]): ClothItem[] =>
      told.value
        ? withDraft(items, {
            told: told.value,
            names: names.value,
            tasks: tasks.value,
            anew: anew.value,
          })
        : items,
  }
  return draft
}

const KEY: InjectionKey<Pick<DraftState, 'pieceOf'>> = Symbol('draft')
export const provideDraft = (draft: DraftState): void => provide(KEY, draft)
/** Where there is no draft, nothing is of it. */
export const usePieces = (): Pick<DraftState, 'pieceOf'> => inject(KEY, { pieceOf: () => undefined })
