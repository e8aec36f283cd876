import type { Item } from '../../items/items.ts'
import type { Tie } from './types.ts'

/**
 * Repeating tasks belong to their service: it advances one in place when a round is completed. If the service
 * tells rounds apart, each is paired by itself, so that a jumping date is distinguished from a completed round.
 */

/** The round a repeating task is in; null for everything else. */
export const roundOf = (item: Item): string | null =>
  item.kind === 'task' && item.recurring ? (item.occurrence ?? null) : null

/** `by-itself`: it repeats, and its rounds cannot be told apart. */
export const repeats = (item: Item): 'no' | 'in-rounds' | 'by-itself' =>
  !item.recurring ? 'no' : roundOf(item) === null ? 'by-itself' : 'in-rounds'

/** Whether the item has gone on to another round than the tie is for. */
export function isOver(tie: Pick<Tie, 'memory'>, item: Item): boolean {
  const round = roundOf(item)
  return round !== null && tie.memory.occurrence !== undefined && tie.memory.occurrence !== round
}

/** The tie, for the round that the item is in unless it is for one already. */
export function withRound(tie: Tie, item: Item): Tie {
  const round = roundOf(item)
  if (round === null || tie.memory.occurrence !== undefined) return tie
  return { ...tie, memory: { ...tie.memory, occurrence: round } }
}

/** When it is and whether it is done belong to a round; all else is the task's in any round. */
export const OF_THE_ROUND: ReadonlySet<string> = new Set(['time', 'due', 'completion'])
