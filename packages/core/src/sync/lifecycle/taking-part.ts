import { admits, type FilterTerms, keeps } from '../../filter/filter.ts'
import type { Item } from '../../items/items.ts'
import { DAY_MINUTES, epochOf, MINUTE, type When } from '../../time/when.ts'
import { sameValue, type TaskTime } from '../lenses/index.ts'
import type { Base, DatedBy, Mirror, Rule, Side } from '../model/types.ts'

/** Who takes part in a rule. */

const DAY = DAY_MINUTES * MINUTE

export const isOpen = (item: Item): boolean =>
  item.kind === 'event'
    ? item.status !== 'cancelled'
    : item.status === 'needs-action' || item.status === 'in-process'

const termsOf = (rule: Rule, side: Side, now: number): FilterTerms => ({
  me: rule.terms[side].me,
  now,
  zone: rule.zone,
})

export const isAdmitted = (rule: Rule, side: Side, item: Item, now: number): boolean =>
  admits(rule.settings.filter[side], item, termsOf(rule, side, now))

/**
 * Whether a tied item still takes part. A completed item obeys the rule for completed work only, and the passing
 * of a day removes nothing. A tie follows an item that moves to another list.
 */
export function stays(rule: Rule, side: Side, m: Mirror, now: number): boolean {
  if (m.item.kind === 'task' && m.item.status === 'completed') return true
  if (!keeps(rule.settings.filter[side], m.item, termsOf(rule, side, now))) return false
  return rule.settings.filter[side].every(clause =>
    clause.field !== 'serviceStatus' && clause.field !== 'status'
      ? true
      : admits([clause], m.item, termsOf(rule, side, now)),
  )
}

/** The moment by which the rule's reach is measured. */
function momentOf(rule: Rule, item: Item): When | null {
  return item.kind === 'event' ? item.time.anchor : item[rule.settings.date]
}

export function isOutside(rule: Rule, item: Item, now: number): boolean {
  const when = momentOf(rule, item)
  if (when === null || (rule.kinds.a === 'task' && rule.kinds.b === 'task')) return false
  const at = epochOf(when, rule.zone)
  const { backDays, aheadDays } = rule.settings
  return at < now - backDays * DAY || at > now + aheadDays * DAY
}

/**
 * Whether the item's date is still the one that its ended tie last agreed on. Two lists without a planned time in
 * common agree on the deadline, or on no date at all; then no date can differ.
 */
/** What a rule dates an item by. */
export const datedBy = (rule: Rule, item: Item): DatedBy =>
  item.kind === 'event' ? item.time : item[rule.settings.date]

export function sameDateAs(rule: Rule, side: Side, base: Base, item: Item): boolean {
  const agreed = base.time?.[side]
  if (agreed === undefined)
    return item.kind === 'event' || base.due === undefined || sameValue(base.due[side], item.due)
  const now = datedBy(rule, item)
  const then = item.kind === 'event' ? agreed : ((agreed as TaskTime | null)?.start ?? null)
  return sameValue(now, then)
}
