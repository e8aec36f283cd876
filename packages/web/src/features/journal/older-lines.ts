/**
 * The journal from its newest page down to where somebody has read. New entries push the last ones off the newest
 * page; those are kept with the older pages, so that none is missing in between.
 */
export function olderLines<L extends { id: number }>(
  newest: readonly L[],
  before: { newest: readonly L[]; older: readonly L[] },
): L[] {
  if (before.older.length === 0) return []
  const shown = [...before.newest, ...before.older]
  const last = newest.at(-1)?.id ?? 0
  // Where more has come in than a page holds, it is not known what lies between, and it is asked for again.
  if (!shown.some(l => l.id === last)) return []
  const seen = new Set<number>()
  return shown.filter(l => l.id < last && !seen.has(l.id) && seen.add(l.id))
}
