import { z } from 'zod'

/** How much of an item, or of a list or calendar, somebody sees; the last is to change it as well. */
export const LEVELS = ['nothing', 'busy', 'title', 'everything', 'change'] as const
export const Level = z.enum(LEVELS)
export type Level = z.infer<typeof Level>

const rank = (level: Level): number => LEVELS.indexOf(level)

export const reaches = (level: Level, wanted: Level): boolean => rank(level) >= rank(wanted)
export const higher = (one: Level, other: Level): Level => (rank(one) >= rank(other) ? one : other)
export const lower = (one: Level, other: Level): Level => (rank(one) <= rank(other) ? one : other)

export const LEVEL_WORDS: Record<Level, { name: string; shows: string }> = {
  nothing: { name: 'nothing', shows: 'not that it is there' },
  busy: { name: 'only busy', shows: 'when time is taken, and not what for' },
  title: { name: 'titles', shows: 'what, when, done or not, fixed or movable' },
  everything: { name: 'everything', shows: 'notes, place and people as well' },
  change: { name: 'may change', shows: 'everything, to move, complete and edit' },
}

export const ONLY_LOOK = 'You may look at this, and not change it.'
