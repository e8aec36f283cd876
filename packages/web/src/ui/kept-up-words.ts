import type { Cause, Kept } from '@loom/core/planning'
import { dayAt, dayWords } from '@loom/core/view'
import { clockWords } from './telling.ts'

/** Why something was moved by itself, or was not, in words. */

/** `Tue 1 Dec 10:00`. */
export const momentWords = (ms: number, zone: string): string =>
  `${dayWords(dayAt(ms, zone))} ${clockWords(ms, zone)}`

/** As the end of a sentence; null for what gave way to another. */
export function causeWords(cause: Cause | null): string {
  switch (cause?.kind) {
    case undefined:
      return 'it made room'
    case 'landed':
      return `“${cause.title}” is there now`
    case 'overran':
      return `“${cause.title}” takes longer`
    case 'deadline':
      return 'its deadline came nearer'
    case 'room':
      return 'there is room before its deadline now'
  }
}

export const askWords: Record<Kept['asks'][number]['because'], string> = {
  'no room': 'there is no other time for it in its windows',
  'too late': 'there is no other time for it before its deadline',
  'moved often': 'it has been moved three times today',
  'back and forth': 'it would go back and forth',
}
