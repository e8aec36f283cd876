import type { Item, ItemPatch } from '../items/items.ts'
import { epochOf, type When } from '../time/when.ts'

/** What a file brings, whatever its format, and how it compares with what is here. */

/** Fields that a file can bring and a service can be asked to change. */
export type FileField = keyof ItemPatch

export interface FileEntry {
  item: Item
  /** The fields that the file says something about; others stay as they are. */
  says: readonly FileField[]
  /** The calendar object (RFC 5545) it reads as, where it is a series or came as one; it is kept whole. */
  original: string | null
  /** What repeats, in comparable form; null for what does not repeat or does not say. */
  series: string | null
}

/** Something in a file that is left out, and why, as a sentence. */
export interface FileProblem {
  /** A title, a row, a uid: what it is found by. */
  where: string
  reason: string
}

export interface FileContents {
  entries: FileEntry[]
  problems: FileProblem[]
}

export const TASK_FIELDS = [
  'summary',
  'description',
  'status',
  'start',
  'due',
  'estimatedDuration',
  'priority',
  'categories',
  'parent',
  'location',
  'url',
] as const satisfies readonly FileField[]

export const EVENT_FIELDS = [
  'summary',
  'description',
  'location',
  'time',
  'transparency',
  'class',
  'categories',
  'url',
] as const satisfies readonly FileField[]

export const fieldsOf = (kind: Item['kind']): readonly FileField[] =>
  kind === 'task' ? TASK_FIELDS : EVENT_FIELDS

export type Comparison =
  | { kind: 'new' }
  | { kind: 'changed'; patch: ItemPatch; before: ItemPatch }
  | { kind: 'same' }
  /** It is here, but what differs cannot be changed from a file. */
  | { kind: 'apart'; reason: string }

/** Whether both mean the same moment or day, whatever zone they are told in. */
export function sameMoment(x: When | null, y: When | null): boolean {
  if (!x || !y) return x === y
  if (x.kind === 'date' || y.kind === 'date')
    return x.kind === y.kind && JSON.stringify(x) === JSON.stringify(y)
  if (x.kind !== y.kind) return false
  return x.kind === 'floating' ? x.local === y.local : epochOf(x, 'UTC') === epochOf(y, 'UTC')
}

const valueOf = (item: Item, field: FileField): unknown =>
  field === 'location' ? (item.location ?? '') : (item as unknown as Record<string, unknown>)[field]

function sameValue(field: FileField, x: Item, y: Item): boolean {
  if (field === 'time' && x.kind === 'event' && y.kind === 'event')
    return sameMoment(x.time.anchor, y.time.anchor) && x.time.minutes === y.time.minutes
  if ((field === 'start' || field === 'due') && x.kind === 'task' && y.kind === 'task')
    return sameMoment(x[field], y[field])
  const [a, b] = [valueOf(x, field), valueOf(y, field)]
  if (Array.isArray(a) && Array.isArray(b))
    return JSON.stringify([...(a as unknown[])].sort()) === JSON.stringify([...(b as unknown[])].sort())
  return (a ?? null) === (b ?? null)
}

/** How an entry compares with the item of the same uid that is here; null where there is none. */
export function compareEntry(entry: FileEntry, held: Item | null, heldSeries: string | null): Comparison {
  if (!held) return { kind: 'new' }
  if (held.kind !== entry.item.kind)
    return { kind: 'apart', reason: `Here it is ${held.kind === 'task' ? 'a task' : 'an event'}.` }
  if (entry.series !== null && heldSeries !== null && entry.series !== heldSeries)
    return { kind: 'apart', reason: 'It repeats differently here; a series is changed where it lives.' }
  const differing = entry.says.filter(field => !sameValue(field, entry.item, held))
  if (differing.length === 0) return { kind: 'same' }
  const pick = (item: Item): ItemPatch =>
    Object.fromEntries(differing.map(field => [field, valueOf(item, field)])) as ItemPatch
  return { kind: 'changed', patch: pick(entry.item), before: pick(held) }
}
