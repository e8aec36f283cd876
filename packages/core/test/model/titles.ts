import type { Item } from '../../src/index.ts'

/** The model's own small idea of a title and a mark, said without the product's. */

export const marked = (summary: string): boolean => /^\s*✓/.test(summary)
export const bare = (summary: string): string => summary.replace(/^(\s*✓ ?)+/, '')

export const shown = (item: Item): string => (item.kind === 'event' ? bare(item.summary) : item.summary)

export const LABELS = ['Autumn', 'House 3']
