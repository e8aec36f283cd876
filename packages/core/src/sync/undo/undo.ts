import { asInPatch, type ItemPatch } from '../../items/items.ts'
import { lensesOf, patchOf, type Values } from '../lenses/index.ts'
import type { BothSides, FieldChange, Mirror, Rule, Side, Tie } from '../model/types.ts'
import type { Field } from '../model/settings.ts'

/** Putting back what a rule wrote: the write that does it, and what of it can no longer be put back. */

export interface Written {
  op: 'create' | 'patch' | 'delete'
  side: Side
  fields: FieldChange[]
}

export type Undo =
  /** Fields that say again what they said before; `skipped` were edited since. */
  | {
      kind: 'patch'
      mirror: Mirror
      patch: ItemPatch
      before: ItemPatch
      fields: FieldChange[]
      skipped: Field[]
      apart: Tie['memory']['apart']
    }
  | { kind: 'delete'; mirror: Mirror }
  /** The item that was removed, made again from the original that was kept. */
  | { kind: 'create' }
  | { kind: 'cannot'; reason: string }

/**
 * How to undo one write, given the present values. A field is put back only if it still has the value written. It
 * is then held apart, so that the rule does not repeat the write at once.
 */
export function undoOf(
  rule: Rule,
  written: Written,
  tie: Tie | null,
  now: Mirror | null,
  other: Mirror | null,
  hasOriginal: boolean,
): Undo {
  const { side, op } = written
  if (op === 'delete') {
    if (now && now.presence !== 'gone') return { kind: 'cannot', reason: 'It is there again already.' }
    return hasOriginal ? { kind: 'create' } : { kind: 'cannot', reason: 'What it held is no longer kept.' }
  }
  if (!now || now.presence === 'gone') return { kind: 'cannot', reason: 'It is no longer there.' }
  if (op === 'create') {
    const edited = editedSince(rule, written, tie, now)
    if (edited.length > 0) return { kind: 'cannot', reason: 'It was changed since it was made.' }
    return { kind: 'delete', mirror: now }
  }
  const values: Values = {}
  const fields: FieldChange[] = []
  const skipped = new Set(editedSince(rule, written, tie, now))
  const apart: Record<string, BothSides> = {}
  for (const { field, before, after } of written.fields) {
    const lens = lensesOf(rule).find(l => l.field === field)
    // What stood there of something private is not told.
    const isHidden = tie?.memory.veil !== undefined && field !== 'time'
    if (!lens || field === 'subtasks' || isHidden || skipped.has(field)) continue
    values[field] = before
    fields.push({ field, before: after, after: before })
    if (!other) continue
    const there = lens.read(
      side === 'a' ? 'b' : 'a',
      other.item,
      tie?.base[field]?.[side === 'a' ? 'b' : 'a'],
    )
    apart[field] = side === 'a' ? { a: before, b: there } : { a: there, b: before }
  }
  if (fields.length === 0) {
    const reason = skipped.size > 0 ? 'It was changed since.' : 'There is nothing in it to put back.'
    return { kind: 'cannot', reason }
  }
  const patch = patchOf(rule, side, values, now.item)
  return {
    kind: 'patch',
    mirror: now,
    patch,
    before: asInPatch(now.item, patch),
    fields,
    skipped: [...skipped],
    apart,
  }
}

/** Fields that no longer say what the write made of them. */
function editedSince(rule: Rule, { side, fields }: Written, tie: Tie | null, now: Mirror): Field[] {
  return fields.flatMap(({ field, after }) => {
    const lens = lensesOf(rule).find(l => l.field === field)
    if (!lens || field === 'subtasks') return []
    const stands = lens.read(side, now.item, tie?.base[field]?.[side])
    return lens.same(side, stands, after) ? [] : [field]
  })
}
