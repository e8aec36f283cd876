import { type ClothItem, whole } from '@loom/core/view'
import { answer, api } from '../../../api/client.ts'

/**
 * The spans looked at last, as the server gave them. For a known span only changes are asked for, and every other
 * item stays the same object; if nothing changed, so does the whole.
 */

const ask = (query: { from: string; days: string; have?: string }) => answer(() => api.cloth.$get({ query }))
type Answer = Awaited<ReturnType<typeof ask>>
export type Looked = Pick<Answer, 'sources' | 'people' | 'beyond' | 'me' | 'zone' | 'defaultMinutes'> & {
  items: readonly ClothItem[]
}

interface Known {
  version: string
  looked: Looked
  /** Which question it came as the answer to. */
  asked: number
}
const MOST_SPANS = 12

const same = (one: unknown, other: unknown): boolean => JSON.stringify(one) === JSON.stringify(other)

export class DaysCache {
  private asked = 0
  private readonly known = new Map<string, Known>()

  async load(from: string, days: number): Promise<Looked> {
    const span = `${from} ${days}`
    const asked = ++this.asked
    const before = this.known.get(span)
    const { version, ...told } = await ask({
      from,
      days: String(days),
      ...(before && { have: before.version }),
    })
    const looked = after(before?.looked ?? null, told)
    // Answers may overtake each other.
    if ((this.known.get(span)?.asked ?? 0) < asked) {
      this.known.delete(span)
      this.known.set(span, { version, looked, asked })
      const [oldest] = this.known.keys()
      if (oldest !== undefined && this.known.size > MOST_SPANS) this.known.delete(oldest)
    }
    return looked
  }
}

function after(before: Looked | null, told: Omit<Answer, 'version'>): Looked {
  const { items: lines, gone, sources, people, beyond, me, zone, defaultMinutes } = told
  const about = { sources, people, beyond, me, zone, defaultMinutes }
  if (!before || !gone) return { ...about, items: lines.map(whole) }
  if (lines.length === 0 && gone.length === 0) {
    const { items, ...was } = before
    return same(was, about) ? before : { ...about, items }
  }
  const items = new Map(before.items.map(i => [i.key, i]))
  for (const key of gone) items.delete(key)
  for (const line of lines) items.set(line.key, whole(line))
  return { ...about, items: [...items.values()] }
}
