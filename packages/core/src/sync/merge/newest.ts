import type { Lens } from '../lenses/lens.ts'
import type { Mirror, FieldValue, Seen, SeenSpan, Side } from '../model/types.ts'

/** The span in which what a field says on a side came about; of several properties the latest counts. */
export function changeSpan(lens: Lens, side: Side, mirror: Mirror, base: FieldValue | undefined): SeenSpan {
  const { item, seen, firstSeenAt } = mirror
  const now = lens.read(side, item, base)
  return lens.edited[side]
    .map(prop => {
      const { before = [], ...last }: Seen = seen[prop] ?? { without: 0, with: firstSeenAt }
      const saidTheSame = (value: unknown): boolean =>
        lens.same(side, lens.read(side, { ...item, [prop]: value }, base), now)
      // A mark put before a title is no edit of the title: it has been so since before that.
      const other = before.findIndex(b => !saidTheSame(b.value))
      return (other < 0 ? before : before.slice(0, other)).at(-1) ?? last
    })
    .reduce((latest, span) => (span.with > latest.with ? span : latest), { without: 0, with: 0 })
}

/**
 * Which edit came later. If the spans of the two overlap, nobody can tell, and the rule's fallback side is kept:
 * clocks that count whole seconds would give a random answer.
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
