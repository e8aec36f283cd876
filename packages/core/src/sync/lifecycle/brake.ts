import type { ItemPatch } from '../../items/items.ts'
import { type Decision, otherSide, type PlannedWrite, type Side } from '../model/types.ts'

/** The brake: so much that goes in a day, or arrives at one look, seems a mistake and waits for a person. */

export const BRAKE_WINDOW_MS = 86_400_000

/** Nothing is lost by these: the task still holds what its event did, or its being done was to remove it. */
const HARMLESS: ReadonlySet<Decision['reason']> = new Set([
  'no-hour',
  'no-date',
  'completed',
  'block',
  'promoted',
])

/**
 * What happens to an item: it is deleted, loses its date or another value, is closed, gets its own status, or
 * goes back to what it said before its service was restored, or stays and is no longer tied to what went.
 */
export type Loss =
  'deleted' | 'undated' | 'emptied' | 'completed' | 'cancelled' | 'restated' | 'restored' | 'let-go'

/** By a write, or by the end of a tie. */
const AFTER_DELETION = /^([ab])-deleted$/

/** The side on which an item went, where the decision is about that. */
export function goneOn(d: Pick<Decision, 'tie' | 'writes'>): Side | null {
  const endings = [d.tie?.released, ...d.writes.map(w => w.release)]
  for (const ending of endings) {
    const side = AFTER_DELETION.exec(ending ?? '')?.[1]
    if (side) return side as Side
  }
  return null
}

/** What a write takes away that is nowhere else any more; null where it takes nothing. */
export function lossBy(d: Pick<Decision, 'reason' | 'overridden'>, write: PlannedWrite): Loss | null {
  if (HARMLESS.has(d.reason)) return null
  if (write.op === 'delete') return 'deleted'
  if (write.op === 'create') return null
  if (d.overridden.some(o => o.because === 'restored' && o.side === write.side)) return 'restored'
  const emptied = write.fields.find(f => f.field !== 'completion' && isEmpty(f.after) && !isEmpty(f.before))
  if (emptied) return emptied.field === 'time' ? 'undated' : 'emptied'
  // What is closed because its counterpart went, or left the filter.
  const ends = write.release === 'left' || AFTER_DELETION.test(write.release ?? '')
  return ends && write.fields.some(f => f.field === 'completion') ? closedBy(write.patch) : null
}

function closedBy({ status, eventStatus, serviceStatus }: ItemPatch): Loss {
  if (status === 'cancelled' || eventStatus === 'cancelled') return 'cancelled'
  return serviceStatus !== undefined && status === undefined ? 'restated' : 'completed'
}

export const isRemoval = (d: Pick<Decision, 'reason' | 'overridden'>, write: PlannedWrite): boolean =>
  lossBy(d, write) !== null

/** What a decision comes to, where it takes something away or lets it go, and on which side; else null. */
export function lossOf(d: Decision): { loss: Loss; side: Side } | null {
  for (const write of d.writes) {
    const loss = lossBy(d, write)
    if (loss) return { loss, side: write.side }
  }
  const gone = d.effect === 'release' && !HARMLESS.has(d.reason) ? goneOn(d) : null
  return gone && { loss: 'let-go', side: otherSide(gone) }
}

function isEmpty(raw: unknown): boolean {
  if (raw === null || raw === undefined || raw === '') return true
  if (Array.isArray(raw)) return raw.length === 0
  return typeof raw === 'object' && 'start' in raw && (raw as { start: unknown }).start === null
}

export const removalsAllowed = (items: number): number => Math.max(3, Math.floor(items / 10))

export const creationsAllowed = (items: number): number => Math.max(20, Math.floor(items / 10))

export interface BrakeTerms {
  /** How many items a collection holds. */
  sizeOf: (collectionId: string) => number
  /** What went from it during the last 24 hours, by all rules; removals that are being written included. */
  recent: (collectionId: string) => number
  /** How many of the items that arrived in a collection at one look this rule has tied already. */
  tiedOf: (collectionId: string, arrivedAt: number) => number
  /** Ties that a person said yes to. */
  approved: ReadonlySet<string>
  /** Ties of counterparts that a person does not want. */
  declined: ReadonlySet<string>
  collectionOf: (write: PlannedWrite) => string
  collectionOfMirror: (mirrorId: string) => string
  /** What several removals are part of: the dates of one series, which count as one. */
  partOf?: (d: Decision) => string | null
}

