import type { Field } from '../model/settings.ts'
import type { FieldValue, Rule, Side } from '../model/types.ts'
import type { Lens } from './lens.ts'

/** Of something private, every field but the time is the same for everybody. */

export const BUSY = 'Busy'

const SHOWN: Partial<Record<Field, FieldValue>> = {
  title: BUSY,
  notes: '',
  location: '',
  categories: [],
  people: [],
  link: null,
  due: null,
  priority: 0,
}

/** `of`, so that the side opposite to `from` says what everybody may know. */
export function veiledLens(of: Lens, from: Side): Lens {
  const { field } = of
  if (field === 'time') return of
  const shown = SHOWN[field] ?? null
  const isTitle = field === 'title'
  return {
    field,
    props: of.props,
    edited: of.edited,
    read: (side, item, base) => (isTitle ? item.summary : of.read(side, item, base)),
    same: (_, x, y) => JSON.stringify(x) === JSON.stringify(y),
    put: (side, _, other) => ({ kind: 'value', value: side === from ? shown : other }),
    patch: (side, value, present, patch) =>
      isTitle ? { ...patch, summary: String(value) } : of.patch(side, value, present, patch),
  }
}

const veiledRules = new WeakMap<Rule, Partial<Record<Side, Rule>>>()

/** The rule for pairs whose item on `side` is private. The same object each time, as its lenses are kept by it. */
export function veiledRule(rule: Rule, side: Side | null | undefined): Rule {
  if (!side || rule.veil === side) return rule
  const known = veiledRules.get(rule) ?? {}
  const found = known[side]
  if (found) return found
  const way = side === 'a' ? ('a-to-b' as const) : ('b-to-a' as const)
  const fields = Object.fromEntries(
    Object.entries(rule.settings.fields).map(([field, direction]) => [
      field,
      direction === 'off' || field === 'completion' ? 'off' : way,
    ]),
  ) as Record<Field, typeof way | 'off'>
  const settings = {
    ...rule.settings,
    fields: { ...fields, title: way, time: way },
    subtasks: 'out' as const,
  }
  const veiled: Rule = { ...rule, settings, veil: side }
  veiledRules.set(rule, { ...known, [side]: veiled })
  return veiled
}
