import type { Field } from '../model/settings.ts'
import { fieldsFor } from '../lenses/index.ts'
import type { Rule, Side } from '../model/types.ts'

/** Rules that meet: what goes round a ring of them must come back as it was. */

/** A step of a chain: a rule, taken from one of its sides to the other. */
export interface Step<R> {
  rule: R
  from: Side
}
type Edge = Step<Pick<Rule, 'id' | 'kinds' | 'collections' | 'settings'>>

const travels = (edge: Edge, field: Field): boolean => {
  const direction = edge.rule.settings.fields[field]
  return direction === 'both' || direction === (edge.from === 'a' ? 'a-to-b' : 'b-to-a')
}

/** Whether a rule hands a field on unchanged. */
function isIdentity({ rule }: Edge, field: Field): boolean {
  const { settings, kinds } = rule
  if (field === 'title') return settings.title === '{title}'
  if (field === 'priority') {
    const { priorities } = settings
    return priorities.every(
      p => priorities.filter(q => q.a === p.a || q.b === p.b).length === 1 && p.a === p.b,
    )
  }
  if (field === 'time' && kinds.a !== kinds.b) return settings.date === 'start' || settings.dueIs === 'start'
  if (field === 'completion' && kinds.a !== kinds.b)
    return settings.completed === 'mark' || settings.completed === 'remove'
  return true
}

/** Which date of a task its `time` is, as far as a rule with tasks goes; null where it has none. */
const dateOf = ({ rule }: Edge): string | null => (rule.kinds.a === 'task' ? rule.settings.date : null)

/** Every ring of rules through which something can come back to where it began; each once. */
export function ringsOf<R extends Pick<Rule, 'id' | 'collections'>>(rules: readonly R[]): Step<R>[][] {
  const rings = new Map<string, Step<R>[]>()
  const meets = (x: readonly string[], y: readonly string[]): boolean => x.some(c => y.includes(c))
  const walk = (start: readonly string[], at: readonly string[], path: Step<R>[]): void => {
    if (path.length > 8) return
    for (const rule of rules) {
      if (path.some(e => e.rule.id === rule.id)) continue
      for (const from of ['a', 'b'] as const) {
        if (!meets(rule.collections[from], at)) continue
        const to = rule.collections[from === 'a' ? 'b' : 'a']
        const next = [...path, { rule, from }]
        if (next.length > 1 && meets(to, start)) {
          const key = next
            .map(e => e.rule.id)
            .sort()
            .join(' ')
          if (!rings.has(key)) rings.set(key, next)
        } else walk(start, to, next)
      }
    }
  }
  for (const rule of rules) walk(rule.collections.a, rule.collections.b, [{ rule, from: 'a' }])
  return [...rings.values()]
}

export interface RingTrouble {
  field: Field
  rules: string[]
}

/** Fields that would come back from their way round as something else. */
export function ringTroubles(rules: readonly Edge['rule'][]): RingTrouble[] {
  return ringsOf(rules).flatMap(ring => {
    const fields = new Set(ring.flatMap(e => fieldsFor(e.rule.kinds)))
    return [...fields].flatMap(field => {
      const both = [ring, ring.map((e): Edge => ({ ...e, from: e.from === 'a' ? 'b' : 'a' })).reverse()]
      const comesBack = both.some(way => way.every(e => travels(e, field)))
      if (!comesBack) return []
      const dates = new Set(ring.map(dateOf).filter(d => d !== null))
      const same = ring.every(e => isIdentity(e, field)) && (field !== 'time' || dates.size <= 1)
      return same ? [] : [{ field, rules: ring.map(e => e.rule.id) }]
    })
  })
}
