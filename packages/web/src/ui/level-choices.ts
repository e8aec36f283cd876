import { type Level, LEVEL_WORDS, LEVELS } from '@loom/core/view'

/** The levels as the words of a sentence: "colleagues see … of it". */
export const LEVEL_CHOICES: { value: Level; label: string }[] = LEVELS.map(value => ({
  value,
  label: value === 'change' ? 'everything, and may change it' : LEVEL_WORDS[value].name,
}))
