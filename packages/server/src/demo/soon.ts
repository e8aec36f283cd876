const LOOKS = 120
const LOOK_MS = 500

/** Looks until there is something, for a minute; null then. */
export async function soon<T>(look: () => Promise<T | null>): Promise<T | null> {
  for (let i = 0; i < LOOKS; i++) {
    const found = await look()
    if (found !== null) return found
    await new Promise(resolve => setTimeout(resolve, LOOK_MS))
  }
  return null
}
