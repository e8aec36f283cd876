import type { Edit } from '@loom/core/view'

/** Steps back that outlast a reload: those of this tab, of the last hours, and of nobody who has signed out. */

/** What takes something back, told so that it can be kept. */
export type BackStep =
  | { do: 'edits'; title: string; edits: { key: string; edit: Edit; which?: 'one' }[] }
  | { do: 'made'; title: string; intent: string }
  | { do: 'batch'; title: string; key: string; tasks: string[] }
  /** A draft that was applied; `asked`: requests. */
  | { do: 'draft'; title: string; made: string[]; edits: { key: string; edit: Edit }[]; asked?: string[] }

interface Kept {
  text: string
  back: BackStep
  /** Epoch ms. */
  at: number
}

const PLACE = 'loom.steps-back'
const MOST = 50
const KEPT_MS = 8 * 3_600_000

const isKept = (given: unknown): given is Kept =>
  typeof given === 'object' &&
  given !== null &&
  typeof (given as Kept).text === 'string' &&
  typeof (given as Kept).at === 'number' &&
  typeof (given as Kept).back?.do === 'string'

/** The latest last. What cannot be read is nothing. */
export function keptSteps(now: number, storage: Storage | undefined = globalThis.sessionStorage): Kept[] {
  try {
    const given: unknown = JSON.parse(storage?.getItem(PLACE) ?? '[]')
    return Array.isArray(given) ? given.filter(isKept).filter(k => now - k.at < KEPT_MS) : []
  } catch {
    return []
  }
}

/** A full storage keeps nothing more; taking back on this page goes on all the same. */
export function keepSteps(
  steps: readonly Kept[],
  storage: Storage | undefined = globalThis.sessionStorage,
): void {
  try {
    storage?.setItem(PLACE, JSON.stringify(steps.slice(-MOST)))
  } catch {
    storage?.removeItem(PLACE)
  }
}
