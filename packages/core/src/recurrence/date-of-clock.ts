import type { When } from '../time/when.ts'

/** A date of the series, named by its RECURRENCE-ID, as a time of the series' own clock. */
export function dateOfClock(anchor: When, id: string): When {
  if (anchor.kind === 'date') return { kind: 'date', date: id.slice(0, 10) }
  const local = id.replace(/Z$/, '')
  return anchor.kind === 'zoned' ? { ...anchor, local } : { kind: 'floating', local }
}
