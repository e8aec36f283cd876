import {
  type Base,
  type Decision,
  type FieldChange,
  type Mirror,
  otherSide,
  type Rule,
  type Side,
  type Tie,
} from '../model/types.ts'
import { lensesOf, UNSETTLED } from '../lenses/index.ts'
import { BUSY, veiledRule } from '../lenses/veiled.ts'

/**
 * A private event shows the other side its time and “Busy”, one way only. The side that the work comes from
 * decides what is private; the word “Busy” never travels back.
 */

const isPrivate = ({ item }: Mirror): boolean => item.kind === 'event' && item.class !== 'public'

/** The side of something new that is private. */
export const veilOfNew = (rule: Rule, side: Side, m: Mirror): Side | null =>
  rule.settings.privateItems === 'busy' && isPrivate(m) ? side : null

/** The side whose item is private now, of a pair that comes from there. */
function veilOf(rule: Rule, tie: Tie, sides: Record<Side, Mirror>): Side | null {
  const { origin } = tie.memory
  return origin ? veilOfNew(rule, origin, sides[origin]) : null
}

/**
 * The rule and tie that a pair is planned with. If the event has become private, or is no longer, all fields are
 * taken again from the side it comes from.
 */
export function underVeil(
  rule: Rule,
  tie: Tie,
  sides: Record<Side, Mirror>,
): { rule: Rule; tie: Tie; turned: boolean } {
  const veil = veilOf(rule, tie, sides)
  const own = veiledRule(rule, veil)
  if ((tie.memory.veil ?? null) === veil) return { rule: own, tie, turned: false }
  const { veil: _, owed: __, apart: ___, ...memory } = tie.memory
  const from = tie.memory.origin ?? 'a'
  const to = otherSide(from)
  const base: Base = tie.base.time ? { time: tie.base.time } : {}
  for (const lens of lensesOf(own)) {
    if (lens.field === 'time') continue
    const there = lens.read(to, sides[to].item, undefined)
    // Where a field goes against that side, what stands there now is taken for agreed.
    const against = own.settings.fields[lens.field] === (from === 'a' ? 'b-to-a' : 'a-to-b')
    const here = against ? lens.read(from, sides[from].item, undefined) : UNSETTLED
    base[lens.field] = from === 'a' ? { a: here, b: there } : { a: there, b: here }
  }
  return { rule: own, tie: { ...tie, base, memory: { ...memory, ...(veil && { veil }) } }, turned: true }
}

/** The words shown for a decision about something private, and what its event says about who may see it. */
export function veiled(d: Decision, rule: Rule, sides: Record<Side, Mirror>, turned: boolean): Decision {
  const { veil } = rule
  if (!veil && !turned) return d
  const origin = d.tie?.memory.origin
  const seen = (f: FieldChange, side: Side): FieldChange =>
    f.field === 'time' ? f : { ...f, before: null, after: side === veil ? null : f.after }
  const source = origin && sides[origin].item
  const writes = d.writes.map(w => {
    const fields = veil ? w.fields.map(f => seen(f, w.side)) : w.fields
    const isTold =
      w.op === 'patch' && turned && source?.kind === 'event' && sides[w.side].item.kind === 'event'
    return isTold && w.side !== origin
      ? { ...w, fields, patch: { ...w.patch, class: source.class } }
      : { ...w, fields }
  })
  return { ...d, ...(veil && { title: BUSY }), writes }
}
