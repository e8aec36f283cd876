import type { Mirror, SeenSpan, Side } from './types.ts'

/** The span in which the present values of `props` came about; the latest of them counts. */
export function changeSpan(mirror: Mirror, props: readonly string[]): SeenSpan {
  const never: SeenSpan = { without: 0, with: mirror.firstSeenAt }
  return props
    .map(p => mirror.seen[p] ?? never)
    .reduce((latest, span) => (span.with > latest.with ? span : latest), { without: 0, with: 0 })
}

/**
 * Which edit came later. Spans that overlap cannot be told apart, so the rule's fallback side is kept:
 * guessing by whole seconds of two clocks would be a coin toss dressed as an answer.
 */
export function newest(
  a: SeenSpan,
  b: SeenSpan,
  fallback: Side,
): { side: Side; because: 'newer' | 'fallback' } {
  if (a.with <= b.without) return { side: 'b', because: 'newer' }
  if (b.with <= a.without) return { side: 'a', because: 'newer' }
  return { side: fallback, because: 'fallback' }
}
