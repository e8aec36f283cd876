import { atMinute } from '../planning/windows.ts'
import { addDays, DAY_MINUTES, dayAt, MINUTE } from '../time/when.ts'
import { capacityOn, type WorkingHours } from '../view/rows.ts'
import type { Stretch } from './free-times.ts'
import { QUARTER_MINUTES } from './quarter.ts'

/**
 * When several people can meet, and what that costs whom. What is free for all within their hours costs nothing; work
 * that may move, an hour outside somebody's own and a late day cost more. Nothing fixed is ever in the way.
 */

export interface Attendant {
  id: string
  hours: WorkingHours
  /** What stays where it is. */
  busy: readonly Stretch[]
  /** Planned work that may go elsewhere; how much it presses, 0 to 100. */
  yields: readonly (Stretch & { key: string; pressure: number })[]
}

export interface CommonTime extends Stretch {
  /** Points: what a day later costs is 2, a piece that presses nothing 5. */
  cost: number
  reasons: CommonReason[]
}
export type CommonReason =
  /** So many minutes of it are outside their hours, which are told in their zone. */
  { kind: 'outside'; person: string; minutes: number } | { kind: 'gives way'; person: string; key: string }

const QUARTER = QUARTER_MINUTES * MINUTE
const MOST_OUTSIDE = 120
const COST = { piece: 5, pressure: 0.5, outside: 0.4, day: 2, notOnTheHalfHour: 1 }

export interface CommonTerms {
  minutes: number
  /** Epoch ms: not before, and over by then. */
  within: Stretch
  /** Only what presses less may give way; 0: nothing does. */
  below: number
  /** How many are wanted. */
  most: number
}

/** The best ones, cheapest first, none over another. Empty where there is none, or nobody to meet. */
export function commonTimes(people: readonly Attendant[], terms: CommonTerms): CommonTime[] {
  const { minutes, within, most } = terms
  if (people.length === 0) return []
  const all = people.map(p => ({ ...p, days: daysOf(p, within) }))
  const found: CommonTime[] = []
  const first = Math.ceil(within.fromMs / QUARTER) * QUARTER
  for (let fromMs = first; fromMs + minutes * MINUTE <= within.toMs; fromMs += QUARTER) {
    const at = costAt(all, { fromMs, toMs: fromMs + minutes * MINUTE }, terms)
    if (at) found.push(at)
  }
  found.sort((x, y) => x.cost - y.cost || x.fromMs - y.fromMs)
  const chosen: CommonTime[] = []
  for (const f of found) {
    if (chosen.length === most) break
    if (chosen.every(c => f.toMs <= c.fromMs || c.toMs <= f.fromMs)) chosen.push(f)
  }
  return chosen
}

/** Null where somebody cannot. */
export const costOf = (
  people: readonly Attendant[],
  span: Stretch,
  terms: Pick<CommonTerms, 'within' | 'below'>,
): CommonTime | null =>
  costAt(
    people.map(p => ({ ...p, days: daysOf(p, span) })),
    span,
    terms,
  )

function costAt(
  people: readonly (Attendant & { days: readonly OpenDay[] })[],
  span: Stretch,
  { within, below }: Pick<CommonTerms, 'within' | 'below'>,
): CommonTime | null {
  const over = (s: Stretch): boolean => s.fromMs < span.toMs && span.fromMs < s.toMs
  const reasons: CommonReason[] = []
  const days = Math.floor((span.fromMs - within.fromMs) / (24 * 60 * MINUTE))
  let cost = days * COST.day + (span.fromMs % (2 * QUARTER) === 0 ? 0 : COST.notOnTheHalfHour)
  for (const { id, days: own, busy, yields } of people) {
    if (busy.some(over)) return null
    const moves = yields.filter(over)
    if (moves.some(m => m.pressure >= below)) return null
    for (const m of moves) {
      cost += COST.piece + COST.pressure * m.pressure
      reasons.push({ kind: 'gives way', person: id, key: m.key })
    }
    const outside = minutesOutside(span, own)
    if (outside === null || outside > MOST_OUTSIDE) return null
    if (outside > 0) {
      cost += COST.outside * outside
      reasons.push({ kind: 'outside', person: id, minutes: outside })
    }
  }
  return { ...span, cost, reasons }
}

/** A day of somebody's, epoch ms; without hours where they do not work. */
interface OpenDay extends Stretch {
  open: Stretch | null
}

function daysOf({ hours }: Attendant, { fromMs, toMs }: Stretch): OpenDay[] {
  const { zone } = hours
  const days: OpenDay[] = []
  for (let date = dayAt(fromMs, zone); ; date = addDays(date, 1)) {
    const day = { fromMs: atMinute(date, 0, zone), toMs: atMinute(date, DAY_MINUTES, zone) }
    if (day.fromMs >= toMs) return days
    const works = capacityOn(hours, date) > 0
    const open = { fromMs: atMinute(date, hours.from, zone), toMs: atMinute(date, hours.to, zone) }
    days.push({ ...day, open: works ? open : null })
  }
}

/** Minutes by which it reaches out of their hours, with the way from these to it; null on a day off. */
function minutesOutside({ fromMs, toMs }: Stretch, days: readonly OpenDay[]): number | null {
  const open = days.find(d => d.fromMs <= fromMs && fromMs < d.toMs)?.open
  if (!open) return null
  return (Math.max(0, open.fromMs - fromMs) + Math.max(0, toMs - open.toMs)) / MINUTE
}
