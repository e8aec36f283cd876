import type { EventKind } from './own-layer.ts'

/**
 * The kind of an event, and whether it may be moved, stored as categories (RFC 5545 §3.8.1.2), so that colleagues
 * see them in the calendar too. These marks are ours and not a person's categories.
 */
export const MOVABLE = 'Movable'
export const FIXED = 'Fixed'

const KINDS: Record<string, EventKind> = {
  meeting: 'meeting',
  'task block': 'task block',
  batch: 'batch',
  focus: 'focus',
  break: 'break',
  travel: 'travel',
}
const KIND_WORDS: Partial<Record<EventKind, string>> = {
  meeting: 'Meeting',
  'task block': 'Task block',
  batch: 'Batch',
  focus: 'Focus',
  break: 'Break',
  travel: 'Travel',
}

const plain = (category: string): string => category.trim().toLowerCase()

export const isMovableMark = (category: string): boolean => plain(category) === plain(MOVABLE)
export const isFixedMark = (category: string): boolean => plain(category) === plain(FIXED)
const isKindMark = (category: string): boolean => Object.hasOwn(KINDS, plain(category))

/** The kind that the first category which names one names; null when none does. */
export function kindMarkOf(categories: readonly string[]): EventKind | null {
  const found = categories.map(plain).find(c => Object.hasOwn(KINDS, c))
  return found ? (KINDS[found] ?? null) : null
}

export const isOurMark = (category: string): boolean =>
  isMovableMark(category) || isFixedMark(category) || isKindMark(category)

/** The categories with what is known of kind and movability said among them; others keep their order. */
export function withMarks(
  categories: readonly string[],
  say: { movable?: boolean | null; kind?: EventKind | null },
): string[] {
  const kept = categories.filter(
    c =>
      !(say.movable !== undefined && (isMovableMark(c) || isFixedMark(c))) &&
      !(say.kind !== undefined && isKindMark(c)),
  )
  const kind = say.kind ? KIND_WORDS[say.kind] : undefined
  const movable = say.movable === true ? MOVABLE : say.movable === false ? FIXED : undefined
  return [...kept, ...(kind ? [kind] : []), ...(movable ? [movable] : [])]
}
