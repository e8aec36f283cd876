import type { Decision, PlannedWrite } from '../model/types.ts'

/** The brake: so many removals in a day look like a mistake, and wait for a person. */

export const BRAKE_WINDOW_MS = 86_400_000

/** Nothing is lost by these: the task still holds what its event did, or its being done was to remove it. */
const HARMLESS: ReadonlySet<Decision['reason']> = new Set([
  'no-hour',
  'no-date',
  'completed',
  'block',
  'promoted',
])

/** What takes something away that is nowhere else any more: an item, or what was written in it. */
export function isRemoval(d: Pick<Decision, 'reason'>, write: PlannedWrite): boolean {
  if (HARMLESS.has(d.reason)) return false
  if (write.op === 'delete') return true
  return (
    write.op === 'patch' &&
    write.fields.some(f => f.field !== 'completion' && isEmpty(f.after) && !isEmpty(f.before))
  )
}

function isEmpty(raw: unknown): boolean {
  if (raw === null || raw === undefined || raw === '') return true
  if (Array.isArray(raw)) return raw.length === 0
  return typeof raw === 'object' && 'start' in raw && (raw as { start: unknown }).start === null
}

export const removalsAllowed = (items: number): number => Math.max(3, Math.floor(items / 10))

export interface BrakeTerms {
  /** How many items a collection holds. */
  sizeOf: (collectionId: string) => number
  /** Removals in it during the last 24 hours, of all rules, those under way among them. */
  recent: (collectionId: string) => number
  /** Ties that a person said yes to. */
  approved: ReadonlySet<string>
  collectionOf: (write: PlannedWrite) => string
  /** What several removals are part of: the dates of one series, which count as one. */
  partOf?: (d: Decision) => string | null
}

/** Those of these decisions by which removals are counted: of what is one removal in many parts, the first. */
export function counted(decisions: readonly Decision[], { partOf }: Pick<BrakeTerms, 'partOf'>): Decision[] {
  const seen = new Set<string>()
  return decisions.filter(d => {
    const whole = d.writes.some(w => isRemoval(d, w)) ? (partOf?.(d) ?? null) : null
    if (whole === null) return true
    const first = !seen.has(whole)
    seen.add(whole)
    return first
  })
}

/**
 * Sets aside the decisions with removals beyond what a day allows. Either all of a collection's removals
 * in this plan may go, or those that are not approved wait together: half of a mistake is a mistake too.
 */
export function brake(
  decisions: readonly Decision[],
  terms: BrakeTerms,
): { go: Decision[]; stopped: Decision[] } {
  const planned = new Map<string, number>()
  const removals = (d: Decision): string[] => d.writes.filter(w => isRemoval(d, w)).map(terms.collectionOf)
  const waits = (d: Decision): boolean => !terms.approved.has(d.tie?.id ?? '')
  for (const d of counted(decisions, terms))
    for (const c of removals(d)) planned.set(c, (planned.get(c) ?? 0) + 1)
  const over = new Set(
    [...planned].filter(([c, n]) => terms.recent(c) + n > removalsAllowed(terms.sizeOf(c))).map(([c]) => c),
  )
  const stopped = decisions.filter(d => waits(d) && removals(d).some(c => over.has(c)))
  const held = new Set(stopped)
  return { go: decisions.filter(d => !held.has(d)), stopped }
}