/** Those of these decisions by which losses are counted: of what is one in many parts, the first. */
export function counted(decisions: readonly Decision[], { partOf }: Pick<BrakeTerms, 'partOf'>): Decision[] {
  const seen = new Set<string>()
  return decisions.filter(d => {
    const whole = lossOf(d) ? (partOf?.(d) ?? null) : null
    if (whole === null) return true
    const first = !seen.has(whole)
    seen.add(whole)
    return first
  })
}

/**
 * More counterparts of new items than one reading allows, from an import or a list filled at once. A person is
 * asked.
 */
function overCreations(decisions: readonly Decision[], terms: BrakeTerms): Set<Decision> {
  const looks = new Map<string, { from: string; arrived: number; made: Decision[]; wholes: Set<string> }>()
  for (const d of decisions) {
    const id = d.a ?? d.b
    if (d.arrived === undefined || id === null) continue
    const from = terms.collectionOfMirror(id)
    const key = `${from} ${d.arrived}`
    const look = looks.get(key) ?? { from, arrived: d.arrived, made: [], wholes: new Set() }
    look.made.push(d)
    look.wholes.add(terms.partOf?.(d) ?? id)
    looks.set(key, look)
  }
  const over = [...looks.values()].filter(({ from, arrived, wholes }) => {
    const all = wholes.size + terms.tiedOf(from, arrived)
    return all > creationsAllowed(terms.sizeOf(from) - all)
  })
  return new Set(over.flatMap(({ made }) => made))
}

/**
 * Holds back decisions if more would be lost than a day allows, counted for the collection in which items were
 * deleted and for the one in which others would follow. All of a collection's losses in this plan go on together
 * or wait together, because half of a mistake is a mistake too.
 */
export function brake(
  decisions: readonly Decision[],
  terms: BrakeTerms,
): { go: Decision[]; stopped: Decision[]; declined: Decision[] } {
  const goneFrom = (d: Decision): string | null => {
    const side = lossOf(d) ? goneOn(d) : null
    const id = side && d[side]
    return id ? terms.collectionOfMirror(id) : null
  }
  const placesOf = (d: Decision): Set<string> => {
    const written = d.writes.filter(w => isRemoval(d, w)).map(terms.collectionOf)
    const gone = goneFrom(d)
    return new Set(gone === null ? written : [...written, gone])
  }
  const waits = (d: Decision): boolean => !terms.approved.has(d.tie?.id ?? '')
  const planned = new Map<string, number>()
  /** What is not there any more was there a day ago. */
  const wasThere = new Map<string, number>()
  const add = (to: Map<string, number>, c: string): void => void to.set(c, (to.get(c) ?? 0) + 1)
  for (const d of counted(decisions, terms)) {
    for (const c of placesOf(d)) add(planned, c)
    const gone = goneFrom(d)
    if (gone !== null) add(wasThere, gone)
  }
  const over = new Set(
    [...planned]
      .filter(([c, n]) => {
        const recent = terms.recent(c)
        return recent + n > removalsAllowed(terms.sizeOf(c) + recent + (wasThere.get(c) ?? 0))
      })
      .map(([c]) => c),
  )
  const isDeclined = (d: Decision): boolean => d.arrived !== undefined && terms.declined.has(d.tie?.id ?? '')
  const declined = decisions.filter(isDeclined)
  const wanted = decisions.filter(d => !isDeclined(d))
  const tooMany = overCreations(wanted, terms)
  const stopped = wanted.filter(
    d => waits(d) && (tooMany.has(d) || (lossOf(d) && [...placesOf(d)].some(c => over.has(c)))),
  )
  const held = new Set(stopped)
  return { go: wanted.filter(d => !held.has(d)), stopped, declined }
}
