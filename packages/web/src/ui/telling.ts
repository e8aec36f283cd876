import * as words from '@loom/core/view'
import { ref } from 'vue'

/** Times in the format of the person signed in. */

/** Set by the shell from the person's settings. */
export const clock = ref<words.Clock>('24')

export const minuteWords = (minute: number): string => words.minuteWords(minute, clock.value)
export const hourWords = (minute: number): string => words.hourWords(minute, clock.value)
export const clockWords = (epochMs: number, zone: string): string =>
  words.clockWords(epochMs, zone, clock.value)
export const whenWords = (when: words.When | null, zone: string): string =>
  words.whenWords(when, zone, clock.value)
export const valueWords = (value: unknown, zone: string): string | null =>
  words.valueWords(value, zone, clock.value)
