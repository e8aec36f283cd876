import type { Item, ItemPatch } from '../../items/items.ts'
import type { Field } from '../model/settings.ts'
import type { FieldValue, Rule, Side } from '../model/types.ts'
import { completionLens } from './completion.ts'
import type { Lens } from './lens.ts'
import { dueLens, timeLens } from './time.ts'
import { titleLens } from './title.ts'
import { veiledLens } from './veiled.ts'
import { categoriesLens, linkLens, locationLens, notesLens, peopleLens, priorityLens } from './values.ts'

export * from './completion.ts'
export * from './lens.ts'
export * from './mark.ts'
export * from './time.ts'
export * from './title.ts'

/** The fields that two sides of these kinds can have in common. */
export function fieldsFor(kinds: Record<Side, Item['kind']>): Field[] {
  const always: Field[] = [
    'title',
    'time',
    'completion',
    'notes',
    'priority',
    'categories',
    'location',
    'link',
  ]
  return kinds.a === 'task' && kinds.b === 'task' ? [...always, 'due', 'people'] : always
}

const made = new WeakMap<Rule, Lens[]>()

/** The lenses of a rule, one for each field that it carries at all and both services can hold. */
export function lensesOf(rule: Rule): Lens[] {
  const known = made.get(rule)
  if (known) return known
  const { a, b } = rule.terms
  const both = (what: keyof typeof a.canHold): boolean => a.canHold[what] && b.canHold[what]
  const can: Partial<Record<Field, boolean>> = {
    notes: both('notes'),
    priority: both('priority'),
    location: both('location'),
    time: rule.kinds.b === 'event' || both(rule.settings.date),
    due: both('due') && !(rule.settings.date === 'due'),
  }
  const lensFor: Record<Field, () => Lens> = {
    title: () => titleLens(rule),
    time: () => timeLens(rule),
    completion: () => completionLens(rule),
    notes: () => notesLens,
    due: () => dueLens(rule),
    priority: () => priorityLens(rule),
    categories: () => categoriesLens,
    location: () => locationLens,
    people: () => peopleLens(rule),
    link: () => linkLens,
  }
  const lenses = fieldsFor(rule.kinds)
    .filter(f => rule.settings.fields[f] !== 'off' && can[f] !== false)
    .map(f => (rule.veil ? veiledLens(lensFor[f](), rule.veil) : lensFor[f]()))
  made.set(rule, lenses)
  return lenses
}

/** Raw values for some or all of the fields. */
export type Values = Partial<Record<Field, FieldValue>>

/** What to write for these values; `present` is the item being changed. Title and mark share a summary. */
export function patchOf(rule: Rule, side: Side, values: Values, present: Item | null): ItemPatch {
  let patch: ItemPatch = {}
  for (const lens of lensesOf(rule))
    if (lens.field in values) patch = lens.patch(side, values[lens.field], present, patch)
  return patch
}
