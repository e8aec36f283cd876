import { type ClothItem, whole } from '@loom/core/view'
import { answer, api } from '../../api/client.ts'

/**
 * The spans that were looked at last, as the server gave them: of one that is known, only what has changed since is
 * asked for, and every other item stays the same object.
 */

interface Known {
  version: string
  items: ReadonlyMap<string, ClothItem>
  /** Which question it came as the answer to. */
  asked: number
}
const MOST_SPANS = 12

export class LookedAt {
  private asked = 0
  private readonly known = new Map<string, Known>()

  async load(from: string, days: number) {
    const span = `${from} ${days}`
    const asked = ++this.asked
    const before = this.known.get(span)
    const query = { from, days: String(days), ...(before && { have: before.version }) }
    const { gone, version, items: lines, ...found } = await answer(() => api.cloth.$get({ query }))
    const items = new Map(gone && before ? before.items : [])
    for (const key of gone ?? []) items.delete(key)
    for (const line of lines) items.set(line.key, whole(line))
    // Answers may overtake each other.
    if ((this.known.get(span)?.asked ?? 0) < asked) {
      this.known.delete(span)
      this.known.set(span, { version, items, asked })
      const [oldest] = this.known.keys()
      if (oldest !== undefined && this.known.size > MOST_SPANS) this.known.delete(oldest)
    }
    return { ...found, items: [...items.values()] }
  }
}
