import { ENTRY_SOURCES, type EntrySource, type EntryTime, minutesOf } from './entry.ts'

/**
 * Each minute of a person counts once: for what was said by hand, else what a clock measured, else worked blocks, else
 * meetings. Of two of one source the one that somebody said has it before the one that is assumed, then that of the
 * earlier beginning, then the smaller id. What has minutes only lies nowhere, and counts as a whole.
 */

export interface Countable {
  id: string
  time: EntryTime
  source: EntrySource
  assumed: boolean
}

interface Span {
  from: number
  to: number
}

/** Minutes that count, by entry id, of all entries of one person that meet. */
export function countedOnce(entries: readonly Countable[]): Map<string, number> {
  const rank = new Map(ENTRY_SOURCES.map((s, at) => [s, at]))
  const counted = new Map<string, number>()
  const spans: (Span & { id: string; rank: number })[] = []
  for (const { id, time, source, assumed } of entries)
    if ('minutes' in time) counted.set(id, minutesOf(time))
    else
      spans.push({
        id,
        from: time.fromMs,
        to: time.toMs,
        rank: 2 * (rank.get(source) ?? 0) + Number(assumed),
      })
  spans.sort((x, y) => x.rank - y.rank || x.from - y.from || (x.id < y.id ? -1 : 1))
  // What is taken, apart from one another and in order.
  let taken: Span[] = []
  for (const span of spans) {
    const free = taken.reduce((rest, t) => rest - overlap(t, span), span.to - span.from)
    counted.set(span.id, Math.round(free / 60_000))
    taken = joined(taken, span)
  }
  return counted
}

const overlap = (x: Span, y: Span): number => Math.max(0, Math.min(x.to, y.to) - Math.max(x.from, y.from))

/** The spans with one more; those that touch it become one. */
function joined(spans: readonly Span[], { from, to }: Span): Span[] {
  const before = spans.filter(s => s.to < from)
  const after = spans.filter(s => s.from > to)
  const touching = spans.filter(s => s.to >= from && s.from <= to)
  const one = {
    from: Math.min(from, ...touching.map(s => s.from)),
    to: Math.max(to, ...touching.map(s => s.to)),
  }
  return [...before, one, ...after]
}
