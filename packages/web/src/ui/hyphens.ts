import { shallowRef } from 'vue'

/**
 * Where words may be broken. Not every browser has a dictionary of its own for this, and a word that is broken without a
 * hyphen reads as two. The patterns are fetched once the screen is quiet; until then words stay whole.
 */
export const hyphenated = shallowRef<(text: string, isTight?: boolean) => string>(text => text)

const known = new Map<string, string>()
const MOST_KNOWN = 2_000
/** Shorter words fit on a line of their own, and are read better there; where hardly a word fits, only the shortest do. */
const LEAST = { usual: 10, tight: 5 }

let fetching: Promise<void> | null = null
export function fetchHyphens(): Promise<void> {
  fetching ??= import('hyphen/en-gb').then(({ default: { hyphenateSync } }) => {
    hyphenated.value = (text, isTight = false) => {
      const minWordLength = isTight ? LEAST.tight : LEAST.usual
      const key = `${minWordLength} ${text}`
      const before = known.get(key)
      if (before !== undefined) return before
      const after = hyphenateSync(text, { minWordLength })
      if (known.size >= MOST_KNOWN) known.clear()
      known.set(key, after)
      return after
    }
  })
  return fetching
}
