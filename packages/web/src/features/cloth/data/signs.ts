import type { ClothItem } from '@loom/core/view'

/** The signs of the Cloth: how an item's sources, priority and state are drawn. */

export interface Source {
  id: string
  name: string
  dye: string
  itemKind: 'task' | 'event'
  service: string
  connection: string
  /** Kept in Amber Loom itself. */
  own: number
  owner: string | null
  writable: number
  /** Properties that its service has no room for, or takes from nobody. */
  unsupported: readonly string[]
}

/** A tied pair's edge is woven of both dyes. */
export function edgeOf(dyes: readonly string[]): string {
  const [first = '#44566C', second] = dyes
  return second ? `repeating-linear-gradient(180deg, ${first} 0 4px, ${second} 4px 8px)` : first
}

/** 0–3 stitches for RFC 5545's 1–9. */
export const stitchesOf = (priority: number): number =>
  priority === 0 || priority > 6 ? 0 : priority <= 2 ? 3 : priority <= 4 ? 2 : 1

export const PRIORITY_WORDS = ['', 'low priority', 'medium priority', 'high priority']

/** The lists and calendars that hold it. */
export const storedIn = (item: ClothItem, sources: readonly Source[]): { id: string; words: string }[] =>
  item.sources.flatMap(id => {
    const source = sources.find(s => s.id === id)
    return source ? [{ id, words: `${source.service} · ${source.name}` }] : []
  })

export const sourceWords = (item: ClothItem, sources: readonly Source[]): string =>
  storedIn(item, sources)
    .map(s => s.words)
    .join(' ⇄ ')
