import { CategoryNames, type ClothItem, whole } from '@loom/core/view'
import { answer, api } from '../../../api/client.ts'

/**
 * The spans looked at last, as the server gave them. For a known span only changes are asked for, and every other
 * item stays the same object; if nothing changed, so does the whole.
 */

const ask = (query: { from: string; days: string; have?: string; as?: string }) =>
  answer(() => api.cloth.$get({ query }))
type Answer = Awaited<ReturnType<typeof ask>>
export type Looked = Pick<
  Answer,
  'sources' | 'people' | 'categories' | 'beyond' | 'me' | 'zone' | 'defaultMinutes'
> & {
  items: readonly ClothItem[]
}

interface Known {
  version: string
  /** As services say them; `looked` has them by our names. */
  items: readonly ClothItem[]
  looked: Looked
  /** Which question it came as the answer to. */
  asked: number
}
const MOST_SPANS = 12

const same = (one: unknown, other: unknown): boolean => JSON.stringify(one) === JSON.stringify(other)

/**
 * What a page asks for first comes with it; where it begins with other days after all, that answer is kept by the browser
 * for whoever asks for the same, however old it is by then. Whatever is asked later is asked in other words.
 */
const have = (before: Known | undefined, isFirst: boolean): { have?: string } =>
  before ? { have: before.version } : isFirst ? {} : { have: 'nothing' }

export class DaysCache {
  private asked = 0
  private readonly known = new Map<string, Known>()

  /** What the person may see at all was this when they were answered last. */
  private sight: string | null = null

  /**
   * @param onlyLooks whoever asks can change nothing of it
   * @param onOtherSight something was shared with them or is no longer: nothing of before is to stay
   * @param comesWithPage its first answer is what the page came with: only of what the page shows first
   */
  constructor(
    private readonly onlyLooks: () => boolean = () => false,
    private readonly onOtherSight: () => void = () => undefined,
    private readonly comesWithPage = false,
  ) {}

  /** @param as the colleague as whom one looks; null for oneself */
  async load(from: string, days: number, as: string | null = null): Promise<Looked> {
    const span = `${from} ${days} ${as ?? ''}`
    const asked = ++this.asked
    const before = this.known.get(span)
    const { version, ...told } = await ask({
      from,
      days: String(days),
      ...have(before, this.comesWithPage && asked === 1),
      ...(as !== null && { as }),
    })
    const read = this.onlyLooks() ? toLookAt : whole
    const isOther = as === null && this.sight !== null && this.sight !== told.sight
    if (as === null) this.sight = told.sight
    if (isOther) {
      this.known.clear()
      this.onOtherSight()
    }
    const items = after((isOther ? null : before?.items) ?? null, told, read)
    const looked = lookedAt((isOther ? null : before) ?? null, items, told)
    // Answers may overtake each other.
    if ((this.known.get(span)?.asked ?? 0) < asked) {
      this.known.delete(span)
      this.known.set(span, { version, items, looked, asked })
      const [oldest] = this.known.keys()
      if (oldest !== undefined && this.known.size > MOST_SPANS) this.known.delete(oldest)
    }
    return looked
  }
}

type Told = Omit<Answer, 'version'>

const toLookAt = (line: Parameters<typeof whole>[0]): ClothItem => {
  const item = whole(line)
  return {
    ...item,
    movable: false,
    movableByOthers: item.movable || item.movableByOthers,
    onlyLook: true,
    completable: false,
  }
}

function after(
  before: readonly ClothItem[] | null,
  { items: lines, gone }: Told,
  read: typeof whole,
): readonly ClothItem[] {
  if (!before || !gone) return lines.map(line => read(line))
  if (lines.length === 0 && gone.length === 0) return before
  const items = new Map(before.map(i => [i.key, i]))
  for (const key of gone) items.delete(key)
  for (const line of lines) items.set(line.key, read(line))
  return [...items.values()]
}

function lookedAt(before: Known | null, items: readonly ClothItem[], told: Told): Looked {
  const { sources, people, categories, beyond, me, zone, defaultMinutes } = told
  const about = { sources, people, categories, beyond, me, zone, defaultMinutes }
  if (!before) return { ...about, items: named(items, categories) }
  const { items: shown, ...was } = before.looked
  const isAbout = same(was, about)
  if (isAbout && items === before.items) return before.looked
  const isNamed = items === before.items && same(was.categories, categories)
  return { ...about, items: isNamed ? shown : named(items, categories) }
}

/** Items as they were last named: the same input gives the same object. */
const namedBefore = new WeakMap<ClothItem, { by: string; item: ClothItem }>()

/** Services' words for categories become our names for them. */
function named(items: readonly ClothItem[], categories: Looked['categories']): readonly ClothItem[] {
  if (categories.length === 0) return items
  const names = new CategoryNames(categories)
  const by = JSON.stringify(categories)
  return items.map(raw => {
    if (raw.categories.length === 0) return raw
    const before = namedBefore.get(raw)
    if (before?.by === by) return before.item
    const item = { ...raw, categories: [...new Set(raw.categories.map(names.nameOf))] }
    namedBefore.set(raw, { by, item })
    return item
  })
}
