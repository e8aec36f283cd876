import { readFileSync, rmSync, writeFileSync } from 'node:fs'
import { z } from 'zod'

/** What a process that had to end leaves behind for the next one: what it was doing, and why it ended. */
export const LastWords = z.object({ at: z.number(), doing: z.string(), reason: z.string() })
export type LastWords = z.infer<typeof LastWords>

export function leaveLastWords(file: string | null, words: LastWords): void {
  if (file) writeFileSync(file, JSON.stringify(words), { mode: 0o600 })
}

/** Null where the last process ended as it was told to. */
export function readLastWords(file: string | null): LastWords | null {
  if (!file) return null
  try {
    return LastWords.parse(JSON.parse(readFileSync(file, 'utf8')))
  } catch {
    // There are none, or they broke off.
    return null
  }
}

export function forgetLastWords(file: string | null): void {
  if (file) rmSync(file, { force: true })
}
