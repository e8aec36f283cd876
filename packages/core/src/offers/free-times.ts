import { atMinute } from '../planning/windows.ts'
import { addDays, dayAt, MINUTE, weekdayOf } from '../time/when.ts'
import { QUARTER_MINUTES } from './quarter.ts'
import type { OfferTerms } from './terms.ts'

/**
 * When a guest may begin. All is counted in quarters of an hour since the epoch, in which every zone of today has its
 * midnights and its changes of the clocks.
 */

export interface Stretch {
  /** Epoch ms. */
  fromMs: number
  toMs: number
}

/** One of those who offer their time. */
export interface HostTime {
  id: string
  /** What takes their time, whatever it is; what is held for other guests too. */
  busy: readonly Stretch[]
  /** Dates on which they do not work. */
  off: readonly string[]
  /** Of each date, in the zone of the offer, how many have booked. */
  booked: ReadonlyMap<string, number>
}

export interface FreeStart {
  startMs: number
  /** Who has time then: one, or all of them, as the offer says; whoever has been booked least on that day first. */
  hosts: string[]
}

const QUARTER = QUARTER_MINUTES * MINUTE
const quarters = (minutes: number): number => minutes / QUARTER_MINUTES

/** The quarters that a meeting holds, with what stays free around it: from the first, without the last. */
export function held(
  { before, after }: Pick<OfferTerms, 'before' | 'after'>,
  { startMs, minutes }: { startMs: number; minutes: number },
): { from: number; to: number } {
  return {
    from: Math.floor(startMs / QUARTER) - quarters(before),
    to: Math.ceil((startMs + minutes * MINUTE) / QUARTER) + quarters(after),
  }
}

/** What is offered from `now` on, notice given; repeating hours by the wall clock of their zone. */
export function offeredSpans({ when, zone, noticeHours }: OfferTerms, now: number): Stretch[] {
  const earliest = now + noticeHours * 60 * MINUTE
  const all =
    when.kind === 'spans'
      ? when.spans
      : Array.from({ length: when.weeks * 7 }, (_, n) => addDays(dayAt(now, zone), n)).flatMap(date =>
          when.hours.flatMap(({ weekdays, start, end }) =>
            weekdays.includes(weekdayOf(date))
              ? [{ fromMs: atMinute(date, start, zone), toMs: atMinute(date, end, zone) }]
              : [],
          ),
        )
  return all.flatMap(({ fromMs, toMs }) => {
    const span = { fromMs: Math.max(fromMs, earliest), toMs }
    return span.fromMs < span.toMs ? [span] : []
  })
}

/** When it is over for good: nothing of it can be booked any more. Null for hours, which go on. */
export const lastOffered = ({ when }: Pick<OfferTerms, 'when'>): number | null =>
  when.kind === 'spans' ? Math.max(...when.spans.map(s => s.toMs)) : null

function takenQuarters(busy: readonly Stretch[], within: { from: number; to: number }): Uint8Array {
  const taken = new Uint8Array(Math.max(0, within.to - within.from))
  for (const { fromMs, toMs } of busy) {
    const from = Math.max(within.from, Math.floor(fromMs / QUARTER))
    const to = Math.min(within.to, Math.ceil(toMs / QUARTER))
    if (to > from) taken.fill(1, from - within.from, to - within.from)
  }
  return taken
}

/**
 * Every beginning that is free for a meeting of so many minutes, in order.
 * @param now epoch ms, by which notice is given
 */
export function freeStarts(
  terms: OfferTerms,
  minutes: number,
  hosts: readonly HostTime[],
  now: number,
): FreeStart[] {
  const spans = offeredSpans(terms, now).map(s => ({
    from: Math.ceil(s.fromMs / QUARTER),
    to: Math.floor(s.toMs / QUARTER),
  }))
  if (spans.length === 0 || hosts.length === 0) return []
  const margin = quarters(Math.max(terms.before, terms.after))
  const within = {
    from: Math.min(...spans.map(s => s.from)) - margin,
    to: Math.max(...spans.map(s => s.to)) + margin,
  }
  const all = hosts.map(host => ({ host, taken: takenQuarters(host.busy, within) }))
  const isFree = ({ host, taken }: (typeof all)[number], start: number, date: string): boolean => {
    const { from, to } = held(terms, { startMs: start * QUARTER, minutes })
    for (let q = from; q < to; q++) if (taken[q - within.from]) return false
    if (terms.mostPerDay !== null && (host.booked.get(date) ?? 0) >= terms.mostPerDay) return false
    return terms.when.kind === 'spans' || !host.off.includes(date)
  }
  const starts = new Map<number, FreeStart>()
  for (const { from, to } of spans)
    for (let start = from; start + quarters(minutes) <= to; start++) {
      if (starts.has(start)) continue
      const date = dayAt(start * QUARTER, terms.zone)
      const free = all.filter(a => isFree(a, start, date)).map(a => a.host)
      if (terms.how === 'all' ? free.length < hosts.length : free.length === 0) continue
      const booked = (h: HostTime): number => h.booked.get(date) ?? 0
      const ids = [...free].sort((x, y) => booked(x) - booked(y)).map(h => h.id)
      starts.set(start, { startMs: start * QUARTER, hosts: ids })
    }
  return [...starts.values()].sort((x, y) => x.startMs - y.startMs)
}
